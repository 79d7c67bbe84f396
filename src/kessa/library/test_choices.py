"""The tests to choose from: those used most here, then every other by what it measures."""

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import groupby

from kessa.library.services import methods_at_hand, shipped_not_in_use
from kessa.platform.models import Programme
from kessa_core.methods import Method

USED_MOST = 6


@dataclass(frozen=True)
class TestChoice:
    """A method as it stands in a list of tests; *words*: what typing finds it by."""

    id: str
    short: str
    kit: str
    parameter: str

    @classmethod
    def of(cls, method: Method) -> "TestChoice":
        """The choice of this method, under what its first stage measures."""
        parameter = method.stages[0].measures.quantity.name
        return cls(method.id, method.short, method.kit, parameter)

    @property
    def words(self) -> str:
        return f"{self.short} {self.kit} {self.parameter}".lower()


@dataclass(frozen=True)
class TestGroup:
    """Tests under one heading."""

    title: str
    choices: tuple[TestChoice, ...]


def test_groups(programme: Programme) -> list[TestGroup]:
    """Every test of the programme and every shipped one, each once."""
    in_use = [TestChoice.of(version.method) for version in methods_at_hand(programme)]
    rest = [TestChoice.of(method) for method in shipped_not_in_use(programme)]
    most = in_use[:USED_MOST]
    groups = _by_parameter([*in_use[USED_MOST:], *rest])
    return [TestGroup("Used here", tuple(most)), *groups] if most else groups


def _by_parameter(choices: Iterable[TestChoice]) -> list[TestGroup]:
    ordered = sorted(choices, key=lambda one: (one.parameter, one.short))
    return [
        TestGroup(parameter, tuple(of_it))
        for parameter, of_it in groupby(ordered, key=lambda one: one.parameter)
    ]
