"""Light on matte surfaces while something is dragged: what cannot have changed is not worked out again."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.geometry.flat import hit_flat
from fotaxis.core.kernel import kernel, leaf
from fotaxis.core.optics.faces import (
    GLOSS_TIGHT,
    HAS_LOBE,
    MIRROR_TIGHT,
    Movables,
    place_on,
    veil_share,
    way_to_sample,
)
from fotaxis.core.optics.shading import by_mirror, from_face, gives, reaches, sample_weights, side_seen
from fotaxis.core.optics.shadows import OFFSET, heights_between, may_stand_between, plan_reach, suspects
from fotaxis.core.optics.shown import add_lobes, lobes_keep_off, stays
from fotaxis.core.optics.still import Ints, Still
from fotaxis.core.values import Array


class Before(NamedTuple):
    """What places got from every face in the picture before, for all lights as one.

    moved (m,) int64: flats that have moved since, or may move; stale (faces,) bool: faces that show something else than then.
    light (places, faces, 3); lasts (places, faces) bool: no moved flat may have stood between.
    staying: flats as in Movables with the moved ones out of every way; side (places, faces) int8: the side of a face that is seen,
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


class Shone(NamedTuple):
    """What places on cards and sheets got from every light in the picture before, all lights as one, and what of them they see.

    moved, stale: as in Before. light (nodes, 2, faces, 3): front and back; lasts (nodes, faces); open (nodes, faces) and
    open_lasts (nodes, faces): Movables.open at the node.
    """

    moved: Ints
    stale: NDArray[np.bool_]
    light: Array
    lasts: NDArray[np.bool_]
    open: Array
    open_lasts: NDArray[np.bool_]


NOT_YET = -2
"""Which side of a face a place sees has not been looked for yet."""


@leaf
def past_moved(
    things: Movables, moved: Ints, x: float, y: float, z: float, dx: float, dy: float, dz: float, length: float, passed: Array
) -> None:  # fmt: skip
    """Dim passed[1:4] by what moved flats let through on the way from a place along a unit direction, so many metres."""
    for j in moved:
        t, _, _ = hit_flat(things.flats, j, x, y, z, dx, dy, dz, OFFSET, length - OFFSET)
        if t < length - OFFSET:
            for c in range(3):
                passed[1 + c] *= veil_share(things.flats, things.veil, j, c, dx, dy, dz)


@leaf
def _staying_weights(
    still: Still, things: Movables, before: Before, p: int, k: int, x: float, y: float, z: float, nx: float, ny: float, nz: float,
    coat: float, entry: float, found: Ints, corners: Array, passed: Array, weights: Array,
) -> None:  # fmt: skip
    """Fill side and weights of face k, which stays, at place p."""
    side = side_seen(things, k, x, y, z, nx, ny, nz)
    if side >= 0:
        n, m = suspects(before.staying, still.bounds, k, x, y, z, found)
        if not sample_weights(
            still, things, k, side, x, y, z, nx, ny, nz, coat, entry, n, m, found, corners, passed, weights
        ):
            side = -1
    before.side[p, k] = side
    if side >= 0:
        for cell in range(things.parts[k]):
            for c in range(3):
                before.weights[p, k, cell, c] = weights[cell, c]


@leaf
def _weighed(
    things: Movables, before: Before, p: int, k: int, clear: bool, x: float, y: float, z: float, passed: Array, one: Array
) -> None:
    """Add to one (1, 3) the light of face k, which stays, by the weights kept for place p, past what has moved."""
    side = before.side[p, k]
    if side < 0:
        return
    light, samples = things.light[k], things.samples
    for cell in range(things.parts[k]):
        if before.weights[p, k, cell, 1] <= 0.0:
            continue
        for c in range(3):
            passed[1 + c] = before.weights[p, k, cell, c]
        if not clear:
            dx, dy, dz, d, _ = way_to_sample(things.flats, samples, k, cell, x, y, z)
            past_moved(things, before.moved, x, y, z, dx, dy, dz, d, passed)
        for c in range(3):
            if light < 0:
                one[0, c] += passed[1 + c] * things.sampled[k, side, cell, 0, c]
            else:
                one[0, c] += passed[1 + c] * samples[k, cell, 2] * things.gain[k, c]


@leaf
def _lobes_last(things: Movables, before: Before, p: int, k: int, x: float, y: float, z: float) -> bool:
    """Do the lobes of face k send place p what they sent then: did they show nothing that may change, and still do not?"""
    if not before.lobed_lasts[p, k]:
        return False
    for cell in range(things.parts[k]):
        if before.weights[p, k, cell, 1] > 0.0:
            dx, dy, dz, _, _ = way_to_sample(things.flats, things.samples, k, cell, x, y, z)
            u, v = things.samples[k, cell, 0], things.samples[k, cell, 1]
            if not lobes_keep_off(things, before.moved, False, k, u, v, dx, dy, dz):
                return False
    return True


@leaf
def _lobes_again(
    things: Movables, before: Before, p: int, k: int, clear: bool, x: float, y: float, z: float, passed: Array, one: Array
) -> None:
    """Find lobed of face k, which stays, by the weights kept for place p, past what has moved."""
    lasts = clear
    one[:] = 0.0
    for cell in range(things.parts[k]):
        if before.weights[p, k, cell, 1] <= 0.0:
            continue
        for c in range(3):
            passed[1 + c] = before.weights[p, k, cell, c]
        dx, dy, dz, d, _ = way_to_sample(things.flats, things.samples, k, cell, x, y, z)
        if not clear:
            past_moved(things, before.moved, x, y, z, dx, dy, dz, d, passed)
        u, v = things.samples[k, cell, 0], things.samples[k, cell, 1]
        add_lobes(things, k, u, v, dx, dy, dz, 1, 1.0, passed[1:4], False, cell, one)
        lasts = lasts and lobes_keep_off(things, before.moved, True, k, u, v, dx, dy, dz)
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
def _light_faces_again(still: Still, things: Movables, nodes: Array, shone: Shone, begin: int, end: int, out: Array) -> None:
    flats = things.flats
    corners = np.empty((4, 3))
    passed = np.empty(4)
    weights = np.empty((things.samples.shape[1], 3))
    one = np.empty((1, 3))
    got = np.empty((2, 3))
    found = np.empty(flats.shape[0] + still.bounds.shape[0], np.int64)
    for node in range(begin, end):
        k, cell = int(nodes[node, 0]), int(nodes[node, 3])
        x, y, z = place_on(flats, k, nodes[node, 1], nodes[node, 2])
        lobes = things.lobes[k, HAS_LOBE] > 0.0
        mirrors = things.lobes[k, GLOSS_TIGHT] >= MIRROR_TIGHT
        stay = stays(shone.moved, k)
        got[:] = 0.0
        for j in range(things.light.shape[0]):
            by_way = things.light[j] < 0 and things.lobes[j, GLOSS_TIGHT] >= MIRROR_TIGHT
            lights = gives(things, j, True, False)
            looks = lobes and j != k and (mirrors or lights)
            if not (by_way or lights or looks):
                continue
            clear = stay and undisturbed(flats, shone.moved, j, x, y, z)
            if looks:
                if not (clear and shone.open_lasts[node, j]):
                    shone.open[node, j] = reaches(still, things, j, x, y, z, found, passed)
                    shone.open_lasts[node, j] = clear
                things.open[k, j, cell] = shone.open[node, j]
            if not (by_way or lights):
                continue
            if by_way or not (clear and shone.lasts[node, j] and not shone.stale[j]):
                for side in range(2):
                    turn = 1.0 - 2.0 * side
                    nx, ny, nz = turn * flats[k, 9], turn * flats[k, 10], turn * flats[k, 11]
                    one[:] = 0.0
                    if by_way:
                        by_mirror(
                            still, things, 1, j, x, y, z, nx, ny, nz, 0.0, 1.0, True, False, found, passed, weights, one
                        )
                    else:
                        from_face(still, things, 1, j, x, y, z, nx, ny, nz, 0.0, 1.0, found, corners, passed, weights, one)
                    for c in range(3):
                        shone.light[node, side, j, c] = one[0, c]
                shone.lasts[node, j] = clear
            for side in range(2):
                for c in range(3):
                    got[side, c] += shone.light[node, side, j, c]
        for c in range(3):
            a, b = things.albedo[k, c] / math.pi, things.through[k, c] / math.pi
            out[node, 0, 0, c] = a * got[0, c] + b * got[1, c]
            out[node, 1, 0, c] = a * got[1, c] + b * got[0, c]


def light_faces_again(
    still: Still, movables: Movables, nodes: Array, shone: Shone, begin: int, end: int, out: Array
) -> None:
    """As light_faces by the lights alone, all as one, taking from `shone` what cannot have changed, and keeping the rest there."""
    _light_faces_again(still, movables, nodes, shone, begin, end, out)


@kernel
def _light_places_again(
    still: Still,
    things: Movables,
    places: NDArray[np.float32],
    before: Before,
    begin: int,
    end: int,
    out: NDArray[np.float32],
) -> None:
    flats = things.flats
    corners = np.empty((4, 3))
    passed = np.empty(4)
    weights = np.empty((things.samples.shape[1], 3))
    one = np.empty((1, 3))
    found = np.empty(flats.shape[0] + still.bounds.shape[0], np.int64)
    for p in range(begin, end):
        x, y, z = float(places[p, 0]), float(places[p, 1]), float(places[p, 2])
        nx, ny, nz = float(places[p, 3]), float(places[p, 4]), float(places[p, 5])
        coat, entry = float(places[p, 6]), float(places[p, 7])
        for k in range(things.light.shape[0]):
            mirror = things.light[k] < 0 and things.lobes[k, GLOSS_TIGHT] >= MIRROR_TIGHT
            if not mirror and not gives(things, k, True, True):
                continue
            stay = not mirror and stays(before.moved, k)
            clear = not mirror and undisturbed(flats, before.moved, k, x, y, z)
            if not (clear and before.lasts[p, k] and not before.stale[k]):
                one[:] = 0.0
                if mirror:
                    by_mirror(still, things, 1, k, x, y, z, nx, ny, nz, coat, entry, True, True, found, passed, weights, one)
                elif stay:
                    if before.side[p, k] == NOT_YET:
                        _staying_weights(
                            still, things, before, p, k, x, y, z, nx, ny, nz, coat, entry, found, corners, passed, weights
                        )
                    _weighed(things, before, p, k, clear, x, y, z, passed, one)
                else:
                    from_face(still, things, 1, k, x, y, z, nx, ny, nz, coat, entry, found, corners, passed, weights, one)
                for c in range(3):
                    before.light[p, k, c] = one[0, c]
                before.lasts[p, k] = clear
            for c in range(3):
                out[p, 0, c] += before.light[p, k, c]
            if stay and things.lobes[k, HAS_LOBE] > 0.0 and before.side[p, k] >= 0:
                if not clear or before.lobes_stale[k] or not _lobes_last(things, before, p, k, x, y, z):
                    _lobes_again(things, before, p, k, clear, x, y, z, passed, one)
                for c in range(3):
                    out[p, 0, c] += before.lobed[p, k, c]


def light_places_again(
    still: Still, movables: Movables, places: NDArray[np.float32], before: Before, begin: int, end: int,
    out: NDArray[np.float32],
) -> None:  # fmt: skip
    """As light_places with one light, out (n, 1, 3), taking from `before` what cannot have changed, and keeping the rest there."""
    _light_places_again(still, movables, places, before, begin, end, out)
