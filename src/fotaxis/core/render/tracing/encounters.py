"""What becomes of a ray where it meets a surface: refracted, mirrored, written down as a place that shows light."""

from __future__ import annotations

import math
from typing import NamedTuple

from fotaxis.core.columns import BODY, MEDIUM, ZONE
from fotaxis.core.geometry.rays import Ray
from fotaxis.core.kernel import inlined, leaf
from fotaxis.core.materials import artwork as art
from fotaxis.core.materials.artwork import printed
from fotaxis.core.materials.bsdf import albedo, coat_mirrors, coat_share, gloss_share, metal_share
from fotaxis.core.materials.bump import EMBOSS, left_of_wave
from fotaxis.core.materials.fresnel import reflectance
from fotaxis.core.materials.material import ALONG, CLEAR, COAT, ENTRY, INNER, KIND, METAL, PERIOD, RELIEF, THROUGH
from fotaxis.core.materials.polarisation import (
    EventRows,
    keep_state,
    pass_event,
    refracted_rows,
    skin_reflected_rows,
)
from fotaxis.core.render.arrays.path_records import (
    BACK,
    FRONT,
    GATHERED,
    GLOSSY,
    INSIDE_GLASS,
    INTERREFLECTION,
    MATTE,
    MOST_PATCHES,
    SKINS_PER_SURFACE,
    TILT,
    TILT_U,
    TILT_V,
    Counts,
    OnSurface,
    PathBuffers,
    Rgb,
    SampleRoute,
    link_hit,
    write_gather_point,
    write_hit,
)
from fotaxis.core.render.arrays.receiver import Receiver
from fotaxis.core.render.arrays.static_scene import REVOLUTION, StaticScene
from fotaxis.core.render.arrays.surface_hit import SurfaceHit, picture_scale, relief_slopes
from fotaxis.core.values import Array

STACK = 112
"""More than a path has events: each leaves at most one ray to be followed later."""
UP_TO_END = 0.999
"""A place at the very end of a frustum is written down as so far along it: in single precision it would lie on the next."""

NOW, NEXT = STACK, STACK + 1
"""Rows behind the stack of rays: the state of polarisation of the ray that is followed, and of what comes after an event."""


class Journey(NamedTuple):
    """How far a ray has come: medium it is in, events so far, kept segments that lead to it, product it is in or on (-1: none)."""

    medium: int
    event: int
    level: int
    product: int


class Meeting(NamedTuple):
    """A ray's meeting with a surface: which, part of it and place on it, place in the world, product, is the segment
    before it kept.
    """

    surface: int
    part: int
    u: float
    v: float
    x: float
    y: float
    z: float
    product: int
    free: bool


class Facet(NamedTuple):
    """The surface at a meeting, turned to the ray: shading normal n with its relief, side normal g, cosine to the ray
    (below 0), seen from
    its front, slopes of the relief, how wide the ray is here (m)."""

    nx: float
    ny: float
    nz: float
    gx: float
    gy: float
    gz: float
    facing: float
    front: bool
    slope_u: float
    slope_v: float
    wide: float


class Encounter(NamedTuple):
    """A ray, how far it has come, and the surface it meets."""

    ray: Ray
    journey: Journey
    meet: Meeting
    spot: SurfaceHit
    facet: Facet


@inlined
def _shown_of_relief(skins: Array, spot: SurfaceHit, dx: float, dy: float, dz: float, wide: float) -> tuple[float, float]:
    """What of the slopes of a repeating relief along its two axes is left where a ray as wide as `wide` metres meets it.

    Only on what is matte: mirrors show where every facet looks.
    """
    skin = spot.skin
    if wide <= 0.0 or skins[skin, RELIEF] >= EMBOSS or skins[skin, COAT] > 0.0:
        return 1.0, 1.0
    if skins[skin, KIND] == METAL or skins[skin, KIND] == CLEAR:
        return 1.0, 1.0
    along = max(abs(spot.nx * dx + spot.ny * dy + spot.nz * dz), 0.02)
    over_u = (dx * spot.tx + dy * spot.ty + dz * spot.tz) / along
    over_v = (dx * spot.wx + dy * spot.wy + dz * spot.wz) / along
    period = skins[skin, PERIOD]
    left_u = left_of_wave(period, wide * math.sqrt(1.0 + over_u * over_u))
    return left_u, left_of_wave(period, wide * math.sqrt(1.0 + over_v * over_v))


@inlined
def facet_at(scene: StaticScene, spot: SurfaceHit, dx: float, dy: float, dz: float, wide: float) -> Facet:
    """The surface at a spot as a ray shows it that is so wide there, metres; 0 for one without width."""
    nx, ny, nz, gx, gy, gz = spot.nx, spot.ny, spot.nz, spot.gx, spot.gy, spot.gz
    front = gx * dx + gy * dy + gz * dz <= 0.0
    slope_u = 0.0
    slope_v = 0.0
    if scene.skins[spot.skin, RELIEF] > 0.0:
        slope_u, slope_v = relief_slopes(scene, spot)
        left_u, left_v = _shown_of_relief(scene.skins, spot, dx, dy, dz, wide)
        slope_u *= left_u
        slope_v *= left_v
    if slope_u != 0.0 or slope_v != 0.0:
        nx -= slope_u * spot.tx + slope_v * spot.wx
        ny -= slope_u * spot.ty + slope_v * spot.wy
        nz -= slope_u * spot.tz + slope_v * spot.wz
        scale = 1.0 / math.sqrt(nx * nx + ny * ny + nz * nz)
        nx *= scale
        ny *= scale
        nz *= scale
    if not front:
        nx, ny, nz = -nx, -ny, -nz
        gx, gy, gz = -gx, -gy, -gz
    facing = nx * dx + ny * dy + nz * dz
    if facing >= -1e-6:
        nx, ny, nz = gx, gy, gz
        facing = nx * dx + ny * dy + nz * dz
    return Facet(nx, ny, nz, gx, gy, gz, facing, front, slope_u, slope_v, wide)


@inlined
def refracted(ray: Ray, facet: Facet, meet: Meeting, ratio: float) -> Ray:
    """The ray behind a clear boundary, by Snell: the part along the surface shrinks by the ratio of indices."""
    dx, dy, dz, facing = ray.dx, ray.dy, ray.dz, facet.facing
    inverse = 1.0 / ratio
    into = math.sqrt(max(0.0, 1.0 - inverse * inverse * (1.0 - facing * facing)))
    bx = inverse * dx + (-inverse * facing - into) * facet.nx
    by = inverse * dy + (-inverse * facing - into) * facet.ny
    bz = inverse * dz + (-inverse * facing - into) * facet.nz
    if bx * facet.gx + by * facet.gy + bz * facet.gz >= -1e-9:
        bx, by, bz = dx, dy, dz
    return Ray(meet.x, meet.y, meet.z, bx, by, bz)


@inlined
def mirrored(ray: Ray, facet: Facet, meet: Meeting) -> Ray:
    """The mirrored ray; where a relief would send it into the surface, as the surface without it mirrors."""
    dx, dy, dz, facing = ray.dx, ray.dy, ray.dz, facet.facing
    rx = dx - 2.0 * facing * facet.nx
    ry = dy - 2.0 * facing * facet.ny
    rz = dz - 2.0 * facing * facet.nz
    gx, gy, gz = facet.gx, facet.gy, facet.gz
    if rx * gx + ry * gy + rz * gz <= 1e-6:
        facing = gx * dx + gy * dy + gz * dz
        rx = dx - 2.0 * facing * gx
        ry = dy - 2.0 * facing * gy
        rz = dz - 2.0 * facing * gz
    return Ray(meet.x, meet.y, meet.z, rx, ry, rz)


@inlined
def _write_matte_under_glass(
    scene: StaticScene, out: PathBuffers, counts: Counts, gather: bool, here: Encounter, weight: Rgb, sample: SampleRoute
) -> Counts:
    """Write down a matte surface met inside glass; weight: with its reflectance."""
    ray, journey, meet, spot, facet = here
    n, m, f = counts
    skins, skin = scene.skins, spot.skin
    at = Receiver(meet.x, meet.y, meet.z, facet.nx, facet.ny, facet.nz, 0.0, 1.0)
    if meet.product < 0:
        # Paint under a table's glass: lit and seen as if on the top above it, its glass as a coat.
        glass, behind = scene.media[journey.medium, MEDIUM.INDEX], skins[skin, INNER]
        on_top = Receiver(meet.x, 0.0, meet.z, facet.gx, facet.gy, facet.gz, glass, skins[skin, ENTRY])
        m = write_hit(
            out, m, on_top, Rgb(weight.red * behind, weight.green * behind, weight.blue * behind),
            OnSurface(meet.surface - 1, FRONT, meet.u, meet.v, 0.0), MATTE,
        )  # fmt: skip
    elif gather:
        f = write_gather_point(out, f, at, spot, ray, INSIDE_GLASS, journey.medium, meet.product, sample)
        m = write_hit(out, m, at, weight, OnSurface(0, 0, float(f - 1), 0.0, 0.0), GATHERED)
    else:
        of_patch = skin + SKINS_PER_SURFACE * (spot.patch % MOST_PATCHES)
        m = write_hit(out, m, at, weight, OnSurface(of_patch, 0, spot.u, spot.v, 0.0), INTERREFLECTION)
    return Counts(link_hit(out, n, m - 1, journey.level, meet.free), m, f)


@inlined
def _write_matte_in_air(
    scene: StaticScene, out: PathBuffers, counts: Counts, here: Encounter, weight: Rgb, bare: Rgb
) -> Counts:
    """Write down a matte surface met in air; weight: with its reflectance, bare: without.

    On a relief the light on the tilted normal follows from the light on the mean plane and on two known tilts.
    """
    _, journey, meet, spot, facet = here
    n, m, f = counts
    skins, skin = scene.skins, spot.skin
    coat, entry, flat_count = skins[skin, COAT], skins[skin, ENTRY], scene.flats.shape[0]
    leaves = 1.0
    if coat > 0.0:
        leaves = (1.0 - coat_mirrors(scene.coat_albedo, skins, skin, -facet.facing)) * skins[skin, INNER]
    p, q, w = meet.u, meet.v, 0.0
    if meet.surface >= flat_count:
        if scene.bodies[meet.surface - flat_count, BODY.KIND] == REVOLUTION:
            p, q = spot.azimuth, meet.part + min(meet.u, UP_TO_END)
        else:
            p, q, w = float(meet.part), meet.u, meet.v
    x, y, z = meet.x, meet.y, meet.z
    red, green, blue = weight
    variant = FRONT if facet.front else BACK
    first = m
    slope_u, slope_v = facet.slope_u, facet.slope_v
    if slope_u != 0.0 or slope_v != 0.0:
        side = 1.0 if facet.front else -1.0
        lift = math.sqrt(1.0 + slope_u * slope_u + slope_v * slope_v)
        known = math.sqrt(1.0 + TILT * TILT)
        k0 = leaves * (1.0 + slope_u / TILT + slope_v / TILT) / lift
        k1 = -leaves * slope_u / TILT * known / lift
        k2 = -leaves * slope_v / TILT * known / lift
        mx, my, mz = spot.nx * side, spot.ny * side, spot.nz * side
        at = Receiver(x, y, z, mx, my, mz, coat, entry)
        m = write_hit(out, m, at, Rgb(red * k0, green * k0, blue * k0), OnSurface(meet.surface, variant, p, q, w), MATTE)
        if facet.front:
            at = Receiver(
                x,
                y,
                z,
                (mx + TILT * spot.tx) / known,
                (my + TILT * spot.ty) / known,
                (mz + TILT * spot.tz) / known,
                coat,
                entry,
            )
            m = write_hit(out, m, at, Rgb(red * k1, green * k1, blue * k1), OnSurface(meet.surface, TILT_U, p, q, w), MATTE)
            at = Receiver(
                x,
                y,
                z,
                (mx + TILT * spot.wx) / known,
                (my + TILT * spot.wy) / known,
                (mz + TILT * spot.wz) / known,
                coat,
                entry,
            )
            m = write_hit(out, m, at, Rgb(red * k2, green * k2, blue * k2), OnSurface(meet.surface, TILT_V, p, q, w), MATTE)
    else:
        at = Receiver(x, y, z, facet.nx, facet.ny, facet.nz, coat, entry)
        own = Rgb(red * leaves, green * leaves, blue * leaves)
        m = write_hit(out, m, at, own, OnSurface(meet.surface, variant, p, q, w), MATTE)
    through = skins[skin, THROUGH]
    if through > 0.0 and meet.product < 0:
        behind = leaves * through
        at = Receiver(x, y, z, -facet.nx, -facet.ny, -facet.nz, 0.0, 1.0)
        other = Rgb(bare.red * behind, bare.green * behind, bare.blue * behind)
        m = write_hit(out, m, at, other, OnSurface(meet.surface, BACK if facet.front else FRONT, p, q, w), MATTE)
    for hit in range(first, m):
        n = link_hit(out, n, hit, journey.level, meet.free)
    return Counts(n, m, f)


@inlined
def _keep_matte_polarisation(
    scene: StaticScene, stack: Array, out: PathBuffers, first: int, last: int, here: Encounter
) -> None:
    """Keep how the light of hits first..last is polarised."""
    ray, journey, meet, spot, facet = here
    skins, skin, index = scene.skins, spot.skin, scene.media[journey.medium, MEDIUM.INDEX]
    coat = skins[skin, COAT] if meet.product < 0 or journey.medium == 0 else 0.0
    if coat > 0.0 and skins[skin, KIND] != METAL:
        mean, half, cross = refracted_rows(-facet.facing, coat / index)
        event = EventRows(mean, half, cross, 0.0)
        pass_event(stack[NOW], stack[NEXT], ray.dx, ray.dy, ray.dz, facet.nx, facet.ny, facet.nz, event)
        keep_state(stack[NEXT], out.hit_polar[first])
    else:
        keep_state(stack[NOW], out.hit_polar[first])
    for hit in range(first + 1, last):
        for k in range(3):
            out.hit_polar[hit, k] = out.hit_polar[first, k]


@inlined
def _mirror_share_inside(
    scene: StaticScene, spot: SurfaceHit, meet: Meeting, medium: int, cosine: float, weight: Rgb
) -> Rgb:
    """What an opaque skin met inside glass mirrors of a weight: a metal, or the paint under a table's glass; else nothing (-1)."""
    skins, skin, outside = scene.skins, spot.skin, scene.media[medium, MEDIUM.INDEX]
    if skins[skin, KIND] == METAL:
        return Rgb(
            weight.red * metal_share(skins, skin, 0, cosine, outside), weight.green * metal_share(skins, skin, 1, cosine, outside),
            weight.blue * metal_share(skins, skin, 2, cosine, outside),
        )  # fmt: skip
    if meet.product < 0 and skins[skin, COAT] > 0.0:
        under = reflectance(cosine, skins[skin, COAT] / outside)
        return Rgb(weight.red * under, weight.green * under, weight.blue * under)
    return Rgb(-1.0, -1.0, -1.0)


@leaf
def _printed(scene: StaticScene, here: Encounter, bare: Rgb) -> Rgb:
    """Reflectance of a printed place over as much of the picture as its ray is wide; bare: where nothing is printed."""
    ray, _, _, spot, facet = here
    picture = int(scene.zones[spot.zone, ZONE.PICTURE])
    across, along = picture_scale(scene, spot)
    # A ray that grazes stands for more of the surface along its own way.
    cosine = max(abs(spot.nx * ray.dx + spot.ny * ray.dy + spot.nz * ray.dz), 0.02)
    over_u = (ray.dx * spot.tx + ray.dy * spot.ty + ray.dz * spot.tz) / cosine
    over_v = (ray.dx * spot.wx + ray.dy * spot.wy + ray.dz * spot.wz) / cosine
    wide_s = facet.wide * math.sqrt(1.0 + over_u * over_u) * abs(across)
    wide_t = facet.wide * math.sqrt(1.0 + over_v * over_v) * abs(along)
    s, t = spot.picture_s, spot.picture_t
    return Rgb(
        printed(scene.artworks, scene.texels, picture, s, t, wide_s, wide_t, bare.red, art.RED),
        printed(scene.artworks, scene.texels, picture, s, t, wide_s, wide_t, bare.green, art.GREEN),
        printed(scene.artworks, scene.texels, picture, s, t, wide_s, wide_t, bare.blue, art.BLUE),
    )


@inlined
def write_opaque(
    scene: StaticScene, stack: Array, out: PathBuffers, counts: Counts, gather: bool, here: Encounter, weight: Rgb,
    sample: SampleRoute,
) -> tuple[Counts, Rgb]:  # fmt: skip
    """Write down what an opaque skin shows by itself or blurred; returns what of the weight it mirrors sharply, below 0 for nothing.

    A blurred mirror becomes a gather point where `gather` says so; else it mirrors sharply.
    """
    ray, journey, meet, spot, facet = here
    skins, skin, cosine = scene.skins, spot.skin, -facet.facing
    inside = journey.medium > 0
    polarised = out.polar.shape[0] > 0
    index = scene.media[journey.medium, MEDIUM.INDEX]
    coat = 0.0 if inside else skins[skin, COAT]
    is_metal = skins[skin, KIND] == METAL
    before = counts.hits
    own = Rgb(
        albedo(skins, skin, 0, spot.u, spot.v),
        albedo(skins, skin, 1, spot.u, spot.v),
        albedo(skins, skin, 2, spot.u, spot.v),
    )
    if spot.zone >= 0 and scene.zones[spot.zone, ZONE.PICTURE] >= 0.0:
        own = _printed(scene, here, own)
    if not is_metal and own.red + own.green + own.blue > 0.0:
        shown = Rgb(weight.red * own.red, weight.green * own.green, weight.blue * own.blue)
        if inside:
            counts = _write_matte_under_glass(scene, out, counts, gather, here, shown, sample)
        else:
            counts = _write_matte_in_air(scene, out, counts, here, shown, weight)
    if polarised:
        if before < counts.hits:
            _keep_matte_polarisation(scene, stack, out, before, counts.hits, here)
        if is_metal or coat > 0.0 or (inside and skins[skin, COAT] > 0.0):
            mean, half, re, im = skin_reflected_rows(skins, skin, cosine, index)
            event = EventRows(max(mean, 1e-12), half, re, im)
            pass_event(stack[NOW], stack[NEXT], ray.dx, ray.dy, ray.dz, facet.nx, facet.ny, facet.nz, event)
    if inside:
        return counts, _mirror_share_inside(scene, spot, meet, journey.medium, cosine, weight)
    if skins[skin, ALONG] > 0.0 and gather:
        at = Receiver(meet.x, meet.y, meet.z, facet.nx, facet.ny, facet.nz, 0.0, 1.0)
        before = counts.hits
        f = write_gather_point(out, counts.gather, at, spot, ray, GLOSSY, journey.medium, meet.product, sample)
        m = write_hit(out, before, at, weight, OnSurface(0, 0, float(f - 1), 0.0, 0.0), GATHERED)
        counts = Counts(link_hit(out, counts.segments, m - 1, journey.level, meet.free), m, f)
        if polarised:
            keep_state(stack[NEXT], out.hit_polar[before])
        sharp = coat_share(skins, skin, cosine)
        return counts, Rgb(weight.red * sharp, weight.green * sharp, weight.blue * sharp)
    return counts, Rgb(
        weight.red * gloss_share(skins, skin, 0, cosine), weight.green * gloss_share(skins, skin, 1, cosine),
        weight.blue * gloss_share(skins, skin, 2, cosine),
    )  # fmt: skip
