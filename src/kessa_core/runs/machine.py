"""The run as a state machine: where the person stands, and what follows when something closes."""

from kessa_core.methods import Method
from kessa_core.methods.stage import Stage
from kessa_core.methods.steps import Step
from kessa_core.quality import blank as blank_rule
from kessa_core.quality.repeats import Repeat, agreeing, decide
from kessa_core.readings.lots import Lots
from kessa_core.readings.reading_type import ReadingType
from kessa_core.runs.clocks import Moment, due, early, late
from kessa_core.runs.events import Event
from kessa_core.runs.state import (
    NOT_REACHED,
    RAN_OUT,
    SAMPLE_ROLES,
    UNREADABLE,
    UNTESTED,
    Determination,
    Finish,
    Position,
    Role,
    RunState,
    StageState,
    Waited,
)


class RunStateMachine:
    """Holds the state and moves it; kessa_core.runs.acts says what each act does."""

    def __init__(self, method: Method, lots: Lots) -> None:
        self.method = method
        self.readers: dict[str, ReadingType] = {
            stage.id: stage.reader(lots) for stage in method.stages
        }
        held = [StageState(s.id, dilution=s.base, base=s.base) for s in method.stages]
        self.state = RunState(Position("step"), held)
        self.moments: dict[str, Moment] = {}
        self.last: Moment | None = None
        self.began: tuple[Waited, Moment] | None = None
        if method.before:
            self.state.place = Position("step", method.before[0].id)
        else:
            self.advance()

    @property
    def stage(self) -> Stage:
        """The document's part of the stage under way."""
        return self.method.stages[self.state.at]

    @property
    def reader(self) -> ReadingType:
        """The principle of the stage under way."""
        return self.readers[self.stage.id]

    # Where the person stands.

    def steps(self) -> list[Step]:
        """The steps of the determination under way, or those before."""
        current = self.state.current
        if not current:
            return list(self.stage.prepare if self.state.preparing else self.method.before)
        return self.stage.steps_for(_for(current.role), current.diluted > self.stage.base)

    def open(self, role: Role) -> None:
        """Begin a determination of this role."""
        stage = self.state.stage
        several = len(self.method.stages) > 1
        begun = Determination(
            role,
            stage.attempts(role) + 1,
            stage=stage.id if several else "",
            slots=self.reader.reading_fields,
            diluted=stage.dilution if role in (*SAMPLE_ROLES, "spike") else 1,
        )
        if self.stage.continues:
            self._go_on_from(begun)
        stage.determinations.append(begun)
        self.began = None
        self.state.place = Position("step", self.steps()[0].id)

    def _go_on_from(self, begun: Determination) -> None:
        """The count, or the start of the burette, of the stage before in the same flask."""
        before = self.state.stages[self.state.at - 1].kept(begun.role)
        if not before:
            return
        if not begun.slots:
            begun.count = begun.start = before[-1].count
            begun.drop_times = list(before[-1].drop_times)
        shared = {slot: n for slot, n in before[-1].places.items() if slot not in begun.slots}
        begun.places = shared if "start" in shared else {}

    def open_sample(self, role: Role) -> None:
        """Begin a determination of the sample, after the preparation that they share."""
        if self.stage.prepare and not self.state.stage.prepared:
            self.prepare()
        else:
            self.open(role)

    def prepare(self) -> None:
        """To the first step of the stage's preparation, or of what is done once a run."""
        self.state.stage.prepared = False
        self.state.preparing = bool(self.stage.prepare)
        self.state.place = Position("step", self.steps()[0].id)

    def step_here(self, kind: str) -> Step | None:
        """The step the person stands at, if it is of this kind."""
        if self.state.place.spot != "step":
            return None
        step = self.method.step(self.state.place.step)
        return step if step and step.kind == kind else None

    def done(self, event: Event) -> None:
        """The step at hand is done by this event: on to the next one."""
        here = self.state.place.step
        self.moments[here] = self.last = Moment.of(event)
        steps = self.steps()
        at = [step.id for step in steps].index(here)
        if at + 1 < len(steps):
            self.state.place = Position("step", steps[at + 1].id)
        elif not self.state.current:
            self.state.stage.prepared = self.state.preparing or self.state.stage.prepared
            self.advance()

    # Clocks.

    def wait_over(self, step: Step, event: Event) -> None:
        """A wait ends with this event: keep how long it ran; flag one too short or too long."""
        began = self.moments.get(step.wait.starts or "") if step.wait else None
        began = began or self.last
        current = self.state.current
        if step.wait is None or began is None:
            return
        least, most = due(step, self.state, self.readers)
        waited = Waited(step.id, Moment.of(event).since(began), least, most)
        self.began = (waited, began)
        if current:
            current.waits.append(waited)
        self.flag(early(step, waited))
        self.flag(late(self.method, waited, waited.seconds, "ended"))

    def read_in_time(self, step: Step, event: Event) -> None:
        """A reading is made: flag it where the last wait had to be read by now."""
        if not self.began:
            return
        waited, began = self.began
        seconds = Moment.of(event).since(began)
        if late(self.method, waited, waited.seconds, "ended"):
            return
        flagged = late(self.method, waited, seconds, "read")
        if not flagged and step.within_s and seconds > step.within_s:
            flagged = f"{step.title}: after {seconds:.0f} s, due within {step.within_s} s"
        self.flag(flagged)

    def flag(self, words: str) -> None:
        """Words that travel with the result; nothing without words."""
        if words:
            flags = self.state.stage.flags if self.state.current else self.state.flags
            flags.append(words)

    # What follows.

    def discard_measurement(self, current: Determination | None, cause: str) -> None:
        """Reject the determination under way for a stated cause and begin it again."""
        if current is None:
            return
        current.rejected = cause
        first = self.flask[0]
        for at in range(first, self.state.at):
            for earlier in self.state.stages[at].kept(current.role)[-1:]:
                earlier.rejected = cause
        self.state.at = first
        self.open(current.role)

    def finish_measurement(self, closed: Determination) -> None:
        """Finish the measurement and choose the next step."""
        seen, blank = closed.seen, self.stage.blank
        if closed.role == "blank" and blank and seen:
            if not blank_rule.passes(seen, blank, self.reader):
                self.fail(closed)
                return
        elif seen and seen.kind == "beyond" and closed.role in SAMPLE_ROLES:
            self.end_stage("beyond")
            return
        self.advance()

    @property
    def flask(self) -> tuple[int, ...]:
        """The stages whose determinations are done flask by flask with the one under way."""
        return self.flask_of(self.state.at)

    def flask_of(self, at: int) -> tuple[int, ...]:
        """Those of the stage at this place: itself, unless several colours are titrated in one
        flask and each determination is repeated."""
        alone = self.method.stages[at].repeats.least == 1
        return (at,) if alone else self.method.flask(at)

    def fail(self, blank: Determination) -> None:
        """The blank did not pass."""
        blank.rejected = self.failed_note(self.state.at)
        self.state.place = Position("blank-failed")

    def failed_note(self, at: int) -> str:
        """What is noted of a blank of a stage that did not pass."""
        rule = self.method.stages[at].blank
        allowed = rule.passes_at_most if rule else 0
        return f"blank over {allowed} {self.readers[self.method.stages[at].id].step_unit}"

    def advance(self) -> None:
        """The next determination, or the end that the readings lead to."""
        self.state.preparing = False
        if len(self.flask) > 1:
            self._advance_flask()
            return
        stage = self.state.stage
        for role in self.stage.roles:
            if stage.has(role) or role in stage.unrecorded:  # type: ignore[arg-type]
                continue
            if role == "blank" and stage.of("blank"):
                self.state.place = Position("blank-failed")
            else:
                self.open(role)  # type: ignore[arg-type]
            return
        samples = [d.seen for d in stage.samples if d.seen]
        if any(seen.kind == "beyond" for seen in samples):
            self.end_stage("beyond")
            return
        if any(seen.kind in ("absent", "below") for seen in samples):
            self.end_stage("done")
            return
        decision = self.decided().decision
        standing = stage.standing_samples
        if any(d.awaiting for d in standing):
            decision = "more" if len(standing) < self.stage.repeats.least else "single"
        if decision == "more":
            self.open_sample(SAMPLE_ROLES[len(standing)])
        elif decision == "not-repeatable":
            self.end_stage("not-repeatable")
        elif self.stage.spike and not stage.has("spike"):
            self.open("spike")
        else:
            self.end_stage("awaiting" if stage.awaiting else "done")

    def _advance_flask(self) -> None:
        """The next determination of stages that are titrated in one flask, or their end."""
        flask, held = self.flask, self.state.stages
        for role in self.method.stages[flask[0]].roles:
            asked = [at for at in flask if role in self.method.stages[at].roles]
            missing = [
                at
                for at in asked
                if not held[at].kept(role) and role not in held[at].unrecorded  # type: ignore[arg-type]
            ]
            if not missing:
                continue
            self.state.at = missing[0]
            if role == "blank" and held[missing[0]].of("blank"):
                self.state.place = Position("blank-failed")
            else:
                self.open(role)  # type: ignore[arg-type]
            return
        if any(d.seen and d.seen.kind == "beyond" for at in flask for d in held[at].samples):
            self.end_stage("beyond")
            return
        decisions = [self.decided(at).decision for at in flask]
        fewest = min(len(held[at].samples) for at in flask)
        behind = [at for at in flask if len(held[at].samples) == fewest]
        if len(behind) < len(flask) or "more" in decisions:
            self.state.at = behind[0]
            self.open_sample(SAMPLE_ROLES[fewest])
            return
        for at, decision in zip(flask, decisions, strict=True):
            held[at].finish = "not-repeatable" if decision == "not-repeatable" else "done"
        self._after(flask)

    def decided(self, at: int | None = None) -> Repeat:
        """What the repeat rule says of the determinations of a stage, else of the one under way."""
        stage = self.method.stages[self.state.at if at is None else at]
        reader = self.readers[stage.id]
        samples = self.state.stages[self.state.at if at is None else at].samples
        half_steps = [reader.half_steps(d.seen) for d in samples if d.seen]
        return decide(half_steps, agreeing(stage.repeats.agree, reader), stage.repeats.least)

    def end_stage(self, how: Finish, cause: str = "") -> None:
        """The stage ends; the last one ends the run."""
        self.state.stage.finish, self.state.stage.cause = how, cause
        for at in self.flask:
            if not self.state.stages[at].finish:
                self.state.stages[at].finish = "not-tested"
                self.state.stages[at].cause = RAN_OUT
        self._after(self.flask)

    def _after(self, flask: tuple[int, ...]) -> None:
        """What follows the stages of a flask."""
        if flask[-1] + 1 < len(self.method.stages):
            self.state.place = Position("stage-end")
        else:
            self.end_test()

    def end_test(self) -> None:
        """The run ends; stages that were never done count as not tested, or not applicable."""
        stages = self.state.stages
        for stage in stages:
            if not stage.finish:
                stage.finish = self.state.untested
                stage.cause = self.state.cause or NOT_REACHED
        self.finish_run()
        self.state.place = Position("finished")

    def finish_run(self) -> None:
        """How the run ended, by how its stages did."""
        stages = self.state.stages
        ends = {stage.finish for stage in stages}
        if len(stages) == 1:
            self.state.finish, self.state.cause = stages[0].finish, stages[0].cause
        elif "awaiting" in ends:
            self.state.finish = "awaiting"
        else:
            self.state.finish = "done" if ends - set(UNTESTED) else self.state.untested

    def begin_stage(self, at: int) -> None:
        """On to a stage, or back to one whose reading was corrected or diluted. One that continues
        in the flask of the stage before takes its dilution over."""
        self.state.at = at
        if self.stage.continues:
            self.state.stage.dilution = self.state.stages[at - 1].dilution
        self.reopen()

    def reopen(self) -> None:
        """The stage under way, and the run, have not ended after all."""
        for at in self.flask:
            self.state.stages[at].finish, self.state.stages[at].cause = "", ""
        self.state.finish, self.state.cause = "", ""
        for later in self.state.stages[self.flask[-1] + 1 :]:
            if later.finish in UNTESTED and not later.determinations:
                later.finish, later.cause = "", ""

    def reconsider(self, at: int) -> None:
        """A reading of stage *at* was corrected: the run stands where its readings now lead.

        A determination that has been begun continues; one that was merely next is opened again. A
        stage that is over stays over: it ends again where its readings still allow it; so does a
        run that was stopped after a stage.
        """
        if at not in self.flask:
            self._end_anew(at)
            if self.state.finish:
                self.finish_run()
            return
        current, here = self.state.current, self.state.place
        for blank in self.state.stage.blanks:
            rule = self.stage.blank
            if rule and blank.seen and not blank_rule.passes(blank.seen, rule, self.reader):
                self.fail(blank)
        if current and current.holder:
            self.state.place = here
            return
        if current:
            self.state.stage.determinations.remove(current)
        self.state.stage.prepared = self.state.stage.prepared or bool(self.state.stage.samples)
        ended, cause = self.state.finish, self.state.cause
        self.reopen()
        self.advance()
        if ended and self.state.place.spot == "stage-end":
            self.state.cause = cause
            self.end_test()

    def all_read(self, at: int) -> None:
        """Every photograph of a stage that awaited its reading has been read: it ends as its
        readings lead. No further measurement follows, since the sample is gone."""
        stage, method_stage = self.state.stages[at], self.method.stages[at]
        if stage.finish != "awaiting" or stage.awaiting:
            return
        reader, rule = self.readers[stage.id], method_stage.blank
        for blank in stage.blanks:
            if rule and blank.seen and not blank_rule.passes(blank.seen, rule, reader):
                blank.rejected = stage.cause = self.failed_note(at)
        begun = {d.role for d in stage.determinations}
        lost = any(not stage.has(role) for role in begun & set(method_stage.roles))
        if lost or not stage.samples:
            stage.finish, stage.cause = "not-tested", stage.cause or UNREADABLE
        else:
            self._end_anew(at)
        if self.state.finish:
            self.finish_run()

    def _end_anew(self, at: int) -> None:
        stage, method_stage = self.state.stages[at], self.method.stages[at]
        if stage.awaiting:
            stage.finish = "awaiting"
            return
        reader = self.readers[stage.id]
        seen = [d.seen for d in stage.samples if d.seen]
        if any(one.kind == "beyond" for one in seen):
            stage.finish = "beyond"
            return
        if any(one.kind in ("absent", "below") for one in seen):
            stage.finish = "done"
            return
        rule = method_stage.repeats
        agree = agreeing(rule.agree, reader)
        decision = decide([reader.half_steps(one) for one in seen], agree, rule.least).decision
        stage.finish = "not-repeatable" if decision in ("more", "not-repeatable") else "done"


def _for(role: str) -> str:
    return "sample" if role in SAMPLE_ROLES else role
