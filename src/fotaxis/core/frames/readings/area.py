"""A rectangle of the product as it is seen: how much of it mirrors a light, how bright and how even it is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fotaxis.core.constants import MIDDLE_GREY
from fotaxis.core.errors import DomainError
from fotaxis.core.frames.levels import level_words, percent, stops_of
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
from fotaxis.core.stops import measured_stops
from fotaxis.core.values import Array

COLUMNS = 24
LEAST_ROWS = 2
LIT_SHARE = 0.25
"""What mirrors two stops less than an area's bright end is not lit: a soft side counts down to there."""

LEAST_LIT = MIDDLE_GREY * 2.0**-4
BRIGHT_END = 0.9
DARK_END = 0.1
DARK = 1e-9
LEAST_TOLD = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class Area(Reading):
    """A rectangle of the product: between two heights, 0 its foot, 1 its top, and across, -1 its left edge, 1 its right."""

    low: float
    high: float
    begin: float
    end: float

    def __post_init__(self) -> None:
        require_heights("an area", self.low, self.high)
        require_finite("left side of an area", self.begin, low=-1, high=1)
        require_finite("right side of an area", self.end, low=-1, high=1)
        if not self.begin < self.end:
            raise DomainError("the right side of an area must lie right of its left side.")

    def read(self, frame: LayeredFrame) -> AreaValue | None:
        height, width = frame.is_product.shape
        rows = list(rows_between(frame.is_product, self.low, self.high))
        if len(rows) < LEAST_ROWS:
            return None
        part = np.linspace((self.begin + 1) / 2, (self.end + 1) / 2, COLUMNS)
        x = np.array([(first + part * (last + 1 - first)) / width for _, first, last in rows])
        y = np.array([[(row + 0.5) / height] * COLUMNS for row, _, _ in rows])
        return area_value(frame, x, y)


@dataclass(frozen=True, slots=True, kw_only=True)
class AreaValue(Value):
    """level: median, linear, grey 0.18; bright, dark: its bright and its dark end; covered: how much of what mirrors in it mirrors a
    light, None where nothing is known of that; of: what is mirrored most of, '' for nothing; shares: see Value; corners (4, 2): in the
    frame, 0..1."""

    level: float
    bright: float
    dark: float
    covered: float | None
    of: str
    shares: Array
    corners: Array

    @property
    def level_stops(self) -> float:
        return stops_of(self.level)

    @property
    def uneven(self) -> float:
        return stops_of(self.bright) - stops_of(self.dark)

    @property
    def short(self) -> str:
        lit = self.covered is not None and self.covered >= LEAST_TOLD
        return f"{percent(self.covered or 0)} lit" if lit else level_words(self.level)

    @property
    def words(self) -> str:
        lit = (
            ""
            if self.covered is None
            else f"{percent(self.covered)} of it mirrors light{f', {self.of}' if self.of else ''}; "
        )
        return f"{lit}{level_words(self.level)}, {measured_stops(self.uneven)} stops from its bright to its dark end"

    @property
    def marks(self) -> list[list[float]]:
        marks: list[list[float]] = self.corners.tolist()
        return [*marks, marks[0]]


def area_value(frame: LayeredFrame, x: Array, y: Array, *, beside: bool = False) -> AreaValue:
    """What places x, y (rows, columns) of a frame, 0..1, show; beside: they need not lie on the product."""
    height, width = frame.is_product.shape
    rows = np.clip((y * height).astype(np.int64), 0, height - 1)
    columns = np.clip((x * width).astype(np.int64), 0, width - 1)
    levels = frame.luminance[rows, columns]
    covered, of = _covered(frame, x, y, beside)
    ends = (0, 0), (0, -1), (-1, -1), (-1, 0)
    return AreaValue(
        level=float(np.median(levels)), bright=float(np.quantile(levels, BRIGHT_END)),
        dark=float(np.quantile(levels, DARK_END)), covered=covered, of=of, shares=shares_of(frame.by_layer(rows, columns)),
        corners=np.array([(x[end], y[end]) for end in ends]),
    )  # fmt: skip


def _covered(frame: LayeredFrame, x: Array, y: Array, beside: bool) -> tuple[float | None, str]:
    """How much of some places mirrors a light, and what it is for the most part."""
    on = frame.look(np.column_stack([x.ravel(), y.ravel()]))
    if on.mirrored is None:
        return None, ""
    mirrored = on.mirrored if beside else np.where(on.bare, on.mirrored, 0.0)
    lit = mirrored >= max(LIT_SHARE * float(np.quantile(mirrored, BRIGHT_END)), LEAST_LIT)
    if not lit.any():
        return 0.0, ""
    some = np.flatnonzero(lit)[:: max(1, np.count_nonzero(lit) // LOOKED_AT)]
    names = [name for place in some if (name := on.thing(int(place)))]
    of = lit if beside else lit[on.bare]
    return float(of.mean()), max(set(names), key=names.count) if names else ""


LOOKED_AT = 24
"""Of so many lit places at most it is asked what they mirror."""

KIND = ReadingKind(
    key="area", about="A rectangle of the product: between two heights, across from -1 its left edge to 1 its right.",
    measures=(
        share("low", "From", usual=0.4), share("high", "To", usual=0.6), share("begin", "Left side", low=-1, usual=-0.3),
        share("end", "Right side", low=-1, usual=0.3),
    ),
    make=lambda v: Area(low=v["low"], high=v["high"], begin=v["begin"], end=v["end"]),
)  # fmt: skip
