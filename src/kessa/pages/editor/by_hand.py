"""A simulated sample to be tested by hand with a draft: what it shows, and its true value."""

from dataclasses import dataclass
from datetime import datetime
from types import SimpleNamespace
from typing import Any
from uuid import UUID

import numpy as np

from kessa_core.drafts.trial import truth_at
from kessa_core.judging.context import PointContext
from kessa_core.methods import Method
from kessa_core.methods.stage import Stage
from kessa_core.quantities.rounding import figure
from kessa_core.readings.reading import Reading
from kessa_core.sheets import compile_sheet
from kessa_core.simulation import hands

RUN = UUID("00000000-0000-4000-8000-000000000000")
"""The number of a run that is none."""


@dataclass(frozen=True)
class Shown:
    """What the sample shows in one measurement."""

    title: str
    reading: str


@dataclass(frozen=True)
class Practice:
    """A simulated sample."""

    shown: tuple[Shown, ...]
    truth: tuple[str, ...]
    back: str


def practice_of(method: Method, seed: int, back: str) -> Practice:
    """A sample drawn by chance, the same for the same seed."""
    rng = np.random.default_rng(seed)
    share = float(rng.uniform(0.15, 0.6))
    truths = {stage.id: truth_at(stage, share) * stage.base for stage in method.stages}
    truths |= {f"{stage.id}:reference": truth_at(stage, 0.1) for stage in method.stages}
    session = hands.work(method, truths, rng)
    shown: list[Shown] = []
    for stage, done in zip(method.stages, session.stages, strict=True):
        before = (("Blank", done.blank), ("Standard", done.standard), ("Reference", done.reference))
        every = [(name, seen) for name, seen in before if seen]
        every += list(zip(("First", "Second", "Third"), done.samples, strict=False))
        shown += [Shown(_title(method, stage, name), _said(stage, seen)) for name, seen in every]
    truth = tuple(
        f"{stage.title} {figure(truths[stage.id], max(stage.measures.decimals + 1, 0))} "
        f"{stage.measures.quantity.label}"
        for stage in method.stages
    )
    return Practice(tuple(shown), truth, back)


def _title(method: Method, stage: Stage, name: str) -> str:
    return f"{stage.title}, {name.lower()}" if len(method.stages) > 1 else name


def _said(stage: Stage, seen: Reading) -> str:
    return stage.reader().listed([seen])


def payload_of(method: Method) -> dict[str, Any]:
    """What the bench's script gets: one run without an action, and its sheet."""
    run = {"id": str(RUN), "method": method.id, "events": [], "arrival": 0, "answer": None}
    return {"runs": [run], "sheets": {method.id: compile_sheet(method, PointContext())}}


def stand_ins(now: datetime) -> dict[str, Any]:
    """What the bench's page says of a run, a sample and a point, where there are none."""
    return {
        "run": SimpleNamespace(pk=RUN),
        "sample": SimpleNamespace(taken_at=now, weather="", visit_id=0),
        "point": "Simulated sample",
    }
