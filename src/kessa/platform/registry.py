"""What each app tells the platform about itself in AppConfig.ready(): which of its rows the audit
seals, how its entries read, and what can be wrong with it."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

from django.core.exceptions import ImproperlyConfigured
from django.db import models
from django.urls import URLPattern

from kessa_core.records import Break

HealthCheck = Callable[[], Iterator[str]]
Said = Callable[[Any], dict[str, Any]]
"""From a setting to what its revision keeps."""
Comparison = Callable[[Any], Iterator[Break]]
"""From a programme to what does not follow from its facts."""
Upgrade = Callable[[Any], None]
"""What brings a programme's projections to this release."""
Naming = Callable[[Any], str]
"""From a row to what people call it."""
Link = Callable[[str, str], str]
"""From a programme's name in addresses and a row's number to the page of that row."""


@dataclass
class Registry:
    """What the platform was told.

    sealed: the columns that a seal covers, by model label: as they were at first, then with those
    that each later version of the table added. exempt: why a model has no seal. sentences: an audit
    entry's act in words. links, names: by model name. health: checks in order. revised: settings,
    with what their revisions keep. comparisons: of projections with facts. changeable: the only
    columns of a table that the application changes; removable: the tables it may remove rows from,
    by model label. places: which place of the menu each page lies in, by the name of its address;
    empty for none. upgrades: what is done for each programme when a database is upgraded.
    """

    sealed: dict[str, tuple[tuple[str, ...], ...]] = field(default_factory=dict)
    exempt: dict[str, str] = field(default_factory=dict)
    sentences: dict[str, str] = field(default_factory=dict)
    links: dict[str, Link] = field(default_factory=dict)
    names: dict[str, tuple[type[models.Model], Naming, tuple[str, ...]]] = field(
        default_factory=dict
    )
    revised: dict[str, Said] = field(default_factory=dict)
    comparisons: list[Comparison] = field(default_factory=list)
    changeable: dict[str, tuple[str, ...]] = field(default_factory=dict)
    removable: set[str] = field(default_factory=set)
    health: list[HealthCheck] = field(default_factory=list)
    places: dict[str, str] = field(default_factory=dict)
    upgrades: list[Upgrade] = field(default_factory=list)

    def seal(
        self, model: type[models.Model], *added: Sequence[str], leave_out: Sequence[str] = ()
    ) -> None:
        """Every column of this model is part of its seal. *added*: the columns of each later
        version of the table, in order, so that what was sealed before can still be checked.
        *leave_out*: columns that follow from other rows, which are compared instead."""
        later = {name for names in added for name in names}
        every = {column.attname for column in model._meta.concrete_fields} - set(leave_out)
        versions = [every - later]
        for names in added:
            versions.append(versions[-1] | set(names))
        self.sealed[model._meta.label] = tuple(tuple(sorted(one)) for one in versions)

    def keep_revisions(self, model: type[models.Model], said: Said) -> None:
        """Rows of this model are settings: each has to say what its newest revision says."""
        self.revised[model._meta.label] = said

    def compare(self, *comparisons: Comparison) -> None:
        """What ./kessa audit verify asks of this app: whether what pages read follows from the
        facts."""
        self.comparisons += comparisons

    def upgrade(self, *upgrades: Upgrade) -> None:
        """What the upgrade of a database does for each programme, done twice it changes nothing."""
        self.upgrades += upgrades

    def exempt_from_seals(self, reason: str, *exempted: type[models.Model]) -> None:
        """These models have no seal, for this reason."""
        self.exempt |= {model._meta.label: reason for model in exempted}

    def allow_changes(self, model: type[models.Model], *columns: str) -> None:
        """The application changes these columns of the model's table and no others."""
        self.changeable[model._meta.label] = columns

    def allow_removal(self, *removed: type[models.Model]) -> None:
        """The application may remove rows of these models."""
        self.removable |= {model._meta.label for model in removed}

    def describe(self, sentences: dict[str, str]) -> None:
        """How audit entries with these acts read."""
        self.sentences |= sentences

    def link(self, model: type[models.Model], to: Link) -> None:
        """Where an entry about a row of this model leads."""
        self.links[str(model._meta.model_name)] = to

    def name(self, model: type[models.Model], naming: Naming, *related: str) -> None:
        """What the audit trail calls a row of this model. *related*: what the name needs of other
        tables."""
        self.names[str(model._meta.model_name)] = (model, naming, related)

    def check_health(self, *checks: HealthCheck) -> None:
        """What ./kessa check asks of this app."""
        self.health += checks

    def in_menu(self, urls: Any) -> list[URLPattern]:
        """The addresses of a programme in this module, with the place of the menu they lie in.

        Raises ImproperlyConfigured when the module has some and does not say which place.
        """
        patterns: list[URLPattern] = getattr(urls, "in_programme", [])
        if patterns and not hasattr(urls, "menu_place"):
            raise ImproperlyConfigured(
                f"{urls.__name__} does not say which place of the menu its pages lie in: set "
                "menu_place to the name of that page's address, or to an empty text."
            )
        self.places |= {str(one.name): urls.menu_place for one in patterns}
        return patterns


registry = Registry()
