"""Light straight from the lights on blurred mirrors: what their fans of directions find less well."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.geometry.flat import BALL
from fotaxis.core.kernel import kernel, leaf
from fotaxis.core.optics.faces import Movables, beam, face_density, way_to_sample
from fotaxis.core.optics.lobes import lobe_density, lobe_weight
from fotaxis.core.optics.material import ACROSS, ALONG
from fotaxis.core.optics.paths import GLOSS_FAN, fan_frame
from fotaxis.core.optics.reshading import NOT_YET, past_moved, undisturbed
from fotaxis.core.optics.shading import gives
from fotaxis.core.optics.shadows import OFFSET, passes, suspects
from fotaxis.core.optics.shown import stays
from fotaxis.core.optics.still import IS_CLEAR, Ints, Still, hit_body
from fotaxis.core.optics.surface import facet_share
from fotaxis.core.values import Array


@leaf
def _gloss_weights(
    still: Still, things: Movables, flats: Array, fans: Array, p: int, k: int, rays: int, found: Ints, passed: Array,
    weights: Array,
) -> bool:  # fmt: skip
    """How much of what light k sends out at each of its samples blurred mirror p shows, to weights (samples, 3); False for none.

    flats: those that may stand in between.
    """
    count, samples, skins = things.parts, things.samples, still.skins
    px, py, pz = fans[p, 0], fans[p, 1], fans[p, 2]
    nx, ny, nz = fans[p, 3], fans[p, 4], fans[p, 5]
    toward = (px - flats[k, 0]) * flats[k, 9] + (py - flats[k, 1]) * flats[k, 10] + (pz - flats[k, 2]) * flats[k, 11]
    if toward <= OFFSET and flats[k, 14] != BALL:
        return False
    tx, ty, tz, bx, by, bz, vx, vy, vz = fan_frame(fans, p)
    skin = int(fans[p, 12])
    along, across = skins[skin, ALONG], skins[skin, ACROSS]
    n = -1
    m = 0
    some = False
    for cell in range(count[k]):
        weights[cell, 0] = weights[cell, 1] = weights[cell, 2] = 0.0
        dx, dy, dz, d, leaves = way_to_sample(flats, samples, k, cell, px, py, pz)
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
        if things.shape[k, 2] > 0.0:
            share *= beam(things, k, samples[k, cell, 0], samples[k, cell, 1], -dx, -dy, -dz)
        if share * samples[k, cell, 2] < 1e-9:
            continue
        if n < 0:
            n, m = suspects(flats, still.bounds, k, px, py, pz, found)
        if m > 0 and not _open_way(still, flats, things.veil, found, n, m, px, py, pz, dx, dy, dz, d, passed):
            continue
        some = True
        c_h = vx * hx + vy * hy + vz * hz
        for c in range(3):
            weights[cell, c] = share * facet_share(skins, skin, c, c_h)
    return some


@kernel
def _gloss_light(
    still: Still, things: Movables, fans: Array, rays: int, begin: int, end: int, out: NDArray[np.float32]
) -> None:
    light, samples = things.light, things.samples
    passed = np.empty(4)
    weights = np.empty((samples.shape[1], 3))
    found = np.empty(things.flats.shape[0] + still.bounds.shape[0], np.int64)
    for p in range(begin, end):
        if fans[p, 13] != GLOSS_FAN:
            continue
        for k in range(light.shape[0]):
            if light[k] < 0 or not _gloss_weights(still, things, things.flats, fans, p, k, rays, found, passed, weights):
                continue
            for cell in range(things.parts[k]):
                for c in range(3):
                    out[p, 1 + light[k], c] += weights[cell, c] * samples[k, cell, 2] * things.gain[k, c]


@leaf
def _open_way(
    still: Still, flats: Array, veil: Array, found: Ints, n: int, m: int,
    px: float, py: float, pz: float, dx: float, dy: float, dz: float, length: float, passed: Array,
) -> bool:  # fmt: skip
    """Is the way free of everything, glass too?"""
    for i in range(n, m):
        s = found[i]
        if still.bodies[s, IS_CLEAR] > 0.0:
            t, _, _, _ = hit_body(still, s, px, py, pz, dx, dy, dz, OFFSET, length - OFFSET)
            if t < length - OFFSET:
                return False
    return passes(still, flats, veil, found, n, m, px, py, pz, dx, dy, dz, length, passed)


def gloss_light(
    still: Still, movables: Movables, fans: Array, rays: int, begin: int, end: int, out: NDArray[np.float32]
) -> None:
    """Add to out (f, 1 + lights, 3) what blurred mirrors (rows begin..end of Traced.fans) mirror of the lights' samples.

    The part that `rays` directions drawn from the mirror find less well (small lights, the far ends of the blur); both
    parts add up (balance heuristic, Veach & Guibas 1995). Only ways free of glass: bent ones are left to the directions.
    """
    _gloss_light(still, movables, fans, rays, begin, end, out)


class Glossed(NamedTuple):
    """How blurred mirrors show the lights that stay where they are while others are moved.

    moved, staying: as in reshading.Before; side (fans, faces) int8: 0 where anything is shown, -1 nothing, NOT_YET; weights (fans,
    faces, samples, 3): past what stays.
    """

    moved: Ints
    staying: Array
    side: NDArray[np.int8]
    weights: NDArray[np.float32]


@kernel
def _gloss_again(
    still: Still, things: Movables, fans: Array, rays: int, kept: Glossed, begin: int, end: int, out: NDArray[np.float32]
) -> None:
    flats, light, samples = things.flats, things.light, things.samples
    passed = np.empty(4)
    weights = np.empty((samples.shape[1], 3))
    found = np.empty(flats.shape[0] + still.bounds.shape[0], np.int64)
    for p in range(begin, end):
        if fans[p, 13] != GLOSS_FAN:
            continue
        x, y, z = fans[p, 0], fans[p, 1], fans[p, 2]
        for k in range(light.shape[0]):
            if not gives(things, k, True, False):
                continue
            stay = stays(kept.moved, k)
            if not stay:
                if not _gloss_weights(still, things, flats, fans, p, k, rays, found, passed, weights):
                    continue
            elif kept.side[p, k] == NOT_YET:
                some = _gloss_weights(still, things, kept.staying, fans, p, k, rays, found, passed, weights)
                kept.side[p, k] = 0 if some else -1
                for cell in range(things.parts[k] if some else 0):
                    for c in range(3):
                        kept.weights[p, k, cell, c] = weights[cell, c]
            if stay and kept.side[p, k] < 0:
                continue
            clear = not stay or undisturbed(flats, kept.moved, k, x, y, z)
            for cell in range(things.parts[k]):
                for c in range(3):
                    passed[1 + c] = kept.weights[p, k, cell, c] if stay else weights[cell, c]
                if not clear and passed[1] + passed[2] + passed[3] > 0.0:
                    dx, dy, dz, d, _ = way_to_sample(flats, samples, k, cell, x, y, z)
                    past_moved(things, kept.moved, x, y, z, dx, dy, dz, d, passed)
                for c in range(3):
                    out[p, 1, c] += passed[1 + c] * samples[k, cell, 2] * things.gain[k, c]


def gloss_again(
    still: Still, movables: Movables, fans: Array, rays: int, kept: Glossed, begin: int, end: int, out: NDArray[np.float32]
) -> None:
    """As gloss_light with one light, by the ways in `kept`, which is filled where it is not yet."""
    _gloss_again(still, movables, fans, rays, kept, begin, end, out)
