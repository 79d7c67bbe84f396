"""Runs drawn by chance for every shipped method, and what each comes to, as plain data.

python -m tests.core.walks: write tests/data/kept/ anew, after a change of results that is meant.
"""

import json
import random
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from zlib import crc32

from kessa_core.judging import Limit, judge
from kessa_core.methods import Method, load, shipped, shipped_ids
from kessa_core.methods.local_settings import questions, with_local_settings
from kessa_core.quality.budget import budget
from kessa_core.quantities import Interval
from kessa_core.readings.lots import DropSize, Lot, Lots
from kessa_core.readings.scale import Scale
from kessa_core.runs import Event, Outcome, RunState, conclude, fold
from kessa_core.runs.fold import apply, replay
from kessa_core.runs.stage_readers import reader_of_run
from tests.builders.runs import Taps

FOLDER = Path(__file__).parents[1] / "data" / "kept"
WALKS = 14
"""Runs a method; the last four with the programme's own options, every second one with lots."""
ACTS = 70
BY = ("Lowen Vale Water Room", 1, "2026-11-25", "Agreed in the team.")


def with_last_options(method: Method) -> Method:
    """The method with the last option offered in every matter; itself where none is offered."""
    wanted = {
        (q.stage, q.matter): q.options[-1][0]
        for q in questions(method)
        if q.options and q.matter != "bases"
    }
    return load(with_local_settings(method, wanted, *BY)) if wanted else method


def lots(method: Method) -> Lots:
    """A lot of every tracked reagent: a bottle with a measured drop, a leaflet with a table."""
    table = ((10.0, 90.0), (40.0, 310.0), (100.0, 820.0), (300.0, 2600.0))
    counts = any(stage.reading.by == "drop-count" for stage in method.stages)
    high = any(stage.reading.by == "strip-height" for stage in method.stages)
    return Lots(
        tuple(
            Lot(name, "A-1", table if high else (), DropSize(0.0471, 0.018) if counts else None)
            for name in method.tracked
        )
    )


class Walk:
    """One run: acts as the state asks for them, some out of place, some late, some taken back."""

    def __init__(self, method: Method, seed: int) -> None:
        self.method, self.draw = method, random.Random(seed)
        self.lots = lots(method) if seed % 2 else Lots()
        self.taps = Taps(method)
        self.level = self.draw.random() ** 2
        self.machine, self.folded = replay(method, [], self.lots), 0

    def events(self) -> list[Event]:
        """As many acts as a run may have, or until it has ended and been corrected."""
        self.taps.act("begin")
        for number in range(ACTS):
            state = self.so_far()
            if state.place.spot == "finished" and self.draw.random() < 0.4:
                break
            self.taps.later(self.draw.choice((0, 0, 2, 9)))
            self.one(state, number)
        return self.taps.events

    def so_far(self) -> RunState:
        """The state after the acts so far; folded from the first only where one was taken back."""
        new, self.folded = self.taps.events[self.folded :], len(self.taps.events)
        if any(event.act == "undo" for event in new):
            self.machine = replay(self.method, self.taps.events, self.lots)
        else:
            for event in new:
                apply(self.machine, event)
        return self.machine.state

    def one(self, state: RunState, number: int) -> None:
        """One act."""
        chance = self.draw.random()
        if chance < 0.03 and len(self.taps.events) > 1:
            self.taps.take_back()
        elif chance < 0.08:
            self.odd(state)
        elif chance < 0.09:
            self.taps.on(self.draw.choice(("device-1", "device-2")))
        elif state.current and state.current.holder not in ("", self.taps.device):
            self.taps.act("take-over" if self.draw.random() < 0.8 else "note")
        elif not self.apt(state):
            self.odd(state)

    def apt(self, state: RunState) -> bool:
        """What the state stands ready for; False where nothing is."""
        stage, place, draw = self.method.stages[state.at], state.place, self.draw
        step = self.method.step(place.step) if place.spot == "step" else None
        if place.spot == "reading":
            for how in draw.sample(("doubt", "back-off", "check-drop", "plain"), 1):
                if draw.random() < 0.3:
                    self.taps.act(how)
            self.taps.later(draw.choice((0, 31))).act("next")
        elif place.spot == "blank-failed":
            self.taps.act("again")
        elif place.spot == "stage-end":
            by = draw.choice(stage.above.by) if stage.above.by else 0
            self.taps.act("dilute", by=by) if by and draw.random() < 0.6 else self.taps.act("stage")
        elif place.spot == "finished":
            self.correct(state)
        elif step is None:
            return False
        elif step.kind == "tick":
            self.taps.act("tick", step=step.id)
        elif step.kind == "wait":
            due = (step.wait.seconds or 20) if step.wait else 20
            self.taps.later(due * draw.choice((1, 1, 1, 0.5, 1.2, 4, 12))).act("time", step=step.id)
        elif step.kind == "check":
            usual = [a for a in step.answers if a.then == "next"] * 8
            self.taps.act("answer", step=step.id, answer=draw.choice([*usual, *step.answers]).id)
        elif step.kind == "read":
            scale = stage.reader(self.lots).scale(step.slot or "")
            before = step.slot != stage.reader(self.lots).reading_fields[-1]
            raw, sure = self.raw(scale, before), draw.random() < 0.5
            self.taps.act("read", step=step.id, raw=raw, **({"sure": 1} if sure else {}))
        else:
            self.count(state, stage.most)
        return True

    def count(self, state: RunState, most: int) -> None:
        """A whole count, near the run's own level; a blank nearer to nothing."""
        role = state.current.role if state.current else ""
        wanted = max(1, round(most * self.level + self.draw.choice((-2, -1, 0, 0, 0, 1))))
        if role == "blank":
            wanted = self.draw.choice((1, 1, 1, 2, 3))
        self.taps.act("set", count=min(wanted, most))
        self.taps.act("drop").act("beyond" if wanted >= most else "end")

    def raw(self, scale: Scale, before: bool = False) -> str:
        """A figure near the run's own level, or an end of the scale, or past it. *before*: low on
        it, as a burette starts."""
        draw = self.draw
        if draw.random() < 0.06:
            return draw.choice((">", "<", str(scale.low), scale.say(scale.high)))
        wide = scale.high - scale.low
        level = draw.choice((0, 0.02, self.level)) if before else self.level
        near = scale.low + wide * level * (1 + draw.gauss(0, 0.03)) + draw.choice((-1, 0, 0, 1))
        n = min(max(round(near), scale.low), scale.high)
        if scale.labels:
            return str(n)
        for one in scale.ranges:
            if n <= one.high * 10**one.zeros:
                return f"{Scale('', 0, 0, one.decimals).say(n // 10**one.zeros)}|{one.unit}"
        return scale.say(n)

    def correct(self, state: RunState) -> None:
        """A reading put right, or struck, afterwards."""
        which = self.draw.choice([d.id for d in state.determinations] or ["first-1"])
        kind = self.draw.choice(("plain", "plain", "doubt", "backed-off", "struck"))
        found = next((d for d in state.determinations if d.id == which), None)
        data: dict[str, Any] = {"determination": which, "kind": kind, "why": "misread"}
        if found and found.slots:
            stage = next(
                (s for s in self.method.stages if s.id == found.stage), self.method.stages[0]
            )
            data["raw"] = self.raw(stage.reader(self.lots).scale(found.slots[-1]))
            data["slot"] = found.slots[-1]
        else:
            data["drops"] = self.draw.choice((1, 2, 5, 400))
        self.taps.act("correct", **data)

    def odd(self, state: RunState) -> None:
        """An act that seldom has a place here."""
        name, data = self.draw.choice(
            (
                ("note", {"text": "cloudy"}), ("again", {}), ("stage", {}), ("drop", {}),
                ("end", {}), ("next", {}), ("doubt", {}), ("back-off", {}), ("beyond", {}),
                ("reject", {"cause": "spilled"}), ("reject", {}), ("dilute", {"by": 10}),
                ("dilute", {"by": 2}), ("set", {"count": 3}), ("set", {"count": 900}),
                ("tick", {"step": "none"}), ("time", {"step": "none"}), ("take-over", {}),
                ("read", {"step": "none", "raw": "1"}), ("answer", {"step": "none", "answer": "x"}),
                ("accept", {"concern": "ice", "what": "ice on it", "how": "anyway"}),
                ("accept", {"concern": "warm", "what": "too warm", "how": "done"}),
                ("stop", {"cause": "kit was lost"} if self.draw.random() < 0.2 else {}),
            )
        )  # fmt: skip
        if name == "stop" and self.draw.random() < 0.7:
            return
        self.taps.act(name, **data)


def walked(method_id: str) -> Iterator[dict[str, Any]]:
    """What every run of this method comes to."""
    kit = shipped(method_id)
    own = with_last_options(kit)
    for number in range(WALKS):
        method = own if number >= WALKS - 4 else kit
        walk = Walk(method, crc32(method_id.encode()) // 2 * 2 + number)
        events = walk.events()
        state = fold(method, events, walk.lots)
        outcomes = conclude(method, state, walk.lots)
        yield {
            "state": _state(state),
            "outcomes": [_outcome(one) for one in outcomes],
            "budget": _budget(method, state, walk.lots) if number % 5 == 1 else [],
        }


def _state(state: RunState) -> dict[str, Any]:
    return {
        "place": f"{state.place.spot} {state.place.step}".strip(),
        "finish": f"{state.finish} {state.cause} {state.untested}",
        "said": [*state.flags, *state.notes, *state.accepted],
        "unfit": [why for _, why in state.ignored],
        "stages": [
            f"{s.id}: {s.finish} {s.cause} x{s.dilution}/{s.base} {'; '.join(s.flags)}"
            for s in state.stages
        ],
        "determinations": [
            f"{d.id} x{d.diluted} {d.count} {d.kind} {int(d.ended)}{int(d.closed)} {d.rejected} "
            f"{d.check_drops} {d.raw} {d.places} {d.holder} {len(d.drop_times)} "
            f"{[(w.step, round(w.seconds), w.least, w.most) for w in d.waits]} "
            f"{[(c.was, c.why) for c in d.corrections]}"
            for d in state.determinations
        ],
    }


def _outcome(one: Outcome) -> dict[str, Any]:
    told: dict[str, Any] = {
        "said": f"{one.stage} {one.finish} {one.decision} {one.used} {one.cause}",
        "why": [one.working, one.apart, *one.flags, *one.checks],
    }
    if value := one.value:
        interval, sided = value.interval, value.one_sided or Interval(None, None)
        told |= {
            "value": f"{value.text}; {value.qualifier} {value.said} {value.said_range}",
            "figures": [
                _six(n)
                for n in (
                    value.number, interval.low, interval.high, sided.low, sided.high,
                    *(value.bracket or ()),
                )
            ],
            "verdicts": list(_verdicts(one)),
        }  # fmt: skip
    return told


def _verdicts(one: Outcome) -> Iterator[str]:
    """Against limits at the figure, a little off it, and at the interval's ends."""
    value, m = one.value, one.quantity
    if value is None:
        return
    ends = [e for e in (value.interval.low, value.interval.high) if e is not None]
    for at in [value.number, value.number * 0.8, value.number * 1.25 + 0.01, *ends]:
        told = {
            "id": "kept", "parameter": m.parameter, "form": m.form, "basis": m.basis,
            "unit": m.unit, "name": "kept", "tier": "alert", "statistic": "each sample",
            "document": "made for this test", "within": "within", "beyond": "beyond",
        }  # fmt: skip
        text = f"{max(at, 0):.4f}"
        for side in ("max", "min"):
            found = judge(value, Limit(**told, **{side: text}))
            sentence = found.sentence if at == value.number else ""
            yield f"{side} {text} {found.sign} {found.reported_sign} {sentence}".strip()


def _budget(method: Method, state: RunState, held: Lots) -> list[str]:
    found = []
    for stage, done in zip(method.stages, state.stages, strict=True):
        seen = [d.seen for d in done.samples if d.seen]
        blanks = [d.seen for d in done.blanks if d.seen][-1:]
        made = budget(reader_of_run(stage, done, held), seen, blanks)
        if made:
            parts = [f"{p.of} {p.share:.3f} {p.size} {p.whose} {p.scope}" for p in made.parts]
            ways = [f"{w.words} {w.width:.4g}" for w in made.narrowers]
            found += [f"{made.width:.4g}", *parts, *ways]
    return found


def _six(number: float | None) -> float | None:
    return None if number is None else float(f"{number:.6g}")


def main() -> None:
    """Write every file."""
    FOLDER.mkdir(exist_ok=True)
    for method_id in shipped_ids():
        lines = [json.dumps(one, ensure_ascii=False) for one in walked(method_id)]
        (FOLDER / f"{method_id}.jsonl").write_text("\n".join(lines) + "\n", "utf-8")


if __name__ == "__main__":
    main()
