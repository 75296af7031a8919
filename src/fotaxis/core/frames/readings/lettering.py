"""Lettering on its ground: by how many stops what is printed on a label or side differs from the paper round it, in the frame.

Even light and lettering stay as far apart as they are printed; a reflection laid over both brings them together, a raking light over
foil may turn them round.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.frames.readings.reading import (
    LayeredFrame,
    Reading,
    ReadingKind,
    Value,
    product_rows,
    require_heights,
    row_at,
    share,
)
from fotaxis.core.stops import measured_stops
from fotaxis.core.values import Array

MIDDLE = 0.7
"""Of the product's half width, where its surface does not yet turn away."""

MOST_PLACES = 6000
LEAST_PLACES = 60
LEAST_STOPS = 0.25
"""Less than this apart is grain or shade, not lettering."""

LEAST_SHARE = 0.004
"""Lettering covers at least so much of its ground."""

CORE = 0.3
"""Of the lettering's places, those farthest from the ground are its strokes; the others are their soft edges."""

DARK = 1e-6


@dataclass(frozen=True, slots=True, kw_only=True)
class Lettering(Reading):
    """What is printed on the largest zone between two heights of the product, 0 its foot, 1 its top."""

    low: float
    high: float

    def __post_init__(self) -> None:
        require_heights("a reading of lettering", self.low, self.high)

    def read(self, frame: LayeredFrame) -> LetteringValue | None:
        span = product_rows(frame.is_product)
        if span is None:
            return None
        top, foot = row_at(span, self.high), row_at(span, self.low)
        rows, columns = _middle(frame.is_product, top, foot)
        if len(rows) < LEAST_PLACES:
            return None
        height, width = frame.is_product.shape
        places = np.column_stack([(columns + 0.5) / width, (rows + 0.5) / height])
        on = frame.look(places)
        zone, name = _largest(on.zone, on.names)
        rows, columns = rows[zone], columns[zone]
        if len(rows) < LEAST_PLACES:
            return None
        contrast, covers = contrast_stops(frame.luminance[rows, columns], rows, columns)
        box = (columns.min() / width, rows.min() / height, (columns.max() + 1) / width, (rows.max() + 1) / height)
        return LetteringValue(stops=contrast, covers=covers, zone=name, box=tuple(float(v) for v in box))


def _middle(is_product: NDArray[np.bool_], top: int, foot: int) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Rows and columns of the product's middle between two rows, thinned to MOST_PLACES."""
    part = np.zeros_like(is_product)
    for row in range(top, foot + 1):
        on = np.flatnonzero(is_product[row])
        if len(on):
            middle, half = (on[0] + on[-1]) / 2, (on[-1] - on[0]) / 2 * MIDDLE
            part[row, round(middle - half) : round(middle + half) + 1] = True
    rows, columns = np.nonzero(part & is_product)
    step = max(1, round(np.sqrt(len(rows) / MOST_PLACES)))
    kept = (rows % step == 0) & (columns % step == 0)
    return rows[kept].astype(np.int64), columns[kept].astype(np.int64)


def _largest(zone: NDArray[np.int64], names: dict[int, str]) -> tuple[NDArray[np.bool_], str]:
    """The zone with a name that shows most, with its foil and varnish; the whole where there is none."""
    owner = {number: name.split(",")[0] for number, name in names.items()}
    counts: dict[str, int] = {}
    for number, count in zip(*np.unique(zone, return_counts=True), strict=True):
        name = owner.get(int(number), "")
        counts[name] = counts.get(name, 0) + int(count)
    named = {name: count for name, count in counts.items() if name}
    if not named:
        return zone >= 0, ""
    best = max(named, key=lambda name: named[name])
    return np.isin(zone, [number for number, name in owner.items() if name == best]), best


def contrast_stops(luminance: Array, rows: NDArray[np.int64], columns: NDArray[np.int64]) -> tuple[float | None, float]:
    """Stops from the ground to the lettering on it (below 0: darker), None where nothing stands out, and how much it covers.

    The ground is what most places are, a plane of log luminance across the zone; what lies beyond the better of two thresholds on
    either side is lettering.
    Source: threshold of greatest variance between classes, Otsu 1979.
    """
    level = np.log2(np.maximum(luminance, DARK))
    across = np.column_stack([np.ones(len(level)), rows - rows.mean(), columns - columns.mean()])
    # Most places are ground: it begins with those near the middle one, whatever the light's fall across the zone.
    off = np.abs(level - np.median(level))
    keep = off <= np.quantile(off, 0.4)
    rest = level
    for _ in range(6):
        plane = np.linalg.lstsq(across[keep], level[keep], rcond=None)[0]
        rest = level - across @ plane
        rest = rest - np.median(rest[keep])
        spread = max(1.5 * float(np.median(np.abs(rest[keep]))), 0.03)
        keep = np.abs(rest) < 2.5 * spread
    found: list[tuple[float, float, float]] = []
    for sign in (-1.0, 1.0):
        out = sign * rest
        beyond = out > _threshold(out)
        covers = float(beyond.mean())
        if not LEAST_SHARE < covers < 0.5:
            continue
        strokes = out[beyond]
        stops = float(np.median(strokes[strokes >= np.quantile(strokes, 1 - CORE)])) - float(np.median(out[keep]))
        found.append((stops * covers, sign * stops, covers))
    if not found:
        return None, 0.0
    _, stops, covers = max(found)
    return (stops, covers) if abs(stops) >= LEAST_STOPS else (None, 0.0)


def _threshold(values: Array) -> float:
    """Between the ground at 0 and what stands out above it."""
    high = float(np.quantile(values, 0.999))
    if high <= 0.1:
        return float("inf")
    at = np.linspace(0.0, high, 65)[1:-1]
    over = values[None, :] > at[:, None]
    share_over = over.mean(axis=1)
    total = float(values.mean())
    above = np.where(over, values[None, :], 0.0).mean(axis=1)
    between = (total * share_over - above) ** 2 / np.maximum(share_over * (1 - share_over), 1e-9)
    return float(at[int(np.argmax(between))])


@dataclass(frozen=True, slots=True, kw_only=True)
class LetteringValue(Value):
    """stops: lettering over its ground, None where none stands out; covers: how much of the zone it is; zone: its name; box: where
    it was read, left, top, right and bottom, 0..1."""

    stops: float | None
    covers: float
    zone: str
    box: tuple[float, ...]

    @property
    def about(self) -> str:
        return f"on {self.zone}" if self.zone else "on the product"

    @property
    def short(self) -> str:
        return f"{measured_stops(self.stops)} stops" if self.stops is not None else "none stands out"

    @property
    def words(self) -> str:
        if self.stops is None:
            return f"no lettering stands out {self.about}"
        return f"lettering {self.about} {measured_stops(abs(self.stops))} stops {'over' if self.stops > 0 else 'under'} its ground"

    @property
    def marks(self) -> list[list[float]]:
        left, top, right, bottom = self.box
        return [[left, top], [right, top], [right, bottom], [left, bottom], [left, top]]


KIND = ReadingKind(
    key="lettering", about="What is printed on the largest zone between two heights of the product, against its ground.",
    measures=(share("low", "From", usual=0.1), share("high", "To", usual=0.6)),
    make=lambda v: Lettering(low=v["low"], high=v["high"]), add="Add the lettering",
    begins={"kind": "lettering", "key": "lettering", "name": "Lettering", "low": 0.1, "high": 0.6},
)  # fmt: skip
