"""What is typed when a visit ends: why tests and samples were not done, the air thermometer."""

from decimal import Decimal

from django import forms
from django.http import QueryDict

from kessa.flows.visit_end import Thermometer
from kessa.platform.typed import one_line

PREFIX = "why-"
"""Before the number of a test or sample in the name of its field."""


def reasons_of(typed: QueryDict) -> dict[str, str]:
    """Why not, by the number of the test or sample; those that were left empty go on later."""
    found = {
        name.removeprefix(PREFIX): one_line(str(value), 120)
        for name, value in typed.items()
        if name.startswith(PREFIX)
    }
    return {key: why for key, why in found.items() if why}


AIR = forms.DecimalField(min_value=Decimal(-60), max_value=Decimal(60), max_digits=4,
                         decimal_places=1, required=False, localize=False)  # fmt: skip


def thermometer_of(typed: QueryDict) -> Thermometer | None:
    """The air thermometer, where it was asked about; what is no temperature is none."""
    if "thermometer" not in typed:
        return None
    try:
        air_c = AIR.clean(str(typed.get("air_c", "")).replace(",", ".").strip())
    except forms.ValidationError:
        air_c = None
    return Thermometer(air_c, bool(typed.get("home")))
