"""A line soft on a side: a sheet, and how far behind it and how far aside a strip stands that lights it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np
from scipy.optimize import brentq

from fotaxis.core.errors import NoSolution
from fotaxis.core.values import Array

HALF = 0.5
DEPTHS_M = tuple(round(0.04 + 0.01 * n, 2) for n in range(60))
"""How far behind a sheet a strip is tried."""

FAINT = 0.08
"""A sheet goes on to where its light has fallen to this part of the brightest: no edge of it is seen there."""

WIDEST = 4.0
Ends = Callable[[float, float], tuple[float, float]]
HIDDEN_M = 0.01
"""A strip ends so far before where it would be seen past a sheet's edge."""
ACROSS = 65
TRIED = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class SoftSheet:
    """Across the sheet, metres, outwards counted from the line's inner end at 0 to its outer end at `wide`: where the sheet begins and
    ends, where the strip's middle stands, how far behind it is and how wide; crisp: how bright its crisp edge is, of the brightest."""

    begin: float
    end: float
    strip_at: float
    depth_m: float
    strip_m: float
    crisp: float = 0.0


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
    *, wide: float, soft_inside: bool, soft_outside: bool, strip_m: float, mirrored: Sequence[float] = (1.0, 1.0),
    slants: tuple[float, float] = (0.0, 0.0),
) -> SoftSheet:  # fmt: skip
    """The sheet and the strip behind it for a line that is wide metres across where the sheet stands; its crisp side is the sheet's
    edge, on its soft side what is seen has fallen to half the brightest where the line is to end.

    mirrored: how much the product mirrors from the line's inner to its outer end, evenly spaced, in any unit: glass more towards its
    edge. slants: tangents of the ways at the inner and the outer end off the sheet's normal, outwards: past a crisp edge they must
    not meet the bare strip.
    Raises NoSolution where the strip is too wide for such a line.
    """
    best: SoftSheet | None = None
    u = np.linspace(0.0, wide, ACROSS)
    mirrors = np.interp(u / wide, np.linspace(0, 1, len(mirrored)), mirrored)

    def ends(middle: float, depth: float) -> tuple[float, float]:
        """What is seen at both ends, as parts of the brightest in the line."""
        seen = strip_light(at=u - middle, strip_m=strip_m, depth_m=depth) * mirrors
        return float(seen[0] / seen.max()), float(seen[-1] / seen.max())

    if soft_inside and soft_outside:
        middle, depth = _soft_both(ends, wide, strip_m)
        return SoftSheet(
            begin=-_faint(middle, strip_m, depth), end=wide + _faint(wide - middle, strip_m, depth), strip_at=middle, depth_m=depth,
            strip_m=strip_m,
        )  # fmt: skip
    soft, crisp = (0, 1) if soft_inside else (1, 0)
    for depth in DEPTHS_M:
        # As far out as it stands without being seen past the sheet's crisp edge, and from there inwards.
        if soft_inside:
            edge, inwards = wide + slants[1] * depth - strip_m / 2 - HIDDEN_M, -wide
        else:
            edge, inwards = slants[0] * depth + strip_m / 2 + HIDDEN_M, 2 * wide
        if ends(edge, depth)[soft] > HALF:
            break
        at = _where_half(partial(_off_half, ends, soft, depth), edge, inwards)
        if at is None or (at_edge := ends(at, depth)[crisp]) < HALF:
            continue
        begin = -_faint(at, strip_m, depth) if soft_inside else 0.0
        end = wide if soft_inside else wide + _faint(wide - at, strip_m, depth)
        found = SoftSheet(begin=begin, end=end, strip_at=at, depth_m=depth, strip_m=strip_m, crisp=at_edge)
        best = found if best is None or found.crisp > best.crisp else best
    if best is not None:
        return best
    raise NoSolution(
        f"a strip {100 * strip_m:.0f} cm wide gives no gradient over {100 * wide:.0f} cm: take a narrower one, or stand the sheet "
        "further away."
    )


def _off_half(ends: Ends, soft: int, depth: float, middle: float) -> float:
    return ends(middle, depth)[soft] - HALF


def _where_half(off: Callable[[float], float], begin: float, end: float) -> float | None:
    """Where between two places of the strip's middle the line's soft end has just half of the brightest; None for nowhere."""
    tried = np.linspace(begin, end, TRIED)
    signs = np.array([off(float(at)) for at in tried])
    rises = np.flatnonzero((signs[:-1] <= 0) & (signs[1:] > 0))
    return float(brentq(off, tried[rises[0]], tried[rises[0] + 1])) if len(rises) else None


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


def _faint(from_strip: float, strip_m: float, depth: float) -> float:
    """How far beyond an end of the line, which lies so far from the strip's middle, the sheet's light has all but gone."""
    bright = float(strip_light(at=0.0, strip_m=strip_m, depth_m=depth))
    reach, step = 0.0, (strip_m + depth) / 40
    while reach < WIDEST * (strip_m + depth):
        if float(strip_light(at=abs(from_strip) + reach, strip_m=strip_m, depth_m=depth)) <= FAINT * bright:
            break
        reach += step
    return reach


def reads_from(mirrored: Sequence[float], near: float, far: float) -> float:
    """Where the inner end of an even line from near to far of the half width is read, at half its brightest, on what mirrors so much
    from one to the other, evenly spaced: `near` itself unless it mirrors less than half as much there."""
    part = np.linspace(0, 1, ACROSS)
    seen = np.interp(part, np.linspace(0, 1, len(mirrored)), mirrored)
    at = int(np.argmax(seen >= HALF * seen.max()))
    return near + float(part[at]) * (far - near)
