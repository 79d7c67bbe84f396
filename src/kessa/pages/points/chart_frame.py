"""The size of a chart and its margins."""

from dataclasses import dataclass, replace

EVENT_ROW = 20.0


@dataclass(frozen=True)
class Frame:
    """The drawing's size and margins."""

    width: float
    height: float
    left: float = 46.0
    right: float = 112.0
    top: float = 14.0
    bottom: float = 26.0

    @property
    def end(self) -> float:
        return self.width - self.right

    @property
    def floor(self) -> float:
        return self.height - self.bottom

    @property
    def months_y(self) -> float:
        return self.floor + 20

    @property
    def events_y(self) -> float:
        return self.floor + 36

    def with_events(self) -> "Frame":
        """The frame with a row for events under the months."""
        return replace(self, height=self.height + EVENT_ROW, bottom=self.bottom + EVENT_ROW)

    @property
    def plot_width(self) -> float:
        return self.end - self.left

    @property
    def label_x(self) -> float:
        return self.end + 14

    @property
    def level_x(self) -> float:
        return self.left - 8


FRAMES = {"wide": Frame(912.0, 250.0), "phone": Frame(358.0, 250.0, left=34.0, right=104.0)}
