"""A spot in the frame beside the product: background, table."""

from __future__ import annotations

from dataclasses import dataclass

from fotaxis.core.frames.readings.reading import LayeredFrame, Reading, ReadingKind, share
from fotaxis.core.frames.readings.spot import SpotValue, read_place


@dataclass(frozen=True, slots=True, kw_only=True)
class FrameSpot(Reading):
    """A place in the frame, parts of its width and height from the upper left corner."""

    x: float
    y: float

    def read(self, frame: LayeredFrame) -> SpotValue:
        height, width = frame.is_product.shape
        return read_place(frame, min(int(self.y * height), height - 1), min(int(self.x * width), width - 1))


KIND = ReadingKind(
    key="frame", about="A place in the frame, in parts of its width and height from the upper left corner.",
    measures=(share("x", "From the left"), share("y", "From the top")), make=lambda v: FrameSpot(x=v["x"], y=v["y"]),
)  # fmt: skip
