"""Light by way of the table while something is dragged: the ways of what stays are kept, what moved is tested against them."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import CELL, FLAT
from fotaxis.core.kernel import kernel, leaf
from fotaxis.core.materials.material import COAT
from fotaxis.core.render.arrays.emitters import Emitters, direction_to_sample
from fotaxis.core.render.arrays.static_scene import Ints, StaticScene
from fotaxis.core.render.arrays.table_top import TableTop
from fotaxis.core.render.transport.card_radiance import is_static
from fotaxis.core.render.transport.direct import add_weighted, contributes
from fotaxis.core.render.transport.direct_cache import UNKNOWN, attenuate_by_moved
from fotaxis.core.render.transport.occlusion import OFFSET, near_in_plan, plan_reach
from fotaxis.core.render.transport.table_bounce import cell_weight, mirror_weights, table_mirrors, way_to_cell
from fotaxis.core.values import Array


class TableCache(NamedTuple):
    """How light comes to places by way of the table, past what stays where it is.

    moved, staying, side, weights: as in direct_cache.DirectCache, but by the table's gloss; seen (places,) bool: are the cells known;
    cells (places, cells, 3): illuminance for each unit of luminance of a cell.
    """

    moved: Ints
    staying: Array
    side: NDArray[np.int8]
    weights: NDArray[np.float32]
    seen: NDArray[np.bool_]
    cells: NDArray[np.float32]


@leaf
def _moved_near(flats: Array, moved: Ints, px: float, pz: float, qx: float, qz: float, half: float) -> bool:
    """May something that moved stand above the way from p to +-half around q, seen in plan?"""
    near = False
    for j in moved:
        near = near or near_in_plan(px, pz, qx, qz, half, flats[j, FLAT.X], flats[j, FLAT.Z], plan_reach(flats, j))
    return near


@leaf
def _attenuate_table_way(
    emitters: Emitters, moved: Ints, k: int, size: Array, place: NDArray[np.float32], passed: Array, weights: Array
) -> None:
    """Dim weights (samples, 3) of face k by what moved things let through on both sides of the table's gloss."""
    px, py, pz = float(place[0]), float(place[1]), float(place[2])
    iy = 2.0 * size[2] - py
    for cell in range(emitters.parts[k]):
        if weights[cell, 0] + weights[cell, 1] + weights[cell, 2] <= 0.0:
            continue
        dx, dy, dz, d, _ = direction_to_sample(emitters.flats, emitters.samples, k, cell, px, iy, pz)
        first = (py - size[2]) / dy
        passed[1] = passed[2] = passed[3] = 1.0
        attenuate_by_moved(emitters, moved, px, py, pz, dx, -dy, dz, first, passed)
        attenuate_by_moved(emitters, moved, px + first * dx, size[2], pz + first * dz, dx, dy, dz, d - first, passed)
        for c in range(3):
            weights[cell, c] *= passed[1 + c]


@kernel
def _update_table_bounce(
    scene: StaticScene, emitters: Emitters, size: Array, skin: Array, table: Array, table_light: Array, places: NDArray[np.float32],
    kept: TableCache, begin: int, end: int, out: NDArray[np.float32],
) -> None:  # fmt: skip
    flats = emitters.flats
    count = emitters.light.shape[0]
    corners = np.empty((4, 3))
    passed = np.empty(4)
    share = np.empty(3)
    sums = np.empty((1, 3))
    weights = np.empty((emitters.samples.shape[1], 3))
    found = np.empty(count + scene.bounds.shape[0], np.int64)
    for p in range(begin, end):
        place = places[p]
        px, pz, height = float(place[0]), float(place[2]), float(place[1]) - size[2]
        if height <= OFFSET:
            continue
        sums[:] = 0.0
        for k in range(count if table_mirrors(skin) else 0):
            if not contributes(emitters, k, True, True):
                continue
            stay = is_static(kept.moved, k)
            side = int(kept.side[p, k]) if stay else UNKNOWN
            if side == UNKNOWN:
                among = kept.staying if stay else flats
                side = mirror_weights(scene, emitters, among, size, skin, k, place, found, corners, passed, share, weights)
                if stay:
                    kept.side[p, k] = side
                    kept.weights[p, k] = weights
            if side < 0:
                continue
            if stay:
                weights[:] = kept.weights[p, k]
                if _moved_near(flats, kept.moved, px, pz, flats[k, FLAT.X], flats[k, FLAT.Z], plan_reach(flats, k)):
                    _attenuate_table_way(emitters, kept.moved, k, size, place, passed, weights)
            add_weighted(emitters, k, side, weights, sums)
        for i in range(table.shape[0]):
            if not kept.seen[p]:
                form = cell_weight(scene, emitters, kept.staying, skin[0, COAT], table, i, place, height, found, passed)
                for c in range(3):
                    kept.cells[p, i, c] = form * passed[1 + c] if form > 0.0 else 0.0
            if kept.cells[p, i, 1] <= 0.0:
                continue
            passed[1] = passed[2] = passed[3] = 1.0
            if _moved_near(flats, kept.moved, px, pz, table[i, CELL.X], table[i, CELL.Z], 0.0):
                dx, dy, dz, d = way_to_cell(place, height, table, i)
                attenuate_by_moved(emitters, kept.moved, px, float(place[1]), pz, dx, dy, dz, d, passed)
            for c in range(3):
                sums[0, c] += kept.cells[p, i, c] * passed[1 + c] * table_light[i, 0, c]
        kept.seen[p] = True
        for c in range(3):
            out[p, 0, c] += sums[0, c]


def update_table_bounce(
    scene: StaticScene, emitters: Emitters, table: TableTop, places: NDArray[np.float32], kept: TableCache, begin: int, end: int,
    out: NDArray[np.float32],
) -> None:  # fmt: skip
    """As table_bounce.add_table_bounce with one light, out (n, 1, 3), by the ways in `kept`, which is filled where it is not yet."""
    _update_table_bounce(scene, emitters, *table, places, kept, begin, end, out)
