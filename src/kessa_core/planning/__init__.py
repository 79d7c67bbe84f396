"""The order of the tests of a visit: who does what when, so that no window is broken that need not
be and the visit is over as soon as possible."""

from kessa_core.planning.plan import Late, Plan, PlannedPhase
from kessa_core.planning.problem import Hands, PlannedTest, PlanProblem, Standing, read_problem
from kessa_core.planning.solving import find_plan

__all__ = [
    "Hands",
    "Late",
    "Plan",
    "PlanProblem",
    "PlannedPhase",
    "PlannedTest",
    "Standing",
    "find_plan",
    "read_problem",
]
