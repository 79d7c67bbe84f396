"""What stands beside the form: the bench as it will be, what is missing, and what a trial says."""

from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from kessa.library.drafts import is_tried
from kessa.library.models import MethodDraft
from kessa.pages.limits.queries import sets_in_force
from kessa.ui.instruments import Instrument, instrument_of
from kessa_core.drafts import problems, trial
from kessa_core.drafts.edits import get
from kessa_core.drafts.problems import Missing
from kessa_core.drafts.starts import Draft
from kessa_core.errors import CoreError
from kessa_core.judging.can_see import SEES, can_see
from kessa_core.methods.stage import Stage
from kessa_core.methods.steps import duration_words
from kessa_core.sheets.compile import seconds_of

UNTIMED_S = 60
"""Seconds that a wait without a time is drawn with."""


@dataclass(frozen=True)
class Segment:
    """A step on the line: its share of the whole in per cent, and whether it is a wait."""

    title: str
    left: float
    width: float
    wait: bool
    words: str


@dataclass(frozen=True)
class StagePreview:
    """A stage as the bench will show it, with an example of what it comes to."""

    title: str
    last: str
    instrument: Instrument
    reading: str
    value: str
    range: str
    working: str
    arithmetic: str
    line: tuple[Segment, ...]
    length: str


@dataclass(frozen=True)
class Beside:
    """Everything beside the form."""

    stages: tuple[StagePreview, ...]
    missing: tuple[Missing, ...]
    sees: tuple[tuple[str, str, str], ...]
    tried: dict[str, Any]
    is_tried: bool

    @property
    def may_publish(self) -> bool:
        """Whether nothing is missing and it was tried as it stands."""
        return not self.missing and self.is_tried


def beside_of(draft: MethodDraft) -> Beside:
    """What a draft comes to so far."""
    missing = problems.problems_of(draft.data)
    stages = [stage for at in range(_count(draft.data)) if (stage := _stage(draft.data, at))]
    return Beside(
        tuple(_preview(stage) for stage in stages),
        missing,
        () if missing else tuple(_sees(draft, stages)),
        draft.tried,
        not missing and is_tried(draft),
    )


def _count(data: Draft) -> int:
    stages = get(data, ("stages",))
    return len(stages) if isinstance(stages, list) else 0


def _stage(data: Draft, at: int) -> Stage | None:
    try:
        return Stage.model_validate(get(data, ("stages", at)))
    except (ValidationError, CoreError):
        return None


def _preview(stage: Stage) -> StagePreview:
    reader, seen = stage.reader(), trial.example_of(stage)
    value = reader.value([seen], [seen]).scaled(float(stage.base), stage.base)
    line, length = _line(stage)
    return StagePreview(
        stage.title,
        stage.steps[-1].title,
        instrument_of("draft", stage),
        reader.listed([seen]),
        value.text,
        value.range_text,
        reader.working([seen], [], value) if stage.base == 1 else "",
        reader.arithmetic,
        line,
        length,
    )


def _line(stage: Stage) -> tuple[tuple[Segment, ...], str]:
    """Steps one after the other, as long as they take; waits of hours are drawn shorter."""
    steps = [*stage.prepare, *stage.steps_for("sample")]
    lengths = [seconds_of(step) or UNTIMED_S for step in steps]
    drawn = [min(length, 900) for length in lengths]
    total, at, found = sum(drawn) or 1, 0.0, []
    for step, length, width in zip(steps, lengths, drawn, strict=True):
        share = 100 * width / total
        found.append(Segment(step.title, at, share, step.kind == "wait", duration_words(length)))
        at += share
    return tuple(found), duration_words(sum(lengths))


def _sees(draft: MethodDraft, stages: list[Stage]) -> list[tuple[str, str, str]]:
    """Limits of the programme that the method measures against: sign, limit, words."""
    found = []
    limits = [one for held in sets_in_force(draft.programme) for one in held.held.limits]
    for limit in limits:
        for stage in stages:
            if limit.parameter != stage.measures.parameter:
                continue
            seen = can_see(stage, limit)
            if seen is not None:
                sign = "within" if seen.words == SEES else "close"
                found.append((sign, f"{limit.name} {limit.bounds_text} {limit.unit}", seen.words))
    return found[:4]
