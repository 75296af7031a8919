"""Brightness along a line across the picture, and the bright lines it crosses."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.camera.exposure import stops_between
from fotaxis.core.constants import MIDDLE_GREY, REC709_LUMINANCE
from fotaxis.core.errors import DomainError
from fotaxis.core.values import Array, Picture, require_finite

SAMPLES = 240


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

    def places(self, *, width: int, height: int, samples: int = SAMPLES) -> Array:
        """Row and column of every sample in a picture whose pixel middles are whole numbers, (2, samples)."""
        part = np.linspace(0.0, 1.0, samples)
        x = (self.x0 + part * (self.x1 - self.x0)) * width - 0.5
        y = (self.y0 + part * (self.y1 - self.y0)) * height - 0.5
        return np.stack([y, x])


@dataclass(frozen=True, slots=True, kw_only=True)
class Highlight:
    """One bright line crossed by the reading line. Places are in half widths of the product, -1 left edge, +1 right.

    Its ends lie where it falls to half its peak; softness is how far it takes from 90 % to 10 % of the peak.
    """

    place: float
    width: float
    peak_stops: float
    left_softness: float
    right_softness: float


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


def find_highlights(levels: Array, edges: tuple[float, float], *, least_stops: float = -4.0) -> list[Highlight]:
    """Bright lines on the product along a reading, strongest first.

    levels (samples,) linear, grey 0.18; edges: parts of the line where the product begins and ends.
    A highlight is a peak at least 1 stop above the dips beside it and above `least_stops` from grey.
    """
    n = len(levels)
    position = (np.linspace(0, 1, n) - edges[0]) / (edges[1] - edges[0]) * 2 - 1
    inside = np.flatnonzero(np.abs(position) <= 1.0)
    if len(inside) < 5:
        return []
    left = np.clip(levels, 0.0, 1e6)
    free = np.zeros(n, bool)
    free[inside] = True
    floor = MIDDLE_GREY * 2.0**least_stops
    found: list[Highlight] = []
    while True:
        candidates = np.where(free, left, 0.0)
        peak_at = int(candidates.argmax())
        peak = float(candidates[peak_at])
        if peak < floor or len(found) >= 8:
            return found
        start = end = peak_at
        while start > inside[0] and free[start - 1] and left[start - 1] > peak / 2:
            start -= 1
        while end < inside[-1] and free[end + 1] and left[end + 1] > peak / 2:
            end += 1
        bounded_left = start == inside[0] or left[start - 1] <= peak / 2
        bounded_right = end == inside[-1] or left[end + 1] <= peak / 2
        if bounded_left and bounded_right:
            found.append(_measure(left, position, peak_at, start, end, inside))
        free[max(start - 1, 0) : end + 2] = False


def _measure(levels: Array, position: Array, peak_at: int, start: int, end: int, inside: np.ndarray) -> Highlight:
    peak = float(levels[peak_at])

    def falls_to(share: float, step: int) -> float:
        """Position where the level falls to a share of the peak, walking from it; the product's edge at the latest."""
        i = peak_at
        while inside[0] <= i + step <= inside[-1] and levels[i] > share * peak:
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
        peak_stops=stops_between(peak, MIDDLE_GREY),
        left_softness=abs(falls_to(0.9, -1) - falls_to(0.1, -1)),
        right_softness=abs(falls_to(0.1, 1) - falls_to(0.9, 1)),
    )
