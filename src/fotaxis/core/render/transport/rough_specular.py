"""Light straight from the lights on blurred mirrors: what the directions gathered from them find less well."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import BODY, FLAT, GATHER, PROFILE, SAMPLE
from fotaxis.core.geometry.planar import BALL
from fotaxis.core.geometry.rays import Ray
from fotaxis.core.kernel import kernel, leaf
from fotaxis.core.materials.bsdf import coat_share, facet_share, multiple_scattering
from fotaxis.core.materials.ggx import lobe_density, lobe_weight
from fotaxis.core.materials.material import ACROSS, ALONG, BACK
from fotaxis.core.render.arrays.emitters import Emitters, beam_factor, direction_to_sample, face_density
from fotaxis.core.render.arrays.path_records import GLOSSY, gather_frame
from fotaxis.core.render.arrays.receiver import Occluders, Scratch, scratch_room
from fotaxis.core.render.arrays.static_scene import Ints, StaticScene, hit_body
from fotaxis.core.render.transport.card_radiance import is_static
from fotaxis.core.render.transport.direct import contributes
from fotaxis.core.render.transport.direct_cache import UNKNOWN, attenuate_by_moved, undisturbed
from fotaxis.core.render.transport.occlusion import OFFSET, possible_occluders, transmits
from fotaxis.core.values import Array


@leaf
def _gloss_weights(
    scene: StaticScene, emitters: Emitters, flats: Array, gather_points: Array, p: int, k: int, rays: int, scratch: Scratch
) -> bool:
    """How much of what light k sends out at each of its samples blurred mirror p shows, to scratch.weights (samples, 3); False for
    none.

    flats: those that may stand in between.
    """
    found, passed, weights = scratch.found, scratch.passed, scratch.weights
    count, samples, skins = emitters.parts, emitters.samples, scene.skins
    px, py, pz = gather_points[p, GATHER.X], gather_points[p, GATHER.Y], gather_points[p, GATHER.Z]
    nx, ny, nz = gather_points[p, GATHER.NX], gather_points[p, GATHER.NY], gather_points[p, GATHER.NZ]
    toward = (
        (px - flats[k, FLAT.X]) * flats[k, FLAT.NX]
        + (py - flats[k, FLAT.Y]) * flats[k, FLAT.NY]
        + (pz - flats[k, FLAT.Z]) * flats[k, FLAT.NZ]
    )
    if toward <= OFFSET and flats[k, FLAT.SHAPE] != BALL:
        return False
    tx, ty, tz, bx, by, bz, vx, vy, vz = gather_frame(gather_points, p)
    skin = int(gather_points[p, GATHER.SKIN])
    along, across = skins[skin, ALONG], skins[skin, ACROSS]
    top = coat_share(skins, skin, vz)
    turned = -1.0 if skins[skin, BACK] > 0.0 else 1.0
    n = -1
    m = 0
    gain = (1.0, 1.0, 1.0)
    some = False
    for cell in range(count[k]):
        weights[cell, 0] = weights[cell, 1] = weights[cell, 2] = 0.0
        dx, dy, dz, d, leaves = direction_to_sample(flats, samples, k, cell, px, py, pz)
        lz = nx * dx + ny * dy + nz * dz
        if lz <= 1e-5 or leaves <= 0.0:
            continue
        lx, ly = turned * (dx * tx + dy * ty + dz * tz), turned * (dx * bx + dy * by + dz * bz)
        hx, hy, hz = vx + lx, vy + ly, vz + lz
        scale = 1.0 / math.sqrt(hx * hx + hy * hy + hz * hz)
        hx, hy, hz = hx * scale, hy * scale, hz * scale
        dense = lobe_density(vx, vy, vz, hx, hy, hz, along, across)
        to_light = face_density(flats, count, k, d, leaves)
        # A lamp that is carried is met by no direction, see first_hits.nearest_emitter: its samples count whole.
        others = 0.0 if emitters.veil[k, 1] > 0.0 else rays * dense
        share = dense * lobe_weight(vx, vy, vz, lx, ly, lz, along, across) / (to_light + others)
        if emitters.shape[k, PROFILE.BEAM] > 0.0:
            share *= beam_factor(emitters, k, samples[k, cell, SAMPLE.U], samples[k, cell, SAMPLE.V], -dx, -dy, -dz)
        if share * samples[k, cell, SAMPLE.LUMINANCE] < 1e-9:
            continue
        if n < 0:
            gain = multiple_scattering(skins, skin, vx, vy, vz)
            n, m = possible_occluders(flats, scene.bounds, k, px, py, pz, found)
        passed[1] = passed[2] = passed[3] = 1.0
        ray = Ray(px, py, pz, dx, dy, dz)
        if m > 0 and not _unoccluded(scene, flats, emitters.veil, Occluders(found, n, m), ray, d, passed):
            continue
        some = True
        c_h = vx * hx + vy * hy + vz * hz
        for c in range(3):
            weights[cell, c] = share * facet_share(skins, skin, c, c_h, top) * gain[c]
    return some


@leaf
def _unoccluded(
    scene: StaticScene, flats: Array, veil: Array, among: Occluders, ray: Ray, length: float, passed: Array
) -> bool:
    """Is the way free of everything, glass too?"""
    for i in range(among.flats, among.end):
        s = among.found[i]
        if scene.bodies[s, BODY.CLEAR] > 0.0:
            t, _, _, _ = hit_body(scene, s, ray.ox, ray.oy, ray.oz, ray.dx, ray.dy, ray.dz, OFFSET, length - OFFSET)
            if t < length - OFFSET:
                return False
    return transmits(scene, flats, veil, among, ray, length, passed)


class GlossCache(NamedTuple):
    """How blurred mirrors show the lights that stay where they are while others are moved. Empty arrays: nothing is kept.

    moved, staying: as in direct_cache.DirectCache; side (mirrors, faces) int8: 0 where anything is shown, -1 nothing, UNKNOWN;
    weights (mirrors, faces, samples, 3): past what stays.
    """

    moved: Ints
    staying: Array
    side: NDArray[np.int8]
    weights: NDArray[np.float32]


NO_GLOSS_CACHE = GlossCache(
    moved=np.empty(0, np.int64), staying=np.empty((0, 0)), side=np.empty((0, 0), np.int8),
    weights=np.empty((0, 0, 0, 3), np.float32),
)  # fmt: skip


@leaf
def _weights_from_cache(
    scene: StaticScene,
    emitters: Emitters,
    gather_points: Array,
    p: int,
    k: int,
    rays: int,
    cache: GlossCache,
    scratch: Scratch,
) -> bool:
    """As _gloss_weights for light k, which stays: what was found once is kept, and dimmed by what has moved."""
    weights, passed = scratch.weights, scratch.passed
    if cache.side[p, k] == UNKNOWN:
        some = _gloss_weights(scene, emitters, cache.staying, gather_points, p, k, rays, scratch)
        cache.side[p, k] = 0 if some else -1
        for cell in range(emitters.parts[k] if some else 0):
            for c in range(3):
                cache.weights[p, k, cell, c] = weights[cell, c]
    if cache.side[p, k] < 0:
        return False
    x, y, z = gather_points[p, GATHER.X], gather_points[p, GATHER.Y], gather_points[p, GATHER.Z]
    clear = undisturbed(emitters.flats, cache.moved, k, x, y, z)
    for cell in range(emitters.parts[k]):
        for c in range(3):
            passed[1 + c] = cache.weights[p, k, cell, c]
        if not clear and passed[1] + passed[2] + passed[3] > 0.0:
            dx, dy, dz, d, _ = direction_to_sample(emitters.flats, emitters.samples, k, cell, x, y, z)
            attenuate_by_moved(emitters, cache.moved, Ray(x, y, z, dx, dy, dz), d, passed)
        for c in range(3):
            weights[cell, c] = passed[1 + c]
    return True


@kernel
def _add_rough_specular(
    scene: StaticScene, emitters: Emitters, gather_points: Array, rays: int, cache: GlossCache, begin: int, end: int,
    out: NDArray[np.float32],
) -> None:  # fmt: skip
    light, samples = emitters.light, emitters.samples
    scratch = scratch_room(scene, emitters)
    weights = scratch.weights
    cached = cache.side.shape[0] > 0
    for p in range(begin, end):
        if gather_points[p, GATHER.KIND] != GLOSSY:
            continue
        for k in range(light.shape[0]):
            if not contributes(emitters, k, True, False):
                continue
            if cached and is_static(cache.moved, k):
                some = _weights_from_cache(scene, emitters, gather_points, p, k, rays, cache, scratch)
            else:
                some = _gloss_weights(scene, emitters, emitters.flats, gather_points, p, k, rays, scratch)
            for cell in range(emitters.parts[k] if some else 0):
                for c in range(3):
                    out[p, 1 + light[k], c] += weights[cell, c] * samples[k, cell, SAMPLE.LUMINANCE] * emitters.gain[k, c]


def add_rough_specular(
    scene: StaticScene, emitters: Emitters, gather_points: Array, rays: int, begin: int, end: int, out: NDArray[np.float32],
    cache: GlossCache = NO_GLOSS_CACHE,
) -> None:  # fmt: skip
    """Add to out (f, 1 + lights, 3) what blurred mirrors (rows begin..end of TracedPaths.gather_points) mirror of the lights' samples.

    The part that `rays` directions drawn from the mirror find less well (small lights, the far ends of the blur); both
    parts add up (balance heuristic, Veach & Guibas 1995). Only ways free of glass: bent ones are left to the directions.
    cache: of a preview with one light: the ways of lights that stay are kept there.
    """
    _add_rough_specular(scene, emitters, gather_points, rays, cache, begin, end, out)
