"""Rays against solids of revolution: exact cones around an axis, normals interpolated along the outline."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import FRUSTUM, GROUP
from fotaxis.core.geometry.profile import Outline
from fotaxis.core.geometry.rays import Ray
from fotaxis.core.kernel import inlined, leaf
from fotaxis.core.values import Array

Ints = NDArray[np.int64]

LEAF = 3
"""At most so many frusta are bounded together; a ray tests the bound first."""

SLACK = 1e-9
"""Bounds are wider than what they hold by this, metres."""

LEVEL = 1e-12
"""A ray that rises less than this is taken to rise so much where bounds are tested."""

NO_HIT = math.inf


def pack(outline: Outline) -> tuple[Array, Array]:
    """Frusta (n, 10) and a tree of bounds (g, 7) over them, float64, as the kernels read them.

    A frustum is y0, r0, y1, r1, the outward normal (y, r) at both ends, then (r1 - r0) / (y1 - y0) and 1 / (y1 - y0), both 0
    for a level one. A bound is lowest y, highest y, squares of
    the narrowest and the widest r of some frusta on end; how many bounds further the next one is that has none of
    these frusta; first and one past the last of them where they are to be tested, else 0 and 0. Each bound comes
    before its parts.
    Metres; y counted from the solid's own foot line.
    """
    p, normals = outline.points, outline.normals
    rise, widens = np.diff(p[:, 0]), np.diff(p[:, 1])
    level = np.abs(rise) < 1e-9
    inverse = np.where(level, 0.0, 1.0 / np.where(level, 1.0, rise))
    columns = [p[:-1], p[1:], normals[:, 0], normals[:, 1], (widens * inverse)[:, None], inverse[:, None]]
    frusta = np.concatenate(columns, axis=1)
    return np.ascontiguousarray(frusta), np.array(_bounds(frusta, 0, len(frusta)))


SAME_NORMAL = 1e-6
"""Outlines whose normals differ by less where two frusta meet run on smoothly there."""


def smooth_runs(frusta: Array) -> Ints:
    """Number of the smooth run that each frustum belongs to, from 0 up (n,): a crease of the outline begins another."""
    ends, begins = frusta[:-1, [FRUSTUM.NY1, FRUSTUM.NR1]], frusta[1:, [FRUSTUM.NY0, FRUSTUM.NR0]]
    crease = np.abs(ends - begins).max(axis=1) > SAME_NORMAL
    return np.concatenate([np.zeros(1, np.int64), np.cumsum(crease, dtype=np.int64)])


def _bounds(frusta: Array, first: int, last: int) -> list[list[float]]:
    y, r = frusta[first:last, [0, 2]], frusta[first:last, [1, 3]]
    bound = [y.min() - SLACK, y.max() + SLACK, max(r.min() - SLACK, 0.0) ** 2, (r.max() + SLACK) ** 2]
    if last - first <= LEAF:
        return [[*bound, 1, first, last]]
    middle = (first + last) // 2
    parts = _bounds(frusta, first, middle) + _bounds(frusta, middle, last)
    return [[*bound, 1 + len(parts), 0, 0], *parts]


class AxialRay(NamedTuple):
    """A ray as an axis sees it: height of its origin, 1 over its rise; its squared distance from the axis is a t^2 + 2 b
    t + c, least at
    t = turn."""

    y: float
    inverse: float
    a: float
    b: float
    c: float
    turn: float


@leaf
def crosses_ring(ray: AxialRay, low: float, high: float, narrow: float, wide: float, t_min: float, t_max: float) -> bool:
    """May a ray within t_min..t_max pass between two heights at a distance from the axis between two radii?

    narrow, wide: squared radii. Without roots or divisions. Never says no wrongly.
    """
    y, inverse, a, b, c, t_turn = ray
    t0 = (low - y) * inverse
    t1 = (high - y) * inverse
    begin = max(min(t0, t1), t_min)
    end = min(max(t0, t1), t_max)
    t = min(max(t_turn, begin), end)
    farthest = max((a * begin + 2.0 * b) * begin, (a * end + 2.0 * b) * end) + c
    nearest = (a * t + 2.0 * b) * t + c
    return (begin <= end) & (farthest >= narrow) & (nearest <= wide)


@leaf
def hit_frustum(
    frusta: Array, i: int,
    ox: float, oy: float, oz: float, dx: float, dy: float, dz: float, t_min: float, t_max: float,
) -> tuple[float, float]:  # fmt: skip
    """Nearest t in (t_min, t_max) on one frustum of a cone and the place 0..1 along it; (inf, 0) for none.

    With k = (r1 - r0) / (y1 - y0) the cone is x^2 + z^2 = (r0 + k (y - y0))^2, a quadratic in t.
    """
    y0 = frusta[i, FRUSTUM.Y0]
    r0 = frusta[i, FRUSTUM.R0]
    inverse = frusta[i, FRUSTUM.INVERSE]
    if inverse == 0.0:
        r1 = frusta[i, FRUSTUM.R1]
        if dy == 0.0:
            return NO_HIT, 0.0
        t = (y0 - oy) / dy
        if t <= t_min or t >= t_max:
            return NO_HIT, 0.0
        x, z = ox + t * dx, oz + t * dz
        r = math.sqrt(x * x + z * z)
        if r < min(r0, r1) or r > max(r0, r1):
            return NO_HIT, 0.0
        return t, (r - r0) / (r1 - r0)
    k = frusta[i, FRUSTUM.SLOPE]
    at_origin = r0 + k * (oy - y0)
    a = dx * dx + dz * dz - k * k * dy * dy
    b = ox * dx + oz * dz - k * dy * at_origin
    c = ox * ox + oz * oz - at_origin * at_origin
    if abs(a) < 1e-14:
        if abs(b) < 1e-18:
            return NO_HIT, 0.0
        near = -c / (2.0 * b)
        far = near
    else:
        disc = b * b - a * c
        if disc < 0.0:
            return NO_HIT, 0.0
        root = math.sqrt(disc)
        q = -b - root if b > 0.0 else -b + root
        near = q / a
        far = c / q if q != 0.0 else near
        if near > far:
            near, far = far, near
    if near > t_min and near < t_max:
        along = (oy + near * dy - y0) * inverse
        if -1e-9 <= along <= 1.0 + 1e-9:
            return near, along
    if far > t_min and far < t_max:
        along = (oy + far * dy - y0) * inverse
        if -1e-9 <= along <= 1.0 + 1e-9:
            return far, along
    return NO_HIT, 0.0


@inlined
def hit_solid(
    frusta: Array, groups: Array, first: int, group_first: int, group_last: int, ray: Ray, t_min: float, t_max: float
) -> tuple[float, int, float]:
    """Nearest hit of a ray with one solid: t, frustum number, place along it; (inf, -1, 0) for none.

    Ray in the solid's own frame (axis x = z = 0, foot line y = 0), metres. Its frusta begin
    at row `first`, it owns groups[group_first:group_last].
    """
    ox, oy, oz, dx, dy, dz = ray
    inverse = 1.0 / (dy if abs(dy) > LEVEL else LEVEL)
    a = dx * dx + dz * dz
    b = ox * dx + oz * dz
    c = ox * ox + oz * oz
    axial = AxialRay(oy, inverse, a, b, c, -b / a if a > 0.0 else 0.0)
    best = t_max
    found = -1
    where = 0.0
    g = group_first
    while g < group_last:
        if not crosses_ring(
            axial,
            groups[g, GROUP.LOW],
            groups[g, GROUP.HIGH],
            groups[g, GROUP.NARROW],
            groups[g, GROUP.WIDE],
            t_min,
            best,
        ):
            g += int(groups[g, GROUP.SKIP])
            continue
        for i in range(first + int(groups[g, GROUP.FIRST]), first + int(groups[g, GROUP.END])):
            t, along = hit_frustum(frusta, i, ox, oy, oz, dx, dy, dz, t_min, best)
            if t < best:
                best = t
                found = i
                where = along
        g += 1
    if found < 0:
        return NO_HIT, -1, 0.0
    return best, found, where


@leaf
def outline_normal(frusta: Array, i: int, along: float, x: float, z: float) -> tuple[float, float, float]:
    """Outward unit normal at a place on frustum i, the place being at (x, z) from the axis."""
    ny = frusta[i, FRUSTUM.NY0] * (1.0 - along) + frusta[i, FRUSTUM.NY1] * along
    nr = frusta[i, FRUSTUM.NR0] * (1.0 - along) + frusta[i, FRUSTUM.NR1] * along
    r = math.sqrt(x * x + z * z)
    if r > 1e-12:
        nx = nr * x / r
        nz = nr * z / r
    else:
        nx = 0.0
        nz = 0.0
    length = math.sqrt(nx * nx + ny * ny + nz * nz)
    if length < 1e-12:
        return 0.0, 1.0, 0.0
    return nx / length, ny / length, nz / length
