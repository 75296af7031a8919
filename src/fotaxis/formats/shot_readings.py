"""Readings in the shot file: the reading line, and named places that stay attached to the product."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from fotaxis.core.frames.readings import EdgeLine, FrameSpot, ProductSpot
from fotaxis.formats.shot_parts import Key, Name, Part

Height = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]


class SpotPart(Part):
    """A place on the product: across -1 left edge, 1 right; height 0 foot, 1 top."""

    kind: Literal["spot"]
    key: Key
    name: Name
    across: Annotated[float, Field(ge=-1, le=1, allow_inf_nan=False)] = 0.0
    height: Height = 0.5

    def value(self) -> ProductSpot:
        return ProductSpot(across=self.across, height=self.height)


class EdgePart(Part):
    """The outermost bright line on one side of the product, between two of its heights."""

    kind: Literal["edge"]
    key: Key
    name: Name
    side: Literal["left", "right"]
    low: Height = 0.1
    high: Height = 0.6

    def value(self) -> EdgeLine:
        return EdgeLine(left=self.side == "left", low=self.low, high=self.high)


class FrameSpotPart(Part):
    """A place in the frame, in parts of its width and height from the upper left corner."""

    kind: Literal["frame"]
    key: Key
    name: Name
    x: Height
    y: Height

    def value(self) -> FrameSpot:
        return FrameSpot(x=self.x, y=self.y)


AnyReading = Annotated[SpotPart | EdgePart | FrameSpotPart, Field(discriminator="kind")]
