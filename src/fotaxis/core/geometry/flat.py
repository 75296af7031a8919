"""Rays against flat things (rectangles and discs) and balls, one row of numbers each."""

from __future__ import annotations

import math

import numpy as np

from fotaxis.core.kernel import leaf
from fotaxis.core.values import Array

COLUMNS = 24
"""A flat thing is a row: centre 0-2, across 3-5, up 6-8, front 9-11, half width 12, half height 13, shape 14;
then what the ray test reads: front . centre 15, across / half width 16-18 and times centre 19, up likewise 20-23."""

RECTANGLE = 0.0
DISC = 1.0
BALL = 2.0
"""A ball around the centre, its radius the half width: a bare bulb. Its axes only say what u and v count along."""


def row(
    *, centre: Array, across: Array, up: Array, front: Array, half_width_m: float, half_height_m: float,
    shape: float = RECTANGLE,
) -> Array:  # fmt: skip
    """One flat thing as the kernels read it, (24,) float64, metres and unit vectors."""
    u, v = across / half_width_m, up / half_height_m
    return np.concatenate(
        [centre, across, up, front, [half_width_m, half_height_m, shape, front @ centre], u, [u @ centre], v, [v @ centre]]
    )


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
    return gap * inverse, u * inverse, v * inverse
