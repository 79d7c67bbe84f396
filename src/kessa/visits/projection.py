"""A sample and the tests asked of it, from the events of its visit."""

from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from decimal import Decimal
from typing import Any

from kessa.platform.models import Programme
from kessa.visits.models import Sample, TestAsked, VisitEvent
from kessa_core.records import Break

Kind = VisitEvent.Kind
CONDITIONS = ("weather_now", "weather_before", "water_c", "air_c", "seen", "note")
CORRECTABLE = ("point_id", "taken_at", *CONDITIONS, "depth_cm", "noted")
PROJECTED = (
    "point_id", "outcome", "reason", "safe", "context_at", *CONDITIONS, "noted", "taken_at",
    "depth_cm", "zone", "taken_by_id",
)  # fmt: skip
"""The columns of a sample that its events decide."""
TYPED: dict[str, Callable[[Any], Any]] = {
    "taken_at": datetime.fromisoformat, "water_c": Decimal, "air_c": Decimal,
}  # fmt: skip


def apply(sample: Sample, event: VisitEvent) -> None:
    """Change *sample* (not saved) by what *event* says; nothing where it stands beside another."""
    if event.beside:
        return
    if handler := _HANDLERS.get(Kind(event.kind)):
        handler(sample, event)


def as_plain(value: Any) -> Any:
    """A column as an event holds it: times in UTC, decimals as text."""
    if isinstance(value, datetime):
        return value.astimezone(UTC).isoformat(timespec="seconds")
    return value if value is None or isinstance(value, list | dict | int) else str(value)


def store(sample: Sample) -> None:
    """Save what the events changed."""
    sample.words = words_of(sample)
    sample.save(update_fields=[*(name.removesuffix("_id") for name in PROJECTED), "words"])


def rebuild(sample: Sample) -> None:
    """Rebuild the sample and its tests from its events, and save them."""
    states = replay(sample)
    tests = {test.method_id: test for test in sample.tests.all()}
    store(sample)
    for method_id, state in states.items():
        if tests[method_id].state != state:
            tests[method_id].state = state
            tests[method_id].save(update_fields=["state"])


def replay(sample: Sample) -> dict[str, str]:
    """Rebuild the sample from its events, not saved; the states of its tests, by method."""
    blank = Sample()
    for name in PROJECTED:
        setattr(sample, name, getattr(blank, name))
    states: dict[str, str] = {}
    for event in sample.events.all():
        apply(sample, event)
        states |= states_after(event)
    return states


def differing(programme: Programme) -> Iterator[Break]:
    """Samples and tests that are not what the events of their visit make of them."""
    samples = Sample._base_manager.filter(programme=programme).order_by("pk")
    for sample in samples.prefetch_related("events", "tests").iterator(chunk_size=500):
        was = {name: getattr(sample, name) for name in (*PROJECTED, "words")}
        try:
            states = replay(sample)
        except (KeyError, TypeError, ValueError, ArithmeticError):
            yield Break(0, f"sample:{sample.pk}: an event of it cannot be read")
            continue
        sample.words = words_of(sample)
        wrong = [name for name, value in was.items() if not _same(getattr(sample, name), value)]
        if wrong:
            yield Break(
                0, f"sample:{sample.pk} does not follow from its events: {', '.join(wrong)}"
            )
        if states != {test.method_id: test.state for test in sample.tests.all()}:
            yield Break(0, f"sample:{sample.pk}: its tests do not follow from its events")


def _same(one: Any, other: Any) -> bool:
    """Equal, as an event holds them: times to the second, decimals by their value."""
    return bool(one == other) or as_plain(one) == as_plain(other)


def states_after(event: VisitEvent) -> dict[str, str]:
    """The states that *event* gives to tests, by method."""
    data, states = event.data, TestAsked.State
    if event.kind == Kind.BEGUN:
        return {data["method"]: states.ASKED}
    if event.kind == Kind.TEST_ADDED:
        return {data["method"]: states.ASKED}
    if event.kind == Kind.TEST_CHANGED:
        return {data["was"]: states.CANCELLED, data["method"]: states.ASKED}
    if event.kind == Kind.TEST_STATE:
        return {data["method"]: data["state"]}
    return {}


def words_of(sample: Sample) -> str:
    """What the search looks through."""
    said = (sample.note, sample.reason, sample.weather_now, sample.weather_before)
    return "".join(f" {text}" for text in said if text)


def _begun(sample: Sample, event: VisitEvent) -> None:
    sample.point_id = event.data["point"]


def _safe(sample: Sample, _event: VisitEvent) -> None:
    sample.safe = True


def _not_taken(sample: Sample, event: VisitEvent) -> None:
    sample.outcome, sample.reason = Sample.Outcome.NOT_TAKEN, event.data["reason"]
    from_paper = event.data.get("went_at")
    sample.taken_at = datetime.fromisoformat(from_paper) if from_paper else event.at
    sample.taken_by_id = event.by_id


def _conditions(sample: Sample, event: VisitEvent) -> None:
    _set(sample, event.data)
    sample.context_at = sample.context_at or event.at


def _decided(sample: Sample, event: VisitEvent) -> None:
    """The chosen record holds as if it had come alone."""
    said = event.data
    chosen = VisitEvent(
        kind=said["of_kind"],
        data=said["data"],
        at=datetime.fromisoformat(said["at"]),
        by_id=said["of_person"],
    )
    if chosen.kind == Kind.CONDITIONS:
        sample.noted = {}
    apply(sample, chosen)


def _cancelled(sample: Sample, _event: VisitEvent) -> None:
    sample.outcome = Sample.Outcome.CANCELLED


def _taken(sample: Sample, event: VisitEvent) -> None:
    sample.outcome, sample.taken_by_id, sample.reason = Sample.Outcome.TAKEN, event.by_id, ""
    _set(sample, event.data)


def _corrected(sample: Sample, event: VisitEvent) -> None:
    if "noted" in event.data["after"]:
        sample.noted = {}
    _set(sample, event.data["after"])


def _set(sample: Sample, data: dict[str, Any]) -> None:
    for name, value in data.items():
        if name == "noted":
            sample.noted = sample.noted | value
        elif name in PROJECTED:
            typed = TYPED.get(name)
            setattr(sample, name, typed(value) if typed and value is not None else value)


_HANDLERS: dict[VisitEvent.Kind, Callable[[Sample, VisitEvent], None]] = {
    Kind.BEGUN: _begun,
    Kind.SAFE: _safe,
    Kind.NOT_TAKEN: _not_taken,
    Kind.CONDITIONS: _conditions,
    Kind.CANCELLED: _cancelled,
    Kind.TAKEN: _taken,
    Kind.CORRECTED: _corrected,
    Kind.DECIDED: _decided,
}
