"""A rectangle of the frame beside the product: background, table, water."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fotaxis.core.errors import DomainError
from fotaxis.core.frames.readings.area import COLUMNS, AreaValue, area_value
from fotaxis.core.frames.readings.reading import ROWS, LayeredFrame, Reading, ReadingKind, share
from fotaxis.core.limits import require_finite


@dataclass(frozen=True, slots=True, kw_only=True)
class FrameArea(Reading):
    """A rectangle in the frame, parts of its width and height from the upper left corner."""

    x: float
    y: float
    to_x: float
    to_y: float

    def __post_init__(self) -> None:
        for name in ("x", "y", "to_x", "to_y"):
            require_finite("area's place in the frame", getattr(self, name), low=0, high=1)
        if not (self.x < self.to_x and self.y < self.to_y):
            raise DomainError(
                "an area's right side must lie right of its left side, and its lower side below its upper one."
            )

    def read(self, frame: LayeredFrame) -> AreaValue:
        x, y = np.meshgrid(np.linspace(self.x, self.to_x, COLUMNS), np.linspace(self.y, self.to_y, ROWS))
        return area_value(frame, x, y, beside=True)


KIND = ReadingKind(
    key="frame area", about="A rectangle of the frame, in parts of its width and height from the upper left corner.",
    measures=(
        share("x", "From the left", usual=0.05), share("y", "From the top", usual=0.05),
        share("to_x", "To, from the left", usual=0.25), share("to_y", "To, from the top", usual=0.25),
    ),
    make=lambda v: FrameArea(x=v["x"], y=v["y"], to_x=v["to_x"], to_y=v["to_y"]),
)  # fmt: skip
