"""Who goes on a visit, who goes along, and which case they take."""

from typing import Any

from django import forms

from kessa.library.models import KitCase
from kessa.platform.models import Membership, Person, Programme
from kessa.ui.fields import choices_of
from kessa.visits.services import Prepared


class CrewForm(forms.Form):
    """Asked of a visit that is made by hand; whoever makes it goes, with the case they have."""

    lead = forms.ChoiceField(required=False, label="Who goes")
    companion = forms.ChoiceField(required=False, label="Who goes along")
    case = forms.ChoiceField(required=False, label="Case")

    def __init__(self, data: Any, programme: Programme, maker: Person) -> None:
        cases = list(KitCase.objects.of(programme).in_use())
        held = next((one.pk for one in cases if one.held_by_id == maker.pk), "")
        super().__init__(data, initial={"lead": maker.pk, "case": held})
        self.maker = maker
        members = [one.person for one in Membership.objects.working_in(programme)]
        self.people = {str(one.pk): one for one in members}
        self.cases = {str(one.pk): one for one in cases}
        named = [(key, str(one)) for key, one in self.people.items()]
        choices_of(self, "lead").choices = named
        choices_of(self, "companion").choices = [("", "nobody"), *named]
        choices_of(self, "case").choices = [
            ("", "none"), *((key, str(one)) for key, one in self.cases.items())
        ]  # fmt: skip

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if data.get("companion") and data.get("companion") == data.get("lead"):
            self.add_error("companion", "Choose another person, or nobody.")
        return data

    def prepared(self) -> Prepared:
        """What was decided."""
        said = self.cleaned_data
        lead = self.people.get(said["lead"])
        return Prepared(
            lead=None if lead == self.maker else lead,
            companion=self.people.get(said["companion"]),
            case=self.cases.get(said["case"]),
        )
