"""The tests to choose from: favourites, recent ones, those used most, then the others by group."""

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import groupby

from kessa.library.services import methods_at_hand, shipped_beside
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
    favourite: bool

    @classmethod
    def of(cls, method: Method, favourites: Collection[str] = ()) -> "TestChoice":
        """The choice of this method, under what its first stage measures."""
        parameter = method.stages[0].measures.quantity.name
        return cls(method.id, method.short, method.kit, parameter, method.id in favourites)

    @property
    def words(self) -> str:
        return f"{self.short} {self.kit} {self.parameter}".lower()


@dataclass(frozen=True)
class TestGroup:
    """Tests under one heading."""

    title: str
    choices: tuple[TestChoice, ...]


class Grouping(StrEnum):
    """What the tests that lead no list are grouped by."""

    PARAMETER = "parameter"
    KIT = "kit"


def test_groups(
    programme: Programme,
    favourites: Collection[str] = (),
    recent: Sequence[str] = (),
    by: Grouping = Grouping.PARAMETER,
) -> list[TestGroup]:
    """Every test of the programme and every shipped one, each once.

    favourites, recent: ids of methods; the recent ones in their order.
    """
    in_use = [TestChoice.of(version.method, favourites) for version in methods_at_hand(programme)]
    beside = shipped_beside({choice.id for choice in in_use})
    rest = [TestChoice.of(method, favourites) for method in beside]
    every = {choice.id: choice for choice in (*in_use, *rest)}
    leading = (
        ("Favourites", [choice.id for choice in every.values() if choice.favourite]),
        ("Recent", recent),
        ("Used most", [choice.id for choice in in_use[:USED_MOST]]),
    )
    groups = []
    for title, ids in leading:
        taken = tuple(every.pop(one) for one in ids if one in every)
        groups.append(TestGroup(title, taken))
    return [group for group in groups if group.choices] + _grouped(every.values(), by)


def with_leading(title: str, ids: Collection[str], groups: Sequence[TestGroup]) -> list[TestGroup]:
    """These tests under a heading of their own before all groups, and no more in theirs."""
    every = [choice for group in groups for choice in group.choices]
    led = TestGroup(title, tuple(choice for choice in every if choice.id in ids))
    left = [
        TestGroup(group.title, tuple(one for one in group.choices if one.id not in ids))
        for group in groups
    ]
    return [group for group in (led, *left) if group.choices]


def _grouped(choices: Iterable[TestChoice], by: Grouping) -> list[TestGroup]:
    def heading(choice: TestChoice) -> str:
        return choice.kit if by is Grouping.KIT else choice.parameter

    ordered = sorted(choices, key=lambda one: (heading(one), one.short))
    return [TestGroup(title, tuple(of_it)) for title, of_it in groupby(ordered, key=heading)]
