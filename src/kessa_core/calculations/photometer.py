"""Photometers: absorbance and transmittance, a calibration line, and a reading on it."""

from kessa_core.calculations.registry import Given, Gives, register
from kessa_core.chemistry import photometry
from kessa_core.errors import NotANumber
from kessa_core.quality.calibration import fit

STANDARDS = (
    Given("x", "", "concentrations of the standards", kind=list),
    Given("y", "", "what each of them read", kind=list),
)
SOURCE = "Miller & Miller ch. 5; ISO 8466-1"


@register(
    "photometer-transmittance",
    "Absorbance from transmittance or the other way; give one of the two.",
    "Beer-Lambert: A = 2 - log10 T%",
    (
        Given("absorbance", "", "absorbance", needed=False),
        Given("percent_transmittance", "%", "light that passes", needed=False, above=0),
    ),
    {
        "percent_transmittance": Gives("%", "transmittance"),
        "absorbance": Gives("", "absorbance"),
    },
)
def photometer_transmittance(
    absorbance: float | None = None, percent_transmittance: float | None = None
) -> dict[str, float]:
    """The one that was not given. Raises NotANumber for both or neither."""
    if (absorbance is None) == (percent_transmittance is None):
        raise NotANumber("Give absorbance or percent_transmittance, one of the two.")
    if absorbance is not None:
        return {"percent_transmittance": photometry.transmittance_percent(absorbance)}
    return {"absorbance": photometry.absorbance(percent_transmittance or 0.0)}


@register(
    "photometer-calibration",
    "The line through standards by ordinary least squares.",
    f"{SOURCE}; limit of detection 3.3 s / |slope|: ICH Q2(R1)",
    STANDARDS,
    {
        "slope": Gives("", "slope"),
        "intercept": Gives("", "intercept"),
        "r2": Gives("", "r²"),
        "residual_sd": Gives("", "residual sd"),
        "lod": Gives("", "detection limit"),
    },
)
def photometer_calibration(x: list[float], y: list[float]) -> dict[str, float]:
    """Slope, intercept, r2; from three standards on also residual sd and limit of detection."""
    line = fit(x, y)
    told = {"slope": line.slope, "intercept": line.intercept, "r2": line.r2}
    if line.residual_sd is not None and line.lod is not None:
        told |= {"residual_sd": line.residual_sd, "lod": line.lod}
    return told


@register(
    "photometer-inverse",
    "The concentration of a reading on a calibration line, with its standard error.",
    SOURCE,
    (
        *STANDARDS,
        Given("y0", "", "the reading, or the mean of its replicates"),
        Given("replicates", "", "how many readings that mean is of", default=1.0, at_least=1),
    ),
    {
        "x0": Gives("", "concentration"),
        "x0_se": Gives("", "its standard error"),
    },
)
def photometer_inverse(
    x: list[float], y: list[float], y0: float, replicates: float
) -> dict[str, float]:
    """x0 and, with three standards or more, its standard error."""
    if replicates != int(replicates):
        raise NotANumber("replicates must be a whole number.", field="replicates")
    x0, error = fit(x, y).value_at(y0, int(replicates))
    return {"x0": x0} if error is None else {"x0": x0, "x0_se": error}
