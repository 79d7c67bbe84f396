"""./kessa plan FILE [--json] [--seconds N]: who does what when, for the tests of a visit."""

import json
import sys
from pathlib import Path

from kessa_core.errors import CoreError
from kessa_core.planning import Plan, PlanProblem, find_plan, read_problem

SECONDS = 3.0
"""How long is searched, unless the plan is proven sooner or another time is given."""
LONGEST_SEARCH = 600.0


def main(arguments: list[str]) -> int:
    """Print the plan for the problem in a JSON file, or - for standard input."""
    left = list(arguments)
    as_json = "--json" in left
    if as_json:
        left.remove("--json")
    seconds = _seconds(left)
    if len(left) != 1 or left[0].startswith("--"):
        raise CoreError("Give a file with the tests to plan, or - for standard input.")
    text = sys.stdin.read() if left[0] == "-" else Path(left[0]).read_text("utf-8")
    problem = read_problem(text)
    plan = find_plan(problem, seconds)
    if as_json:
        print(json.dumps(plan.as_plain(), ensure_ascii=False))
    else:
        _print(problem, plan)
    return 0


def _seconds(left: list[str]) -> float:
    """The time to search, taken out of the arguments."""
    if "--seconds" not in left:
        return SECONDS
    at = left.index("--seconds")
    given = left[at + 1] if at + 1 < len(left) else ""
    del left[at : at + 2]
    try:
        seconds = float(given)
    except ValueError:
        seconds = 0.0
    if not 0 < seconds <= LONGEST_SEARCH:
        raise CoreError(f"--seconds must be above 0 and at most {LONGEST_SEARCH:g}.")
    return seconds


def _print(problem: PlanProblem, plan: Plan) -> None:
    labels = {(t.id, at): phase.label for t in problem.tests for at, phase in enumerate(t.phases)}
    for one in sorted(plan.phases, key=lambda one: (one.start_s, one.end_s)):
        who = f"person {one.person}" if one.person is not None else "wait"
        label = labels[one.test, one.phase]
        words = f"{clock(one.start_s)}–{clock(one.end_s)}  {who:9} {one.test}"
        print(f"{words}: {label}" if label else words)
    bound = "" if plan.makespan_s == plan.bound_s else f", at best {clock(plan.bound_s)}"
    print(f"{plan.status}: over at {clock(plan.makespan_s)}{bound}")
    for late in plan.late:
        print(f"late: {late.test}, phase {late.phase}, {late.what} by {late.seconds} s")


def clock(seconds: int) -> str:
    """Minutes and seconds since the sample was taken: 7:05, and 61:00 after an hour."""
    sign = "-" if seconds < 0 else ""
    return f"{sign}{abs(seconds) // 60}:{abs(seconds) % 60:02}"
