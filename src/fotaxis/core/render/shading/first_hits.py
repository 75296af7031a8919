"""Which emitter a segment of a path ends on, and what nets and gels before it leave."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import FLAT, SEGMENT
from fotaxis.core.geometry.planar import BALL, hit_flat
from fotaxis.core.kernel import kernel, leaf
from fotaxis.core.render.arrays.emitters import (
    Emitters,
    transmittance,
)
from fotaxis.core.render.arrays.path_records import TracedPaths
from fotaxis.core.render.arrays.static_scene import Ints
from fotaxis.core.values import Array

MOST_ATTENUATED = 16
"""Segments on one way that pass through nets or gels; further ones are not dimmed any more."""


@kernel
def attenuation_stack() -> tuple[Array, Ints]:
    """What is left R, G, B of the light behind the veils passed so far, (17, 3), and the segments they hold for, (16,)."""
    return np.ones((MOST_ATTENUATED + 1, 3)), np.zeros(MOST_ATTENUATED, np.int64)


class View(NamedTuple):
    """What may be met first, and whether nets or gels stand about: in_view (i,) int64, see view_frustum.in_frustum; from_camera: do
    the paths begin there; met: what is known of first hits; attenuates: does any emitter let light through unspread; carried (c,):
    faces of lamps that are moved."""

    in_view: Ints
    from_camera: bool
    met: FirstHits
    attenuates: bool
    carried: Ints


class FirstHits(NamedTuple):
    """What every segment ends on of the things that stay where they are while others are moved; empty where it is not known.

    moved (m,) int64: the others; found (segments,) int16: -1 for none.
    """

    moved: Ints
    found: NDArray[np.int16]


NO_FIRST_HITS = FirstHits(moved=np.empty(0, np.int64), found=np.empty(0, np.int16))


@leaf
def nearest_emitter(
    emitters: Emitters, count: int, in_view: Ints, met: FirstHits, segments: NDArray[np.float32], n: int, first: bool
) -> tuple[int, float, float, float]:
    """The movable thing that segment n ends on, the place on it and how far away; -1 for none.

    The first segment of a path leaves the camera: only what stands in its field can be met there. Veils do not end it.
    """
    flats, veil = emitters.flats, emitters.veil
    ox, oy, oz = float(segments[n, SEGMENT.OX]), float(segments[n, SEGMENT.OY]), float(segments[n, SEGMENT.OZ])
    dx, dy, dz = float(segments[n, SEGMENT.DX]), float(segments[n, SEGMENT.DY]), float(segments[n, SEGMENT.DZ])
    best = float(segments[n, SEGMENT.LENGTH])
    found = -1
    u = 0.0
    v = 0.0
    some = in_view if first else met.moved
    every = not first
    if met.found.shape[0] > 0:
        some = met.moved
        every = False
        k = int(met.found[n])
        if k >= 0:
            best, u, v = hit_flat(flats, k, ox, oy, oz, dx, dy, dz, 1e-5, best)
            found = k
    for j in range(count if every else some.shape[0]):
        k = j if every else some[j]
        if veil[k, 1] > 0.0:
            continue
        t, a, b = hit_flat(flats, k, ox, oy, oz, dx, dy, dz, 1e-5, best)
        if t < best:
            best, found, u, v = t, k, a, b
    return found, u, v, best


@kernel
def _first_emitter(
    emitters: Emitters, staying: Ints, segments: NDArray[np.float32], begin: int, end: int, found: NDArray[np.int16]
) -> None:
    met = FirstHits(staying[:0], found[:0])
    for n in range(begin, end):
        k, _, _, _ = nearest_emitter(emitters, 0, staying, met, segments, n, True)
        found[n] = k


def first_emitters(
    emitters: Emitters, staying: Ints, traced: TracedPaths, begin: int, end: int, found: NDArray[np.int16]
) -> None:
    """Fill Met.found for segments begin..end, of the things `staying` where they are."""
    _first_emitter(emitters, staying, traced.segments, begin, end, found)


@leaf
def swept_share(
    flats: Array, sweep: Array, k: int, segments: NDArray[np.float32], n: int, reach: float
) -> tuple[float, float, float]:
    """For what share of the time that carried face k stands for, segment n meets it before `reach` metres, and where on it in the
    middle of that time.

    The face keeps how it is turned: its middle at c + s w, -1/2 <= s <= 1/2, a place on it is met while a quadratic in s is below 0.
    """
    ox, oy, oz = float(segments[n, SEGMENT.OX]), float(segments[n, SEGMENT.OY]), float(segments[n, SEGMENT.OZ])
    dx, dy, dz = float(segments[n, SEGMENT.DX]), float(segments[n, SEGMENT.DY]), float(segments[n, SEGMENT.DZ])
    cx, cy, cz = flats[k, FLAT.X] - ox, flats[k, FLAT.Y] - oy, flats[k, FLAT.Z] - oz
    wx, wy, wz = sweep[k, 0], sweep[k, 1], sweep[k, 2]
    radius = flats[k, FLAT.HALF_WIDTH]
    if flats[k, FLAT.SHAPE] == BALL:
        # Distance of the middle from the ray.
        at, moves = cx * dx + cy * dy + cz * dz, wx * dx + wy * dy + wz * dz
        ax, ay, az = cx - at * dx, cy - at * dy, cz - at * dz
        bx, by, bz = wx - moves * dx, wy - moves * dy, wz - moves * dz
    else:
        # Where the ray meets the face's plane, from the middle.
        nx, ny, nz = flats[k, FLAT.NX], flats[k, FLAT.NY], flats[k, FLAT.NZ]
        into = dx * nx + dy * ny + dz * nz
        if abs(into) < 1e-9:
            return 0.0, 0.0, 0.0
        at, moves = (cx * nx + cy * ny + cz * nz) / into, (wx * nx + wy * ny + wz * nz) / into
        ax, ay, az = at * dx - cx, at * dy - cy, at * dz - cz
        bx, by, bz = moves * dx - wx, moves * dy - wy, moves * dz - wz
    a2, ab, b2 = ax * ax + ay * ay + az * az, ax * bx + ay * by + az * bz, bx * bx + by * by + bz * bz
    low, high = -0.5, 0.5
    if b2 > 1e-16:
        rest = ab * ab - b2 * (a2 - radius * radius)
        if rest <= 0.0:
            return 0.0, 0.0, 0.0
        root = math.sqrt(rest)
        low, high = max(low, (-ab - root) / b2), min(high, (-ab + root) / b2)
    elif a2 > radius * radius:
        return 0.0, 0.0, 0.0
    s = 0.5 * (low + high)
    t = at + s * moves
    if high <= low or t <= 1e-5 or t >= reach:
        return 0.0, 0.0, 0.0
    px, py, pz = ax + s * bx, ay + s * by, az + s * bz
    u = (px * flats[k, FLAT.AX] + py * flats[k, FLAT.AY] + pz * flats[k, FLAT.AZ]) / radius
    v = (px * flats[k, FLAT.UX] + py * flats[k, FLAT.UY] + pz * flats[k, FLAT.UZ]) / radius
    return high - low, u, v


@leaf
def attenuate_by_veils(
    emitters: Emitters, in_view: Ints, segments: NDArray[np.float32], n: int, first: bool, reach: float, dim: Array
) -> None:
    """Multiply dim (3,) by what nets and gels before the first `reach` metres of segment n let through."""
    veil = emitters.veil
    ox, oy, oz = float(segments[n, SEGMENT.OX]), float(segments[n, SEGMENT.OY]), float(segments[n, SEGMENT.OZ])
    dx, dy, dz = float(segments[n, SEGMENT.DX]), float(segments[n, SEGMENT.DY]), float(segments[n, SEGMENT.DZ])
    for j in range(in_view.shape[0] if first else veil.shape[0]):
        k = in_view[j] if first else j
        if veil[k, 1] <= 0.0 or emitters.light[k] >= 0:
            continue
        t, _, _ = hit_flat(emitters.flats, k, ox, oy, oz, dx, dy, dz, 1e-5, reach)
        if t < reach:
            for c in range(3):
                dim[c] *= transmittance(emitters.flats, veil, k, c, dx, dy, dz)
