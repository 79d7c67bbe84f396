"""The rules of a plan a second time, from the statement of the problem: what breaks them in a plan,
and the best plan of a very small problem by trying every one."""

from collections import defaultdict
from collections.abc import Iterator
from itertools import pairwise, product
from typing import Any

Times = list[tuple[int, int]]


def broken(problem: dict[str, Any], plan: dict[str, Any]) -> list[str]:
    """Every rule that the plan breaks, but for windows, whose lateness it has to state."""
    times: dict[str, Times] = defaultdict(list)
    people: dict[str, list[int | None]] = defaultdict(list)
    for one in sorted(plan["phases"], key=lambda one: one["phase"]):
        times[one["test"]].append((one["start_s"], one["end_s"]))
        people[one["test"]].append(one["person"])
    tests = problem["tests"]
    found = [f"{t['id']} is not whole" for t in tests if len(times[t["id"]]) != len(t["phases"])]
    if found:
        return found
    begun = {(one["test"], one["phase"]): one for one in problem.get("fixed", [])}
    for test in tests:
        known = [begun.get((test["id"], at)) for at in range(len(test["phases"]))]
        found += _of_test(test, times[test["id"]], known, problem.get("now_s", 0))
        for other in test.get("after", []):
            if known[0] is None and times[test["id"]][0][0] < times[other][-1][1]:
                found.append(f"{test['id']} starts before {other} has ended")
    found += _of_people(problem, times, people)
    found += _of_equipment(tests, times)
    if plan["makespan_s"] != max(end for one in times.values() for _, end in one):
        found.append("the makespan is not when the last phase ends")
    if plan["lateness_s"] != sum(lateness(test, times[test["id"]]) for test in tests):
        found.append("the lateness is not what the times say")
    if plan["bound_s"] > plan["makespan_s"]:
        found.append("the bound lies above the makespan")
    return found


def _of_test(test: dict[str, Any], times: Times, known: list[Any], now: int) -> Iterator[str]:
    name, phases = test["id"], test["phases"]
    for at, (phase, (start, end)) in enumerate(zip(phases, times, strict=True)):
        place, last = f"{name}.{at}", at == len(phases) - 1
        new = phase["kind"] == "hands" or not at or times[at - 1][1] != start
        if known[at] is None and new and start < max(now, test.get("sampled_s", 0)):
            yield f"{place} starts too soon"
        if known[at] is not None and start != known[at]["start_s"]:
            yield f"{place} had begun and was moved"
        if at and times[at - 1][1] > start:
            yield f"{place} starts before the phase before it ends"
        if at and "wait" in (phase["kind"], phases[at - 1]["kind"]) and times[at - 1][1] != start:
            yield f"{place} does not start when the phase before it ends"
        if known[at] is not None:
            continue
        if phase["kind"] == "hands" and end - start != phase["seconds"]:
            yield f"{place} does not take its seconds"
        if phase["kind"] == "wait" and end - start < phase["at_least_s"]:
            yield f"{place} is too short"
        if phase["kind"] == "wait" and last and end - start != phase["at_least_s"]:
            yield f"{place} ends the test and is too long"
        if at and phases[at - 1].get("then_at_once") and times[at - 1][1] < min(start, now):
            yield f"{place} does not follow at once"


def _of_people(problem: dict[str, Any], times: dict[str, Times], people: Any) -> Iterator[str]:
    busy: dict[int, list[tuple[int, int]]] = defaultdict(list)
    for test in problem["tests"]:
        for at, phase in enumerate(test["phases"]):
            person = people[test["id"]][at]
            if (phase["kind"] == "hands") != (person is not None):
                yield f"{test['id']}.{at} has nobody, or a wait has somebody"
            if person is not None:
                busy[person].append(times[test["id"]][at])
    if len(busy) > problem.get("people", 1):
        yield "more people than there are"
    for person, spans in busy.items():
        if overlap(spans):
            yield f"person {person} does two things at once"


def _of_equipment(tests: list[dict[str, Any]], times: dict[str, Times]) -> Iterator[str]:
    pieces = {
        piece for test in tests for phase in test["phases"] for piece in phase.get("holds", [])
    }
    for piece in pieces:
        spans = [span for test in tests for span in held(test["phases"], times[test["id"]], piece)]
        if overlap(spans):
            yield f"{piece} is held twice at once"


def held(phases: list[dict[str, Any]], times: Times, piece: str) -> list[tuple[int, int]]:
    """From when to when a test holds the piece, gaps between two phases that hold it included."""
    spans: list[tuple[int, int]] = []
    before = False
    for phase, (start, end) in zip(phases, times, strict=True):
        holds = piece in phase.get("holds", [])
        if holds and before:
            spans[-1] = (spans[-1][0], end)
        elif holds:
            spans.append((start, end))
        before = holds
    return spans


def overlap(spans: list[tuple[int, int]]) -> bool:
    """Whether two half-open spans share a moment; one without length shares none."""
    real = sorted(span for span in spans if span[0] < span[1])
    return any(a[1] > b[0] for a, b in pairwise(real))


def lateness(test: dict[str, Any], times: Times) -> int:
    """Seconds over start_within_s and at_most_s."""
    within = test.get("start_within_s")
    over = 0 if within is None else max(0, times[0][0] - test.get("sampled_s", 0) - within)
    for phase, (start, end) in zip(test["phases"], times, strict=True):
        most = phase.get("at_most_s") if phase["kind"] == "wait" else None
        over += 0 if most is None else max(0, end - start - most)
    return over


def best(problem: dict[str, Any], until: int) -> tuple[int, int, int]:
    """The least lateness, of these the least makespan, of these the least sum of start ÷ priority
    (in 60ths), by trying every plan that is over by *until*. For problems of a few seconds."""
    tests = problem["tests"]
    found = (10**9, 10**9, 10**9)
    every = [list(_shapes(test["phases"], test.get("sampled_s", 0), until)) for test in tests]
    for shapes in product(*every):
        times = {test["id"]: shape for test, shape in zip(tests, shapes, strict=True)}
        mark = (
            sum(lateness(test, times[test["id"]]) for test in tests),
            max(end for shape in shapes for _, end in shape),
            sum(times[t["id"]][0][0] * 60 // t.get("priority", 1) for t in tests),
        )
        if mark < found and _possible(problem, times):
            found = mark
    return found


def _shapes(phases: list[dict[str, Any]], since: int, until: int) -> Iterator[Times]:
    """All times of one test by itself."""
    if not phases:
        yield []
        return
    phase, rest = phases[0], phases[1:]
    for start in range(since, until + 1):
        for end in _ends(phase, start, until, bool(rest)):
            follows = phase["kind"] == "wait" or phase.get("then_at_once")
            joined = bool(rest) and (follows or rest[0]["kind"] == "wait")
            for tail in _shapes(rest, end, until):
                if not joined or not tail or tail[0][0] == end:
                    yield [(start, end), *tail]


def _ends(phase: dict[str, Any], start: int, until: int, followed: bool) -> range:
    least = start + phase["seconds" if phase["kind"] == "hands" else "at_least_s"]
    longer = phase["kind"] == "wait" and followed
    return range(least, until + 1 if longer else min(least, until) + 1)


def _possible(problem: dict[str, Any], times: dict[str, Times]) -> bool:
    tests = problem["tests"]
    hands = [
        times[test["id"]][at]
        for test in tests
        for at, phase in enumerate(test["phases"])
        if phase["kind"] == "hands"
    ]
    most = problem.get("people", 1)
    if any(sum(a <= moment < b for a, b in hands) > most for moment, _ in hands):
        return False
    if any(times[t["id"]][0][0] < times[o][-1][1] for t in tests for o in t.get("after", [])):
        return False
    return not list(_of_equipment(tests, times))
