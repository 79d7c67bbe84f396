"""Measurements that were written down on paper, typed in afterwards: past the steps, which nobody
recorded, to the reading."""

from kessa_core.readings.scale import InvalidReading
from kessa_core.runs.act_models import Enter
from kessa_core.runs.machine import RunStateMachine
from kessa_core.runs.state import SAMPLE_ROLES, Determination

ENTERED = "Entered from paper: steps and clocks were not recorded"
NOT_WRITTEN = "not on the paper"
NO_ROLE = {
    "sample": "the reference comes first, or no further measurement is asked for",
    "blank": "this test has no blank, or has one already",
    "standard": "this test has no standard, or has one already",
    "reference": "this test has no reference, or has one already",
    "spike": "no spike is asked for here",
}
MAY_LACK = ("blank", "standard", "spike")
"""What a value can do without; a difference cannot do without its reference."""


class Entering(RunStateMachine):
    """The machine, past steps that nobody recorded."""

    def come_to(self, stage_id: str) -> str:
        """To the first measurement of a stage; those before it that have none are not on the paper.
        Why not, where it is not to come any more."""
        places = {stage.id: at for at, stage in enumerate(self.method.stages)}
        wanted = places.get(stage_id, self.state.at) if stage_id else self.state.at
        if stage_id and stage_id not in places:
            return "this method has no such part"
        self._past_what_comes_before()
        for _ in self.method.stages:
            if self.state.place.spot == "stage-end" and self.flask[-1] + 1 <= wanted:
                self.begin_stage(self.flask[-1] + 1)
                self._go_on()
            if wanted in self.flask:
                break
            if wanted < self.state.at:
                return "that part has ended"
            self._leave_stage()
        if wanted != self.state.at:
            return f"{self.stage.title} comes first in this flask"
        return ""

    def open_for(self, role: str) -> Determination | None:
        """The open measurement of this role; those before it that may lack are not on the paper."""
        for _ in range(len(MAY_LACK) + 1):
            if self.state.place.spot == "blank-failed":
                failed = self.state.stage.of("blank")[-1]
                self.flag(f"The blank did not pass: {self.reader.listed([failed.seen])}"
                          if failed.seen else "The blank did not pass")  # fmt: skip
                self.state.stage.unrecorded.add("blank")
                self._go_on()
            current = self.state.current
            if current is None or _is(current.role, role):
                return current
            if current.role not in MAY_LACK:
                return None
            self._leave_out(current)
        return None

    def write_down(self, current: Determination, act: Enter) -> str:
        """What was read, into the measurement; why not, where it does not fit."""
        if current.slots:
            return self._write_readings(current, act)
        least, most = self.reader.main.low, self.stage.most
        if act.kind == "beyond":
            current.count, current.kind = most, "beyond"
            return ""
        if act.kind == "absent":
            current.kind = "absent"
            return ""
        if not least <= act.drops <= most:
            return f"{act.drops} is not between {least} and {most}"
        if act.kind in ("backed-off", "doubt") and act.drops < least + 1:
            return "there is no count below the first one"
        if act.drops < current.start:
            return "below the count of the part before"
        current.count, current.kind = act.drops, act.kind
        return ""

    def no_more(self, at: int) -> None:
        """Nothing further of this flask was written down: one measurement stands alone, two that do
        not agree have no result."""
        flask = self.flask_of(at)
        if self.state.place.spot != "step" or self.state.at not in flask:
            return
        if self.state.current:
            self.state.stage.determinations.pop()
        for one in flask:
            self._close(one)
        self._after(flask)

    def _close(self, at: int) -> None:
        held = self.state.stages[at]
        if not held.samples:
            held.finish, held.cause = "not-tested", NOT_WRITTEN
        elif len(held.samples) == 1:
            held.finish, held.cut_short = "done", self.method.stages[at].repeats.least > 1
            if held.cut_short:
                held.flags.append("Only one measurement on the paper; the method asks for two")
        else:
            open_ = self.decided(at).decision in ("more", "not-repeatable")
            held.finish = "not-repeatable" if open_ else "done"

    def _write_readings(self, current: Determination, act: Enter) -> str:
        parts = act.raw.split(";")
        if len(parts) != len(current.slots):
            return f"{len(current.slots)} readings belong to one measurement"
        places = dict(current.places)
        for slot, raw in zip(current.slots, parts, strict=True):
            try:
                places[slot], kind = self.reader.scale(slot).parse(raw, sure=True)
            except InvalidReading as error:
                return str(error)
            current.raw[slot] = raw
        if wrong := self.reader.out_of_order(places):
            return wrong
        current.places = places
        current.kind = "absent" if act.kind == "absent" else kind  # type: ignore[assignment]
        return ""

    def _past_what_comes_before(self) -> None:
        """Past the steps before the first measurement, and the preparation that they share."""
        if self.state.place.spot == "step" and self.state.current is None:
            self.state.stage.prepared = True
            self.advance()

    def _leave_out(self, current: Determination) -> None:
        """A measurement that may lack, and that nobody wrote down."""
        if current.role == "blank" and self.stage.blank and self.stage.blank.subtract:
            self.state.stage.flags.append("No blank on the paper; nothing was subtracted")
        self.state.stage.determinations.remove(current)
        self.state.stage.unrecorded.add(current.role)
        self._go_on()

    def _leave_stage(self) -> None:
        """A part of which nothing was written down."""
        if self.state.current:
            self.state.stage.determinations.pop()
        for at in self.flask:
            self.state.stages[at].finish = "not-tested"
            self.state.stages[at].cause = NOT_WRITTEN
        self._after(self.flask)

    def _go_on(self) -> None:
        self.state.stage.prepared = True
        self.advance()


def _is(found: str, wanted: str) -> bool:
    return found in SAMPLE_ROLES if wanted == "sample" else found == wanted
