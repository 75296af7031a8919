"""Rays against flat things (rectangles and discs) and balls, one row of numbers each."""

from __future__ import annotations

import math

import numpy as np

from fotaxis.core.kernel import leaf
from fotaxis.core.values import Array

COLUMNS = 76
"""A flat thing is a row: centre 0-2, across 3-5, up 6-8, front 9-11, half width 12, half height 13, shape 14;
then what the ray test reads: front . centre 15, across / half width 16-18 and times centre 19, up likewise 20-23; of a cut
shape: half sizes of a hole in its middle 24-25 and its share of the rectangle's area 26, both in the rectangle's half sizes,
and half its width at 49 heights from its lower to its upper edge, 27-75."""

OUTLINE, OUTLINE_STEPS, AREA = 27, 49, 26
RECTANGLE = 0.0
DISC = 1.0
BALL = 2.0
CUT = 3.0
"""A rectangle cut to an outline that is the same on its left and right, with or without a round hole."""
"""A ball around the centre, its radius the half width: a bare bulb. Its axes only say what u and v count along."""


def row(
    *, centre: Array, across: Array, up: Array, front: Array, half_width_m: float, half_height_m: float,
    shape: float = RECTANGLE, outline: Array | None = None, hole_m: float = 0.0,
) -> Array:  # fmt: skip
    """One flat thing as the kernels read it, (76,) float64, metres and unit vectors.

    outline (49,): half its width at even steps from its lower to its upper edge, 0..1; hole_m: diameter of a hole in its
    middle. Either makes it a cut shape.
    """
    u, v = across / half_width_m, up / half_height_m
    whole = np.ones(OUTLINE_STEPS) if outline is None else outline
    hole = hole_m / 2 / half_width_m, hole_m / 2 / half_height_m
    kind = CUT if outline is not None or hole_m else shape
    area = float(np.trapezoid(whole) / (OUTLINE_STEPS - 1)) - math.pi / 4 * hole[0] * hole[1]
    return np.concatenate([
        centre, across, up, front, [half_width_m, half_height_m, kind, front @ centre], u, [u @ centre], v, [v @ centre],
        hole, [max(area, 1e-6)], whole,
    ])  # fmt: skip


def octagon() -> Array:
    """The outline of a regular octagon that fills its square."""
    return np.minimum(1.0, math.sqrt(2) - np.abs(np.linspace(-1, 1, OUTLINE_STEPS)))


@leaf
def in_outline(flats: Array, k: int, u: float, v: float) -> bool:
    """Is a place on flat thing k, -1..1 across and up, on the cut shape?"""
    at = (v + 1.0) * 0.5 * (OUTLINE_STEPS - 1)
    i = min(max(int(at), 0), OUTLINE_STEPS - 2)
    part = at - i
    if abs(u) > flats[k, OUTLINE + i] * (1.0 - part) + flats[k, OUTLINE + i + 1] * part:
        return False
    if flats[k, 24] <= 0.0:
        return True
    x, y = u / flats[k, 24], v / flats[k, 25]
    return x * x + y * y >= 1.0


@leaf
def _hit_ball(
    flats: Array, k: int,
    ox: float, oy: float, oz: float, dx: float, dy: float, dz: float, t_min: float, t_max: float,
) -> tuple[float, float, float]:  # fmt: skip
    x, y, z, radius = ox - flats[k, 0], oy - flats[k, 1], oz - flats[k, 2], flats[k, 12]
    b = x * dx + y * dy + z * dz
    disc = b * b - (x * x + y * y + z * z - radius * radius)
    if disc < 0.0:
        return math.inf, 0.0, 0.0
    root = math.sqrt(disc)
    t = -b - root
    if t <= t_min:
        t = -b + root
    if t <= t_min or t >= t_max:
        return math.inf, 0.0, 0.0
    x, y, z = x + t * dx, y + t * dy, z + t * dz
    u = (x * flats[k, 3] + y * flats[k, 4] + z * flats[k, 5]) / radius
    v = (x * flats[k, 6] + y * flats[k, 7] + z * flats[k, 8]) / radius
    return t, u, v


@leaf
def hit_flat(
    flats: Array, k: int,
    ox: float, oy: float, oz: float, dx: float, dy: float, dz: float, t_min: float, t_max: float,
) -> tuple[float, float, float]:  # fmt: skip
    """Hit of a ray with flat thing k: t, and the place on it as -1..1 across and up; (inf, 0, 0) for none."""
    if flats[k, 14] == BALL:
        return _hit_ball(flats, k, ox, oy, oz, dx, dy, dz, t_min, t_max)
    facing = dx * flats[k, 9] + dy * flats[k, 10] + dz * flats[k, 11]
    gap = flats[k, 15] - (ox * flats[k, 9] + oy * flats[k, 10] + oz * flats[k, 11])
    if facing < 0.0:
        facing = -facing
        gap = -gap
    # t = gap / facing; every test is multiplied by facing, so that only a hit costs a division.
    if not (gap > t_min * facing and gap < t_max * facing):
        return math.inf, 0.0, 0.0
    u = (ox * flats[k, 16] + oy * flats[k, 17] + oz * flats[k, 18] - flats[k, 19]) * facing
    u += (dx * flats[k, 16] + dy * flats[k, 17] + dz * flats[k, 18]) * gap
    if abs(u) > facing:
        return math.inf, 0.0, 0.0
    v = (ox * flats[k, 20] + oy * flats[k, 21] + oz * flats[k, 22] - flats[k, 23]) * facing
    v += (dx * flats[k, 20] + dy * flats[k, 21] + dz * flats[k, 22]) * gap
    if abs(v) > facing:
        return math.inf, 0.0, 0.0
    if flats[k, 14] == DISC and u * u + v * v > facing * facing:
        return math.inf, 0.0, 0.0
    inverse = 1.0 / facing
    if flats[k, 14] == CUT and not in_outline(flats, k, u * inverse, v * inverse):
        return math.inf, 0.0, 0.0
    return gap * inverse, u * inverse, v * inverse
