"""What is asked about a case: its name, who has it, what is in it."""

from collections.abc import Sequence
from typing import Any

from django import forms

from kessa.library.models import Instrument, KitCase, Lot
from kessa.people.members import member_choices
from kessa.platform.models import Programme
from kessa.ui.fields import choices_of


class CaseForm(forms.Form):
    """Name, who has it, lots and instruments; in_use only for one that exists."""

    name = forms.CharField(
        max_length=60,
        label="Name",
        error_messages={"required": "Name the case, such as “green case”."},
    )
    held_by = forms.ChoiceField(required=False, label="Who has it")
    lots = forms.MultipleChoiceField(required=False, label="Lots in it")
    instruments = forms.MultipleChoiceField(required=False, label="Instruments in it")
    in_use = forms.BooleanField(required=False, label="In use")

    def __init__(self, data: Any, programme: Programme, case: KitCase | None = None) -> None:
        super().__init__(data, initial=_initial(case))
        choices_of(self, "held_by").choices = [("", "nobody"), *member_choices(programme)]
        others = list(KitCase.objects.of(programme).in_use().exclude(pk=case.pk if case else None))
        lots = list(Lot.objects.of(programme).in_stock())
        instruments = list(Instrument.objects.of(programme).filter(in_use=True).order_by("name"))
        choices_of(self, "lots").choices = _labelled(lots, others, "lots")
        choices_of(self, "instruments").choices = _labelled(instruments, others, "instruments")
        if case is None:
            del self.fields["in_use"]

    def described(self) -> dict[str, Any]:
        """The case's fields."""
        said = self.cleaned_data
        return {
            "name": said["name"].strip(),
            "held_by_id": int(said["held_by"]) if said["held_by"] else None,
            "lots": [int(one) for one in said["lots"]],
            "instruments": [int(one) for one in said["instruments"]],
        } | ({"in_use": said["in_use"]} if "in_use" in said else {})


def _labelled(
    things: Sequence[Lot | Instrument], others: Sequence[KitCase], part: str
) -> list[tuple[str, str]]:
    """Each with the case that it would leave."""
    where = {number: case.name for case in others for number in getattr(case, part)}
    return [
        (str(one.pk), f"{one} (now in {where[one.pk]})" if one.pk in where else str(one))
        for one in things
    ]


def _initial(case: KitCase | None) -> dict[str, Any]:
    if case is None:
        return {}
    return {
        "name": case.name,
        "held_by": case.held_by_id or "",
        "lots": [str(one) for one in case.lots],
        "instruments": [str(one) for one in case.instruments],
        "in_use": case.in_use,
    }
