"""Lights and cards so thin, or so far mirrored, that they slip between the rays of two neighbouring pixels, or nearly."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import FLAT, SEGMENT
from fotaxis.core.geometry.planar import BALL
from fotaxis.core.kernel import kernel, leaf
from fotaxis.core.render.arrays.emitters import Emitters
from fotaxis.core.render.arrays.path_records import TracedPaths
from fotaxis.core.render.parallel import in_bands
from fotaxis.core.values import Array

LOOKED_AT = 2
"""Of each pixel so many segments are looked at: the ray of the camera itself, and what the first surface mirrors."""

THIN = 1.0
"""From pixel to pixel at least so far on the face, whose half width is 1: it is narrower than two pixels."""


@leaf
def _crosses_square(u0: float, v0: float, u1: float, v1: float) -> bool:
    """Does the straight line between two places touch the square -1..1?   Source: Liang & Barsky 1984."""
    low, high = 0.0, 1.0
    for begin, end in ((u0, u1), (v0, v1)):
        step = end - begin
        if step == 0.0:
            if abs(begin) > 1.0:
                return False
            continue
        a, b = (-1.0 - begin) / step, (1.0 - begin) / step
        low, high = max(low, min(a, b)), min(high, max(a, b))
    return low < high


@leaf
def _place_on(flats: Array, k: int, segments: NDArray[np.float32], n: int) -> tuple[float, float, float]:
    """Where segment n, made longer than it is, meets the plane of face k: u, v and the length to it; -1 where it does not."""
    dx, dy, dz = segments[n, SEGMENT.DX], segments[n, SEGMENT.DY], segments[n, SEGMENT.DZ]
    ox, oy, oz = segments[n, SEGMENT.OX], segments[n, SEGMENT.OY], segments[n, SEGMENT.OZ]
    toward = dx * flats[k, FLAT.NX] + dy * flats[k, FLAT.NY] + dz * flats[k, FLAT.NZ]
    if abs(toward) < 1e-6:
        return 0.0, 0.0, -1.0
    t = (flats[k, FLAT.PLANE] - ox * flats[k, FLAT.NX] - oy * flats[k, FLAT.NY] - oz * flats[k, FLAT.NZ]) / toward
    x, y, z = ox + t * dx, oy + t * dy, oz + t * dz
    u = x * flats[k, FLAT.U_X] + y * flats[k, FLAT.U_Y] + z * flats[k, FLAT.U_Z] - flats[k, FLAT.U_0]
    v = x * flats[k, FLAT.V_X] + y * flats[k, FLAT.V_Y] + z * flats[k, FLAT.V_Z] - flats[k, FLAT.V_0]
    return u, v, t


@kernel
def _find(
    flats: Array, faces: NDArray[np.int64], segments: NDArray[np.float32], starts: NDArray[np.int64], route: NDArray[np.int32],
    width: int, begin: int, end: int, found: NDArray[np.bool_],
) -> None:  # fmt: skip
    pixels = len(starts) - 1
    for p in range(begin, end):
        for beside in range(2):
            q = p + 1 if beside == 0 else p + width
            if q >= pixels or (beside == 0 and (p + 1) % width == 0) or route[p] != route[q] or (found[p] and found[q]):
                continue
            for level in range(min(LOOKED_AT, min(starts[p + 1] - starts[p], starts[q + 1] - starts[q]))):
                i, j = starts[p] + level, starts[q] + level
                for face in range(len(faces)):
                    k = faces[face]
                    u0, v0, t0 = _place_on(flats, k, segments, i)
                    if t0 <= 0.0 or t0 >= segments[i, SEGMENT.LENGTH]:
                        continue
                    u1, v1, t1 = _place_on(flats, k, segments, j)
                    if t1 <= 0.0 or t1 >= segments[j, SEGMENT.LENGTH]:
                        continue
                    if max(abs(u1 - u0), abs(v1 - v0)) > THIN and _crosses_square(u0, v0, u1, v1):
                        found[p] = found[q] = True


def slipped_through(traced: TracedPaths, emitters: Emitters, *, width: int) -> NDArray[np.bool_]:
    """Pixels beside which a face narrower than two pixels lies, (pixels,): how much of it shows only many samples find.

    traced: a picture of that many pixels across. Balls are left out: their faces do not lie in a plane.
    """
    found = np.zeros(len(traced.starts) - 1, np.bool_)
    faces = np.flatnonzero(emitters.flats[: len(emitters.light), FLAT.SHAPE] != BALL)
    if len(faces):
        in_bands(
            lambda a, b: _find(emitters.flats, faces, traced.segments, traced.starts, traced.route, width, a, b, found),
            len(found),
        )
    return found
