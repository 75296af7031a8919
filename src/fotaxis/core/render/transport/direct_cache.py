"""Light on matte surfaces while something is dragged: what cannot have changed is not worked out again."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import FLAT, NODE, PLACE, SAMPLE
from fotaxis.core.geometry.planar import hit_flat
from fotaxis.core.kernel import kernel, leaf
from fotaxis.core.render.arrays.emitters import (
    GLOSS_TIGHT,
    HAS_LOBE,
    MIRROR_TIGHT,
    Emitters,
    direction_to_sample,
    place_on,
    transmittance,
)
from fotaxis.core.render.arrays.static_scene import Ints, StaticScene
from fotaxis.core.render.transport.card_radiance import add_lobe_radiance, is_static, lobes_undisturbed
from fotaxis.core.render.transport.direct import (
    add_by_mirror_card,
    add_from_face,
    contributes,
    sample_weights,
    side_seen,
    visible_share,
)
from fotaxis.core.render.transport.occlusion import (
    OFFSET,
    heights_between,
    may_stand_between,
    plan_reach,
    possible_occluders,
)
from fotaxis.core.values import Array


class DirectCache(NamedTuple):
    """What places got from every face in the picture before, for all lights as one.

    moved (m,) int64: flats that have moved since, or may move; stale (faces,) bool: faces that show something else than then.
    light (places, faces, 3); lasts (places, faces) bool: no moved flat may have stood between.
    staying: flats as in Emitters with the moved ones out of every way; side (places, faces) int8: the side of a face that is seen,
    -1 none, NOT_YET; weights (places, faces, samples, 3): shading.sample_weights past what stays, where side is 0 or 1.
    lobed (places, faces, 3): what faces that stay send by their lobes, apart from light; lobed_lasts (places, faces) bool: nothing
    in those lobes may have changed but what is moved; lobes_stale (faces,) bool: faces whose lobes show something else than then.
    """

    moved: Ints
    stale: NDArray[np.bool_]
    light: NDArray[np.float32]
    lasts: NDArray[np.bool_]
    staying: Array
    side: NDArray[np.int8]
    weights: NDArray[np.float32]
    lobed: NDArray[np.float32]
    lobed_lasts: NDArray[np.bool_]
    lobes_stale: NDArray[np.bool_]


class CardCache(NamedTuple):
    """What places on cards and sheets got from every light in the picture before, all lights as one, and what of them they see.

    moved, stale: as in Before. light (nodes, 2, faces, 3): front and back; lasts (nodes, faces); open (nodes, faces) and
    open_lasts (nodes, faces): Emitters.open at the node.
    """

    moved: Ints
    stale: NDArray[np.bool_]
    light: Array
    lasts: NDArray[np.bool_]
    open: Array
    open_lasts: NDArray[np.bool_]


UNKNOWN = -2
"""Which side of a face a place sees has not been looked for yet."""


@leaf
def attenuate_by_moved(
    emitters: Emitters, moved: Ints, x: float, y: float, z: float, dx: float, dy: float, dz: float, length: float, passed: Array
) -> None:  # fmt: skip
    """Dim passed[1:4] by what moved flats let through on the way from a place along a unit direction, so many metres."""
    for j in moved:
        t, _, _ = hit_flat(emitters.flats, j, x, y, z, dx, dy, dz, OFFSET, length - OFFSET)
        if t < length - OFFSET:
            for c in range(3):
                passed[1 + c] *= transmittance(emitters.flats, emitters.veil, j, c, dx, dy, dz)


@leaf
def _static_weights(
    scene: StaticScene, emitters: Emitters, before: DirectCache, p: int, k: int, x: float, y: float, z: float, nx: float, ny: float, nz: float,
    coat: float, entry: float, found: Ints, corners: Array, passed: Array, weights: Array,
) -> None:  # fmt: skip
    """Fill side and weights of face k, which stays, at place p."""
    side = side_seen(emitters, k, x, y, z, nx, ny, nz)
    if side >= 0:
        n, m = possible_occluders(before.staying, scene.bounds, k, x, y, z, found)
        if not sample_weights(
            scene, emitters, k, side, x, y, z, nx, ny, nz, coat, entry, n, m, found, corners, passed, weights
        ):
            side = -1
    before.side[p, k] = side
    if side >= 0:
        for cell in range(emitters.parts[k]):
            for c in range(3):
                before.weights[p, k, cell, c] = weights[cell, c]


@leaf
def _add_weighted(
    emitters: Emitters,
    before: DirectCache,
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
    side = before.side[p, k]
    if side < 0:
        return
    light, samples = emitters.light[k], emitters.samples
    for cell in range(emitters.parts[k]):
        if before.weights[p, k, cell, 1] <= 0.0:
            continue
        for c in range(3):
            passed[1 + c] = before.weights[p, k, cell, c]
        if not clear:
            dx, dy, dz, d, _ = direction_to_sample(emitters.flats, samples, k, cell, x, y, z)
            attenuate_by_moved(emitters, before.moved, x, y, z, dx, dy, dz, d, passed)
        for c in range(3):
            if light < 0:
                one[0, c] += passed[1 + c] * emitters.sampled[k, side, cell, 0, c]
            else:
                one[0, c] += passed[1 + c] * samples[k, cell, SAMPLE.LUMINANCE] * emitters.gain[k, c]


@leaf
def _lobes_valid(emitters: Emitters, before: DirectCache, p: int, k: int, x: float, y: float, z: float) -> bool:
    """Do the lobes of face k send place p what they sent then: did they show nothing that may change, and still do not?"""
    if not before.lobed_lasts[p, k]:
        return False
    for cell in range(emitters.parts[k]):
        if before.weights[p, k, cell, 1] > 0.0:
            dx, dy, dz, _, _ = direction_to_sample(emitters.flats, emitters.samples, k, cell, x, y, z)
            u, v = emitters.samples[k, cell, SAMPLE.U], emitters.samples[k, cell, SAMPLE.V]
            if not lobes_undisturbed(emitters, before.moved, False, k, u, v, dx, dy, dz):
                return False
    return True


@leaf
def _update_lobes(
    emitters: Emitters,
    before: DirectCache,
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
        if before.weights[p, k, cell, 1] <= 0.0:
            continue
        for c in range(3):
            passed[1 + c] = before.weights[p, k, cell, c]
        dx, dy, dz, d, _ = direction_to_sample(emitters.flats, emitters.samples, k, cell, x, y, z)
        if not clear:
            attenuate_by_moved(emitters, before.moved, x, y, z, dx, dy, dz, d, passed)
        u, v = emitters.samples[k, cell, SAMPLE.U], emitters.samples[k, cell, SAMPLE.V]
        add_lobe_radiance(emitters, k, u, v, dx, dy, dz, 1, 1.0, passed[1:4], False, cell, one)
        lasts = lasts and lobes_undisturbed(emitters, before.moved, True, k, u, v, dx, dy, dz)
    for c in range(3):
        before.lobed[p, k, c] = one[0, c]
    before.lobed_lasts[p, k] = lasts


@leaf
def undisturbed(flats: Array, moved: Ints, k: int, x: float, y: float, z: float) -> bool:
    """Has face k stayed, and can nothing that moved stand between it and a place?"""
    wide = plan_reach(flats, k)
    low, high = heights_between(flats, k, y)
    clear = True
    for m in moved:
        clear = clear and m != k and not may_stand_between(flats, m, k, x, y, z, wide, low, high)
    return clear


@kernel
def _update_cards(
    scene: StaticScene, emitters: Emitters, nodes: Array, shone: CardCache, begin: int, end: int, out: Array
) -> None:
    flats = emitters.flats
    corners = np.empty((4, 3))
    passed = np.empty(4)
    weights = np.empty((emitters.samples.shape[1], 3))
    one = np.empty((1, 3))
    got = np.empty((2, 3))
    found = np.empty(flats.shape[0] + scene.bounds.shape[0], np.int64)
    for node in range(begin, end):
        k, cell = int(nodes[node, NODE.FACE]), int(nodes[node, NODE.CELL])
        x, y, z = place_on(flats, k, nodes[node, NODE.U], nodes[node, NODE.V])
        lobes = emitters.lobes[k, HAS_LOBE] > 0.0
        mirrors = emitters.lobes[k, GLOSS_TIGHT] >= MIRROR_TIGHT
        stay = is_static(shone.moved, k)
        got[:] = 0.0
        for j in range(emitters.light.shape[0]):
            by_way = emitters.light[j] < 0 and emitters.lobes[j, GLOSS_TIGHT] >= MIRROR_TIGHT
            lights = contributes(emitters, j, True, False)
            looks = lobes and j != k and (mirrors or lights)
            if not (by_way or lights or looks):
                continue
            clear = stay and undisturbed(flats, shone.moved, j, x, y, z)
            if looks:
                if not (clear and shone.open_lasts[node, j]):
                    shone.open[node, j] = visible_share(scene, emitters, j, x, y, z, found, passed)
                    shone.open_lasts[node, j] = clear
                emitters.open[k, j, cell] = shone.open[node, j]
            if not (by_way or lights):
                continue
            if by_way or not (clear and shone.lasts[node, j] and not shone.stale[j]):
                for side in range(2):
                    turn = 1.0 - 2.0 * side
                    nx, ny, nz = turn * flats[k, FLAT.NX], turn * flats[k, FLAT.NY], turn * flats[k, FLAT.NZ]
                    one[:] = 0.0
                    if by_way:
                        add_by_mirror_card(
                            scene, emitters, 1, j, x, y, z, nx, ny, nz, 0.0, 1.0, True, False, found, passed, weights, one
                        )
                    else:
                        add_from_face(
                            scene, emitters, 1, j, x, y, z, nx, ny, nz, 0.0, 1.0, found, corners, passed, weights, one
                        )
                    for c in range(3):
                        shone.light[node, side, j, c] = one[0, c]
                shone.lasts[node, j] = clear
            for side in range(2):
                for c in range(3):
                    got[side, c] += shone.light[node, side, j, c]
        for c in range(3):
            a, b = emitters.albedo[k, c] / math.pi, emitters.through[k, c] / math.pi
            out[node, 0, 0, c] = a * got[0, c] + b * got[1, c]
            out[node, 1, 0, c] = a * got[1, c] + b * got[0, c]


def update_cards(
    scene: StaticScene, emitters: Emitters, nodes: Array, shone: CardCache, begin: int, end: int, out: Array
) -> None:
    """As light_faces by the lights alone, all as one, taking from `shone` what cannot have changed, and keeping the rest there."""
    _update_cards(scene, emitters, nodes, shone, begin, end, out)


@kernel
def _update_direct(
    scene: StaticScene,
    emitters: Emitters,
    places: NDArray[np.float32],
    before: DirectCache,
    begin: int,
    end: int,
    out: NDArray[np.float32],
) -> None:
    flats = emitters.flats
    corners = np.empty((4, 3))
    passed = np.empty(4)
    weights = np.empty((emitters.samples.shape[1], 3))
    one = np.empty((1, 3))
    found = np.empty(flats.shape[0] + scene.bounds.shape[0], np.int64)
    for p in range(begin, end):
        x, y, z = float(places[p, PLACE.X]), float(places[p, PLACE.Y]), float(places[p, PLACE.Z])
        nx, ny, nz = float(places[p, PLACE.NX]), float(places[p, PLACE.NY]), float(places[p, PLACE.NZ])
        coat, entry = float(places[p, PLACE.COAT]), float(places[p, PLACE.ENTRY])
        for k in range(emitters.light.shape[0]):
            mirror = emitters.light[k] < 0 and emitters.lobes[k, GLOSS_TIGHT] >= MIRROR_TIGHT
            if not mirror and not contributes(emitters, k, True, True):
                continue
            stay = not mirror and is_static(before.moved, k)
            clear = not mirror and undisturbed(flats, before.moved, k, x, y, z)
            if not (clear and before.lasts[p, k] and not before.stale[k]):
                one[:] = 0.0
                if mirror:
                    add_by_mirror_card(
                        scene, emitters, 1, k, x, y, z, nx, ny, nz, coat, entry, True, True, found, passed, weights, one
                    )
                elif stay:
                    if before.side[p, k] == UNKNOWN:
                        _static_weights(
                            scene, emitters, before, p, k, x, y, z, nx, ny, nz, coat, entry, found, corners, passed, weights
                        )
                    _add_weighted(emitters, before, p, k, clear, x, y, z, passed, one)
                else:
                    add_from_face(
                        scene, emitters, 1, k, x, y, z, nx, ny, nz, coat, entry, found, corners, passed, weights, one
                    )
                for c in range(3):
                    before.light[p, k, c] = one[0, c]
                before.lasts[p, k] = clear
            for c in range(3):
                out[p, 0, c] += before.light[p, k, c]
            if stay and emitters.lobes[k, HAS_LOBE] > 0.0 and before.side[p, k] >= 0:
                if not clear or before.lobes_stale[k] or not _lobes_valid(emitters, before, p, k, x, y, z):
                    _update_lobes(emitters, before, p, k, clear, x, y, z, passed, one)
                for c in range(3):
                    out[p, 0, c] += before.lobed[p, k, c]


def update_direct(
    scene: StaticScene, emitters: Emitters, places: NDArray[np.float32], before: DirectCache, begin: int, end: int,
    out: NDArray[np.float32],
) -> None:  # fmt: skip
    """As light_places with one light, out (n, 1, 3), taking from `before` what cannot have changed, and keeping the rest there."""
    _update_direct(scene, emitters, places, before, begin, end, out)
