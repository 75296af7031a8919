"""The bright line down one edge of the product: where, how wide, how bright, how soft, how even, and where it ends."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.frames.levels import peak_words, percent
from fotaxis.core.frames.line_profile import Highlight, as_in_pixels, bent_edges, find_highlights, outermost, stretches
from fotaxis.core.frames.line_reading import CRISP, EQUAL_STOPS
from fotaxis.core.frames.line_reading import LEAST_WIDTH as LEAST_LINE
from fotaxis.core.frames.mirrored_at import MirroredAt
from fotaxis.core.frames.readings.reading import (
    LEAST_WIDTH,
    LayeredFrame,
    Reading,
    ReadingKind,
    Value,
    extent_at,
    gap_words,
    product_rows,
    require_heights,
    row_at,
    share,
    shares_of,
)
from fotaxis.core.measures import Choice
from fotaxis.core.stops import measured_stops
from fotaxis.core.values import Array

OUTER = 0.3
"""A bright line further in than this part of the half width is no edge line."""

LINE_ROWS = 120
"""A line is looked at in so many rows of the product between its two heights: of a bottle every other millimetre."""

ACROSS, BESIDE = 96, 14
"""Places across the half of a row that has the line, and around the product's other edge."""

PAST_EDGE_PIXELS = 1.5
INNER = -0.2
LEAST_RUN, BRIDGED = 4, 2
"""A line seen in fewer rows on end is none; a gap of so many rows is none either."""

MOST_BREAKS = 2
"""So many gaps are told one by one, more are counted."""

ENDS = 0.1
"""This part of its rows at either end does not count for its evenness: it may begin and end softly."""


@dataclass(frozen=True, slots=True, kw_only=True)
class EdgeLine(Reading):
    """The outermost bright line on one side of the product between two heights, 0 its foot, 1 its top."""

    left: bool
    low: float
    high: float

    def __post_init__(self) -> None:
        require_heights("a line reading", self.low, self.high)

    def read(self, frame: LayeredFrame) -> LineValue | None:
        return _read(self, frame)


@dataclass(frozen=True, slots=True, kw_only=True)
class Run:
    """Part of a line without a gap: from low_m to high_m above the foot; why it ends there, '' where the reading itself ends; of: what
    is mirrored in its middle."""

    of: str
    low_m: float
    high_m: float
    below: str
    above: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LineValue(Value):
    """An edge line over its height.

    place, width, inner and outer softness: medians over its rows, in half widths of the product, see line_profile.Highlight;
    peak_stops: median, from grey; uneven_stops: brightest less darkest row; found: share of the rows that show it;
    rows (n, 3): x, y in the frame (0..1) and peak in stops, from low to high; runs: its parts, from low to high; shares: of the
    pixels of its peaks.
    """

    place: float
    width: float
    inner: float
    outer: float
    peak_stops: float
    uneven_stops: float
    found: float
    rows: Array
    runs: tuple[Run, ...]
    shares: Array | tuple[()] = ()

    @property
    def level_stops(self) -> float:
        return self.peak_stops

    @property
    def uneven(self) -> float:
        return self.uneven_stops

    @property
    def short(self) -> str:
        return peak_words(self.peak_stops)

    @property
    def about(self) -> str:
        parts = [f"{100 * run.low_m:.1f} to {100 * run.high_m:.1f}" for run in self.runs]
        return f"{' and '.join(parts)} cm above the foot" if parts else ""

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
        ends = "".join(f", {words}" for words in self._ends()) if self.runs else gap_words(self.found)
        return f"at {percent(abs(self.place))}, {percent(self.width / 2)} wide, {self.short}, {softness}, {even}{ends}"

    def _ends(self) -> Iterator[str]:
        """Where the line stops, and why."""
        first, last = self.runs[0], self.runs[-1]
        if len(self.runs) == 1 and first.below == first.above == f"{first.of} ends":
            yield f"all of {first.of}, {100 * first.low_m:.1f} to {100 * first.high_m:.1f} cm above the foot"
            return
        if len(self.runs) > 1 + MOST_BREAKS:
            yield f"broken in {len(self.runs) - 1} places between {100 * first.low_m:.1f} and {100 * last.high_m:.1f} cm"
            return
        for below, above in zip((None, *self.runs), (*self.runs, None), strict=True):
            if below is None:
                if above is not None and above.below:
                    yield f"stops {100 * above.low_m:.1f} cm above the foot: {above.below}"
            elif above is None:
                if below.above:
                    yield f"ends {100 * below.high_m:.1f} cm above the foot: {below.above}"
            else:
                why = dict.fromkeys(w for w in (below.above, above.below) if w)
                yield f"broken from {100 * below.high_m:.1f} to {100 * above.low_m:.1f} cm: {' and '.join(why)}"

    @property
    def marks(self) -> list[list[float]]:
        marks: list[list[float]] = self.rows[:, :2].tolist()
        return marks


@dataclass(frozen=True, slots=True, kw_only=True)
class _Row:
    """A row that was looked at: its height in the frame, and the places of its samples across it with their numbers."""

    y: float
    x: Array
    numbers: NDArray[np.int64]


def _rows(at: EdgeLine, frame: LayeredFrame) -> list[_Row]:
    """Rows of the product between two heights, with the places looked at: the half that has the line, and around the other edge."""
    height, width = frame.is_product.shape
    span = product_rows(frame.is_product)
    if span is None:
        return []
    rows, count = [], 0
    for part in np.linspace(at.low, at.high, LINE_ROWS):
        extent = extent_at(frame.is_product, row_at(span, float(part)))
        if extent is None or extent[1] - extent[0] < LEAST_WIDTH:
            continue
        y = (span[1] - part * (span[1] - span[0]) + 0.5) / height
        left, right = extent[0] + 0.5, extent[1] + 0.5
        middle, half = (left + right) / 2, (right - left) / 2
        outward = -1.0 if at.left else 1.0
        near = middle + outward * np.linspace(INNER * half, half + PAST_EDGE_PIXELS, ACROSS)
        far = middle - outward * np.linspace(half - PAST_EDGE_PIXELS, half + PAST_EDGE_PIXELS, BESIDE)
        x = np.sort(np.concatenate([near, far])) / width
        rows.append(_Row(y=y, x=x, numbers=np.arange(count, count + len(x))))
        count += len(x)
    return rows


def _read(at: EdgeLine, frame: LayeredFrame) -> LineValue | None:
    """None where no row shows a line."""
    rows = _rows(at, frame)
    if not rows:
        return None
    on = frame.look(np.concatenate([np.column_stack([row.x, np.full(len(row.x), row.y)]) for row in rows]))
    if on.mirrored is None:
        return None
    lines = [_line_of(at, frame, row, on) for row in rows]
    runs = _runs([line is not None for line in lines])
    seen = [i for first, last in runs for i in range(first, last + 1) if lines[i] is not None]
    found = [line for i in seen if (line := lines[i]) is not None]
    if not found:
        return None
    peaks = np.array([line.peak_stops for line in found])
    inner = [line.right_softness if at.left else line.left_softness for line in found]
    outer = [line.left_softness if at.left else line.right_softness for line in found]
    ends = round(ENDS * len(peaks))
    core = peaks[ends:-ends] if ends and len(peaks) > 4 * ends else peaks
    shown = np.array([(rows[i].x[line.peak_at], rows[i].y, line.peak_stops) for i, line in zip(seen, found, strict=True)])
    return LineValue(
        place=float(np.median([line.place for line in found])), width=float(np.median([line.width for line in found])),
        inner=float(np.median(inner)), outer=float(np.median(outer)), peak_stops=float(np.median(peaks)),
        uneven_stops=float(np.ptp(core)), found=len(found) / LINE_ROWS,
        rows=shown, shares=_shares(frame, shown),
        runs=tuple(_run(on, rows, lines, first, last) for first, last in runs) if np.isfinite(on.height_m).any() else (),
    )  # fmt: skip


def _shares(frame: LayeredFrame, rows: Array) -> Array:
    """How much of a line each layer makes, (layers,)."""
    height, width = frame.is_product.shape
    x = np.clip((rows[:, 0] * width).astype(np.int64), 0, width - 1)
    y = np.clip((rows[:, 1] * height).astype(np.int64), 0, height - 1)
    return shares_of(frame.by_layer(y, x))


def _line_of(at: EdgeLine, frame: LayeredFrame, row: _Row, on: MirroredAt) -> Highlight | None:
    """The line that a row shows; peak_at counts the row's own samples."""
    zone, bare = on.zone[row.numbers], on.bare[row.numbers]
    there = np.flatnonzero(zone >= 0)
    if len(there) < LEAST_WIDTH or on.mirrored is None:
        return None
    left, right = _edge(row.x, there[0], -1), _edge(row.x, there[-1], 1)
    position = (row.x - left) / max(right - left, 1e-9) * 2 - 1
    height, width = frame.is_product.shape
    luminance = frame.luminance[min(int(row.y * height), height - 1)]
    shown = np.interp(row.x * width - 0.5, np.arange(width), luminance)
    least = LEAST_LINE * 2 / max(right - left, 1e-9)
    found: list[Highlight] = []
    bent: list[Highlight] = []
    for span in stretches(bare, zone):
        samples = 1 / width / max(float(np.median(np.diff(row.x))), 1e-9)
        mirrored = as_in_pixels(on.mirrored[row.numbers], span, samples=samples)
        found += find_highlights(mirrored, position, span, shown=shown, least_width=least)
        if on.clear[row.numbers[span[0]]]:
            bent += bent_edges(shown, position, span)
    return outermost(found, left=at.left, beyond=OUTER) or outermost(bent, left=at.left, beyond=OUTER)


def _edge(x: Array, at: int, step: int) -> float:
    """Half-way from the outermost place on the product to the next beside it."""
    beside = at + step
    return float(x[at] if not 0 <= beside < len(x) else (x[at] + x[beside]) / 2)


def _runs(there: list[bool]) -> list[tuple[int, int]]:
    """First and last row of every run of rows that show the line."""
    found: list[tuple[int, int]] = []
    for row in np.flatnonzero(there):
        if found and row - found[-1][1] <= 1 + BRIDGED:
            found[-1] = found[-1][0], int(row)
        else:
            found.append((int(row), int(row)))
    return [(first, last) for first, last in found if last - first + 1 >= LEAST_RUN]


def _run(on: MirroredAt, rows: list[_Row], lines: list[Highlight | None], first: int, last: int) -> Run:
    """A run in metres above the foot, half-way to the next row without the line, and why it ends."""

    def end(row: int, step: int) -> tuple[float, str]:
        line = lines[row]
        assert line is not None
        peak = rows[row].numbers[line.peak_at]
        beside = row + step
        if not 0 <= beside < len(rows):
            return float(on.height_m[peak]), ""
        nearest = rows[beside].numbers[int(np.argmin(np.abs(rows[beside].x - rows[row].x[line.peak_at])))]
        height = float(on.height_m[peak])
        if on.zone[nearest] >= 0:
            height = (height + float(on.height_m[nearest])) / 2
        return height, _why(on, int(peak), int(nearest))

    low, below = end(first, -1)
    high, above = end(last, 1)
    middle = next(i for i in range((first + last) // 2, last + 1) if lines[i] is not None)
    peak = lines[middle]
    assert peak is not None
    of = on.thing(int(rows[middle].numbers[peak.peak_at]))
    return Run(of=of, low_m=low, high_m=high, below=below, above=above)


def _why(on: MirroredAt, here: int, beyond: int) -> str:
    """Why a line that is seen at one place is not at the next."""
    if on.zone[beyond] < 0:
        return "the product's own edge"
    if not on.bare[beyond]:
        return f"hidden by {on.names[int(on.zone[beyond])] or 'a matte part'}"
    own, other = on.thing(here), on.thing(beyond)
    if other == own:
        return f"{own} fades out" if own else "it fades out"
    return f"{other} is mirrored there" if other else f"{own} ends" if own else "it ends"


KIND = ReadingKind(
    key="edge", about="The outermost bright line on one side of the product, between two of its heights.",
    measures=(
        Choice(name="side", words="Side", choices=("left", "right")), share("low", "From", usual=0.1), share("high", "To", usual=0.6),
    ),
    make=lambda v: EdgeLine(left=v["side"] == "left", low=v["low"], high=v["high"]),
)  # fmt: skip
