"""The part of the set that stands still while lights move, as plain arrays for the kernels, and how a ray meets it."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import BODY, SPAN
from fotaxis.core.geometry.mesh import hit_mesh
from fotaxis.core.geometry.planar import hit_flat
from fotaxis.core.geometry.rays import Ray
from fotaxis.core.geometry.revolution import hit_solid
from fotaxis.core.kernel import inlined, leaf
from fotaxis.core.values import Array

Ints = NDArray[np.int64]

REVOLUTION, MESH = 0.0, 1.0
"""Columns of a body: origin 0-2, its x, y, z axes in the world 3-11, kind, 1 when not turned, 1 when it has
zones, unused 15, number of the product it belongs to, 1 for a boundary between clear media, half width, height and
depth of a box (0: none)."""

AROUND = -1.0
"""Zone on a turned surface, by height and azimuth; 0 to 5: on the face a box turns to +x, -x, +y, -y, +z, -z."""


class StaticScene(NamedTuple):
    """Bodies and flat surfaces with their skins; every array C-contiguous. Surfaces are numbered flats first, then bodies.

    frusta (n, 10), groups (g, 7)    see geometry.revolution.pack
    bodies (b, 21)                     see columns.body
    spans (b, 4) int64                 revolution: first and last frustum, first and last group; mesh: root of its tree
    bounds (b, 5)                      upright cylinder that holds the body: axis x, z, radius, lowest y, highest y
    flats (f, 24)                      see geometry.flat
    media_of (f + b, 2) int64          medium in front of a surface and behind it; -1 behind an opaque one
    zones (z, 12)                      see columns.zone: face AROUND or 0-5; the last that holds wins
    skin_of (f + b,) int64             skin where no zone holds
    skins (k, 28), media (m, 4)        see optics.material; medium 0 is air
    coat_albedo (k, 97)                what rough coats over matte skins mirror of an even surround, see bsdf.rough_coat_albedo
    frustum_patch (n,), triangle_patch (t,) int64    smooth patch of its body that each lies in: creases part them
    artworks (n, 5) int64, texels (t, 6) uint8, pressed (p, 2) float32    see materials.artwork; pressed: rise per texel
    vertices, normals (v, 3), triangles (t, 3) int64, boxes (n, 6), links (n, 3) int64    see geometry.mesh
    """

    frusta: Array
    groups: Array
    bodies: Array
    spans: Ints
    bounds: Array
    flats: Array
    media_of: Ints
    zones: Array
    skin_of: Ints
    skins: Array
    media: Array
    vertices: Array
    normals: Array
    triangles: Ints
    boxes: Array
    links: Ints
    frustum_patch: Ints
    triangle_patch: Ints
    coat_albedo: Array
    artworks: Ints
    texels: NDArray[np.uint8]
    pressed: NDArray[np.float32]


@leaf
def to_local(bodies: Array, b: int, x: float, y: float, z: float) -> tuple[float, float, float]:
    """A direction of the world in the frame of body b."""
    return (
        bodies[b, BODY.XX] * x + bodies[b, BODY.XY] * y + bodies[b, BODY.XZ] * z,
        bodies[b, BODY.YX] * x + bodies[b, BODY.YY] * y + bodies[b, BODY.YZ] * z,
        bodies[b, BODY.ZX] * x + bodies[b, BODY.ZY] * y + bodies[b, BODY.ZZ] * z,
    )


@leaf
def to_world(bodies: Array, b: int, x: float, y: float, z: float) -> tuple[float, float, float]:
    """A direction of body b's frame in the world."""
    return (
        bodies[b, BODY.XX] * x + bodies[b, BODY.YX] * y + bodies[b, BODY.ZX] * z,
        bodies[b, BODY.XY] * x + bodies[b, BODY.YY] * y + bodies[b, BODY.ZY] * z,
        bodies[b, BODY.XZ] * x + bodies[b, BODY.YZ] * y + bodies[b, BODY.ZZ] * z,
    )


@inlined
def hit_body(
    scene: StaticScene, b: int, ox: float, oy: float, oz: float, dx: float, dy: float, dz: float, t_min: float, t_max: float
) -> tuple[float, int, float, float]:
    """Nearest hit with body b: t, frustum or triangle, and the place on it (along, 0) or corner weights; (inf, -1, 0, 0)."""
    bodies = scene.bodies
    lx = ox - bodies[b, BODY.X]
    ly = oy - bodies[b, BODY.Y]
    lz = oz - bodies[b, BODY.Z]
    if bodies[b, BODY.UPRIGHT] == 0.0:
        lx, ly, lz = to_local(bodies, b, lx, ly, lz)
        dx, dy, dz = to_local(bodies, b, dx, dy, dz)
    spans = scene.spans
    if bodies[b, BODY.KIND] == REVOLUTION:
        t, i, along = hit_solid(
            scene.frusta, scene.groups, spans[b, SPAN.FIRST], spans[b, SPAN.FIRST_GROUP], spans[b, SPAN.END_GROUP],
            Ray(lx, ly, lz, dx, dy, dz), t_min, t_max,
        )  # fmt: skip
        return t, i, along, 0.0
    return hit_mesh(
        scene.vertices,
        scene.triangles,
        scene.boxes,
        scene.links,
        spans[b, SPAN.ROOT],
        Ray(lx, ly, lz, dx, dy, dz),
        t_min,
        t_max,
    )


@inlined
def nearest_surface(
    scene: StaticScene, medium: int, ox: float, oy: float, oz: float, dx: float, dy: float, dz: float, t_min: float
) -> tuple[float, int, int, float, float]:
    """Nearest surface that borders on a medium: t, surface (-1 none), frustum or triangle, and place u, v on it.

    On a flat u, v run -1..1; on a turned body u is the place along the frustum; on a mesh both are corner weights.
    """
    best = math.inf
    surface = -1
    part = -1
    u = 0.0
    v = 0.0
    flats = scene.flats
    media_of = scene.media_of
    count = flats.shape[0]
    for k in range(count):
        if media_of[k, 0] != medium and media_of[k, 1] != medium:
            continue
        t, a, b = hit_flat(flats, k, ox, oy, oz, dx, dy, dz, t_min, best)
        if t < best:
            best, surface, u, v = t, k, a, b
    for s in range(scene.bodies.shape[0]):
        if media_of[count + s, 0] != medium and media_of[count + s, 1] != medium:
            continue
        t, i, a, b = hit_body(scene, s, ox, oy, oz, dx, dy, dz, t_min, best)
        if t < best:
            best, surface, part, u, v = t, count + s, i, a, b
    return best, surface, part, u, v
