"""Write docs/science/methods.md: every shipped method held against the chemistry, from its
document and docs/science/methods.toml. python -m tools.science"""

import tomllib
from pathlib import Path

from kessa_core.methods import Method, shipped, shipped_ids
from kessa_core.methods.steps import duration_words

FOLDER = Path(__file__).parents[1] / "docs" / "science"
PAGE, HELD = FOLDER / "methods.md", FOLDER / "methods.toml"
HEAD = """# The methods, held against the chemistry

Made by `python -m tools.science` from the documents and [methods.toml](methods.toml); a test keeps
it current. Reaction, typical values and what was held are ours, from general chemistry; every
number of a kit is an invention. *Window*: pH, temperature, what is done to the sample first.
*Interferences*: what it is, from which level, which way. *Handling*: how soon to start. *Waste*:
Kessa's routes. A point marked doubtful is doubtful in the source too.

| method | reaction | window | interferences | handling | harm, gear | waste | typical | held |
| --- | --- | --- | --- | --- | --- | --- | --- | --- |
"""
DIRECTION = {
    "reads high": "high", "reads low": "low", "hides the colour": "hides", "turns cloudy": "cloudy",
}  # fmt: skip


def held() -> dict[str, dict[str, str]]:
    """What was written of each method."""
    return tomllib.loads(HELD.read_text("utf-8"))


def row(method: Method, said: dict[str, str]) -> str:
    """The line of one method."""
    sample = method.sample
    start = sample.start_within_min
    cells = (
        f"`{method.id}` {method.number}",
        said["reaction"],
        _window(method),
        "; ".join(
            f"{one.what} > {one.above} {one.unit}: {DIRECTION[one.does]}"
            for one in sample.interferes
        ),
        f"within {duration_words(60 * start)}" if start else "",
        " ".join((*method.hazards, f"Wear {', '.join(method.gear)}." if method.gear else "")),
        "; ".join(f"{part.what}: {part.route}" for part in method.waste),
        said["typical"],
        said["held"],
    )
    return f"| {' | '.join(cell.strip() for cell in cells)} |"


def _window(method: Method) -> str:
    sample = method.sample
    ph = f"pH {sample.ph.low}–{sample.ph.high}" if sample.ph else ""
    warm = sample.temperature_c
    degrees = f"{warm.low}–{warm.high} °C" if warm else ""
    refused = ", ".join(f"not {one.water}" for one in sample.not_for)
    return "; ".join(one for one in (ph, degrees, ", ".join(sample.preparation), refused) if one)


def page() -> str:
    """The whole page."""
    said = held()
    return HEAD + "\n".join(row(shipped(key), said[key]) for key in shipped_ids()) + "\n"


if __name__ == "__main__":
    PAGE.write_text(page(), "utf-8")
    print(f"{PAGE.name}: {len(shipped_ids())} methods")
