"""What each act does. A method an act; each returns why the act has no place here, or ""."""

from dataclasses import replace

from kessa_core.readings.scale import InvalidReading
from kessa_core.runs.act_models import (
    Accept,
    Again,
    Answer,
    BackOff,
    Beyond,
    CheckDrop,
    Clock,
    Correct,
    Dilute,
    Doubt,
    Drop,
    End,
    Enter,
    Flag,
    Next,
    Note,
    Plain,
    Prepare,
    Read,
    Reader,
    Reject,
    SetCount,
    Stage,
    Stop,
    TakeOver,
    Tick,
    Time,
)
from kessa_core.runs.clocks import EARLY_S, Moment
from kessa_core.runs.entering import ENTERED, NO_ROLE
from kessa_core.runs.events import Event
from kessa_core.runs.photographed import Photographed
from kessa_core.runs.state import SAMPLE_ROLES, UNTESTED, Correction, Determination, Position


class EventHandlers(Photographed):
    """The machine with every act."""

    def counting(self) -> Determination | None:
        """The count under way."""
        return self.state.current if self.step_here("count") else None

    def reading(self) -> Determination | None:
        """The count that has ended and waits for its word."""
        return self.state.current if self.state.place.spot == "reading" else None

    @property
    def most(self) -> int:
        """The maximum count."""
        return self.stage.most

    @property
    def counts_zero(self) -> bool:
        """Whether a count of nought is a reading."""
        return self.reader.main.low == 0

    def do_tick(self, event: Event, act: Tick) -> str:
        step = self.step_here("tick")
        if not step or step.id != act.step:
            return "that step is not at hand"
        self.done(event)
        return ""

    def do_time(self, event: Event, act: Time) -> str:
        step = self.step_here("wait")
        if not step or step.id != act.step:
            return "that wait is not at hand"
        self.wait_over(step, event)
        self.done(event)
        return ""

    def do_answer(self, event: Event, act: Answer) -> str:
        step = self.step_here("check")
        if not step or step.id != act.step:
            return "that check is not at hand"
        answer = next((a for a in step.answers if a.id == act.answer), None)
        if not answer:
            return "that answer is not offered"
        self.flag(answer.flag or "")
        current = self.state.current
        if answer.then == "next":
            self.done(event)
        elif answer.then == "again":
            self.discard_measurement(current, answer.cause or "")
        elif answer.then == "prepare":
            self.prepare_again(step.title, answer.cause or "")
        elif answer.then == "absent" and current:
            current.kind, current.ended_at, current.closed = "absent", event.true_at, True
            self.finish_measurement(current)
        else:
            self.end_without_result(answer.cause or "")
        return ""

    def prepare_again(self, what: str, cause: str) -> None:
        """Once more what comes before a determination, for a stated cause."""
        if current := self.state.current:
            current.rejected = cause
        self.state.notes.append(f"{what}: {cause}; prepared again")
        self.prepare()

    def do_prepare(self, event: Event, act: Prepare) -> str:
        stage, spot = self.state.stage, self.state.place.spot
        if not self.stage.prepare or not (stage.prepared or self.state.preparing):
            return "nothing was prepared that could be repeated"
        if spot not in ("step", "reading"):
            return "no measurement is under way"
        self.prepare_again("Preparation", act.cause or "repeated")
        return ""

    def do_clock(self, event: Event, act: Clock) -> str:
        step = self.step_here("wait")
        typed = step and step.wait and step.wait.rule in ("typed", "computed")
        if not step or step.id != act.step or not typed:
            return "that wait is not at hand"
        self.state.typed[step.id] = act.seconds
        return ""

    def do_read(self, event: Event, act: Read) -> str:
        step, current = self.step_here("read"), self.state.current
        if not step or not current or not step.slot or step.id != act.step:
            return "that reading is not at hand"
        try:
            n, kind = self.reader.scale(step.slot).parse(act.raw, sure=act.sure)
        except InvalidReading as error:
            return str(error)
        if wrong := self.reader.out_of_order({**current.places, step.slot: n}):
            return wrong
        if below := self.below_the_stage_before(n, step.slot, current):
            if not act.sure:
                return below
            self.flag(below)
        current.places[step.slot], current.raw[step.slot] = n, act.raw
        current.read_in[step.slot], current.reader = event.id, self.state.reader
        if act.sure:
            self.flag(f"{step.title}: {act.raw.replace('|', ' ')} was asked about and confirmed")
        self.read_in_time(step, event)
        if kind != "plain":
            current.kind = kind  # type: ignore[assignment]
        current.ended_at = event.true_at
        if kind == "beyond":
            current.places[current.slots[-1]] = n
        elif step.slot != current.slots[-1]:
            self.done(event)
            return ""
        self.moments[step.id] = self.last = Moment.of(event)
        current.ended = current.closed = True
        self.finish_measurement(current)
        return ""

    def below_the_stage_before(self, n: float, slot: str, current: Determination) -> str:
        """Why a titration that continues in one flask cannot read so little; else nothing."""
        if (
            not self.stage.continues
            or slot != current.slots[-1]
            or current.role not in SAMPLE_ROLES
        ):
            return ""
        before = self.state.stages[self.state.at - 1]
        read = [d.seen.n for d in before.samples if d.seen]
        if not read or n >= read[-1]:
            return ""
        titles = self.method.stages[self.state.at - 1].title, self.stage.title
        return f"{titles[1]} ended at {n:g}, below {titles[0]} at {read[-1]:g}"

    def do_drop(self, event: Event, _act: Drop) -> str:
        current = self.counting()
        if not current:
            return "no count is under way"
        if current.count >= self.most:
            return "the maximum count is reached"
        current.count += 1
        current.drop_times.append(event.true_at)
        return ""

    def do_set(self, event: Event, act: SetCount) -> str:
        current = self.counting()
        if not current:
            return "no count is under way"
        if act.count > self.most:
            return "above the maximum count"
        if act.count < current.start:
            return "below the count of the stage before"
        current.count = act.count
        current.drop_times = (current.drop_times + [event.true_at] * act.count)[: act.count]
        return ""

    def do_end(self, event: Event, _act: End) -> str:
        current = self.counting()
        if not current:
            return "no count is under way"
        if not current.count and not self.counts_zero:
            return "nothing has been added"
        current.ended, current.ended_at = True, event.true_at
        current.reader = self.state.reader
        step = self.step_here("count")
        self.moments[step.id if step else ""] = self.last = Moment.of(event)
        self.state.place = Position("reading")
        return ""

    def do_beyond(self, event: Event, _act: Beyond) -> str:
        current = self.counting()
        if not current:
            return "no count is under way"
        if current.count < self.most:
            return "the maximum count is not reached"
        current.ended, current.ended_at, current.kind = True, event.true_at, "beyond"
        current.closed = True
        self.finish_measurement(current)
        return ""

    def do_plain(self, _event: Event, _act: Plain) -> str:
        current = self.reading()
        if not current:
            return "no reading is at hand"
        current.kind = "plain"
        return ""

    def do_back_off(self, _event: Event, _act: BackOff) -> str:
        current = self.reading()
        if not current:
            return "no reading is at hand"
        if current.role == "blank" and current.count < 2:
            return "a blank has at least one drop"
        if not current.count:
            return "there is no count below the first one"
        current.kind = "backed-off"
        return ""

    def do_doubt(self, _event: Event, _act: Doubt) -> str:
        current = self.reading()
        if not current:
            return "no reading is at hand"
        if current.count < (1 if self.counts_zero else 2):
            return "there is no count below the first one"
        current.kind = "doubt"
        return ""

    def do_check_drop(self, _event: Event, _act: CheckDrop) -> str:
        current = self.reading()
        if not current:
            return "no reading is at hand"
        current.check_drops += 1
        return ""

    def do_next(self, event: Event, _act: Next) -> str:
        current = self.reading()
        if not current:
            return "no reading is at hand"
        step = self.stage.steps[-1]
        if step.hold_s and self.last:
            held = Moment.of(event).since(self.last)
            if held < step.hold_s - EARLY_S:
                self.flag(f"The end was held {held:.0f} s of {step.hold_s} s")
        current.closed = True
        self.finish_measurement(current)
        return ""

    def do_again(self, _event: Event, _act: Again) -> str:
        if self.state.place.spot != "blank-failed":
            return "no failed blank is at hand"
        self.open("blank")
        return ""

    def do_stage(self, _event: Event, _act: Stage) -> str:
        if self.state.place.spot != "stage-end":
            return "no stage has just ended"
        self.begin_stage(self.flask[-1] + 1)
        self.advance()
        return ""

    def do_dilute(self, event: Event, act: Dilute) -> str:
        current, stage = self.state.current, self.state.stage
        if act.by not in self.stage.above.by:
            return "that dilution is not offered"
        ended = self.state.place.spot in ("stage-end", "finished")
        if ended and stage.finish == "beyond" and not stage.extra:
            self.reopen()
            for at in self.flask:
                self.state.stages[at].dilution = act.by * self.state.stages[at].base
            self.state.at = self.flask[0]
            self.open_sample("first")
            return ""
        fresh = current and not current.holder and current.role in SAMPLE_ROLES
        if not fresh or any(d.stands for d in stage.of(*SAMPLE_ROLES)):
            return "a dilution starts with a first measurement"
        stage.determinations.pop()
        for at in self.flask:
            self.state.stages[at].dilution = act.by * self.state.stages[at].base
        self.state.at = self.flask[0]
        self.open_sample("first")
        return ""

    def do_reject(self, event: Event, act: Reject) -> str:
        if not self.state.current:
            return "no measurement has started"
        self.discard_measurement(self.state.current, act.cause or "rejected")
        return ""

    def do_stop(self, event: Event, act: Stop) -> str:
        if self.state.place.spot == "finished":
            return "the test has ended"
        if act.finish == "not-applicable":
            self.state.untested = "not-applicable"
        self.end_without_result(act.cause or "stopped")
        return ""

    def end_without_result(self, cause: str) -> None:
        """The stage under way, and what would follow, is not tested; stages that ended stand."""
        if current := self.state.current:
            current.rejected = "stopped"
        self.state.cause = cause
        self.end_test()

    def do_note(self, event: Event, act: Note) -> str:
        self.state.notes.append(act.text)
        return ""

    def do_flag(self, _event: Event, act: Flag) -> str:
        self.flag(f"Flagged at the bench: {act.text}")
        return ""

    def do_accept(self, event: Event, act: Accept) -> str:
        """What spoke against the sample was corrected, or it is tested all the same."""
        if act.how == "anyway":
            self.state.flags.append(f"Tested all the same: {act.what}")
        else:
            self.state.notes.append(f"Corrected before the test: {act.what}")
        self.state.accepted.append(act.concern)
        return ""

    def do_take_over(self, event: Event, _act: TakeOver) -> str:
        if current := self.state.current:
            current.holder = event.device
        return ""

    def do_reader(self, _event: Event, act: Reader) -> str:
        self.state.reader = act.name
        return ""

    def do_enter(self, event: Event, act: Enter) -> str:
        if self.state.place.spot == "finished":
            return "the test has ended"
        if reason := self.come_to(act.stage):
            return reason
        current = self.open_for(act.role)
        if current is None:
            return NO_ROLE[act.role]
        if reason := self.write_down(current, act):
            return reason
        if ENTERED not in self.state.flags:
            self.state.flags.append(ENTERED)
        current.ended_at = event.true_at
        current.ended = current.closed = True
        at = self.state.at
        self.finish_measurement(current)
        if act.last:
            self.no_more(at)
        return ""

    def do_correct(self, event: Event, act: Correct) -> str:
        place = next(
            (
                (at, d)
                for at, stage in enumerate(self.state.stages)
                for d in stage.determinations
                if d.id == act.determination
            ),
            None,
        )
        if not place or not place[1].kept or place[1].kind == "beyond":
            return "there is no such measurement"
        if self.state.finish in UNTESTED:
            return "the test was ended"
        at, found = place
        reader = self.readers[self.method.stages[at].id]
        was = reader.format_reading(found.seen) if found.seen else ""
        changed = replace(found)
        if reason := self.apply_correction(at, changed, act):
            return reason
        changed.corrections = [
            *found.corrections,
            Correction(event.id, event.true_at, was, act.why),
        ]
        held = self.state.stages[at].determinations
        held[held.index(found)] = changed
        self.reconsider(at)
        return ""

    def apply_correction(self, at: int, found: Determination, act: Correct) -> str:
        """Write the corrected reading into *found*, or strike it; the reason when it does not
        fit."""
        if act.kind == "struck":
            found.rejected = act.why
            return ""
        stage = self.method.stages[at]
        if found.slots:
            slot = act.slot or found.slots[-1]
            if slot not in found.slots or not act.has("raw"):
                return "that reading does not exist"
            try:
                n, kind = self.readers[stage.id].scale(slot).parse(act.raw, act.sure)
            except InvalidReading as error:
                return str(error)
            places = {**found.places, slot: n}
            if wrong := self.readers[stage.id].out_of_order(places):
                return wrong
            found.places = places
            found.raw = {**found.raw, slot: act.raw}
            found.kind = kind  # type: ignore[assignment]
            return ""
        if not act.has("drops"):
            return "that count does not exist"
        if act.drops > stage.most:
            return "above the maximum count"
        least = self.readers[stage.id].main.low
        if act.drops < least:
            return "below the first count"
        if act.drops < least + 1 and act.kind in ("backed-off", "doubt"):
            return "there is no count below the first one"
        found.count, found.kind, found.ended = act.drops, act.kind, True
        return ""
