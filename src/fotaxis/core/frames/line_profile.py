"""Brightness along a line across the picture, and the bright lines it crosses."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from fotaxis.core.camera.exposure import stops_between
from fotaxis.core.constants import MIDDLE_GREY, REC709_LUMINANCE
from fotaxis.core.errors import DomainError
from fotaxis.core.limits import require_finite
from fotaxis.core.values import Array, Picture

SAMPLES = 480


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadingLine:
    """A straight line in the picture; ends in parts of its width and height, (0, 0) the upper left corner."""

    x0: float
    y0: float
    x1: float
    y1: float

    def __post_init__(self) -> None:
        for name, value in (("x0", self.x0), ("y0", self.y0), ("x1", self.x1), ("y1", self.y1)):
            require_finite(f"reading line {name}", value, low=0.0, high=1.0)
        if abs(self.x1 - self.x0) + abs(self.y1 - self.y0) < 1e-3:
            raise DomainError("the reading line has no length; pull its ends apart.")

    def pixel(self, *, width: int, height: int) -> float:
        """The part of the line that a pixel of a picture of width x height takes."""
        return 1.0 / float(np.hypot((self.x1 - self.x0) * width, (self.y1 - self.y0) * height))

    def places(self, *, width: int, height: int, samples: int = SAMPLES) -> Array:
        """Row and column of every sample in a picture whose pixel middles are whole numbers, (2, samples)."""
        part = np.linspace(0.0, 1.0, samples)
        x = (self.x0 + part * (self.x1 - self.x0)) * width - 0.5
        y = (self.y0 + part * (self.y1 - self.y0)) * height - 0.5
        return np.stack([y, x])


@dataclass(frozen=True, slots=True, kw_only=True)
class Highlight:
    """One bright line crossed by a row of samples. Places are in the row's own measure, mostly half widths of the product, -1 its left
    edge, +1 its right.

    Its ends lie where what is mirrored falls to half its peak; softness is how far that takes from 90 % to 10 % of the peak.
    peak_stops: of the picture there, from grey; peak_at: number of the sample; bent: not mirrored, but seen bent through the glass
    near its edge.
    """

    place: float
    width: float
    peak_stops: float
    left_softness: float
    right_softness: float
    peak_at: int
    bent: bool = False


@lru_cache(maxsize=64)
def pixels_along(line: ReadingLine, *, width: int, height: int, samples: int = SAMPLES) -> tuple[NDArray[np.int64], Array]:
    """The four pixels around every sample and their shares, both (samples, 4); bilinear, the outermost pixels held.

    A pixel's number is row * width + column.
    """
    row, column = line.places(width=width, height=height, samples=samples)
    row, column = row.clip(0, height - 1), column.clip(0, width - 1)
    top, left = row.astype(np.int64).clip(0, max(height - 2, 0)), column.astype(np.int64).clip(0, max(width - 2, 0))
    down, across = row - top, column - left
    below, right = np.minimum(top + 1, height - 1), np.minimum(left + 1, width - 1)
    numbers = np.stack([top * width + left, top * width + right, below * width + left, below * width + right], axis=1)
    shares = np.stack([(1 - down) * (1 - across), (1 - down) * across, down * (1 - across), down * across], axis=1)
    numbers.flags.writeable = shares.flags.writeable = False  # shared by every caller
    return numbers, shares


def luminance_along(pictures: Picture, line: ReadingLine, *, samples: int = SAMPLES) -> Array:
    """Luminance of (n, height, width, 3) pictures along a line, bilinear, (n, samples) float64."""
    height, width = pictures.shape[1:3]
    numbers, shares = pixels_along(line, width=width, height=height, samples=samples)
    return luminance_at(pictures.reshape(len(pictures), -1, 3)[:, numbers], shares)


def luminance_at(levels: Picture, shares: Array) -> Array:
    """Luminance from the levels of the four pixels around every sample, (n, samples, 4, 3), to (n, samples) float64."""
    return np.einsum("nskc,sk,c->ns", levels.astype(np.float64), shares, np.array(REC709_LUMINANCE))


@lru_cache(maxsize=8)
def _crossed(line: ReadingLine, width: int, height: int, samples: int) -> tuple[np.ndarray, np.ndarray]:
    """Rows and columns of the pixels nearest to samples of a line."""
    rows, columns = (np.round(at).astype(int) for at in line.places(width=width, height=height, samples=samples))
    return rows.clip(0, height - 1), columns.clip(0, width - 1)


def product_edges(is_product: np.ndarray, line: ReadingLine, *, samples: int = SAMPLES) -> tuple[float, float] | None:
    """Where the line enters and leaves the product, as parts 0..1 of the line; None where it misses it.

    is_product (height, width) bool.
    """
    height, width = is_product.shape
    inside = np.flatnonzero(is_product[_crossed(line, width, height, 8 * samples)])
    if len(inside) < 2:
        return None
    last = 8 * samples - 1
    return float(inside[0] / last), float(inside[-1] / last)


MOST_LINES = 8
LEAST_SAMPLES = 5
"""Fewer samples make no stretch."""

SEEN_STOPS = 0.3
"""A mirror image that lifts the picture by less, beside what else shows there, is no line that anybody sees. Common practice."""


def stretches(bare: NDArray[np.bool_], zone: NDArray[np.int64]) -> list[tuple[int, int]]:
    """First and last sample of every bare stretch: neighbours that mirror and belong to one zone."""
    numbered = np.where(bare, zone, -1)
    starts = np.flatnonzero(np.r_[True, numbered[1:] != numbered[:-1]])
    ends = np.r_[starts[1:], len(numbered)] - 1
    return [(int(a), int(b)) for a, b in zip(starts, ends, strict=True) if numbered[a] >= 0 and b - a + 1 >= LEAST_SAMPLES]


def find_highlights(
    mirrored: Array, position: Array, span: tuple[int, int], *, shown: Array | None = None, least_stops: float = -4.0,
    least_width: float = 0.0,
) -> list[Highlight]:  # fmt: skip
    """Bright lines in a bare stretch of a row, strongest first.

    mirrored (n,): what is mirrored, linear, grey 0.18; position (n,): where each sample lies, growing; span: the stretch's first and
    last sample; shown (n,): what the picture shows there, matte and seen through too; without it what is mirrored is all there is.
    A highlight is a peak at least 1 stop above the dips beside it, or the stretch's end, above `least_stops` from grey, that lifts the
    picture by SEEN_STOPS and is at least `least_width` wide.
    """
    first, last = span
    left = np.clip(mirrored, 0.0, 1e6)
    seen = left if shown is None else shown
    free = np.zeros(len(left), bool)
    free[first : last + 1] = True
    floor = MIDDLE_GREY * 2.0**least_stops
    found: list[Highlight] = []
    while True:
        candidates = np.where(free, left, 0.0)
        peak_at = int(candidates.argmax())
        peak = float(candidates[peak_at])
        if peak < floor or len(found) >= MOST_LINES:
            return found
        start = end = peak_at
        while start > first and free[start - 1] and left[start - 1] > peak / 2:
            start -= 1
        while end < last and free[end + 1] and left[end + 1] > peak / 2:
            end += 1
        bounded_left = start == first or left[start - 1] <= peak / 2
        bounded_right = end == last or left[end + 1] <= peak / 2
        lifts = seen[peak_at] >= 2.0**SEEN_STOPS * max(seen[peak_at] - peak, 0.0)
        if bounded_left and bounded_right and lifts:
            level = float(seen[start : end + 1].max())
            line = _measure(left, position, peak_at, span, stops_between(level, MIDDLE_GREY))
            if line.width >= least_width:
                found.append(line)
        free[max(start - 1, 0) : end + 2] = False


def _measure(levels: Array, position: Array, peak_at: int, span: tuple[int, int], peak_stops: float) -> Highlight:
    peak = float(levels[peak_at])
    first, last = span

    def falls_to(share: float, step: int) -> float:
        """Position where the level falls to a share of the peak, walking from it; the stretch's end at the latest."""
        i = peak_at
        while first <= i + step <= last and levels[i] > share * peak:
            i += step
        if levels[i] > share * peak or i == peak_at:
            return float(position[i])
        a, b = levels[i - step], levels[i]
        part = (a - share * peak) / (a - b) if a != b else 0.0
        return float(position[i - step] + part * (position[i] - position[i - step]))

    left_end, right_end = falls_to(0.5, -1), falls_to(0.5, 1)
    return Highlight(
        place=(left_end + right_end) / 2,
        width=abs(right_end - left_end),
        peak_stops=peak_stops,
        left_softness=abs(falls_to(0.9, -1) - falls_to(0.1, -1)),
        right_softness=abs(falls_to(0.1, 1) - falls_to(0.9, 1)),
        peak_at=peak_at,
    )


def outermost(lines: list[Highlight], *, left: bool, beyond: float = 0.3) -> Highlight | None:
    """The line nearest to one edge of the product, further out than a part of its half width; None without one."""
    side = [line for line in lines if (line.place < -beyond if left else line.place > beyond)]
    return min(side, key=lambda line: line.place if left else -line.place) if side else None


def as_in_pixels(mirrored: Array, span: tuple[int, int], *, samples: float) -> Array:
    """What a picture shows whose pixels are so many samples wide: the mean over a pixel within a stretch; (n,), 0 beside it."""
    first, last = span
    out = np.zeros_like(mirrored)
    odd = 2 * max(0, round((samples - 1) / 2)) + 1
    out[first : last + 1] = uniform_filter1d(mirrored[first : last + 1], odd, mode="nearest")
    return out


RIM = 0.82
"""Light bent round the edge of clear glass is looked for further out than this part of the half width."""


def bent_edges(shown: Array, position: Array, span: tuple[int, int], *, least_width: float = 0.0) -> list[Highlight]:
    """Bright edges of clear glass in a bare stretch: what is seen bent through it near its rim, as in a dark field.

    As find_highlights, of the picture itself; position in half widths of the product. An edge that is not a stop brighter than what
    lies beside the product there is only that, seen in the same pixels.
    """
    lines = find_highlights(shown, position, span, least_width=least_width)

    def stands_out(line: Highlight) -> bool:
        return bool(shown[line.peak_at] > 2 * shown[0 if line.place < 0 else -1])

    return [replace(line, bent=True) for line in lines if abs(line.place) > RIM and stands_out(line)]
