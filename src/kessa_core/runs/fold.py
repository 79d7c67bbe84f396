"""Events -> state: the run as a state machine. What has no place is kept and named, not applied."""

from collections.abc import Callable, Iterable

from kessa_core.methods import Method
from kessa_core.methods.parts import Step
from kessa_core.quality import blank as blank_rule
from kessa_core.quality.repeats import decide
from kessa_core.readings.dropcount import DropReading
from kessa_core.runs.events import Event
from kessa_core.runs.order import ordered, undone
from kessa_core.runs.state import (
    SAMPLE_ROLES,
    Correction,
    Determination,
    Place,
    Role,
    RunState,
)

FREE = ("note", "take-over", "correct")
"""Acts that need not come from the device that holds the determination."""


def fold(method: Method, events: Iterable[Event]) -> RunState:
    """The state of a run of *method* after *events*, in any order of arrival, each counted once."""
    in_order = ordered(events)
    gone = undone(in_order)
    machine = _Machine(method)
    machine.state.undone = frozenset(gone)
    for event in in_order:
        if event.id not in gone and event.act not in ("undo", "begin"):
            machine.apply(event)
    return machine.state


class _Machine:
    def __init__(self, method: Method) -> None:
        self.method = method
        self.before = list(method.steps.before)
        self.state = RunState(Place("step"))
        self.roles: list[Role] = ["blank", *SAMPLE_ROLES]
        if self.before:
            self.state.place = Place("step", self.before[0].id)
        else:
            self.open("blank")

    def steps(self, role: Role) -> list[Step]:
        """The steps of a determination, the ones meant for blanks or samples alone left out."""
        skip = "sample" if role == "blank" else "blank"
        return [step for step in self.method.steps.each if step.only != skip]

    def apply(self, event: Event) -> None:
        handler: Callable[[Event], str] = getattr(self, f"do_{event.act.replace('-', '_')}")
        current = self.state.current
        if self.held_elsewhere(event):
            self.state.unfit.append((event.id, "another device holds this determination"))
        elif reason := handler(event):
            self.state.unfit.append((event.id, reason))
        elif current and not current.holder and event.act not in FREE:
            current.holder = event.device

    def held_elsewhere(self, event: Event) -> bool:
        current = self.state.current
        if event.v < 2 or event.act in FREE or not current:
            return False
        return current.holder not in ("", event.device)

    def open(self, role: Role) -> None:
        self.state.determinations.append(Determination(role, self.state.attempts(role) + 1))
        self.state.place = Place("step", self.steps(role)[0].id)

    def advance(self) -> None:
        """On to the next step of the determination, or from the steps before to the blank."""
        current = self.state.current
        steps = self.steps(current.role) if current else self.before
        at = [step.id for step in steps].index(self.state.place.step)
        if at + 1 < len(steps):
            self.state.place = Place("step", steps[at + 1].id)
        elif not current:
            self.open("blank")

    def step_here(self, kind: str) -> Step | None:
        """The step the person stands at, if it is of this kind."""
        if self.state.place.spot != "step":
            return None
        here = self.state.place.step
        every = (*self.before, *self.method.steps.each)
        return next((step for step in every if step.id == here and step.kind == kind), None)

    def counting(self) -> Determination | None:
        return self.state.current if self.step_here("count") else None

    def reading(self) -> Determination | None:
        return self.state.current if self.state.place.spot == "reading" else None

    # One method an act; each returns why the act has no place here, or "".

    def do_tick(self, event: Event) -> str:
        step = self.step_here("tick")
        if not step or step.id != event.data["step"]:
            return "that step is not at hand"
        self.advance()
        return ""

    def do_answer(self, event: Event) -> str:
        step = self.step_here("check")
        if not step or step.id != event.data["step"]:
            return "that check is not at hand"
        answer = next((a for a in step.answers if a.id == event.data["answer"]), None)
        if not answer:
            return "that answer is not offered"
        if answer.flag:
            self.state.flags.append(answer.flag)
        if answer.then == "next":
            self.advance()
        elif answer.then == "again":
            self.strike(self.state.current, answer.cause or "")
        else:
            self.finish("not-tested", answer.cause or "")
        return ""

    def do_drop(self, event: Event) -> str:
        current = self.counting()
        if not current:
            return "no count is under way"
        if current.count >= self.method.titration.max_drops:
            return "the maximum count is reached"
        current.count += 1
        current.drop_times.append(event.at)
        return ""

    def do_set(self, event: Event) -> str:
        current = self.counting()
        if not current:
            return "no count is under way"
        count = int(event.data["count"])
        if count > self.method.titration.max_drops:
            return "above the maximum count"
        current.count = count
        current.drop_times = (current.drop_times + [event.at] * count)[:count]
        return ""

    def do_end(self, event: Event) -> str:
        current = self.counting()
        if not current:
            return "no count is under way"
        if not current.count:
            return "no drop has been added"
        current.ended, current.ended_at = True, event.at
        self.state.place = Place("reading")
        return ""

    def do_beyond(self, event: Event) -> str:
        current = self.counting()
        if not current:
            return "no count is under way"
        if current.count < self.method.titration.max_drops:
            return "the maximum count is not reached"
        current.ended, current.ended_at, current.kind = True, event.at, "beyond"
        current.closed = True
        self.settle(current, DropReading(current.count, "beyond"))
        return ""

    def do_plain(self, _event: Event) -> str:
        current = self.reading()
        if not current:
            return "no reading is at hand"
        current.kind = "plain"
        return ""

    def do_back_off(self, _event: Event) -> str:
        current = self.reading()
        if not current:
            return "no reading is at hand"
        if current.role == "blank" and current.count < 2:
            return "a blank is never taken back below its first drop"
        current.kind = "backed-off"
        return ""

    def do_doubt(self, _event: Event) -> str:
        current = self.reading()
        if not current:
            return "no reading is at hand"
        if current.count < 2:
            return "there is no count below the first drop"
        current.kind = "doubt"
        return ""

    def do_check_drop(self, _event: Event) -> str:
        current = self.reading()
        if not current:
            return "no reading is at hand"
        current.check_drops += 1
        return ""

    def do_next(self, _event: Event) -> str:
        current = self.reading()
        if not current:
            return "no reading is at hand"
        current.closed = True
        self.settle(current, DropReading(current.count, current.kind))
        return ""

    def do_again(self, _event: Event) -> str:
        if self.state.place.spot != "blank-failed":
            return "no failed blank is at hand"
        self.open("blank")
        return ""

    def do_reject(self, event: Event) -> str:
        if not self.state.current:
            return "no determination is under way"
        self.strike(self.state.current, str(event.data.get("cause") or "rejected"))
        return ""

    def do_stop(self, event: Event) -> str:
        if self.state.place.spot == "finished":
            return "the run has ended"
        if current := self.state.current:
            current.rejected = "stopped"
        self.finish("not-tested", str(event.data.get("cause") or "stopped"))
        return ""

    def do_note(self, event: Event) -> str:
        self.state.notes.append(str(event.data.get("text", "")))
        return ""

    def do_take_over(self, event: Event) -> str:
        if current := self.state.current:
            current.holder = event.device
        return ""

    def do_correct(self, event: Event) -> str:
        data = event.data
        named = [d for d in self.state.determinations if d.id == data["determination"]]
        if not named or not named[0].kept or named[0].kind == "beyond":
            return "no such determination stands"
        if self.state.finish == "not-tested":
            return "the run was given up"
        found, drops = named[0], int(data["drops"])
        if drops > self.method.titration.max_drops:
            return "above the maximum count"
        if drops < 2 and data["kind"] in ("backed-off", "doubt"):
            return "there is no count below the first drop"
        was = found.reading.words if found.reading else ""
        found.corrections.append(Correction(event.id, event.at, was, str(data["why"])))
        if data["kind"] == "struck":
            found.rejected = str(data["why"])
        else:
            found.count, found.kind = drops, data["kind"]
        self.reconsider()
        return ""

    # What follows.

    def strike(self, current: Determination | None, cause: str) -> None:
        """Reject the determination under way for a stated cause and begin it again."""
        if current is None:
            return
        current.rejected = cause
        self.open(current.role)

    def finish(self, how: str, cause: str = "") -> None:
        self.state.finish = how  # type: ignore[assignment]
        self.state.cause = cause
        self.state.place = Place("finished")

    def settle(self, closed: Determination, reading: DropReading) -> None:
        """A determination is closed with this reading: where to now."""
        if closed.role == "blank" and not blank_rule.passes(reading, self.method.blank):
            self.fail(closed)
        elif reading.kind == "beyond":
            self.finish("beyond")
        else:
            self.go_on()

    def fail(self, blank: Determination) -> None:
        blank.rejected = f"blank over {self.method.blank.passes_at_most} drops"
        self.state.place = Place("blank-failed")

    def reconsider(self) -> None:
        """A reading was corrected: the run stands where its readings now lead.

        A determination that has been begun goes on; one that was merely next is opened anew.
        """
        current, here = self.state.current, self.state.place
        for blank in self.state.blanks:
            if blank.reading and not blank_rule.passes(blank.reading, self.method.blank):
                self.fail(blank)
        if current and current.holder:
            self.state.place = here
            return
        if current:
            self.state.determinations.remove(current)
        self.state.finish, self.state.cause = "", ""
        self.go_on()

    def go_on(self) -> None:
        """The next determination, or the finish that the readings lead to."""
        if not self.state.blanks:
            self.state.place = Place("blank-failed")
            return
        if any(d.kind == "beyond" for d in self.state.samples):
            self.finish("beyond")
            return
        halves = [d.reading.halves for d in self.state.samples if d.reading]
        decision = decide(halves, 2 * self.method.repeats.agree_within_drops).decision
        if decision == "more":
            self.open(SAMPLE_ROLES[len(halves)])
        else:
            self.finish("not-repeatable" if decision == "not-repeatable" else "done")
