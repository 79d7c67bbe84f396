"""How well two results agree, and how much of what was there or added is found, in percent."""

from kessa_core.errors import NotANumber


def rpd(a: float, b: float) -> float:
    """Relative percent difference 100 |a - b| / ((a + b) / 2) of two results of one unit.

    Source: Standard Methods 1020 B, US EPA. Raises NotANumber where both are zero.
    """
    if a + b == 0:
        raise NotANumber("Both results are zero; a relative difference is not defined.")
    return 100 * abs(a - b) / ((a + b) / 2)


def recovery(found: float, true: float) -> float:
    """100 found / true. Source: Standard Methods 1020 B. Raises NotANumber for a true of zero."""
    if true == 0:
        raise NotANumber("The standard's value is zero; nothing can be recovered.", field="true")
    return 100 * found / true


def spike_recovery(spiked: float, unspiked: float, added: float) -> float:
    """100 (spiked - unspiked) / added, all on the same volume basis.

    Source: Standard Methods 1020 B, US EPA matrix spike. Raises NotANumber where nothing was added.
    """
    if added == 0:
        raise NotANumber("Nothing was added; there is no recovery.", field="added")
    return 100 * (spiked - unspiked) / added
