"""The part of the set that stands still while lights move, as plain arrays for the kernels, and how a ray meets it."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.geometry.flat import hit_flat
from fotaxis.core.geometry.mesh import hit_mesh
from fotaxis.core.geometry.revolution import hit_solid, outline_normal
from fotaxis.core.kernel import inlined, leaf
from fotaxis.core.optics.material import CLEAR
from fotaxis.core.optics.material import KIND as SKIN_KIND
from fotaxis.core.values import Array

Ints = NDArray[np.int64]

REVOLUTION, MESH = 0.0, 1.0
KIND, UPRIGHT, ZONED, PRODUCT, IS_CLEAR, HALF = 12, 13, 14, 16, 17, 18
BODY_COLUMNS = 21
"""Columns of a body: origin 0-2, its x, y, z axes in the world 3-11, kind, 1 when not turned, 1 when it has
zones, unused 15, number of the product it belongs to, 1 for a boundary between clear media, half width, height and
depth of a box (0: none)."""

AROUND = -1.0
"""Zone on a turned surface, by height and azimuth; 0 to 5: on the face a box turns to +x, -x, +y, -y, +z, -z."""


class Still(NamedTuple):
    """Bodies and flat surfaces with their skins; every array C-contiguous. Surfaces are numbered flats first, then bodies.

    stretches (n, 10), groups (g, 7)    see geometry.revolution.pack
    bodies (b, 21)                     see BODY_COLUMNS
    spans (b, 4) int64                 revolution: first and last stretch, first and last group; mesh: root of its tree
    bounds (b, 5)                      upright cylinder that holds the body: axis x, z, radius, lowest y, highest y
    flats (f, 24)                      see geometry.flat
    media_of (f + b, 2) int64          medium in front of a surface and behind it; -1 behind an opaque one
    zones (z, 8)                       body, face (AROUND or 0-5), middle and half width across (azimuth in radians or metres),
                                       middle and half height (metres), skin, 1 for an ellipse; the last that holds wins
    skin_of (f + b,) int64             skin where no zone holds
    skins (k, 28), media (m, 4)        see optics.material; medium 0 is air
    vertices, normals (v, 3), triangles (t, 3) int64, boxes (n, 6), links (n, 3) int64    see geometry.mesh
    """

    stretches: Array
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


@leaf
def to_local(bodies: Array, b: int, x: float, y: float, z: float) -> tuple[float, float, float]:
    """A direction of the world in the frame of body b."""
    return (
        bodies[b, 3] * x + bodies[b, 4] * y + bodies[b, 5] * z,
        bodies[b, 6] * x + bodies[b, 7] * y + bodies[b, 8] * z,
        bodies[b, 9] * x + bodies[b, 10] * y + bodies[b, 11] * z,
    )


@leaf
def to_world(bodies: Array, b: int, x: float, y: float, z: float) -> tuple[float, float, float]:
    """A direction of body b's frame in the world."""
    return (
        bodies[b, 3] * x + bodies[b, 6] * y + bodies[b, 9] * z,
        bodies[b, 4] * x + bodies[b, 7] * y + bodies[b, 10] * z,
        bodies[b, 5] * x + bodies[b, 8] * y + bodies[b, 11] * z,
    )


@inlined
def hit_body(
    still: Still, b: int, ox: float, oy: float, oz: float, dx: float, dy: float, dz: float, t_min: float, t_max: float
) -> tuple[float, int, float, float]:
    """Nearest hit with body b: t, stretch or triangle, and the place on it (along, 0) or corner weights; (inf, -1, 0, 0)."""
    bodies = still.bodies
    lx = ox - bodies[b, 0]
    ly = oy - bodies[b, 1]
    lz = oz - bodies[b, 2]
    if bodies[b, UPRIGHT] == 0.0:
        lx, ly, lz = to_local(bodies, b, lx, ly, lz)
        dx, dy, dz = to_local(bodies, b, dx, dy, dz)
    spans = still.spans
    if bodies[b, KIND] == REVOLUTION:
        t, i, along = hit_solid(
            still.stretches, still.groups, spans[b, 0], spans[b, 2], spans[b, 3],
            lx, ly, lz, dx, dy, dz, t_min, t_max,
        )  # fmt: skip
        return t, i, along, 0.0
    return hit_mesh(
        still.vertices, still.triangles, still.boxes, still.links, spans[b, 0], lx, ly, lz, dx, dy, dz, t_min, t_max
    )


@inlined
def nearest_still(
    still: Still, medium: int, ox: float, oy: float, oz: float, dx: float, dy: float, dz: float, t_min: float
) -> tuple[float, int, int, float, float]:
    """Nearest surface that borders on a medium: t, surface (-1 none), stretch or triangle, and place u, v on it.

    On a flat u, v run -1..1; on a turned body u is the place along the stretch; on a mesh both are corner weights.
    """
    best = math.inf
    surface = -1
    part = -1
    u = 0.0
    v = 0.0
    flats = still.flats
    media_of = still.media_of
    count = flats.shape[0]
    for k in range(count):
        if media_of[k, 0] != medium and media_of[k, 1] != medium:
            continue
        t, a, b = hit_flat(flats, k, ox, oy, oz, dx, dy, dz, t_min, best)
        if t < best:
            best, surface, u, v = t, k, a, b
    for s in range(still.bodies.shape[0]):
        if media_of[count + s, 0] != medium and media_of[count + s, 1] != medium:
            continue
        t, i, a, b = hit_body(still, s, ox, oy, oz, dx, dy, dz, t_min, best)
        if t < best:
            best, surface, part, u, v = t, count + s, i, a, b
    return best, surface, part, u, v


@inlined
def turn_between(begin: float, end: float) -> float:
    """The shorter way round from one azimuth to another, both within -pi..pi."""
    turn = end - begin
    if turn > math.pi:
        return turn - 2 * math.pi
    if turn < -math.pi:
        return turn + 2 * math.pi
    return turn


@inlined
def zone_at(still: Still, b: int, face: int, across: float, up: float) -> int:
    """The last zone of body b that holds a place, -1 for none. face AROUND: azimuth and height; else metres on that face."""
    zones = still.zones
    found = -1
    for k in range(zones.shape[0]):
        if zones[k, 0] != b or zones[k, 1] != face:
            continue
        a = across - zones[k, 2] if face >= 0 else turn_between(zones[k, 2], across)
        h = up - zones[k, 4]
        if abs(a) > zones[k, 3] or abs(h) > zones[k, 5]:
            continue
        if zones[k, 7] > 0.0 and (a / zones[k, 3]) ** 2 + (h / zones[k, 5]) ** 2 > 1.0:
            continue
        found = k
    return found


@leaf
def _some_zone_at(still: Still, b: int, up: float) -> bool:
    """May a zone around body b hold a place at this height? Saves the azimuth where none does."""
    zones = still.zones
    some = False
    for k in range(zones.shape[0]):
        some |= zones[k, 0] == b and abs(up - zones[k, 4]) <= zones[k, 5]
    return some


class Spot(NamedTuple):
    """A place on a surface: shading normal n, side normal g, axes t and w of its relief, u and v along them, skin, zone."""

    nx: float
    ny: float
    nz: float
    gx: float
    gy: float
    gz: float
    tx: float
    ty: float
    tz: float
    wx: float
    wy: float
    wz: float
    u: float
    v: float
    azimuth: float
    skin: int
    zone: int


@leaf
def _unit(x: float, y: float, z: float) -> tuple[float, float, float]:
    length = math.sqrt(x * x + y * y + z * z)
    if length < 1e-12:
        return 0.0, 1.0, 0.0
    return x / length, y / length, z / length


@inlined
def on_flat(still: Still, k: int, u: float, v: float) -> Spot:
    """The spot at a place on flat k, u and v -1..1."""
    f = still.flats
    return Spot(
        f[k, 9], f[k, 10], f[k, 11], f[k, 9], f[k, 10], f[k, 11], f[k, 3], f[k, 4], f[k, 5], f[k, 6], f[k, 7], f[k, 8],
        u * f[k, 12], v * f[k, 13], 0.0, still.skin_of[k], -1,
    )  # fmt: skip


@inlined
def on_turned(still: Still, b: int, stretch: int, along: float, lx: float, ly: float, lz: float) -> Spot:
    """The spot at a place (in the body's frame) on a stretch of turned body b; normals in the body's frame."""
    s = still.stretches
    nx, ny, nz = outline_normal(s, stretch, along, lx, lz)
    r = math.sqrt(lx * lx + lz * lz)
    gy = -(s[stretch, 3] - s[stretch, 1])
    gr = s[stretch, 2] - s[stretch, 0]
    scale = 1.0 / math.sqrt(gy * gy + gr * gr)
    gy *= scale
    gr *= scale
    cx = lx / r if r > 1e-12 else 0.0
    cz = lz / r if r > 1e-12 else 1.0
    gx = gr * cx
    gz = gr * cz
    # Inner walls and liquid tops have their normals on the other side of the chord.
    if gx * nx + gy * ny + gz * nz < 0.0:
        gx, gy, gz = -gx, -gy, -gz
    tx, ty, tz = cz, 0.0, -cx
    wx, wy, wz = ny * tz - nz * ty, nz * tx - nx * tz, nx * ty - ny * tx
    skin = still.skin_of[still.flats.shape[0] + b]
    zoned = still.bodies[b, ZONED] > 0.0 and _some_zone_at(still, b, ly)
    azimuth = 0.0
    zone = -1
    if zoned or still.skins[skin, SKIN_KIND] != CLEAR:
        azimuth = math.atan2(lx, lz)
    if zoned:
        zone = zone_at(still, b, -1, azimuth, ly)
    if zone >= 0:
        skin = int(still.zones[zone, 6])
    return Spot(nx, ny, nz, gx, gy, gz, tx, ty, tz, wx, wy, wz, azimuth * r, ly, azimuth, skin, zone)


@leaf
def on_mesh(still: Still, b: int, i: int, b1: float, b2: float, lx: float, ly: float, lz: float) -> Spot:
    """The spot at a place (in the body's frame) on triangle i of mesh b; normals in the body's frame."""
    p, q, r = still.triangles[i, 0], still.triangles[i, 1], still.triangles[i, 2]
    n = still.normals
    v = still.vertices
    b0 = 1.0 - b1 - b2
    nx, ny, nz = _unit(
        b0 * n[p, 0] + b1 * n[q, 0] + b2 * n[r, 0],
        b0 * n[p, 1] + b1 * n[q, 1] + b2 * n[r, 1],
        b0 * n[p, 2] + b1 * n[q, 2] + b2 * n[r, 2],
    )
    ex, ey, ez = v[q, 0] - v[p, 0], v[q, 1] - v[p, 1], v[q, 2] - v[p, 2]
    fx, fy, fz = v[r, 0] - v[p, 0], v[r, 1] - v[p, 1], v[r, 2] - v[p, 2]
    gx, gy, gz = _unit(ey * fz - ez * fy, ez * fx - ex * fz, ex * fy - ey * fx)
    if gx * nx + gy * ny + gz * nz < 0.0:
        gx, gy, gz = -gx, -gy, -gz
    ax, ay, az = abs(gx), abs(gy), abs(gz)
    skin = still.skin_of[still.flats.shape[0] + b]
    boxed = still.bodies[b, HALF] > 0.0
    if ay > ax and ay > az:
        face, u, w = (2 if gy > 0 else 3), lx, lz
        tx, ty, tz = _unit(1.0 - nx * nx, -nx * ny, -nx * nz)
        wx, wy, wz = _unit(-nz * nx, -nz * ny, 1.0 - nz * nz)
    elif ax > az:
        face, u, w = (0 if gx > 0 else 1), lz, ly
        tx, ty, tz = _unit(-nz * nx, -nz * ny, 1.0 - nz * nz)
        wx, wy, wz = _unit(-ny * nx, 1.0 - ny * ny, -ny * nz)
    else:
        face, u, w = (4 if gz > 0 else 5), lx, ly
        tx, ty, tz = _unit(1.0 - nx * nx, -nx * ny, -nx * nz)
        wx, wy, wz = _unit(-ny * nx, 1.0 - ny * ny, -ny * nz)
    zone = -1
    azimuth = 0.0
    if still.bodies[b, ZONED] > 0.0:
        if boxed:
            zone = zone_at(still, b, face, u, w)
        else:
            azimuth = math.atan2(lx, lz)
            zone = zone_at(still, b, -1, azimuth, ly)
    if zone >= 0:
        skin = int(still.zones[zone, 6])
    return Spot(nx, ny, nz, gx, gy, gz, tx, ty, tz, wx, wy, wz, u, w, azimuth, skin, zone)


@inlined
def spot_at(still: Still, surface: int, part: int, u: float, v: float, x: float, y: float, z: float) -> Spot:
    """The spot where a ray met a surface, in the world."""
    count = still.flats.shape[0]
    if surface < count:
        return on_flat(still, surface, u, v)
    b = surface - count
    bodies = still.bodies
    lx, ly, lz = x - bodies[b, 0], y - bodies[b, 1], z - bodies[b, 2]
    turned = bodies[b, UPRIGHT] == 0.0
    if turned:
        lx, ly, lz = to_local(bodies, b, lx, ly, lz)
    if bodies[b, KIND] == REVOLUTION:
        s = on_turned(still, b, part, u, lx, ly, lz)
    else:
        s = on_mesh(still, b, part, u, v, lx, ly, lz)
    if not turned:
        return s
    nx, ny, nz = to_world(bodies, b, s.nx, s.ny, s.nz)
    gx, gy, gz = to_world(bodies, b, s.gx, s.gy, s.gz)
    tx, ty, tz = to_world(bodies, b, s.tx, s.ty, s.tz)
    wx, wy, wz = to_world(bodies, b, s.wx, s.wy, s.wz)
    return Spot(nx, ny, nz, gx, gy, gz, tx, ty, tz, wx, wy, wz, s.u, s.v, s.azimuth, s.skin, s.zone)
