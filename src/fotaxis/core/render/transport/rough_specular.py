"""Light straight from the lights on blurred mirrors: what their fans of directions find less well."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import BODY, FLAT, GATHER, PROFILE, SAMPLE
from fotaxis.core.geometry.planar import BALL
from fotaxis.core.kernel import kernel, leaf
from fotaxis.core.materials.bsdf import facet_share
from fotaxis.core.materials.ggx import lobe_density, lobe_weight
from fotaxis.core.materials.material import ACROSS, ALONG
from fotaxis.core.render.arrays.emitters import Emitters, beam_factor, direction_to_sample, face_density
from fotaxis.core.render.arrays.path_records import GLOSSY, gather_frame
from fotaxis.core.render.arrays.static_scene import Ints, StaticScene, hit_body
from fotaxis.core.render.transport.card_radiance import is_static
from fotaxis.core.render.transport.direct import contributes
from fotaxis.core.render.transport.direct_cache import UNKNOWN, attenuate_by_moved, undisturbed
from fotaxis.core.render.transport.occlusion import OFFSET, possible_occluders, transmits
from fotaxis.core.values import Array


@leaf
def _gloss_weights(
    scene: StaticScene, emitters: Emitters, flats: Array, gather_points: Array, p: int, k: int, rays: int, found: Ints, passed: Array,
    weights: Array,
) -> bool:  # fmt: skip
    """How much of what light k sends out at each of its samples blurred mirror p shows, to weights (samples, 3); False for none.

    flats: those that may stand in between.
    """
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
    n = -1
    m = 0
    some = False
    for cell in range(count[k]):
        weights[cell, 0] = weights[cell, 1] = weights[cell, 2] = 0.0
        dx, dy, dz, d, leaves = direction_to_sample(flats, samples, k, cell, px, py, pz)
        lz = nx * dx + ny * dy + nz * dz
        if lz <= 1e-5 or leaves <= 0.0:
            continue
        lx, ly = dx * tx + dy * ty + dz * tz, dx * bx + dy * by + dz * bz
        hx, hy, hz = vx + lx, vy + ly, vz + lz
        scale = 1.0 / math.sqrt(hx * hx + hy * hy + hz * hz)
        hx, hy, hz = hx * scale, hy * scale, hz * scale
        dense = lobe_density(vx, vy, vz, hx, hy, hz, along, across)
        to_light = face_density(flats, count, k, d, leaves)
        share = dense * lobe_weight(vx, vy, vz, lx, ly, lz, along, across) / (to_light + rays * dense)
        if emitters.shape[k, PROFILE.BEAM] > 0.0:
            share *= beam_factor(emitters, k, samples[k, cell, SAMPLE.U], samples[k, cell, SAMPLE.V], -dx, -dy, -dz)
        if share * samples[k, cell, SAMPLE.LUMINANCE] < 1e-9:
            continue
        if n < 0:
            n, m = possible_occluders(flats, scene.bounds, k, px, py, pz, found)
        if m > 0 and not _unoccluded(scene, flats, emitters.veil, found, n, m, px, py, pz, dx, dy, dz, d, passed):
            continue
        some = True
        c_h = vx * hx + vy * hy + vz * hz
        for c in range(3):
            weights[cell, c] = share * facet_share(skins, skin, c, c_h)
    return some


@kernel
def _add_rough_specular(
    scene: StaticScene, emitters: Emitters, gather_points: Array, rays: int, begin: int, end: int, out: NDArray[np.float32]
) -> None:
    light, samples = emitters.light, emitters.samples
    passed = np.empty(4)
    weights = np.empty((samples.shape[1], 3))
    found = np.empty(emitters.flats.shape[0] + scene.bounds.shape[0], np.int64)
    for p in range(begin, end):
        if gather_points[p, GATHER.KIND] != GLOSSY:
            continue
        for k in range(light.shape[0]):
            if light[k] < 0 or not _gloss_weights(
                scene, emitters, emitters.flats, gather_points, p, k, rays, found, passed, weights
            ):
                continue
            for cell in range(emitters.parts[k]):
                for c in range(3):
                    out[p, 1 + light[k], c] += weights[cell, c] * samples[k, cell, SAMPLE.LUMINANCE] * emitters.gain[k, c]


@leaf
def _unoccluded(
    scene: StaticScene, flats: Array, veil: Array, found: Ints, n: int, m: int,
    px: float, py: float, pz: float, dx: float, dy: float, dz: float, length: float, passed: Array,
) -> bool:  # fmt: skip
    """Is the way free of everything, glass too?"""
    for i in range(n, m):
        s = found[i]
        if scene.bodies[s, BODY.CLEAR] > 0.0:
            t, _, _, _ = hit_body(scene, s, px, py, pz, dx, dy, dz, OFFSET, length - OFFSET)
            if t < length - OFFSET:
                return False
    return transmits(scene, flats, veil, found, n, m, px, py, pz, dx, dy, dz, length, passed)


def add_rough_specular(
    scene: StaticScene, emitters: Emitters, gather_points: Array, rays: int, begin: int, end: int, out: NDArray[np.float32]
) -> None:
    """Add to out (f, 1 + lights, 3) what blurred mirrors (rows begin..end of TracedPaths.fans) mirror of the lights' samples.

    The part that `rays` directions drawn from the mirror find less well (small lights, the far ends of the blur); both
    parts add up (balance heuristic, Veach & Guibas 1995). Only ways free of glass: bent ones are left to the directions.
    """
    _add_rough_specular(scene, emitters, gather_points, rays, begin, end, out)


class GlossCache(NamedTuple):
    """How blurred mirrors show the lights that stay where they are while others are moved.

    moved, staying: as in direct_cache.DirectCache; side (fans, faces) int8: 0 where anything is shown, -1 nothing, NOT_YET; weights (fans,
    faces, samples, 3): past what stays.
    """

    moved: Ints
    staying: Array
    side: NDArray[np.int8]
    weights: NDArray[np.float32]


@kernel
def _update_rough_specular(
    scene: StaticScene,
    emitters: Emitters,
    gather_points: Array,
    rays: int,
    kept: GlossCache,
    begin: int,
    end: int,
    out: NDArray[np.float32],
) -> None:
    flats, light, samples = emitters.flats, emitters.light, emitters.samples
    passed = np.empty(4)
    weights = np.empty((samples.shape[1], 3))
    found = np.empty(flats.shape[0] + scene.bounds.shape[0], np.int64)
    for p in range(begin, end):
        if gather_points[p, GATHER.KIND] != GLOSSY:
            continue
        x, y, z = gather_points[p, GATHER.X], gather_points[p, GATHER.Y], gather_points[p, GATHER.Z]
        for k in range(light.shape[0]):
            if not contributes(emitters, k, True, False):
                continue
            stay = is_static(kept.moved, k)
            if not stay:
                if not _gloss_weights(scene, emitters, flats, gather_points, p, k, rays, found, passed, weights):
                    continue
            elif kept.side[p, k] == UNKNOWN:
                some = _gloss_weights(scene, emitters, kept.staying, gather_points, p, k, rays, found, passed, weights)
                kept.side[p, k] = 0 if some else -1
                for cell in range(emitters.parts[k] if some else 0):
                    for c in range(3):
                        kept.weights[p, k, cell, c] = weights[cell, c]
            if stay and kept.side[p, k] < 0:
                continue
            clear = not stay or undisturbed(flats, kept.moved, k, x, y, z)
            for cell in range(emitters.parts[k]):
                for c in range(3):
                    passed[1 + c] = kept.weights[p, k, cell, c] if stay else weights[cell, c]
                if not clear and passed[1] + passed[2] + passed[3] > 0.0:
                    dx, dy, dz, d, _ = direction_to_sample(flats, samples, k, cell, x, y, z)
                    attenuate_by_moved(emitters, kept.moved, x, y, z, dx, dy, dz, d, passed)
                for c in range(3):
                    out[p, 1, c] += passed[1 + c] * samples[k, cell, SAMPLE.LUMINANCE] * emitters.gain[k, c]


def update_rough_specular(
    scene: StaticScene,
    emitters: Emitters,
    gather_points: Array,
    rays: int,
    kept: GlossCache,
    begin: int,
    end: int,
    out: NDArray[np.float32],
) -> None:
    """As gloss_light with one light, by the ways in `kept`, which is filled where it is not yet."""
    _update_rough_specular(scene, emitters, gather_points, rays, kept, begin, end, out)
