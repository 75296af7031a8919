"""How even a patch of the product is, from top to bottom and from left to right: a label, a flat face, a field of metal."""

from __future__ import annotations

import warnings
from dataclasses import dataclass

import numpy as np

from fotaxis.core.frames.levels import level_words, stops_of
from fotaxis.core.frames.readings.reading import (
    LayeredFrame,
    Reading,
    ReadingKind,
    Value,
    require_heights,
    rows_between,
    share,
    shares_of,
)
from fotaxis.core.limits import require_finite
from fotaxis.core.measures import Measure
from fotaxis.core.stops import measured_stops
from fotaxis.core.values import Array

COLUMNS = 24
PRINTED_BELOW = 0.5
"""What is darker than this part of its row's or column's bright end is print, not light."""

BRIGHT_END = 0.9
POLISHED = 3
DARK = 1e-9
LEAST_ROWS = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Patch(Reading):
    """A patch of the product between two heights, 0 its foot, 1 its top; part: of its half width to either
    side of its middle."""

    low: float
    high: float
    part: float

    def __post_init__(self) -> None:
        require_heights("a patch", self.low, self.high)
        require_finite("width of a patch", self.part, low=0.05, high=1)

    def read(self, frame: LayeredFrame) -> PatchValue | None:
        height, width = frame.is_product.shape
        places = []
        for row, first, last in rows_between(frame.is_product, self.low, self.high):
            middle, half = (first + last) / 2, (last - first) / 2 * self.part
            places.append([(row, round(column)) for column in np.linspace(middle - half, middle + half, COLUMNS)])
        if len(places) < LEAST_ROWS:
            return None
        rows, columns = (np.array(places)[..., axis] for axis in (0, 1))
        levels = frame.luminance[rows, columns]
        paper = levels >= PRINTED_BELOW * np.quantile(levels, BRIGHT_END, axis=1, keepdims=True)
        down, across = _parted(np.where(paper, levels, np.nan))
        level = float(np.median(levels[paper]))
        ends = (0, 0), (0, -1), (-1, -1), (-1, 0)
        corners = np.array([((columns[end] + 0.5) / width, (rows[end] + 0.5) / height) for end in ends])
        return PatchValue(
            level=level, down_stops=float(np.ptp(down)), across_stops=float(np.ptp(across)),
            shares=shares_of(frame.by_layer(rows[paper], columns[paper])), corners=corners,
        )  # fmt: skip


def _parted(levels: Array) -> tuple[Array, Array]:
    """How a patch (rows, columns), nan where it is printed, falls off from row to row and from column to column, stops: each with the
    other taken out, so that print on one side counts for neither.

    Source:     median polish, Tukey 1977.
    """
    stops = np.log2(np.maximum(levels, DARK))
    down, across = np.zeros(levels.shape[0]), np.zeros(levels.shape[1])
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", RuntimeWarning)  # rows and columns that are printed all over
        for _ in range(POLISHED):
            across = np.nanmedian(stops - down[:, None], axis=0)
            down = np.nanmedian(stops - across[None, :], axis=1)
    return down[np.isfinite(down)], across[np.isfinite(across)]


@dataclass(frozen=True, slots=True, kw_only=True)
class PatchValue(Value):
    """level: its paper's median, linear; down_stops, across_stops: brightest less darkest of the medians of its rows and columns,
    print left out; shares: see Value; corners (4, 2): in the frame, 0..1."""

    level: float
    down_stops: float
    across_stops: float
    shares: Array
    corners: Array

    @property
    def level_stops(self) -> float:
        return stops_of(self.level)

    @property
    def uneven(self) -> float:
        return max(self.down_stops, self.across_stops)

    @property
    def short(self) -> str:
        return f"even within {measured_stops(self.uneven)}"

    @property
    def words(self) -> str:
        return (
            f"{level_words(self.level)}, even within {measured_stops(self.down_stops)} stops from top to bottom, "
            f"{measured_stops(self.across_stops)} from left to right"
        )

    @property
    def marks(self) -> list[list[float]]:
        marks: list[list[float]] = self.corners.tolist()
        return [*marks, marks[0]]


KIND = ReadingKind(
    key="patch", about="A patch of the product between two of its heights, over a part of its half width to either side.",
    measures=(
        share("low", "From", usual=0.15), share("high", "To", usual=0.4),
        Measure(name="part", words="Of the half width", unit="0.05–1", low=0.05, high=1, usual=0.5, step=0.05),
    ),
    make=lambda v: Patch(low=v["low"], high=v["high"], part=v["part"]), add="Add a patch: how even",
    begins={"kind": "patch", "key": "patch", "name": "Label, how even", "low": 0.15, "high": 0.4, "part": 0.5},
)  # fmt: skip
