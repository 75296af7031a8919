"""Rays against flat things (rectangles and discs) and balls, one row of numbers each."""

from __future__ import annotations

import math

import numpy as np

from fotaxis.core.columns import FLAT
from fotaxis.core.kernel import leaf
from fotaxis.core.values import Array

OUTLINE_STEPS = 49
"""Heights at which half the width of a cut shape is told."""

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
    if abs(u) > flats[k, FLAT.OUTLINE + i] * (1.0 - part) + flats[k, FLAT.OUTLINE + i + 1] * part:
        return False
    if flats[k, FLAT.HOLE_U] <= 0.0:
        return True
    x, y = u / flats[k, FLAT.HOLE_U], v / flats[k, FLAT.HOLE_V]
    return x * x + y * y >= 1.0


@leaf
def _hit_ball(
    flats: Array, k: int,
    ox: float, oy: float, oz: float, dx: float, dy: float, dz: float, t_min: float, t_max: float,
) -> tuple[float, float, float]:  # fmt: skip
    x, y, z, radius = ox - flats[k, FLAT.X], oy - flats[k, FLAT.Y], oz - flats[k, FLAT.Z], flats[k, FLAT.HALF_WIDTH]
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
    u = (x * flats[k, FLAT.AX] + y * flats[k, FLAT.AY] + z * flats[k, FLAT.AZ]) / radius
    v = (x * flats[k, FLAT.UX] + y * flats[k, FLAT.UY] + z * flats[k, FLAT.UZ]) / radius
    return t, u, v


@leaf
def hit_flat(
    flats: Array, k: int,
    ox: float, oy: float, oz: float, dx: float, dy: float, dz: float, t_min: float, t_max: float,
) -> tuple[float, float, float]:  # fmt: skip
    """Hit of a ray with flat thing k: t, and the place on it as -1..1 across and up; (inf, 0, 0) for none."""
    if flats[k, FLAT.SHAPE] == BALL:
        return _hit_ball(flats, k, ox, oy, oz, dx, dy, dz, t_min, t_max)
    facing = dx * flats[k, FLAT.NX] + dy * flats[k, FLAT.NY] + dz * flats[k, FLAT.NZ]
    gap = flats[k, FLAT.PLANE] - (ox * flats[k, FLAT.NX] + oy * flats[k, FLAT.NY] + oz * flats[k, FLAT.NZ])
    if facing < 0.0:
        facing = -facing
        gap = -gap
    # t = gap / facing; every test is multiplied by facing, so that only a hit costs a division.
    if not (gap > t_min * facing and gap < t_max * facing):
        return math.inf, 0.0, 0.0
    u = (ox * flats[k, FLAT.U_X] + oy * flats[k, FLAT.U_Y] + oz * flats[k, FLAT.U_Z] - flats[k, FLAT.U_0]) * facing
    u += (dx * flats[k, FLAT.U_X] + dy * flats[k, FLAT.U_Y] + dz * flats[k, FLAT.U_Z]) * gap
    if abs(u) > facing:
        return math.inf, 0.0, 0.0
    v = (ox * flats[k, FLAT.V_X] + oy * flats[k, FLAT.V_Y] + oz * flats[k, FLAT.V_Z] - flats[k, FLAT.V_0]) * facing
    v += (dx * flats[k, FLAT.V_X] + dy * flats[k, FLAT.V_Y] + dz * flats[k, FLAT.V_Z]) * gap
    if abs(v) > facing:
        return math.inf, 0.0, 0.0
    if flats[k, FLAT.SHAPE] == DISC and u * u + v * v > facing * facing:
        return math.inf, 0.0, 0.0
    inverse = 1.0 / facing
    if flats[k, FLAT.SHAPE] == CUT and not in_outline(flats, k, u * inverse, v * inverse):
        return math.inf, 0.0, 0.0
    return gap * inverse, u * inverse, v * inverse
