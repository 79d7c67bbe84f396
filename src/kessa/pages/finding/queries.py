"""The methods that a person looks for, those they use first."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from django.utils import timezone

from kessa.library.facts import (
    facts_in_use,
    facts_of_shipped,
    parameters_of,
    reagents_at_hand,
)
from kessa.library.favourites import favourites_of
from kessa.library.models import MethodUse, MethodVersion
from kessa.pages.finding.forms import FindForm
from kessa.pages.limits.queries import answers, sets_in_force
from kessa.platform.models import Person, Programme
from kessa.runs.models import Run
from kessa_core.finding import MethodFacts, Wanted, fits
from kessa_core.judging.can_see import SEES
from kessa_core.judging.limits import Limit
from kessa_core.methods import Method, shipped, shipped_ids

RECENT = 6
SHOWN = 30


@dataclass
class Found:
    """A method in the list. number: of the version in use, empty where it is only shipped; sign,
    sees: whether it can see the limit that is looked for."""

    facts: MethodFacts
    number: str = ""
    favourite: bool = False
    recent: bool = False
    count: int = 0
    sign: str = ""
    sees: str = ""

    @property
    def order(self) -> tuple[Any, ...]:
        """Favourites, recent ones, those used most, in use, then by title."""
        return (
            self.sign == "close",
            not self.favourite,
            not self.recent,
            -self.count,
            not self.number,
            self.facts.title.lower(),
        )


class Shelf:
    """Every method of a programme and every shipped one."""

    def __init__(self, programme: Programme, person: Person) -> None:
        self.programme = programme
        favourites = favourites_of(programme, person)
        recent = set(Run.objects.of(programme).last_methods_of(person, RECENT))
        used = dict(MethodUse.objects.of(programme).values_list("method_id", "count"))
        self.versions = {one.method_id: (one, facts) for one, facts in facts_in_use(programme)}
        numbered = [(facts, one.number) for one, facts in self.versions.values()]
        rest = [(facts_of_shipped(key), "") for key in shipped_ids() if key not in self.versions]
        self.every = [
            Found(
                facts,
                number,
                facts.id in favourites,
                facts.id in recent,
                used.get(facts.id, 0),
            )
            for facts, number in numbered + rest
        ]
        self.limits = {
            f"{held.held.id}/{limit.id}": (held.held.title, limit)
            for held in sets_in_force(programme)
            for limit in held.held.limits
        }

    @property
    def facts_in_use(self) -> list[MethodFacts]:
        """Of the methods that the programme uses."""
        return [facts for _, facts in self.versions.values()]

    def form(self, data: Any) -> FindForm:
        """The form, with what these methods offer."""
        facts = [one.facts for one in self.every]
        options = [
            (key, f"{limit.name} {limit.bounds_text} {limit.unit}, {title}")
            for key, (title, limit) in self.limits.items()
        ]
        return FindForm(data, facts, parameters_of(facts), options)

    def found(self, form: FindForm) -> list[Found]:
        """The methods that fit, in the order in which they are shown; all where nothing can be
        read."""
        form.is_valid()
        asked = form.cleaned_data
        stock = None
        if asked.get("stock"):
            stock = reagents_at_hand(self.programme, timezone.localdate())
        wanted = Wanted(
            asked.get("method", ""), asked.get("parameter", ""), asked.get("principle", ""),
            asked.get("water", ""), asked.get("value"),
            asked["minutes"] * 60 if asked.get("minutes") else None,
            bool(asked.get("harmless")), stock,
        )  # fmt: skip
        found = [one for one in self.every if fits(one.facts, wanted)]
        if asked.get("limit"):
            found = self._seeing(found, self.limits[asked["limit"]][1])
        return sorted(found, key=lambda one: one.order)

    def _seeing(self, found: list[Found], limit: Limit) -> list[Found]:
        """Those that measure what the limit is for, with what they tell of it."""
        measuring = [
            one
            for one in found
            if limit.parameter in {stage.parameter for stage in one.facts.stages}
        ]
        methods = self.methods(measuring)
        told = answers(limit, [(method, "") for method in methods.values()])
        words = {one.method.id: one.told.words for one in reversed(told)}
        kept = [one for one in measuring if one.facts.id in words]
        for one in kept:
            one.sees = words[one.facts.id]
            one.sign = "within" if one.sees == SEES else "close"
        return kept

    def methods(self, found: Iterable[Found]) -> dict[str, Method]:
        """The methods themselves by their ids, the documents in use read by one query."""
        ids = [one.facts.id for one in found]
        versions = [self.versions[key][0].pk for key in ids if key in self.versions]
        read = MethodVersion.objects.of(self.programme).filter(pk__in=versions)
        in_use = {one.method_id: one.method for one in read} if versions else {}
        return {key: in_use.get(key) or shipped(key) for key in ids}
