"""Acts of a visit that a device made without a network, read by the same forms as the pages."""

from collections.abc import Sequence
from typing import Any

from django.db import transaction
from django.http import QueryDict

from kessa.flows.receiving import Sender
from kessa.flows.visit_acts import UNKNOWN, note_sent, sample_of, take_sent, visit_of, was_kept
from kessa.flows.visit_end import finish_visit
from kessa.pages.visit.forms import ContextForm, NotSampledForm, PhotographForm, TakeForm
from kessa.pages.visit.reasons import reasons_of, thermometer_of
from kessa.platform.typed import one_line
from kessa.visits import services
from kessa.visits.models import Sample, Visit
from kessa.visits.projection import CONDITIONS
from kessa.visits.wording import wording_of
from kessa_core.errors import BadEvent
from kessa_core.runs.visit_acts import Fields, VisitAct, read_visit_act


class Kept:
    """What became of acts: ids kept now or before, and refusals with reasons."""

    def __init__(self) -> None:
        self.kept: list[str] = []
        self.refused: list[dict[str, str]] = []

    def refuse(self, act_id: str, reason: str) -> None:
        self.refused.append({"id": act_id, "reason": reason})


def keep_visit_acts(sender: Sender, sent: Sequence[Any]) -> Kept:
    """Keep every act that can be kept, in the order in which they were made on their device."""
    found, acts = Kept(), []
    for raw in sent:
        try:
            acts.append(read_visit_act(raw))
        except BadEvent as error:
            found.refuse(str(raw.get("id"))[:64], str(error))
    for act in sorted(acts, key=lambda one: (one.device, one.seq)):
        with transaction.atomic():
            known = was_kept(act)
            reason = "" if known else _keep(sender, act)
        if known is None:
            found.refuse(act.id, "This id belongs to another action.")
        elif reason:
            found.refuse(act.id, reason)
        else:
            found.kept.append(act.id)
    return found


def _keep(sender: Sender, act: VisitAct) -> str:
    """Keep one act; why not, where it cannot be kept."""
    visit = visit_of(sender, act)
    if visit is None:
        return UNKNOWN
    if act.act == "ended":
        typed = _typed(act.fields)
        note = one_line(str(typed.get("note", "")), 500)
        reasons, thermometer = reasons_of(typed), thermometer_of(typed)
        finish_visit(visit, sender.person, reasons, note, act, thermometer)
        return ""
    if act.act == "photo" and act.sample is None:
        return _photograph(sender, visit, None, act)
    sample = sample_of(sender, act)
    if sample is None:
        return UNKNOWN
    if act.act == "photo":
        return _photograph(sender, visit, sample, act)
    if sample.outcome == Sample.Outcome.CANCELLED:
        return "This sample was cancelled."
    return _AT_SAMPLE[act.act](sender, sample, act)


def _photograph(sender: Sender, visit: Visit, sample: Sample | None, act: VisitAct) -> str:
    form = PhotographForm(_typed(act.fields))
    if not form.is_valid():
        return _wrong(form)
    said = form.cleaned_data
    services.note_photograph(visit, sender.person, sample, said["photo"], said["what"], act)
    return ""


def _safe(sender: Sender, sample: Sample, act: VisitAct) -> str:
    services.decide_to_go(sample, sender.person, act)
    return ""


def _not_sampled(sender: Sender, sample: Sample, act: VisitAct) -> str:
    form = NotSampledForm(_typed(act.fields), sample.point.water.kind)
    if not form.is_valid():
        return _wrong(form)
    services.do_not_sample(sample, sender.person, form.cleaned_data["said"], act)
    return ""


def _conditions(sender: Sender, sample: Sample, act: VisitAct) -> str:
    kind = sample.point.water.kind
    form = ContextForm(_typed(act.fields), kind, {}, wording_of(kind))
    for name in ("weather_now", "weather_before"):
        if name in form.fields:
            form.fields[name].required = False
    if not form.is_valid():
        return _wrong(form)
    said = {name: form.cleaned_data[name] for name in CONDITIONS if name in form.cleaned_data}
    note_sent(sample, sender.person, said | {"noted": form.noted()}, act)
    return ""


def _taken(sender: Sender, sample: Sample, act: VisitAct) -> str:
    form = TakeForm(_typed(act.fields), sample.point.water.kind, {})
    if not form.is_valid():
        return _wrong(form)
    taken = form.cleaned_data | {"noted": form.noted()}
    take_sent(sample, sender.person, act, sender.programme.timezone, taken)
    return ""


_AT_SAMPLE = {
    "safe": _safe,
    "not-sampled": _not_sampled,
    "conditions": _conditions,
    "taken": _taken,
}


def _typed(fields: Fields) -> QueryDict:
    """What was typed, as a form gets it."""
    typed = QueryDict(mutable=True)
    for name, value in fields.items():
        typed.setlist(name, [value] if isinstance(value, str) else list(value))
    return typed


def _wrong(form: Any) -> str:
    """The first thing that is wrong, with the name of its field."""
    name, errors = next(iter(form.errors.items()))
    label = form.fields[name].label if name in form.fields else ""
    return f"{label}: {errors[0]}" if label else str(errors[0])
