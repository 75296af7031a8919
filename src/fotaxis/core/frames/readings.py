"""Named places on the product and in the frame, and what they read, light by light."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.constants import REC709_LUMINANCE
from fotaxis.core.errors import DomainError
from fotaxis.core.frames.line_profile import Highlight, find_highlights
from fotaxis.core.values import Array, Picture, require_finite

ROWS = 24
ACROSS = 240
OUTER = 0.3
"""A bright line further in than this part of the half width is no edge line."""

ENDS = 2
"""So many rows at either end of an edge line do not count for its evenness: it may begin and end softly."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ProductSpot:
    """A place on the product as it is seen: across -1 its left edge, 1 its right; height 0 its foot, 1 its top."""

    across: float
    height: float

    def __post_init__(self) -> None:
        require_finite("reading across the product", self.across, low=-1, high=1)
        require_finite("reading's height on the product", self.height, low=0, high=1)


@dataclass(frozen=True, slots=True, kw_only=True)
class EdgeLine:
    """The outermost bright line on one side of the product between two heights, 0 its foot, 1 its top."""

    left: bool
    low: float
    high: float

    def __post_init__(self) -> None:
        require_finite("lower end of the line", self.low, low=0, high=1)
        require_finite("upper end of the line", self.high, low=0, high=1)
        if not self.low < self.high:
            raise DomainError("the upper end of a line reading must be above its lower end.")


@dataclass(frozen=True, slots=True, kw_only=True)
class FrameSpot:
    """A place in the frame, parts of its width and height from the upper left corner."""

    x: float
    y: float


@dataclass(frozen=True, slots=True, kw_only=True)
class NamedReading:
    """A reading that is kept with the shot."""

    key: str
    name: str
    at: ProductSpot | EdgeLine | FrameSpot


@dataclass(frozen=True, slots=True, kw_only=True)
class SpotValue:
    """A spot's level (linear, grey 0.18), how much of it each layer makes (layers,), and where it lies in the frame, 0..1."""

    level: float
    shares: Array
    x: float
    y: float


@dataclass(frozen=True, slots=True, kw_only=True)
class LineValue:
    """An edge line over its height.

    place, width, inner and outer softness: medians over its rows, in half widths of the product, see line.Highlight;
    peak_stops: median, from grey; uneven_stops: brightest less darkest row; found: share of the rows that show it;
    rows (n, 3): x, y in the frame (0..1) and peak in stops, from low to high.
    """

    place: float
    width: float
    inner: float
    outer: float
    peak_stops: float
    uneven_stops: float
    found: float
    rows: Array


def product_rows(is_product: NDArray[np.bool_]) -> tuple[int, int] | None:
    """First and last row in which the product is seen; None where it is not."""
    rows = np.flatnonzero(is_product.any(axis=1))
    return (int(rows[0]), int(rows[-1])) if len(rows) else None


def _row_at(span: tuple[int, int], height: float) -> int:
    top, foot = span
    return round(foot - height * (foot - top))


def _extent(is_product: NDArray[np.bool_], row: int) -> tuple[int, int] | None:
    columns = np.flatnonzero(is_product[row])
    return (int(columns[0]), int(columns[-1])) if len(columns) else None


def spot_place(at: ProductSpot | FrameSpot, is_product: NDArray[np.bool_]) -> tuple[int, int] | None:
    """Row and column of a spot in a picture; None where the product is not seen there. is_product (height, width)."""
    height, width = is_product.shape
    if isinstance(at, FrameSpot):
        return min(int(at.y * height), height - 1), min(int(at.x * width), width - 1)
    span = product_rows(is_product)
    if span is None:
        return None
    row = _row_at(span, at.height)
    extent = _extent(is_product, row)
    if extent is None:
        return None
    left, right = extent
    return row, round(left + (at.across + 1) / 2 * (right - left))


def on_product(is_product: NDArray[np.bool_], *, x: float, y: float) -> ProductSpot | None:
    """The spot of the product at a place in the frame, 0..1; None where it is not seen there."""
    height, width = is_product.shape
    row, column = min(int(y * height), height - 1), min(int(x * width), width - 1)
    span = product_rows(is_product)
    if span is None or not is_product[row, column]:
        return None
    (top, foot), extent = span, _extent(is_product, row)
    if extent is None or extent[1] == extent[0] or foot == top:
        return None
    across = 2 * (column - extent[0]) / (extent[1] - extent[0]) - 1
    return ProductSpot(across=max(-1.0, min(1.0, across)), height=(foot - row) / (foot - top))


def read_spot(
    at: ProductSpot | FrameSpot, pictures: Picture, gains: Array, is_product: NDArray[np.bool_]
) -> SpotValue | None:
    """Mean of 3 x 3 pixels at a spot of layers (n, height, width, 3) at their gains (n,); None where it is not seen."""
    place = spot_place(at, is_product)
    if place is None:
        return None
    row, column = place
    height, width = is_product.shape
    near = pictures[:, max(row - 1, 0) : row + 2, max(column - 1, 0) : column + 2]
    parts = gains * (near.astype(np.float64).mean(axis=(1, 2)) @ np.array(REC709_LUMINANCE))
    level = float(parts.sum())
    shares = parts / level if level > 0 else np.zeros(len(parts))
    return SpotValue(level=level, shares=shares, x=(column + 0.5) / width, y=(row + 0.5) / height)


def read_edge(at: EdgeLine, levels: Picture, is_product: NDArray[np.bool_]) -> LineValue | None:
    """An edge line in a picture of linear levels (height, width, 3); None where no row shows one."""
    span = product_rows(is_product)
    if span is None:
        return None
    height, width = is_product.shape
    found: list[tuple[Highlight, float, float]] = []
    for share in np.linspace(at.low, at.high, ROWS):
        row = _row_at(span, float(share))
        extent = _extent(is_product, row)
        if extent is None or extent[1] - extent[0] < 8:
            continue
        left, right = extent
        columns = np.linspace(left, right, ACROSS)
        luminance = levels[row].astype(np.float64) @ np.array(REC709_LUMINANCE)
        line = _outermost(find_highlights(np.interp(columns, np.arange(width), luminance), (0.0, 1.0)), left=at.left)
        if line is not None:
            x = left + (line.place + 1) / 2 * (right - left)
            found.append((line, (x + 0.5) / width, (row + 0.5) / height))
    if not found:
        return None
    lines = [line for line, _, _ in found]
    peaks = np.array([line.peak_stops for line in lines])
    inner = [line.right_softness if at.left else line.left_softness for line in lines]
    outer = [line.left_softness if at.left else line.right_softness for line in lines]
    core = peaks[ENDS:-ENDS] if len(peaks) > 4 * ENDS else peaks
    return LineValue(
        place=float(np.median([line.place for line in lines])), width=float(np.median([line.width for line in lines])),
        inner=float(np.median(inner)), outer=float(np.median(outer)), peak_stops=float(np.median(peaks)),
        uneven_stops=float(np.ptp(core)), found=len(found) / ROWS,
        rows=np.array([(x, y, line.peak_stops) for line, x, y in found]),
    )  # fmt: skip


def _outermost(lines: list[Highlight], *, left: bool) -> Highlight | None:
    side = [line for line in lines if (line.place < -OUTER if left else line.place > OUTER)]
    return min(side, key=lambda line: line.place if left else -line.place) if side else None
