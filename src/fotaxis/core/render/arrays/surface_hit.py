"""The spot where a ray met a surface of the scene that stands still: normals, zone and its picture, skin, slopes of its relief."""

from __future__ import annotations

import math
from typing import NamedTuple

from fotaxis.core.columns import BODY, BOUNDS, FLAT, FRUSTUM, ZONE
from fotaxis.core.geometry.revolution import outline_normal
from fotaxis.core.kernel import inlined, leaf
from fotaxis.core.materials import artwork as art
from fotaxis.core.materials.artwork import on_picture, value_at
from fotaxis.core.materials.bump import EMBOSS, PRESSED, rim_slopes, slopes
from fotaxis.core.materials.material import CLEAR, DEPTH, PERIOD, RELIEF
from fotaxis.core.materials.material import KIND as SKIN_KIND
from fotaxis.core.render.arrays.static_scene import REVOLUTION, StaticScene, to_local, to_world


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
def zone_at(scene: StaticScene, b: int, face: int, across: float, up: float) -> tuple[int, float, float]:
    """The last zone of body b that holds a place, -1 for none, and the place on its picture, 0..1 from the left and from the top.

    face AROUND: azimuth and height; else metres on that face.
    """
    zones = scene.zones
    found = -1
    at_s, at_t = 0.0, 0.0
    for k in range(zones.shape[0]):
        if zones[k, ZONE.BODY] != b or zones[k, ZONE.FACE] != face:
            continue
        a = across - zones[k, ZONE.ACROSS] if face >= 0 else turn_between(zones[k, ZONE.ACROSS], across)
        h = up - zones[k, ZONE.HEIGHT]
        if abs(a) > zones[k, ZONE.HALF_WIDTH] or abs(h) > zones[k, ZONE.HALF_HEIGHT]:
            continue
        if (
            zones[k, ZONE.ELLIPSE] > 0.0
            and (a / zones[k, ZONE.HALF_WIDTH]) ** 2 + (h / zones[k, ZONE.HALF_HEIGHT]) ** 2 > 1.0
        ):
            continue
        s, t = on_picture(zones[k, ZONE.FACE], a / zones[k, ZONE.HALF_WIDTH], h / zones[k, ZONE.HALF_HEIGHT])
        picture = int(zones[k, ZONE.PICTURE])
        if picture >= 0 and zones[k, ZONE.CUT] > 0.0:
            cover = value_at(scene.artworks, scene.texels, picture, 0, s, t, art.COVER)
            if max(cover, value_at(scene.artworks, scene.texels, picture, 0, s, t, art.FOIL)) < 0.5:
                continue
        found = k
        at_s, at_t = s, t
    return found, at_s, at_t


@leaf
def zone_skin(scene: StaticScene, zone: int, s: float, t: float) -> int:
    """The skin of a place on a zone's picture: its foil where the mask says so, its varnish, else the zone's own."""
    zones = scene.zones
    picture = int(zones[zone, ZONE.PICTURE])
    if picture >= 0:
        if zones[zone, ZONE.FOIL] >= 0.0 and value_at(scene.artworks, scene.texels, picture, 0, s, t, art.FOIL) >= 0.5:
            return int(zones[zone, ZONE.FOIL])
        if zones[zone, ZONE.VARNISH] >= 0.0 and value_at(scene.artworks, scene.texels, picture, 0, s, t, art.VARNISH) >= 0.5:
            return int(zones[zone, ZONE.VARNISH])
    return int(zones[zone, ZONE.SKIN])


@leaf
def _some_zone_at(scene: StaticScene, b: int, up: float) -> bool:
    """May a zone around body b hold a place at this height? Saves the azimuth where none does."""
    zones = scene.zones
    some = False
    for k in range(zones.shape[0]):
        some |= zones[k, ZONE.BODY] == b and abs(up - zones[k, ZONE.HEIGHT]) <= zones[k, ZONE.HALF_HEIGHT]
    return some


class SurfaceHit(NamedTuple):
    """A place on a surface: shading normal n, side normal g, axes t and w of its relief, u and v along them, skin,
    zone, smooth patch of the body, and where on its zone's picture it lies."""

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
    patch: int
    picture_s: float
    picture_t: float


@leaf
def _unit(x: float, y: float, z: float) -> tuple[float, float, float]:
    length = math.sqrt(x * x + y * y + z * z)
    if length < 1e-12:
        return 0.0, 1.0, 0.0
    return x / length, y / length, z / length


@inlined
def hit_on_planar(scene: StaticScene, k: int, u: float, v: float) -> SurfaceHit:
    """The spot at a place on flat k, u and v -1..1."""
    f = scene.flats
    return SurfaceHit(
        f[k, FLAT.NX], f[k, FLAT.NY], f[k, FLAT.NZ], f[k, FLAT.NX], f[k, FLAT.NY], f[k, FLAT.NZ], f[k, FLAT.AX], f[k, FLAT.AY],
        f[k, FLAT.AZ], f[k, FLAT.UX], f[k, FLAT.UY], f[k, FLAT.UZ],
        u * f[k, FLAT.HALF_WIDTH], v * f[k, FLAT.HALF_HEIGHT], 0.0, scene.skin_of[k], -1, 0, 0.0, 0.0,
    )  # fmt: skip


@inlined
def hit_on_revolution(scene: StaticScene, b: int, frustum: int, along: float, lx: float, ly: float, lz: float) -> SurfaceHit:
    """The spot at a place (in the body's frame) on a frustum of turned body b; normals in the body's frame."""
    s = scene.frusta
    nx, ny, nz = outline_normal(s, frustum, along, lx, lz)
    r = math.sqrt(lx * lx + lz * lz)
    gy = -(s[frustum, FRUSTUM.R1] - s[frustum, FRUSTUM.R0])
    gr = s[frustum, FRUSTUM.Y1] - s[frustum, FRUSTUM.Y0]
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
    skin = scene.skin_of[scene.flats.shape[0] + b]
    zoned = scene.bodies[b, BODY.ZONED] > 0.0 and _some_zone_at(scene, b, ly)
    azimuth = 0.0
    zone = -1
    picture_s, picture_t = 0.0, 0.0
    if zoned or scene.skins[skin, SKIN_KIND] != CLEAR:
        azimuth = math.atan2(lx, lz)
    if zoned:
        zone, picture_s, picture_t = zone_at(scene, b, -1, azimuth, ly)
    if zone >= 0:
        skin = zone_skin(scene, zone, picture_s, picture_t)
    return SurfaceHit(
        nx, ny, nz, gx, gy, gz, tx, ty, tz, wx, wy, wz, azimuth * r, ly, azimuth, skin, zone, scene.frustum_patch[frustum],
        picture_s, picture_t,
    )  # fmt: skip


@leaf
def hit_on_mesh(scene: StaticScene, b: int, i: int, b1: float, b2: float, lx: float, ly: float, lz: float) -> SurfaceHit:
    """The spot at a place (in the body's frame) on triangle i of mesh b; normals in the body's frame."""
    p, q, r = scene.triangles[i, 0], scene.triangles[i, 1], scene.triangles[i, 2]
    n = scene.normals
    v = scene.vertices
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
    skin = scene.skin_of[scene.flats.shape[0] + b]
    boxed = scene.bodies[b, BODY.HALF] > 0.0
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
    picture_s, picture_t = 0.0, 0.0
    if scene.bodies[b, BODY.ZONED] > 0.0:
        zone, picture_s, picture_t = zone_at(scene, b, face, u, w)
        if zone < 0 and not boxed:
            azimuth = math.atan2(lx, lz)
            zone, picture_s, picture_t = zone_at(scene, b, -1, azimuth, ly)
    if zone >= 0:
        skin = zone_skin(scene, zone, picture_s, picture_t)
    return SurfaceHit(
        nx,
        ny,
        nz,
        gx,
        gy,
        gz,
        tx,
        ty,
        tz,
        wx,
        wy,
        wz,
        u,
        w,
        azimuth,
        skin,
        zone,
        scene.triangle_patch[i],
        picture_s,
        picture_t,
    )


@inlined
def surface_hit_at(
    scene: StaticScene, surface: int, part: int, u: float, v: float, x: float, y: float, z: float
) -> SurfaceHit:
    """The spot where a ray met a surface, in the world."""
    count = scene.flats.shape[0]
    if surface < count:
        return hit_on_planar(scene, surface, u, v)
    b = surface - count
    bodies = scene.bodies
    lx, ly, lz = x - bodies[b, BODY.X], y - bodies[b, BODY.Y], z - bodies[b, BODY.Z]
    turned = bodies[b, BODY.UPRIGHT] == 0.0
    if turned:
        lx, ly, lz = to_local(bodies, b, lx, ly, lz)
    if bodies[b, BODY.KIND] == REVOLUTION:
        s = hit_on_revolution(scene, b, part, u, lx, ly, lz)
    else:
        s = hit_on_mesh(scene, b, part, u, v, lx, ly, lz)
    if not turned:
        return s
    nx, ny, nz = to_world(bodies, b, s.nx, s.ny, s.nz)
    gx, gy, gz = to_world(bodies, b, s.gx, s.gy, s.gz)
    tx, ty, tz = to_world(bodies, b, s.tx, s.ty, s.tz)
    wx, wy, wz = to_world(bodies, b, s.wx, s.wy, s.wz)
    return SurfaceHit(
        nx, ny, nz, gx, gy, gz, tx, ty, tz, wx, wy, wz, s.u, s.v, s.azimuth, s.skin, s.zone, s.patch, s.picture_s, s.picture_t,
    )  # fmt: skip


@leaf
def picture_scale(scene: StaticScene, spot: SurfaceHit) -> tuple[float, float]:
    """How far a zone's picture goes for a metre along u and along v of a spot on it, below 0 where it runs the other way."""
    z = scene.zones
    face = z[spot.zone, ZONE.FACE]
    half = z[spot.zone, ZONE.HALF_WIDTH]
    if face < 0.0:
        radius = spot.u / spot.azimuth if abs(spot.azimuth) > 1e-9 else math.inf
        if scene.bodies[int(z[spot.zone, ZONE.BODY]), BODY.KIND] != REVOLUTION or radius <= 0.0 or radius == math.inf:
            radius = max(scene.bounds[int(z[spot.zone, ZONE.BODY]), BOUNDS.RADIUS], 1e-4)
        half *= radius
    left = face == 0.0 or face == 5.0
    return (-0.5 if left else 0.5) / half, (0.5 if face == 2.0 else -0.5) / z[spot.zone, ZONE.HALF_HEIGHT]


@leaf
def _pressed_slopes(scene: StaticScene, spot: SurfaceHit) -> tuple[float, float]:
    """Slopes of what its artwork has pressed up at a spot, between four texels."""
    picture = int(scene.zones[spot.zone, ZONE.PICTURE]) if spot.zone >= 0 else -1
    if picture < 0 or scene.artworks[picture, art.PRESSED] < 0:
        return 0.0, 0.0
    row = scene.artworks[picture]
    first, width, height = row[art.PRESSED], row[art.WIDTH], row[art.HEIGHT]
    x = min(max(spot.picture_s * width - 0.5, 0.0), width - 1.0)
    y = min(max(spot.picture_t * height - 0.5, 0.0), height - 1.0)
    i, j = int(x), int(y)
    right, below = min(i + 1, width - 1), min(j + 1, height - 1)
    fx, fy = x - i, y - j
    p = scene.pressed
    a, b, c, d = first + j * width + i, first + j * width + right, first + below * width + i, first + below * width + right
    to_right = (p[a, 0] * (1.0 - fx) + p[b, 0] * fx) * (1.0 - fy) + (p[c, 0] * (1.0 - fx) + p[d, 0] * fx) * fy
    upward = (p[a, 1] * (1.0 - fx) + p[b, 1] * fx) * (1.0 - fy) + (p[c, 1] * (1.0 - fx) + p[d, 1] * fx) * fy
    across, along = picture_scale(scene, spot)
    depth = scene.skins[spot.skin, DEPTH]
    return depth * to_right * width * across, -depth * upward * height * along


@inlined
def relief_slopes(scene: StaticScene, spot: SurfaceHit) -> tuple[float, float]:
    """Slopes of the relief at a spot along its axes t and w."""
    skins = scene.skins
    kind = int(skins[spot.skin, RELIEF])
    if kind == 0:
        return 0.0, 0.0
    if kind == PRESSED:
        return _pressed_slopes(scene, spot)
    if kind != EMBOSS:
        return slopes(kind, skins[spot.skin, PERIOD], skins[spot.skin, DEPTH], spot.u, spot.v)
    if spot.zone < 0:
        return 0.0, 0.0
    z = scene.zones
    across = spot.u - z[spot.zone, ZONE.ACROSS]
    half = z[spot.zone, ZONE.HALF_WIDTH]
    if z[spot.zone, ZONE.FACE] < 0.0:
        radius = spot.u / spot.azimuth if abs(spot.azimuth) > 1e-9 else 0.0
        across = turn_between(z[spot.zone, ZONE.ACROSS], spot.azimuth) * radius
        half *= max(radius, 1e-6)
    return rim_slopes(
        skins[spot.skin, PERIOD], skins[spot.skin, DEPTH], across, spot.v - z[spot.zone, ZONE.HEIGHT], half,
        z[spot.zone, ZONE.HALF_HEIGHT],
        z[spot.zone, ZONE.ELLIPSE] > 0.0,
    )  # fmt: skip
