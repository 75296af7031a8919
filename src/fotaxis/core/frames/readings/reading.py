"""What every reading says: how a frame is read, what the value is in words, and its kind."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.constants import REC709_LUMINANCE
from fotaxis.core.errors import DomainError
from fotaxis.core.frames.levels import percent
from fotaxis.core.frames.mirrored_at import Look, by_brightness
from fotaxis.core.limits import require_finite
from fotaxis.core.measures import AnyMeasure, Measure
from fotaxis.core.values import Array, Picture

ROWS = 24
"""So many rows of the product are read between two heights."""

LEAST_WIDTH = 8
"""A row that shows fewer pixels of the product across than this is not read."""


@dataclass(frozen=True, kw_only=True)
class LayeredFrame:
    """A picture that readings read: layers (n, height, width, 3) at gains (n,), where the product is seen (height, width), and how to
    look what it mirrors; without that all light on the product counts as mirrored."""

    pictures: Picture
    gains: Array
    is_product: NDArray[np.bool_]
    mirror: Look | None = None

    @property
    def look(self) -> Look:
        return self.mirror or by_brightness(self.luminance, self.is_product)

    @cached_property
    def luminance(self) -> Array:
        """The mixed picture's luminance, (height, width), linear, grey 0.18."""
        mixed = np.tensordot(self.gains.astype(np.float32), self.pictures, axes=1)
        luminance: Array = mixed.astype(np.float64) @ np.array(REC709_LUMINANCE)
        return luminance

    def by_layer(self, rows: NDArray[np.int64], columns: NDArray[np.int64]) -> Array:
        """What each layer makes of the mean luminance of some pixels, (layers,); their sum is that mean."""
        seen = self.pictures[:, rows, columns].astype(np.float64).reshape(len(self.gains), -1, 3).mean(axis=1)
        parts: Array = self.gains * (seen @ np.array(REC709_LUMINANCE))
        return parts


def shares_of(parts: Array) -> Array:
    """Parts of a sum (n,) as shares of it; 0 of nothing."""
    whole = float(parts.sum())
    return parts / whole if whole > 0 else np.zeros(len(parts))


class Value:
    """What a reading reads. shares: how much of it each layer makes (layers,), or () where that is not told."""

    __slots__ = ()
    shares: Array | tuple[()] = ()

    @property
    def level_stops(self) -> float | None:
        """Its level in stops from middle grey; None for what is no level."""
        return None

    @property
    def uneven(self) -> float | None:
        """Brightest less darkest of what it covers, stops; None for a single place."""
        return None

    @property
    def short(self) -> str:
        """In few words, beside its mark on the frame."""
        raise NotImplementedError

    @property
    def words(self) -> str:
        """In full."""
        raise NotImplementedError

    @property
    def about(self) -> str:
        """What the page says of its place where no light's share is told."""
        return ""

    @property
    def marks(self) -> list[list[float]]:
        """Where it lies in the frame, x and y 0..1: one place, or the places of a line."""
        raise NotImplementedError


class Reading:
    """A place that is read."""

    __slots__ = ()

    def read(self, frame: LayeredFrame) -> Value | None:
        """None where it is not seen."""
        raise NotImplementedError


def rows_between(is_product: NDArray[np.bool_], low: float, high: float) -> Iterator[tuple[int, int, int]]:
    """Rows between two heights on the product, 0 its foot, 1 its top, with its first and last column there: ROWS at most, those
    that show too little of it left out."""
    span = product_rows(is_product)
    if span is None:
        return
    for part in np.linspace(low, high, ROWS):
        row = row_at(span, float(part))
        extent = extent_at(is_product, row)
        if extent is not None and extent[1] - extent[0] >= LEAST_WIDTH:
            yield row, *extent


def gap_words(found: float) -> str:
    """Over how much of its height something is seen, '' where that is nearly all."""
    return "" if found > 0.95 else f", seen over {percent(found)} of its height"


def require_heights(what: str, low: float, high: float) -> None:
    """Raises DomainError unless two heights on the product, 0 its foot, 1 its top, are in order."""
    require_finite(f"lower end of {what}", low, low=0, high=1)
    require_finite(f"upper end of {what}", high, low=0, high=1)
    if not low < high:
        raise DomainError(f"the upper end of {what} must be above its lower end.")


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadingKind:
    """A kind of reading: its word in the shot file, measures, how it is made. add: what the page calls adding one, "" where that is
    done by hand on the frame; begins: a new one."""

    key: str
    about: str
    measures: tuple[AnyMeasure, ...]
    make: Callable[[Mapping[str, Any]], Reading]
    add: str = ""
    begins: Mapping[str, Any] = field(default_factory=dict)


def share(name: str, words: str, *, low: float = 0, usual: float | None = None) -> Measure:
    """A part of a whole, up to 1."""
    return Measure(name=name, words=words, unit=f"{low:g}–1", low=low, high=1, usual=usual, step=0.05)


def product_rows(is_product: NDArray[np.bool_]) -> tuple[int, int] | None:
    """First and last row in which the product is seen; None where it is not."""
    rows = np.flatnonzero(is_product.any(axis=1))
    return (int(rows[0]), int(rows[-1])) if len(rows) else None


def row_at(span: tuple[int, int], height: float) -> int:
    top, foot = span
    return round(foot - height * (foot - top))


def extent_at(is_product: NDArray[np.bool_], row: int) -> tuple[int, int] | None:
    columns = np.flatnonzero(is_product[row])
    return (int(columns[0]), int(columns[-1])) if len(columns) else None
