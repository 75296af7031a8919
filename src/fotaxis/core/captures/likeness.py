"""How alike two pictures of a range are: where lines lie, how wide they are, levels, and colour."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from fotaxis.core.frames.levels import percent
from fotaxis.core.stops import measured_stops
from fotaxis.core.values import Array

MOST_PLACE, MOST_WIDTH, MOST_STOPS, MOST_COLOUR = 0.03, 0.03, 1 / 3, 6.0
"""What two pictures side by side may differ by before it is seen: parts of the half width, stops, CIE 1976 colour difference. Common
practice; a third of a stop and a difference of six are seen by anybody."""

WHITE = np.array([0.95047, 1.0, 1.08883])
TO_XYZ = np.array([[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750], [0.0193339, 0.1191920, 0.9503041]])


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """A bright line: its middle from the axis and its width, parts of the half width."""

    place: float
    width: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Look:
    """What makes a picture look as it does: lines and levels in stops from grey by reading, the product's mean colour, linear RGB."""

    lines: Mapping[str, Line] = field(default_factory=dict)
    levels: Mapping[str, float] = field(default_factory=dict)
    colour: Array | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """One thing by which a picture differs from its pattern. of: key of the reading, '' of the whole; seen: so much that it shows."""

    of: str
    what: str
    by: float
    words: str
    seen: bool


def differences(pattern: Look, other: Look) -> list[Difference]:
    """By what a picture differs from its pattern, reading by reading; what only one of them shows is a difference that is seen."""
    found = []
    for key in [*pattern.lines, *(k for k in other.lines if k not in pattern.lines)]:
        a, b = pattern.lines.get(key), other.lines.get(key)
        if a is None or b is None:
            found.append(_one_sided(key, "line", gained=a is None))
            continue
        for what, by, most in (("place", b.place - a.place, MOST_PLACE), ("width", b.width - a.width, MOST_WIDTH)):
            way = ("further out" if by > 0 else "further in") if what == "place" else ("wider" if by > 0 else "narrower")
            found.append(
                Difference(
                    of=key, what=what, by=by, words=f"{percent(abs(by))} of the half width {way}", seen=abs(by) > most
                )
            )
    for key in [*pattern.levels, *(k for k in other.levels if k not in pattern.levels)]:
        a_level, b_level = pattern.levels.get(key), other.levels.get(key)
        if a_level is None or b_level is None:
            found.append(_one_sided(key, "level", gained=a_level is None))
            continue
        by = b_level - a_level
        words = f"{measured_stops(abs(by))} stops {'brighter' if by > 0 else 'darker'}"
        found.append(Difference(of=key, what="level", by=by, words=words, seen=abs(by) > MOST_STOPS))
    if pattern.colour is not None and other.colour is not None:
        by = colour_difference(pattern.colour, other.colour)
        found.append(
            Difference(of="", what="colour", by=by, words=f"colour differs by {by:.1f} (CIE 1976)", seen=by > MOST_COLOUR)
        )
    return found


def _one_sided(key: str, what: str, *, gained: bool) -> Difference:
    words = f"{what} that the pattern does not show" if gained else f"no {what}, which the pattern shows"
    return Difference(of=key, what=what, by=np.inf, words=words, seen=True)


def lab(rgb: Array) -> Array:
    """CIE L*a*b* of linear Rec. 709 RGB (..., 3), white D65.   Source: CIE 15:2004, IEC 61966-2-1."""
    ratio = (np.asarray(rgb, np.float64) @ TO_XYZ.T) / WHITE
    low = (6 / 29) ** 3
    f = np.where(ratio > low, np.cbrt(np.maximum(ratio, 1e-12)), ratio / (3 * (6 / 29) ** 2) + 4 / 29)
    return np.stack([116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], axis=-1)


def colour_difference(a: Array, b: Array) -> float:
    """CIE 1976 difference of hue and chroma of two linear colours, each at L* 50: how bright they are is told apart."""
    return float(np.hypot(*(lab(_levelled(a)) - lab(_levelled(b)))[1:]))


def _levelled(colour: Array) -> Array:
    """A colour at 18.4 % luminance, which is L* 50."""
    luminance = float(np.asarray(colour) @ TO_XYZ[1])
    return np.asarray(colour) * (0.184 / luminance) if luminance > 1e-9 else np.full(3, 0.184)
