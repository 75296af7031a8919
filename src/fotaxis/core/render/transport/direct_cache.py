"""What a preview keeps of light on matte surfaces and cards: beside each routine of direct.py, how its result stays true."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import SAMPLE
from fotaxis.core.geometry.planar import hit_flat
from fotaxis.core.geometry.rays import Ray
from fotaxis.core.kernel import inlined, leaf
from fotaxis.core.render.arrays.emitters import (
    GLOSS_TIGHT,
    HAS_LOBE,
    MIRROR_TIGHT,
    Emitters,
    direction_to_sample,
    transmittance,
)
from fotaxis.core.render.arrays.receiver import Occluders, Receiver, Scratch
from fotaxis.core.render.arrays.static_scene import Ints, StaticScene
from fotaxis.core.render.transport.card_radiance import is_static
from fotaxis.core.render.transport.direct import (
    add_by_mirror_card,
    add_from_face,
    sample_weights,
    side_seen,
)
from fotaxis.core.render.transport.lobe_radiance import FaceRay, add_lobe_radiance, lobes_undisturbed
from fotaxis.core.render.transport.occlusion import (
    OFFSET,
    heights_between,
    may_stand_between,
    plan_reach,
    possible_occluders,
)
from fotaxis.core.values import Array


class DirectCache(NamedTuple):
    """What places got from every face in the picture before, for all lights as one. Empty arrays: nothing is kept.

    moved (m,) int64            flats that have moved since, or may move
    stale (faces,) bool         faces that show something else than then
    light (places, faces, 3)    what arrived from each face, all but the lobes of faces that stay
    valid (places, faces)       bool: no moved flat may have stood between
    staying                     flats as in Emitters with the moved ones out of every way
    side (places, faces) int8   the side of a face that is seen, -1 none, UNKNOWN
    weights (places, faces, samples, 3)   direct.sample_weights past what stays, where side is 0 or 1
    lobe_light (places, faces, 3)         what faces that stay send by their lobes
    lobe_valid (places, faces)  bool: nothing in those lobes may have changed but what is moved
    lobe_stale (faces,) bool    faces whose lobes show something else than then
    """

    moved: Ints
    stale: NDArray[np.bool_]
    light: NDArray[np.float32]
    valid: NDArray[np.bool_]
    staying: Array
    side: NDArray[np.int8]
    weights: NDArray[np.float32]
    lobe_light: NDArray[np.float32]
    lobe_valid: NDArray[np.bool_]
    lobe_stale: NDArray[np.bool_]


NO_DIRECT_CACHE = DirectCache(
    moved=np.empty(0, np.int64), stale=np.empty(0, np.bool_), light=np.empty((0, 0, 3), np.float32),
    valid=np.empty((0, 0), np.bool_), staying=np.empty((0, 0)), side=np.empty((0, 0), np.int8),
    weights=np.empty((0, 0, 0, 3), np.float32), lobe_light=np.empty((0, 0, 3), np.float32),
    lobe_valid=np.empty((0, 0), np.bool_), lobe_stale=np.empty(0, np.bool_),
)  # fmt: skip


class CardCache(NamedTuple):
    """What places on cards and sheets got from every light in the picture before, all lights as one. Empty: nothing is kept.

    moved, stale: as in DirectCache. light (nodes, 2, faces, 3): front and back; valid (nodes, faces) bool; open (nodes, faces) and
    open_valid (nodes, faces) bool: Emitters.open at the node.
    """

    moved: Ints
    stale: NDArray[np.bool_]
    light: Array
    valid: NDArray[np.bool_]
    open: Array
    open_valid: NDArray[np.bool_]


NO_CARD_CACHE = CardCache(
    moved=np.empty(0, np.int64), stale=np.empty(0, np.bool_), light=np.empty((0, 2, 0, 3)), valid=np.empty((0, 0), np.bool_),
    open=np.empty((0, 0)), open_valid=np.empty((0, 0), np.bool_),
)  # fmt: skip

UNKNOWN = -2
"""Which side of a face a place sees has not been looked for yet."""


@leaf
def attenuate_by_moved(emitters: Emitters, moved: Ints, ray: Ray, length: float, passed: Array) -> None:
    """Dim passed[1:4] by what moved flats let through on the first so many metres of a ray."""
    flats = emitters.flats
    for j in moved:
        t, _, _ = hit_flat(flats, j, ray.ox, ray.oy, ray.oz, ray.dx, ray.dy, ray.dz, OFFSET, length - OFFSET)
        if t < length - OFFSET:
            for c in range(3):
                passed[1 + c] *= transmittance(flats, emitters.veil, j, c, ray.dx, ray.dy, ray.dz)


@inlined
def _find_weights(
    scene: StaticScene, emitters: Emitters, cache: DirectCache, p: int, k: int, at: Receiver, scratch: Scratch
) -> None:
    """Fill side and weights of face k, which stays, at place p."""
    side = side_seen(emitters, k, at)
    if side >= 0:
        n, m = possible_occluders(cache.staying, scene.bounds, k, at.x, at.y, at.z, scratch.found)
        if not sample_weights(scene, emitters, k, side, at, Occluders(scratch.found, n, m), scratch):
            side = -1
    cache.side[p, k] = side
    if side >= 0:
        for cell in range(emitters.parts[k]):
            for c in range(3):
                cache.weights[p, k, cell, c] = scratch.weights[cell, c]


@inlined
def _add_weighted(
    emitters: Emitters,
    cache: DirectCache,
    p: int,
    k: int,
    clear: bool,
    x: float,
    y: float,
    z: float,
    passed: Array,
    one: Array,
) -> None:
    """Add to one (1, 3) the light of face k, which stays, by the weights kept for place p, past what has moved."""
    side = cache.side[p, k]
    if side < 0:
        return
    light, samples = emitters.light[k], emitters.samples
    for cell in range(emitters.parts[k]):
        if cache.weights[p, k, cell, 1] <= 0.0:
            continue
        for c in range(3):
            passed[1 + c] = cache.weights[p, k, cell, c]
        if not clear:
            dx, dy, dz, d, _ = direction_to_sample(emitters.flats, samples, k, cell, x, y, z)
            attenuate_by_moved(emitters, cache.moved, Ray(x, y, z, dx, dy, dz), d, passed)
        for c in range(3):
            if light < 0:
                one[0, c] += passed[1 + c] * emitters.sampled[k, side, cell, 0, c]
            else:
                one[0, c] += passed[1 + c] * samples[k, cell, SAMPLE.LUMINANCE] * emitters.gain[k, c]


@inlined
def _lobes_valid(emitters: Emitters, cache: DirectCache, p: int, k: int, x: float, y: float, z: float) -> bool:
    """Do the lobes of face k send place p what they sent then: did they show nothing that may change, and still do not?"""
    if not cache.lobe_valid[p, k]:
        return False
    for cell in range(emitters.parts[k]):
        if cache.weights[p, k, cell, 1] > 0.0:
            dx, dy, dz, _, _ = direction_to_sample(emitters.flats, emitters.samples, k, cell, x, y, z)
            u, v = emitters.samples[k, cell, SAMPLE.U], emitters.samples[k, cell, SAMPLE.V]
            if not lobes_undisturbed(emitters, cache.moved, False, FaceRay(k, u, v, dx, dy, dz)):
                return False
    return True


@inlined
def _update_lobes(
    emitters: Emitters,
    cache: DirectCache,
    p: int,
    k: int,
    clear: bool,
    x: float,
    y: float,
    z: float,
    passed: Array,
    one: Array,
) -> None:
    """Find lobed of face k, which stays, by the weights kept for place p, past what has moved."""
    lasts = clear
    one[:] = 0.0
    for cell in range(emitters.parts[k]):
        if cache.weights[p, k, cell, 1] <= 0.0:
            continue
        for c in range(3):
            passed[1 + c] = cache.weights[p, k, cell, c]
        dx, dy, dz, d, _ = direction_to_sample(emitters.flats, emitters.samples, k, cell, x, y, z)
        if not clear:
            attenuate_by_moved(emitters, cache.moved, Ray(x, y, z, dx, dy, dz), d, passed)
        u, v = emitters.samples[k, cell, SAMPLE.U], emitters.samples[k, cell, SAMPLE.V]
        add_lobe_radiance(emitters, FaceRay(k, u, v, dx, dy, dz), 1, 1.0, passed[1:4], False, cell, one)
        lasts = lasts and lobes_undisturbed(emitters, cache.moved, True, FaceRay(k, u, v, dx, dy, dz))
    for c in range(3):
        cache.lobe_light[p, k, c] = one[0, c]
    cache.lobe_valid[p, k] = lasts


@leaf
def undisturbed(flats: Array, moved: Ints, k: int, x: float, y: float, z: float) -> bool:
    """Has face k stayed, and can nothing that moved stand between it and a place?"""
    wide = plan_reach(flats, k)
    low, high = heights_between(flats, k, y)
    clear = True
    for m in moved:
        clear = clear and m != k and not may_stand_between(flats, m, k, x, y, z, wide, low, high)
    return clear


@inlined
def add_cached_face(
    scene: StaticScene, emitters: Emitters, cache: DirectCache, p: int, k: int, at: Receiver, scratch: Scratch, one: Array,
    out: Array,
) -> None:  # fmt: skip
    """As direct.add_from_face for place p of a preview, all lights as one, to out (1, 3): what cannot have changed is taken from the
    cache, and the rest kept there. one (1, 3): scratch space."""
    mirror = emitters.light[k] < 0 and emitters.lobes[k, GLOSS_TIGHT] >= MIRROR_TIGHT
    stay = not mirror and is_static(cache.moved, k)
    clear = not mirror and undisturbed(emitters.flats, cache.moved, k, at.x, at.y, at.z)
    if not (clear and cache.valid[p, k] and not cache.stale[k]):
        one[:] = 0.0
        if mirror:
            add_by_mirror_card(scene, emitters, 1, k, at, True, True, scratch, one)
        elif stay:
            if cache.side[p, k] == UNKNOWN:
                _find_weights(scene, emitters, cache, p, k, at, scratch)
            _add_weighted(emitters, cache, p, k, clear, at.x, at.y, at.z, scratch.passed, one)
        else:
            add_from_face(scene, emitters, 1, k, at, scratch, one)
        for c in range(3):
            cache.light[p, k, c] = one[0, c]
        cache.valid[p, k] = clear
    for c in range(3):
        out[0, c] += cache.light[p, k, c]
    if stay and emitters.lobes[k, HAS_LOBE] > 0.0 and cache.side[p, k] >= 0:
        if not clear or cache.lobe_stale[k] or not _lobes_valid(emitters, cache, p, k, at.x, at.y, at.z):
            _update_lobes(emitters, cache, p, k, clear, at.x, at.y, at.z, scratch.passed, one)
        for c in range(3):
            out[0, c] += cache.lobe_light[p, k, c]
