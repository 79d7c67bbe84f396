"""Readings from photographs: taken at the bench, read later, perhaps by somebody else, perhaps by a
second person who does not see the first reading."""

from kessa_core.readings.scale import InvalidReading
from kessa_core.runs.act_models import AskAgain, Photo, ReadPhoto
from kessa_core.runs.clocks import Moment
from kessa_core.runs.entering import Entering
from kessa_core.runs.events import Event
from kessa_core.runs.state import Determination, SecondReading


class Photographed(Entering):
    """The machine, with photographs of what is read."""

    def do_photo(self, event: Event, act: Photo) -> str:
        step, current = self.step_here("read"), self.state.current
        if not step or not current or not step.slot or step.id != act.step:
            return "that reading is not at hand"
        if not self.reader.photographed or len(self.flask) > 1:
            return "this reading is not made from a photograph"
        current.photos[step.slot] = act.photo
        if act.twice:
            current.twice.add(step.slot)
        if not act.later:
            return ""
        self.read_in_time(step, event)
        current.ended_at = event.true_at
        if step.slot != current.slots[-1]:
            self.done(event)
            return ""
        self.moments[step.id] = self.last = Moment.of(event)
        current.ended = current.closed = True
        self.finish_measurement(current)
        return ""

    def do_read_photo(self, event: Event, act: ReadPhoto) -> str:
        found = self._photographed(act.determination, act.slot)
        if found is None:
            return "there is no such photograph"
        at, current = found
        if act.again:
            return self._read_again(at, current, event, act)
        if act.slot not in current.unread:
            return "that photograph has been read"
        if act.unreadable:
            current.rejected = f"photograph: {act.unreadable}"
        elif reason := self._read_from(at, current, event, act):
            return reason
        if current.awaiting:
            return ""
        stage = self.state.stages[at]
        if stage.finish == "awaiting":
            self.all_read(at)
        elif not stage.finish:
            self.reconsider(at)
        return ""

    def do_ask_again(self, _event: Event, act: AskAgain) -> str:
        found = self._photographed(act.determination, act.slot)
        if found is None:
            return "there is no such photograph"
        if act.slot in found[1].again:
            return "that photograph has been read twice"
        found[1].twice.add(act.slot)
        return ""

    def _photographed(self, determination: str, slot: str) -> tuple[int, Determination] | None:
        """The measurement that stands and has a photograph of this slot, with its stage's place."""
        for at, stage in enumerate(self.state.stages):
            for held in stage.determinations:
                if held.id == determination and held.stands and slot in held.photos:
                    return at, held
        return None

    def _read_from(self, at: int, current: Determination, event: Event, act: ReadPhoto) -> str:
        reader = self.readers[self.method.stages[at].id]
        try:
            n, kind = reader.scale(act.slot).parse(act.raw, act.sure)
        except InvalidReading as error:
            return str(error)
        if wrong := reader.out_of_order({**current.places, act.slot: n}):
            return wrong
        current.places[act.slot], current.raw[act.slot] = n, act.raw
        current.read_in[act.slot] = event.id
        if kind != "plain":
            current.kind = kind  # type: ignore[assignment]
        if kind == "beyond":
            current.places[current.slots[-1]] = n
        return ""

    def _read_again(self, at: int, current: Determination, event: Event, act: ReadPhoto) -> str:
        if act.slot in current.again:
            return "that photograph has been read twice"
        reader = self.readers[self.method.stages[at].id]
        try:
            n, _ = reader.scale(act.slot).parse(act.raw, act.sure)
        except InvalidReading as error:
            return str(error)
        current.again[act.slot] = SecondReading(event.id, n)
        return ""
