"""What each parameter means, from a data file."""

from functools import cache
from importlib import resources

import yaml
from pydantic import BaseModel, ConfigDict

WATERS = {
    "stream": "stream or lake",
    "well": "well",
    "tap": "tap",
    "boiler": "boiler water",
    "cooling": "open cooling circuit",
    "loop": "closed loop",
}
"""The kinds of water for which a usual range is given."""


class _Frozen(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Harm(_Frozen):
    """From which level it does what, and who says so."""

    level: str
    says: str
    source: str


class Guidance(_Frozen):
    """What a parameter means. natural, people: possible causes, by nature and by people; along: the
    keys of what is looked at with it; usual: by the keys of WATERS."""

    why: str
    natural: tuple[str, ...]
    people: tuple[str, ...]
    harms: tuple[Harm, ...]
    along: tuple[str, ...]
    usual: dict[str, str]

    @property
    def usual_in(self) -> list[tuple[str, str]]:
        """The kinds of water in words, each with what is usual there."""
        return [(WATERS[key], said) for key, said in self.usual.items()]


@cache
def guided() -> dict[str, Guidance]:
    """Every parameter of which something is said, by its key."""
    held = resources.files("kessa_core.guidance").joinpath("data", "parameters.yaml")
    said = yaml.safe_load(held.read_text("utf-8"))
    return {key: Guidance.model_validate(entry) for key, entry in said.items()}


def guidance_on(parameter: str) -> Guidance | None:
    """What is said of a parameter (its key); None where nothing is."""
    return guided().get(parameter)
