"""Agreement of two results, recovery of a standard, recovery of a spike."""

from kessa_core.calculations.registry import Given, register
from kessa_core.quality import agreement


@register(
    "rpd",
    "Relative percent difference of two results.",
    "Standard Methods 1020 B, US EPA: 100 |a - b| / ((a + b) / 2)",
    (Given("a", "", "first result", at_least=0), Given("b", "", "second result", at_least=0)),
    {"rpd_percent": "%"},
)
def rpd(a: float, b: float) -> dict[str, float]:
    """Two results of one unit -> %."""
    return {"rpd_percent": agreement.rpd(a, b)}


@register(
    "recovery",
    "How much of a standard was found.",
    "Standard Methods 1020 B: 100 found / true",
    (Given("found", "", "what was found"), Given("true", "", "what is in it", above=0)),
    {"recovery_percent": "%"},
)
def recovery(found: float, true: float) -> dict[str, float]:
    """Two concentrations of one unit -> %."""
    return {"recovery_percent": agreement.recovery(found, true)}


@register(
    "spike-recovery",
    "How much of what was added to a sample was found.",
    "Standard Methods 1020 B, US EPA: 100 (spiked - unspiked) / added, on one volume basis",
    (
        Given("spiked", "", "found in the spiked sample"),
        Given("unspiked", "", "found without the spike"),
        Given("added", "", "what the spike added", above=0),
    ),
    {"recovery_percent": "%"},
)
def spike_recovery(spiked: float, unspiked: float, added: float) -> dict[str, float]:
    """Three concentrations of one unit -> %."""
    return {"recovery_percent": agreement.spike_recovery(spiked, unspiked, added)}
