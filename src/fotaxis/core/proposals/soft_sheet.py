"""A line soft on a side: a sheet, and how far behind it and how far aside a strip stands that lights it."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.optimize import brentq

from fotaxis.core.errors import NoSolution
from fotaxis.core.values import Array

HALF = 0.5
DEPTHS_M = tuple(round(0.12 + 0.02 * n, 2) for n in range(30))
"""How far behind a sheet a strip is tried."""

FAINT = 0.08
"""A sheet goes on to where its light has fallen to this part of the brightest: no edge of it is seen there."""

WIDEST = 4.0
MOST_ASIDE = 1.5
ACROSS = 65
TRIED = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class SoftSheet:
    """Across the sheet, metres, outwards counted from the line's inner end at 0 to its outer end at `wide`: where the sheet begins and
    ends, where the strip's middle stands, how far behind it is and how wide."""

    begin: float
    end: float
    strip_at: float
    depth_m: float
    strip_m: float


def strip_light(*, at: Array | float, strip_m: float, depth_m: float) -> Array:
    """Light on a sheet from a long even strip parallel to it, as a part of what one without end would give.

        F = (sin b - sin a) / 2,   a, b the angles to the strip's edges off the sheet's normal

    at: how far aside of the strip's middle, depth_m: between both, strip_m: its width.
    Holds for:  depth > 0. Limits: the strip is long against its distance.
    Source:     view factor from an element to an infinite strip, Howell's catalogue of configuration factors, B-5.
    """
    near, far = np.asarray(at) - strip_m / 2, np.asarray(at) + strip_m / 2
    found: Array = (far / np.hypot(far, depth_m) - near / np.hypot(near, depth_m)) / 2
    return found


def soft_sheet(
    *, wide: float, soft_inside: bool, soft_outside: bool, strip_m: float, mirrored: tuple[float, float] = (1.0, 1.0)
) -> SoftSheet:
    """The sheet and the strip behind it for a line that is wide metres across where the sheet stands; its crisp side is the sheet's
    edge, on its soft side what is seen has fallen to half the brightest where the line is to end.

    mirrored: how much the product mirrors at the line's inner and outer end, in any unit: glass more towards its edge.
    Raises NoSolution where the strip is too wide for such a line.
    """
    u = np.linspace(0.0, wide, ACROSS)
    mirrors = mirrored[0] ** (1 - u / wide) * mirrored[1] ** (u / wide)

    def ends(middle: float, depth: float) -> tuple[float, float]:
        """What is seen at both ends, as parts of the brightest in the line."""
        seen = strip_light(at=u - middle, strip_m=strip_m, depth_m=depth) * mirrors
        return float(seen[0] / seen.max()), float(seen[-1] / seen.max())

    if soft_inside and soft_outside:
        middle, depth = _soft_both(ends, wide, strip_m)
        begin = -_faint(middle, -1.0, strip_m, depth)
        return SoftSheet(begin=min(begin, 0.0), end=wide + _faint(wide - middle, 1.0, strip_m, depth), strip_at=middle, depth_m=depth,
                         strip_m=strip_m)  # fmt: skip
    for depth in DEPTHS_M:
        found = _strip_beside(ends, wide, strip_m, depth, inside=soft_inside)
        if found is None:
            continue
        if soft_inside:
            return SoftSheet(
                begin=-_faint(found, -1.0, strip_m, depth), end=wide, strip_at=found, depth_m=depth, strip_m=strip_m
            )
        return SoftSheet(
            begin=0.0, end=wide + _faint(wide - found, 1.0, strip_m, depth), strip_at=found, depth_m=depth, strip_m=strip_m
        )
    raise NoSolution(
        f"a strip {100 * strip_m:.0f} cm wide gives no gradient over {100 * wide:.0f} cm: take a narrower one, or stand the sheet "
        "further away."
    )


Ends = Callable[[float, float], tuple[float, float]]


def _strip_beside(ends: Ends, wide: float, strip_m: float, depth: float, *, inside: bool) -> float | None:
    """Where the strip's middle stands so that the line falls to half at its soft end; None for nowhere at this depth."""
    reach = MOST_ASIDE * (wide + strip_m)
    tried = np.linspace(-reach, wide + reach, TRIED) if inside else np.linspace(wide + reach, -reach, TRIED)
    soft, crisp = (0, 1) if inside else (1, 0)

    def off(middle: float) -> float:
        return ends(middle, depth)[soft] - HALF

    falls = np.array([off(float(middle)) for middle in tried])
    for k in np.flatnonzero((falls[1:] <= 0) & (falls[:-1] > 0)):
        middle = float(brentq(off, tried[k], tried[k + 1]))
        if ends(middle, depth)[crisp] >= HALF:
            return middle
    return None


def _soft_both(ends: Ends, wide: float, strip_m: float) -> tuple[float, float]:
    """Middle and depth of a strip whose line falls to half at both ends."""

    def balanced(depth: float) -> float:
        def off(middle: float) -> float:
            inner, outer = ends(middle, depth)
            return inner - outer

        return float(brentq(off, -wide, 2 * wide)) if off(-wide) * off(2 * wide) < 0 else wide / 2

    def off(depth: float) -> float:
        return ends(balanced(depth), depth)[0] - HALF

    near, far = 0.01, 2.0
    if off(near) > 0 or off(far) < 0:
        raise NoSolution(
            f"a strip {100 * strip_m:.0f} cm wide is too wide for a line {100 * wide:.0f} cm wide where the sheet stands: mask it, or "
            "stand the sheet further away."
        )
    depth = float(brentq(off, near, far))
    return balanced(depth), depth


def _faint(from_strip: float, way: float, strip_m: float, depth: float) -> float:
    """How far beyond an end of the line, which lies so far from the strip's middle, the sheet's light has all but gone."""
    bright = float(strip_light(at=0.0, strip_m=strip_m, depth_m=depth))
    reach, step = 0.0, (strip_m + depth) / 40
    while reach < WIDEST * (strip_m + depth):
        if float(strip_light(at=abs(from_strip) + reach, strip_m=strip_m, depth_m=depth)) <= FAINT * bright:
            break
        reach += step
    return reach


def reads_from(inner: float, outer: float, near: float, far: float) -> float:
    """Where the inner end of an even line from near to far of the half width is read, at half its brightest, on what mirrors so much
    at both ends: `near` itself unless it mirrors less than half as much there."""
    if inner >= HALF * outer:
        return near
    part = math.log(HALF * outer / inner) / math.log(outer / inner)
    return near + part * (far - near)
