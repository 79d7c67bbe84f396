"""What a reviewer should look at in a result, each as one sentence."""

from collections.abc import Sequence
from datetime import date, datetime

from kessa.platform.days import date_text
from kessa.results.models import Result, Review
from kessa.runs.instruments import is_overdue

TEN_TIMES = (8.0, 1 / 8.0)
LONG_STANDING_H = 24
GRACE_MIN = 60
"""Minutes that a test itself may take after its latest start."""


def review_warnings(result: Result, reviews: Sequence[Review]) -> list[str]:
    """Sentences, the gravest first; none when nothing stands out. *reviews*: the newest first."""
    e, run = result.evaluation, result.run
    said = []
    if e.shown:
        page = f"{e.shown.get('f', '')} ({e.shown.get('r', '')})".strip()
        said.append(
            f"The bench page showed {page}; the server computed another value. Both are saved."
        )
    said += _unusual(result)
    last = reviews[0] if reviews else None
    if last and last.decision in (Review.Decision.ANSWER, Review.Decision.REOPENED):
        said.append(f"{last.get_decision_display().capitalize()}: {last.reason}")
    if e.why:
        said.append(f"Changed: {e.why}")
    said += [f"Discarded: {d['role']}, {d['rejected']}" for d in e.determinations if d["rejected"]]
    held = {lot.reagent for lot in run.lots}
    said += [f"No lot of {name} was recorded." for name in run.method.tracked if name not in held]
    said += [
        f"{lot.reagent.capitalize()}, lot {lot.number}, was good until {date_text(lot.last_day)}."
        for lot in run.lots
        if lot.last_day and lot.last_day < result.sampled_at.date()
    ]
    return said + _instruments(result) + _stood(result)


def _instruments(result: Result) -> list[str]:
    """Which instrument was not noted, and whose check was due when it was used."""
    used = {one["kind"]: one for one in result.evaluation.instruments}
    kinds = result.run.method.instruments
    said = [f"No {kind} was recorded." for kind in kinds if kind not in used]
    for one in used.values():
        if one.get("check_failed"):
            day = date_text(date.fromisoformat(one["checked_on"]))
            said.append(f"{one['name']} failed its check on {day}.")
        if is_overdue(one["check_due"], result.sampled_at):
            due = date.fromisoformat(one["check_due"])
            said.append(f"The check of {one['name']} was due on {date_text(due)}.")
    return said


def _stood(result: Result) -> list[str]:
    """Whether the sample stood for long before the first determination ended."""
    ended = [d["at"] for d in result.evaluation.determinations if d["at"]]
    if not ended:
        return []
    tested = min(datetime.fromisoformat(at) for at in ended)
    minutes = (tested - result.sampled_at).total_seconds() / 60
    needs = result.run.method.sample
    if needs.start_within_min is not None and minutes > needs.start_within_min + GRACE_MIN:
        waited = f"{minutes:.0f} min" if minutes < 120 else f"{minutes / 60:.0f} h"
        return [f"Tested {waited} after sampling. The method allows {needs.start_words}."]
    days = minutes / 60 / 24
    return [f"Tested {days:.0f} days after sampling."] if days * 24 > LONG_STANDING_H else []


def _unusual(result: Result) -> list[str]:
    """Against what was usual when it was judged."""
    value = result.evaluation.value
    usual = result.verdicts[0].usual if result.verdicts else None
    if not value or not value.number or not usual:
        return []
    ratio = value.number / usual["median"] if usual["median"] else 1.0
    if TEN_TIMES[1] < ratio < TEN_TIMES[0]:
        return []
    return [f"About {ratio:.2g} times the usual value here. Check the decimal point."]
