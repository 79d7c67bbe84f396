"""The columns of a sheet: one for each part of a test that is read by itself."""

from dataclasses import dataclass

from kessa_core.methods import Method


@dataclass(frozen=True)
class Column:
    """A stage of a method. title: as it heads its column; unit: what is typed in it."""

    method: Method
    stage: str
    title: str
    unit: str

    @property
    def key(self) -> str:
        """Its name in a form."""
        return f"{self.method.id}.{self.stage}"

    @property
    def example(self) -> str:
        """What may be typed, for the title of the cell."""
        stage = next(one for one in self.method.stages if one.id == self.stage)
        several = stage.repeats.least > 1
        fields = stage.reader().reading_fields
        if not fields:
            return "7; 8" if several else "7"
        once = " / ".join(fields) if len(fields) > 1 else "what was read"
        return f"{once}; {once}" if several else once


def columns_of(method: Method) -> list[Column]:
    """The columns of a method, in the order of the work."""
    several = len(method.stages) > 1
    found = []
    for stage in method.stages:
        reader = stage.reader()
        fields = reader.reading_fields
        unit = reader.step_unit if not fields else reader.scale(fields[-1]).unit
        title = f"{method.short}: {stage.title}" if several else method.short
        found.append(Column(method, stage.id, title, unit))
    return found
