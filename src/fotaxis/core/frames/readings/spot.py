"""A spot on the product, in the product's own measure, so that it stays there when the camera moves."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.frames.levels import level_words, stops_of
from fotaxis.core.frames.readings.reading import (
    LayeredFrame,
    Reading,
    ReadingKind,
    Value,
    extent_at,
    product_rows,
    row_at,
    share,
    shares_of,
)
from fotaxis.core.limits import require_finite
from fotaxis.core.values import Array


@dataclass(frozen=True, slots=True, kw_only=True)
class ProductSpot(Reading):
    """A place on the product as it is seen: across -1 its left edge, 1 its right; height 0 its foot, 1 its top."""

    across: float
    height: float

    def __post_init__(self) -> None:
        require_finite("reading across the product", self.across, low=-1, high=1)
        require_finite("reading's height on the product", self.height, low=0, high=1)

    def place(self, is_product: NDArray[np.bool_]) -> tuple[int, int] | None:
        """Row and column in a picture; None where the product is not seen there. is_product (height, width)."""
        span = product_rows(is_product)
        if span is None:
            return None
        row = row_at(span, self.height)
        extent = extent_at(is_product, row)
        if extent is None:
            return None
        left, right = extent
        return row, round(left + (self.across + 1) / 2 * (right - left))

    def read(self, frame: LayeredFrame) -> SpotValue | None:
        place = self.place(frame.is_product)
        return None if place is None else read_place(frame, *place)


@dataclass(frozen=True, slots=True, kw_only=True)
class SpotValue(Value):
    """A spot's level (linear, grey 0.18), how much of it each layer makes (layers,), and where it lies in the frame, 0..1."""

    level: float
    shares: Array
    x: float
    y: float

    @property
    def level_stops(self) -> float:
        return stops_of(self.level)

    @property
    def short(self) -> str:
        return level_words(self.level)

    @property
    def words(self) -> str:
        return level_words(self.level)

    @property
    def marks(self) -> list[list[float]]:
        return [[self.x, self.y]]


def read_place(frame: LayeredFrame, row: int, column: int) -> SpotValue:
    """Mean of 3 x 3 pixels at a place."""
    height, width = frame.is_product.shape
    rows, columns = np.mgrid[max(row - 1, 0) : min(row + 2, height), max(column - 1, 0) : min(column + 2, width)]
    parts = frame.by_layer(rows, columns)
    return SpotValue(level=float(parts.sum()), shares=shares_of(parts), x=(column + 0.5) / width, y=(row + 0.5) / height)


def on_product(is_product: NDArray[np.bool_], *, x: float, y: float) -> ProductSpot | None:
    """The spot of the product at a place in the frame, 0..1; None where it is not seen there."""
    height, width = is_product.shape
    row, column = min(int(y * height), height - 1), min(int(x * width), width - 1)
    span = product_rows(is_product)
    if span is None or not is_product[row, column]:
        return None
    (top, foot), extent = span, extent_at(is_product, row)
    if extent is None or extent[1] == extent[0] or foot == top:
        return None
    across = 2 * (column - extent[0]) / (extent[1] - extent[0]) - 1
    return ProductSpot(across=max(-1.0, min(1.0, across)), height=(foot - row) / (foot - top))


KIND = ReadingKind(
    key="spot", about="A place on the product: across -1 left edge, 1 right; height 0 foot, 1 top.",
    measures=(share("across", "Across", low=-1, usual=0.0), share("height", "Height", usual=0.5)),
    make=lambda v: ProductSpot(across=v["across"], height=v["height"]),
)  # fmt: skip
