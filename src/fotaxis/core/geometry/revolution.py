"""Rays against solids of revolution: exact cones around an axis, normals interpolated along the outline."""

from __future__ import annotations

import math

import numpy as np

from fotaxis.core.geometry.profile import Outline
from fotaxis.core.kernel import inlined, leaf
from fotaxis.core.values import Array

GROUP = 8
"""Stretches bounded together; a ray tests the bound first."""

STEEP = 0.1
"""A ray that may meet more than this part of a solid's height tests the bound of every group."""

NO_HIT = math.inf


def pack(outline: Outline) -> tuple[Array, Array]:
    """Stretches (n, 8) and bounds (1 + ceil(n / 8), 3) of an outline, float64, as the kernels read them.

    A stretch is y0, r0, y1, r1, then the outward normal (y, r) at both ends; a bound is lowest y, highest y, widest r:
    first of the whole, then of every GROUP stretches.
    Metres; y counted from the solid's own foot line.
    """
    p, normals = outline.points, outline.normals
    stretches = np.concatenate([p[:-1], p[1:], normals[:, 0], normals[:, 1]], axis=1)
    groups = [[p[:, 0].min(), p[:, 0].max(), p[:, 1].max()]]
    for start in range(0, len(stretches), GROUP):
        part = stretches[start : start + GROUP]
        ys = part[:, [0, 2]]
        groups.append([ys.min(), ys.max(), part[:, [1, 3]].max()])
    return np.ascontiguousarray(stretches), np.array(groups)


@inlined
def heights_inside(
    ox: float, oy: float, oz: float, dx: float, dy: float, dz: float,
    low: float, high: float, radius: float, t_min: float, t_max: float,
) -> tuple[float, float]:  # fmt: skip
    """Lowest and highest y a ray has inside an upright cylinder within t_min..t_max; (1, -1) when it misses it."""
    if dy == 0.0:
        if oy < low or oy > high:
            return 1.0, -1.0
    else:
        inverse = 1.0 / dy
        t0 = (low - oy) * inverse
        t1 = (high - oy) * inverse
        if t0 > t1:
            t0, t1 = t1, t0
        t_min = max(t_min, t0 - 1e-9)
        t_max = min(t_max, t1 + 1e-9)
        if t_min > t_max:
            return 1.0, -1.0
    a = dx * dx + dz * dz
    c = ox * ox + oz * oz - radius * radius
    if a < 1e-18:
        if c > 0.0:
            return 1.0, -1.0
        return low, high
    b = ox * dx + oz * dz
    disc = b * b - a * c
    if disc < 0.0:
        return 1.0, -1.0
    root = math.sqrt(disc)
    t_min = max(t_min, (-b - root) / a)
    t_max = min(t_max, (-b + root) / a)
    if t_min > t_max:
        return 1.0, -1.0
    y0 = oy + t_min * dy
    y1 = oy + t_max * dy
    return min(y0, y1) - 1e-9, max(y0, y1) + 1e-9


@inlined
def slab_and_tube(
    ox: float, oy: float, oz: float, dx: float, dy: float, dz: float,
    low: float, high: float, radius: float, t_min: float, t_max: float,
) -> bool:  # fmt: skip
    """Does the ray meet the upright cylinder low <= y <= high within t_min..t_max? Axis through the origin."""
    lowest, highest = heights_inside(ox, oy, oz, dx, dy, dz, low, high, radius, t_min, t_max)
    return lowest <= highest


@leaf
def hit_stretch(
    stretches: Array, i: int,
    ox: float, oy: float, oz: float, dx: float, dy: float, dz: float, t_min: float, t_max: float,
) -> tuple[float, float]:  # fmt: skip
    """Nearest t in (t_min, t_max) on one cone stretch and the place 0..1 along it; (inf, 0) for none.

    With k = (r1 - r0) / (y1 - y0) the cone is x^2 + z^2 = (r0 + k (y - y0))^2, a quadratic in t.
    """
    y0 = stretches[i, 0]
    r0 = stretches[i, 1]
    y1 = stretches[i, 2]
    r1 = stretches[i, 3]
    rise = y1 - y0
    if abs(rise) < 1e-9:
        if dy == 0.0:
            return NO_HIT, 0.0
        t = (y0 - oy) / dy
        if t <= t_min or t >= t_max:
            return NO_HIT, 0.0
        r = math.hypot(ox + t * dx, oz + t * dz)
        if r < min(r0, r1) or r > max(r0, r1):
            return NO_HIT, 0.0
        return t, (r - r0) / (r1 - r0)
    k = (r1 - r0) / rise
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
        along = (oy + near * dy - y0) / rise
        if -1e-9 <= along <= 1.0 + 1e-9:
            return near, along
    if far > t_min and far < t_max:
        along = (oy + far * dy - y0) / rise
        if -1e-9 <= along <= 1.0 + 1e-9:
            return far, along
    return NO_HIT, 0.0


@inlined
def hit_solid(
    stretches: Array, groups: Array, first: int, last: int, group_first: int, group_last: int,
    ox: float, oy: float, oz: float, dx: float, dy: float, dz: float, t_min: float, t_max: float,
) -> tuple[float, int, float]:  # fmt: skip
    """Nearest hit of a ray with one solid: t, stretch number, place along it; (inf, -1, 0) for none.

    Ray in the solid's own frame (axis x = z = 0, foot line y = 0), metres. The solid owns stretches[first:last]
    and groups[group_first:group_last].
    """
    best = t_max
    found = -1
    where = 0.0
    g = group_first
    low, high = heights_inside(ox, oy, oz, dx, dy, dz, groups[g, 0], groups[g, 1], groups[g, 2], t_min, t_max)
    if low > high:
        return NO_HIT, -1, 0.0
    steep = high - low > STEEP * (groups[g, 1] - groups[g, 0])
    for g in range(group_first + 1, group_last):
        if groups[g, 0] > high or groups[g, 1] < low:
            continue
        if steep and not slab_and_tube(ox, oy, oz, dx, dy, dz, groups[g, 0], groups[g, 1], groups[g, 2], t_min, best):
            continue
        start = first + (g - group_first - 1) * GROUP
        for i in range(start, min(start + GROUP, last)):
            y0 = stretches[i, 0]
            y1 = stretches[i, 2]
            if (y0 > high and y1 > high) or (y0 < low and y1 < low):
                continue
            t, along = hit_stretch(stretches, i, ox, oy, oz, dx, dy, dz, t_min, best)
            if t < best:
                best = t
                found = i
                where = along
    if found < 0:
        return NO_HIT, -1, 0.0
    return best, found, where


@leaf
def outline_normal(stretches: Array, i: int, along: float, x: float, z: float) -> tuple[float, float, float]:
    """Outward unit normal at a place on stretch i, the place being at (x, z) from the axis."""
    ny = stretches[i, 4] * (1.0 - along) + stretches[i, 6] * along
    nr = stretches[i, 5] * (1.0 - along) + stretches[i, 7] * along
    r = math.hypot(x, z)
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
