"""The bright line down one edge of the product: where, how wide, how bright, how soft, how even."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from fotaxis.core.frames.levels import peak_words, percent
from fotaxis.core.frames.line_profile import Highlight, find_highlights
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
from fotaxis.core.measures import Choice
from fotaxis.core.stops import measured_stops
from fotaxis.core.values import Array

ACROSS = 240
OUTER = 0.3
"""A bright line further in than this part of the half width is no edge line."""

ENDS = 2
"""So many rows at either end of an edge line do not count for its evenness: it may begin and end softly."""

EQUAL_STOPS = 0.05
"""Two readings less than this apart are called equal."""

CRISP = 0.05
"""An edge narrower than this part of the product's half width reads as crisp."""


@dataclass(frozen=True, slots=True, kw_only=True)
class EdgeLine(Reading):
    """The outermost bright line on one side of the product between two heights, 0 its foot, 1 its top."""

    about_place: ClassVar[str] = "line from foot to shoulder"
    left: bool
    low: float
    high: float

    def __post_init__(self) -> None:
        require_heights("a line reading", self.low, self.high)

    def read(self, frame: LayeredFrame) -> LineValue | None:
        return _read(self, frame)


@dataclass(frozen=True, slots=True, kw_only=True)
class LineValue(Value):
    """An edge line over its height.

    place, width, inner and outer softness: medians over its rows, in half widths of the product, see line_profile.Highlight;
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

    @property
    def short(self) -> str:
        return peak_words(self.peak_stops)

    @property
    def words(self) -> str:
        softness = {
            (True, True): "crisp both sides", (True, False): "crisp inside, soft outside",
            (False, True): "soft inside, crisp outside", (False, False): "soft both sides",
        }[self.inner <= CRISP, self.outer <= CRISP]  # fmt: skip
        even = (
            "even from end to end"
            if self.uneven_stops < EQUAL_STOPS
            else f"even within {measured_stops(self.uneven_stops)} stops"
        )
        gaps = gap_words(self.found)
        return f"at {percent(abs(self.place))}, {percent(self.width / 2)} wide, {self.short}, {softness}, {even}{gaps}"

    @property
    def marks(self) -> list[list[float]]:
        marks: list[list[float]] = self.rows[:, :2].tolist()
        return marks


def _read(at: EdgeLine, frame: LayeredFrame) -> LineValue | None:
    """None where no row shows a line."""
    height, width = frame.is_product.shape
    found: list[tuple[Highlight, float, float]] = []
    for row, left, right in rows_between(frame.is_product, at.low, at.high):
        columns = np.linspace(left, right, ACROSS)
        luminance = frame.luminance[row]
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


KIND = ReadingKind(
    key="edge", about="The outermost bright line on one side of the product, between two of its heights.",
    measures=(
        Choice(name="side", words="Side", choices=("left", "right")), share("low", "From", usual=0.1), share("high", "To", usual=0.6),
    ),
    make=lambda v: EdgeLine(left=v["side"] == "left", low=v["low"], high=v["high"]),
)  # fmt: skip
