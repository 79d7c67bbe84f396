"""Agreement of two results, recovery of a standard, recovery of a spike."""

from kessa_core.calculations.registry import Given, Gives, register
from kessa_core.quality import agreement


@register(
    "rpd",
    "Relative percent difference of two results.",
    "Standard Methods 1020 B, US EPA: 100 |a - b| / ((a + b) / 2)",
    (Given("a", "", "first result", at_least=0), Given("b", "", "second result", at_least=0)),
    {"rpd_percent": Gives("%")},
)
def rpd(a: float, b: float) -> dict[str, float]:
    """Two results of one unit -> %."""
    return {"rpd_percent": agreement.rpd(a, b)}


@register(
    "recovery",
    "How much of a standard was found.",
    "Standard Methods 1020 B: 100 found / true",
    (
        Given("found", "", "concentration found"),
        Given("true", "", "concentration of the standard", above=0),
    ),
    {"recovery_percent": Gives("%")},
)
def recovery(found: float, true: float) -> dict[str, float]:
    """Two concentrations of one unit -> %."""
    return {"recovery_percent": agreement.recovery(found, true)}


@register(
    "spike-recovery",
    "How much of what was added to a sample was found.",
    "Standard Methods 1020 B, US EPA: 100 (spiked - unspiked) / added, on one volume basis",
    (
        Given("spiked", "", "concentration found in the spiked sample"),
        Given("unspiked", "", "concentration found without the spike"),
        Given("added", "", "concentration that the spike added", above=0),
    ),
    {"recovery_percent": Gives("%")},
)
def spike_recovery(spiked: float, unspiked: float, added: float) -> dict[str, float]:
    """Three concentrations of one unit -> %."""
    return {"recovery_percent": agreement.spike_recovery(spiked, unspiked, added)}
