"""The dark core of a product between its bright edges: how wide it is, where it lies, how far under them.

What a black bottle, a can or a glass on black shows between its two lines: too narrow and the thing looks flat, off the
middle and it leans.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fotaxis.core.frames.levels import percent
from fotaxis.core.frames.readings.reading import (
    ROWS,
    LayeredFrame,
    Reading,
    ReadingKind,
    Value,
    gap_words,
    require_heights,
    rows_between,
    share,
)
from fotaxis.core.stops import measured_stops
from fotaxis.core.values import Array

MIDDLE = 0.5
"""The core's darkest place is looked for within this part of the half width."""

LEAST_STOPS = 1.0
"""Edges less than this over the middle leave no core to measure."""

CENTRED = 0.02
"""A core whose middle is off the product's by less than this part of its width is called centred."""


@dataclass(frozen=True, slots=True, kw_only=True)
class DarkCore(Reading):
    """The dark between the bright edges of the product, between two of its heights, 0 its foot, 1 its top."""

    low: float
    high: float

    def __post_init__(self) -> None:
        require_heights("a dark core's reading", self.low, self.high)

    def read(self, frame: LayeredFrame) -> CoreValue | None:
        height, width = frame.is_product.shape
        found = []
        for row, first, last in rows_between(frame.is_product, self.low, self.high):
            core = core_of(frame.luminance[row, first : last + 1])
            if core is not None:
                left, right, stops = core
                whole = last - first
                ends = ((first + end + 0.5) / width for end in (left, right))
                found.append(((right - left) / whole, (left + right) / 2 / whole - 0.5, stops, *ends, (row + 0.5) / height))
        if not found:
            return None
        rows = np.array(found)
        wide, off, stops = (float(v) for v in np.median(rows[:, :3], axis=0))
        return CoreValue(width=wide, off=off, under_stops=stops, found=len(found) / ROWS, rows=rows[:, 3:])


def core_of(luminance: Array) -> tuple[float, float, float] | None:
    """Where the core begins and ends in a row across the product, places of it, and how far it lies under the weaker edge.

    An end is where the level is half-way, linearly, between the darkest of the middle and the brightest on that side.
    luminance (n,) linear. None where an edge is not LEAST_STOPS over the middle.
    Source: full width at half maximum, as for the bright lines.
    """
    n = len(luminance)
    begin, end = round(n * (1 - MIDDLE) / 2), round(n * (1 + MIDDLE) / 2)
    middle = begin + int(np.argmin(luminance[begin:end]))
    dark = float(luminance[middle])
    left, right = float(luminance[:middle].max(initial=0.0)), float(luminance[middle + 1 :].max(initial=0.0))
    weaker = min(left, right)
    if not weaker > dark * 2.0**LEAST_STOPS or weaker <= 0:
        return None
    first, last = _crossing(luminance[middle::-1], (dark + left) / 2), _crossing(luminance[middle:], (dark + right) / 2)
    return middle - first, middle + last, float(np.log2(weaker / max(dark, weaker * 2.0**-16)))


def _crossing(outwards: Array, level: float) -> float:
    """How far from the first place a row rises over a level, read between its places."""
    k = int(np.argmax(outwards > level))
    before, after = float(outwards[k - 1]), float(outwards[k])
    return k - 1 + (level - before) / (after - before)


@dataclass(frozen=True, slots=True, kw_only=True)
class CoreValue(Value):
    """width: part of the product's width there; off: of its middle from the product's, right positive; under_stops: the core under
    the weaker edge; medians over the rows. found: share of the rows that show it; rows (n, 3): x of both ends and y, 0..1."""

    width: float
    off: float
    under_stops: float
    found: float
    rows: Array

    @property
    def about(self) -> str:
        return "between the bright edges"

    @property
    def short(self) -> str:
        return f"{percent(self.width)} wide"

    @property
    def words(self) -> str:
        where = (
            "centred"
            if abs(self.off) < CENTRED
            else f"{percent(abs(self.off))} of the width {'right' if self.off > 0 else 'left'}"
        )
        gaps = gap_words(self.found)
        return f"dark core {self.short}, {where}, {measured_stops(self.under_stops)} stops under the weaker edge{gaps}"

    @property
    def marks(self) -> list[list[float]]:
        """Its outline: up its left end and down its right."""
        up = self.rows[:, [0, 2]].tolist()
        return [*up, *self.rows[::-1, [1, 2]].tolist(), up[0]]


KIND = ReadingKind(
    key="core", about="The dark between the bright edges of the product, between two of its heights.",
    measures=(share("low", "From", usual=0.15), share("high", "To", usual=0.5)),
    make=lambda v: DarkCore(low=v["low"], high=v["high"]), add="Add the dark core",
    begins={"kind": "core", "key": "core", "name": "Dark core", "low": 0.15, "high": 0.5},
)  # fmt: skip
