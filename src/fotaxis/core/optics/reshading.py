"""Light on matte surfaces while something is dragged: what cannot have changed is not worked out again."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.kernel import kernel, leaf
from fotaxis.core.optics.faces import GLOSS_TIGHT, HAS_LOBE, MIRROR_TIGHT, Movables, place_on
from fotaxis.core.optics.shading import by_mirror, from_face, gives, reaches
from fotaxis.core.optics.shadows import heights_between, may_stand_between, plan_reach
from fotaxis.core.optics.still import Ints, Still
from fotaxis.core.values import Array


class Before(NamedTuple):
    """What places got from every face in the picture before, for all lights as one.

    moved (m,) int64: flats that have moved since, or may move; stale (faces,) bool: faces that show something else than then.
    light (places, faces, 3); lasts (places, faces) bool: no moved flat may have stood between.
    """

    moved: Ints
    stale: NDArray[np.bool_]
    light: NDArray[np.float32]
    lasts: NDArray[np.bool_]


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


@leaf
def _undisturbed(flats: Array, moved: Ints, k: int, x: float, y: float, z: float) -> bool:
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
    scratch = np.empty((1, 3))
    one = np.empty((1, 3))
    got = np.empty((2, 3))
    found = np.empty(flats.shape[0] + still.bounds.shape[0], np.int64)
    for node in range(begin, end):
        k, cell = int(nodes[node, 0]), int(nodes[node, 3])
        x, y, z = place_on(flats, k, nodes[node, 1], nodes[node, 2])
        lobes = things.lobes[k, HAS_LOBE] > 0.0
        mirrors = things.lobes[k, GLOSS_TIGHT] >= MIRROR_TIGHT
        stays = True
        for m in shone.moved:
            stays = stays and m != k
        got[:] = 0.0
        for j in range(things.light.shape[0]):
            by_way = things.light[j] < 0 and things.lobes[j, GLOSS_TIGHT] >= MIRROR_TIGHT
            lights = gives(things, j, True, False)
            looks = lobes and j != k and (mirrors or lights)
            if not (by_way or lights or looks):
                continue
            clear = stays and _undisturbed(flats, shone.moved, j, x, y, z)
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
                            still, things, 1, j, x, y, z, nx, ny, nz, 0.0, 1.0, True, False, found, passed, scratch, one
                        )
                    else:
                        from_face(still, things, 1, j, x, y, z, nx, ny, nz, 0.0, 1.0, found, corners, passed, scratch, one)
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
    scratch = np.empty((1, 3))
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
            clear = not mirror and _undisturbed(flats, before.moved, k, x, y, z)
            if not (clear and before.lasts[p, k] and not before.stale[k]):
                one[:] = 0.0
                if mirror:
                    by_mirror(still, things, 1, k, x, y, z, nx, ny, nz, coat, entry, True, True, found, passed, scratch, one)
                else:
                    from_face(still, things, 1, k, x, y, z, nx, ny, nz, coat, entry, found, corners, passed, scratch, one)
                for c in range(3):
                    before.light[p, k, c] = one[0, c]
                before.lasts[p, k] = clear
            for c in range(3):
                out[p, 0, c] += before.light[p, k, c]


def light_places_again(
    still: Still, movables: Movables, places: NDArray[np.float32], before: Before, begin: int, end: int,
    out: NDArray[np.float32],
) -> None:  # fmt: skip
    """As light_places with one light, out (n, 1, 3), taking from `before` what cannot have changed, and keeping the rest there."""
    _light_places_again(still, movables, places, before, begin, end, out)
