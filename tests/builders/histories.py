"""Histories of runs that two machines must fold alike: every act in every place it can meet,
made here and elsewhere, in time, late, twice, out of order, taken back and corrected."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cached_property
from random import Random
from typing import Any

from kessa_core.errors import CoreError
from kessa_core.methods import Method, shipped, shipped_ids
from kessa_core.methods.suitability import KnownConditions, suitability_warnings
from kessa_core.quality.repeats import agreeing
from kessa_core.readings.lots import Lots
from kessa_core.readings.reading import Reading
from kessa_core.readings.scale import Scale
from kessa_core.runs import Event, RunState
from kessa_core.runs.events import read_event
from kessa_core.runs.state import SAMPLE_ROLES, UNTESTED
from tests.core.walks import Walk

KNOWN = KnownConditions(("glycol", "demineralised", "turbid", "salt"), ("brown water",), 2.0)
"""A water that speaks against most methods, so that something is asked before the test."""
PHOTOS = tuple(letter * 64 for letter in "ab")
DEVICES = ("device-1", "device-2", "device-3")


@dataclass(frozen=True)
class History:
    """A method, the lots in use, and events in the order of their arrival."""

    method: Method
    lots: Lots
    events: tuple[Event, ...]


def drawn_histories(each: int, seed: int = 0) -> Iterator[History]:
    """*each* histories of every shipped method, three times as many of one with several stages;
    the same ones for the same *seed*."""
    for place, method_id in enumerate(shipped_ids()):
        method = shipped(method_id)
        for number in range(each * (3 if len(method.stages) > 1 else 1)):
            walk = WildWalk(method, 100_000 * seed + 1000 * place + number)
            events = walk.scrambled(walk.events())
            yield History(walk.method, walk.lots, tuple(events))


class WildWalk(Walk):
    """A walk with more that is odd: undo of anything, corrections at any time, figures that no
    scale shows, devices that do not ask."""

    def one(self, state: RunState, number: int) -> None:
        """One act: mostly what the run stands ready for."""
        draw = self.draw
        odd = (
            (0.05, self.take_back_anything), (0.05, self.correct_anything),
            (0.05, self.go_elsewhere), (0.03, self.reset_count), (0.08, self.read_anything),
            (0.2 if self.at_photo(state) else 0, self.photograph),
            (0.25 if _photographed(state) else 0.01, self.read_a_photograph),
            (0.03, self.accept_anything), (0.02, self.misname), (0.02, self.flag),
            (0.015, self.stop),
            (0.03, self.dilute_at_once), (0.06, self.read_where_agreement_ends),
            (0.02, self.prepare_again), (0.02, self.type_the_clock),
            (0.2 if self.at_typed_wait(state) else 0, self.type_the_clock),
            (0.03, self.count_one), (0.02, self.count_to_the_end), (0.02, self.take_over_and_back),
            (0.12 if state.place.spot == "stage-end" else 0, self.stop),
            (0.12 if state.place.spot == "stage-end" else 0, self.strike_after_the_end),
            (0.25 if state.place.spot == "reading" else 0, self.say_how_sure),
            (0.08 if _is_fresh(state) else 0, self.dilute_at_once),
        )  # fmt: skip
        chance = draw.random() / self.oddness
        for share, act in odd:
            if (chance := chance - share) < 0:
                act(state)
                return
        super().one(state, number)

    def take_back_anything(self, _state: RunState) -> None:
        """Any act, an undo too, or one that nobody knows."""
        known = [event.id for event in self.taps.events]
        self.taps.act("undo", event=self.draw.choice([*known, *known[-3:], "unknown-1"]))

    def go_elsewhere(self, _state: RunState) -> None:
        """The next acts come from another device, which did not ask."""
        self.taps.on(self.draw.choice(DEVICES))

    def accept_anything(self, _state: RunState) -> None:
        """What speaks against the sample, or something that does not."""
        asked = [one.id for one in suitability_warnings(self.method.sample, KNOWN)]
        how = self.draw.choice(("anyway", "done"))
        self.taps.act("accept", concern=self.draw.choice([*asked, "ice"]), what="cold", how=how)

    def misname(self, state: RunState) -> None:
        """An answer that is not offered, or another step than the one at hand."""
        others = [step.id for step in self.method.every_step]
        step = self.draw.choice((state.place.step or "none", self.draw.choice(others)))
        name = self.draw.choice(("tick", "time", "answer", "read"))
        extra = {"answer": {"answer": "perhaps"}, "read": {"raw": "1"}}.get(name, {})
        self.taps.act(name, step=step, **extra)

    def flag(self, _state: RunState) -> None:
        """Something a reviewer should know."""
        self.taps.act("flag", text="the cap was off")

    def stop(self, _state: RunState) -> None:
        """Given up, or no test for this water."""
        how = {"finish": self.draw.choice(UNTESTED)} if self.draw.random() < 0.6 else {}
        self.taps.act("stop", **how, **({"cause": "dusk"} if self.draw.random() < 0.6 else {}))

    def prepare_again(self, _state: RunState) -> None:
        """What the measurements share, once more."""
        self.taps.act("prepare", **({"cause": "spilled"} if self.draw.random() < 0.5 else {}))

    def at_typed_wait(self, state: RunState) -> bool:
        """Whether an instrument may show how long the wait at hand lasts."""
        step = self.method.step(state.place.step) if state.place.spot == "step" else None
        return bool(step and step.wait and step.wait.rule in ("typed", "computed"))

    def type_the_clock(self, state: RunState) -> None:
        """The seconds that an instrument shows, at a wait or where there is none."""
        seconds = self.draw.choice((1, 90, 1_209_600))
        self.taps.act("clock", step=state.place.step or "none", seconds=seconds)

    @cached_property
    def oddness(self) -> float:
        """How often what is done is odd: calm runs come far, wild ones meet much."""
        return self.draw.choice((0.2, 0.5, 1.0))

    def count_to_the_end(self, state: RunState) -> None:
        """No change at the most that is counted; or one short of it, which is no end."""
        most = min(max(self.method.stages[state.at].most, 1), 999)
        self.taps.act("set", count=self.draw.choice((most, most, most - 1))).act("beyond")

    def count_one(self, state: RunState) -> None:
        """The first drop is the last one."""
        if self.method.stages[state.at].reader(self.lots).counts:
            self.taps.act("set", count=1).act("end")

    def say_how_sure(self, _state: RunState) -> None:
        """Any word about the last drop, more than one where they follow each other."""
        self.taps.act(self.draw.choice(("plain", "doubt", "back-off", "check-drop")))

    def take_over_and_back(self, state: RunState) -> None:
        """Another device takes over, this one acts on without asking, and is taken back."""
        here, there = self.taps.device, self.draw.choice(DEVICES)
        self.taps.on(there).act("take-over").on(here)
        super().one(state, 0)
        acted = self.taps.events[-1].id
        self.taps.on(there).act("undo", event=acted).on(self.draw.choice((here, there)))

    def strike_after_the_end(self, state: RunState) -> None:
        """The run is stopped after a stage, and the stage's reading struck."""
        self.stop(state)
        which = state.stage.determinations[-1].id
        self.taps.act("correct", determination=which, kind="struck", why="wrong cup")

    def dilute_at_once(self, state: RunState) -> None:
        """By what is offered here, or by something else."""
        offered = self.method.stages[state.at].above.by
        self.taps.act("dilute", by=self.draw.choice([*offered, *offered, 3]))

    def read_where_agreement_ends(self, state: RunState) -> None:
        """The last figure that agrees with the first one, or the first that does not."""
        step = self.method.step(state.place.step) if state.place.spot == "step" else None
        stage = self.method.stages[state.at]
        reader, before = stage.reader(self.lots), [d.seen for d in state.stage.samples if d.seen]
        if not step or step.kind != "read" or not before or step.slot != reader.reading_fields[-1]:
            return
        scale = reader.scale(step.slot)
        agree = agreeing(stage.repeats.agree, reader)
        beside = dict(before[0].beside)
        held = state.current.places if state.current else {}
        if scale.ranges or any(held.get(slot) != n for slot, n in beside.items()):
            return
        first, n = reader.half_steps(before[0]), int(before[0].n)
        while n < scale.high and agree(
            first, reader.half_steps(Reading(n, "plain", before[0].beside))
        ):
            n += 1
        n = max(scale.low, n - self.draw.choice((0, 1)))
        raw = str(n) if scale.labels else scale.say(n)
        self.taps.act("read", step=step.id, raw=raw, sure=1)

    def reset_count(self, state: RunState) -> None:
        """Nought, the most, one more than that."""
        most = min(max(self.method.stages[state.at].most, 1), 998)
        self.taps.act("set", count=self.draw.choice((0, 1, most - 1, most, most + 1)))

    def read_anything(self, state: RunState) -> None:
        """A figure at the step at hand, on its scale or not."""
        step = self.method.step(state.place.step) if state.place.spot == "step" else None
        if not step or step.kind != "read":
            return
        scale = self.method.stages[state.at].reader(self.lots).scale(step.slot or "")
        data: dict[str, Any] = {"step": step.id, "raw": self.wild_raw(scale)}
        self.taps.act("read", **data, **({"sure": 1} if self.draw.random() < 0.5 else {}))

    def wild_raw(self, scale: Scale) -> str:
        """A figure near the run's own level, an end of the scale, or one mistyped."""
        chance = self.draw.random()
        if chance < 0.15 and (scale.over or scale.under):
            return ">" if scale.over else "<"
        return self.raw(scale) if chance < 0.4 else mistyped(scale, self.draw)

    def at_photo(self, state: RunState) -> bool:
        """Whether what is to be read here can be photographed."""
        step = self.method.step(state.place.step) if state.place.spot == "step" else None
        reader = self.method.stages[state.at].reader(self.lots)
        return bool(step and step.kind == "read" and reader.photographed)

    def photograph(self, state: RunState) -> None:
        """To be read later, or beside a reading made now; read by another person from here on."""
        draw, data = self.draw, {}
        if draw.random() < 0.7:
            data["later"] = 1
        if draw.random() < 0.3:
            data["twice"] = 1
        self.taps.act("photo", step=state.place.step, photo=draw.choice(PHOTOS), **data)
        if draw.random() < 0.2:
            self.taps.act("reader", name=draw.choice(("Ada", "")))

    def read_a_photograph(self, state: RunState) -> None:
        """One that is there, in time or too late, or one that is not; or it cannot be read; by a
        second person; or a second reading is asked for."""
        draw = self.draw
        found = [(d, slot) for d in state.determinations for slot in d.photos]
        which, slot = draw.choice(found) if found else (None, "reading")
        data: dict[str, Any] = {"determination": which.id if which else "first-9", "slot": slot}
        if draw.random() < 0.15:
            self.taps.act("ask-again", **data)
            return
        if draw.random() < 0.15:
            data["unreadable"] = "blurred"
        elif which:
            stages = {stage.id: stage for stage in self.method.stages}
            stage = stages.get(which.stage, self.method.stages[0])
            data["raw"] = self.wild_raw(stage.reader(self.lots).scale(slot))
        if draw.random() < 0.2:
            data["again"] = 1
        self.taps.act("read-photo", **data, **({"sure": 1} if draw.random() < 0.5 else {}))

    def correct_anything(self, state: RunState) -> None:
        """A correction of any determination, or of none, with any reading."""
        draw, held = self.draw, state.determinations
        found = draw.choice(held) if held and draw.random() < 0.9 else None
        kind = draw.choice(("plain", "plain", "doubt", "backed-off", "struck"))
        data: dict[str, Any] = {"determination": found.id if found else "third-9", "kind": kind}
        if found and found.slots and draw.random() < 0.95:
            stage = next(
                (s for s in self.method.stages if s.id == found.stage), self.method.stages[0]
            )
            slot = draw.choice((*found.slots, found.slots[-1]))
            data["raw"] = self.wild_raw(stage.reader(self.lots).scale(slot))
            data["slot"] = "" if slot == found.slots[-1] and draw.random() < 0.5 else slot
            if draw.random() < 0.1:
                data["slot"] = "none"
            if draw.random() < 0.5:
                data["sure"] = 1
        else:
            most = min(max(self.method.stages[0].most, 1), 998)
            data["drops"] = draw.choice((1, 1, 2, 3, 4, 7, most, most + 1, 900))
        self.taps.act("correct", **data, why=draw.choice(("misread", "wrong cup")))

    def scrambled(self, events: list[Event]) -> list[Event]:
        """As the server may hear of them: some of the first version, some counted from less than
        others had seen, some twice, all in any order."""
        draw = self.draw
        old, behind = draw.random() < 0.2, draw.random() < 0.5
        heard = []
        for event in events:
            lamport = event.lamport
            if behind and draw.random() < 0.15:
                lamport = max(0, lamport - draw.choice((1, 1, 2, 3, 8)))
            elif behind and draw.random() < 0.05:
                lamport += draw.choice((1, 2, 5))
            seq = event.seq if draw.random() < 0.97 else max(0, event.seq - 2)
            version = 1 if old and draw.random() < 0.7 else 2
            made = replace(event, lamport=lamport, seq=seq, v=version)
            heard += [made] * (2 if draw.random() < 0.03 else 1)
        draw.shuffle(heard)
        return [event for event in heard if _accepted(event)]


def _photographed(state: RunState) -> bool:
    """Whether a photograph waits to be read."""
    return any(d.unread for d in state.determinations)


def _is_fresh(state: RunState) -> bool:
    """Whether a determination of the sample was begun and nobody has done anything in it."""
    current = state.current
    return bool(current and not current.holder and current.role in SAMPLE_ROLES)


def _accepted(event: Event) -> bool:
    """Whether it could have come in at the border at all."""
    try:
        read_event(event.as_json())
    except CoreError:
        return False
    return True


def mistyped(scale: Scale, draw: Random) -> str:
    """As people mistype: an end, past it, between two steps, another unit, no number."""
    low, high = scale.say(scale.low), scale.say(scale.high)
    if scale.labels:
        places = (scale.low - 1, scale.low, scale.high, scale.high + 1)
        return draw.choice([*map(str, places), "1.5", "x", "", ">", "<"])
    units = [one.unit for one in scale.ranges] or ["mg/L"]
    figure = draw.choice(
        [
            low, high, f"{high}5", f"{high}.5", f"-{high}", f"{scale.say(scale.high + 1)}",
            scale.say(scale.low - 1), f"{draw.uniform(0, 40):.3f}", f"{draw.uniform(0, 9):.1f}",
            f"{draw.uniform(0, 9):.2f}".replace(".", ","), f" {high} ", "1e3", "", "12345678",
            f"{draw.uniform(0, 2000):.0f}", low.replace("-", "\u2212"), "0", "00.5",
        ]
    )  # fmt: skip
    figure = f"{draw.choice(('>', '> ', '<', '', '', '', ''))}{figure}"
    return f"{figure}|{draw.choice([*units, 'kg'])}" if draw.random() < 0.4 else figure
