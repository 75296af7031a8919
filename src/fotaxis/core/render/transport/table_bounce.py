"""Light that a table throws up: mirrored by its gloss, scattered by its matte part; one bounce.

Mirrored light from a face is the face's own light on the place's mirror image below the table, dimmed by Fresnel and
only where the way crosses the top. Seen from above, that way is straight, so what may stand in it is found in plan.
Scattered light is summed over cells in rings around the product's axis.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import BOUNDS, CELL, FLAT, PLACE, PROFILE, SAMPLE
from fotaxis.core.constants import SURFACE_OFFSET_M
from fotaxis.core.geometry.planar import RECTANGLE
from fotaxis.core.geometry.rays import Ray
from fotaxis.core.kernel import inlined, kernel, leaf
from fotaxis.core.materials.bsdf import coat_entry, gloss_share
from fotaxis.core.materials.fresnel import reflectance
from fotaxis.core.materials.material import COAT, INNER, KIND, METAL
from fotaxis.core.render.arrays.emitters import Emitters, beam_factor, direction_to_sample, face_area
from fotaxis.core.render.arrays.receiver import Occluders, Receiver, Scratch, receiver_at, scratch_room
from fotaxis.core.render.arrays.static_scene import Ints, StaticScene
from fotaxis.core.render.arrays.table_top import TableTop
from fotaxis.core.render.transport.card_radiance import is_static
from fotaxis.core.render.transport.direct import add_weighted, contributes, side_towards
from fotaxis.core.render.transport.direct_cache import UNKNOWN, attenuate_by_moved
from fotaxis.core.render.transport.illuminance import rectangle_form
from fotaxis.core.render.transport.occlusion import near_in_plan, plan_reach, transmits
from fotaxis.core.values import Array

OFFSET = 2 * SURFACE_OFFSET_M
LEAST_FORM = 1e-7


@leaf
def _occluded(
    flats: Array, count: int, bounds: Array, skip: int, px: float, pz: float, qx: float, qz: float, half: float, found: Ints
) -> tuple[int, int]:
    """Numbers of the movable flats, then of the bodies, that in plan may stand between a place and a face."""
    n = 0
    for j in range(count):
        if j != skip and near_in_plan(px, pz, qx, qz, half, flats[j, FLAT.X], flats[j, FLAT.Z], plan_reach(flats, j)):
            found[n] = j
            n += 1
    m = n
    for s in range(bounds.shape[0]):
        if near_in_plan(px, pz, qx, qz, half, bounds[s, BOUNDS.X], bounds[s, BOUNDS.Z], bounds[s, BOUNDS.RADIUS]):
            found[m] = s
            m += 1
    return n, m


@leaf
def _mirror_weights(
    scene: StaticScene,
    emitters: Emitters,
    flats: Array,
    table: TableTop,
    k: int,
    at: Receiver,
    scratch: Scratch,
    share: Array,
) -> int:
    """As direct.sample_weights, by way of the table's gloss: scratch.weights and the side of face k, -1 for none.

    flats: those that may stand in between; share (3,): scratch space.
    """
    light, shape, samples = emitters.light, emitters.shape, emitters.samples
    found, passed, weights, size = scratch.found, scratch.passed, scratch.weights, table.size
    px, py, pz, nx, ny, nz = at.x, at.y, at.z, at.nx, at.ny, at.nz
    iy = 2.0 * size[2] - py
    side = side_towards(flats, light[k] < 0, k, px, iy, pz)
    if side < 0:
        return -1
    n, m = _occluded(
        flats, light.shape[0], scene.bounds, k, px, pz, flats[k, FLAT.X], flats[k, FLAT.Z], plan_reach(flats, k), found
    )
    among = Occluders(found, n, m)
    whole = 0.0
    some = False
    count = emitters.parts[k]
    for cell in range(count):
        weights[cell, 0] = weights[cell, 1] = weights[cell, 2] = 0.0
        dx, dy, dz, d, leaves = direction_to_sample(flats, samples, k, cell, px, iy, pz)
        leaves = abs(leaves)
        falls = nx * dx - ny * dy + nz * dz
        if falls <= 0.0 or leaves <= 0.0:
            continue
        form = falls * leaves / (d * d)
        whole += form
        if iy + dy * d <= size[2] + OFFSET:
            continue
        first = (py - size[2]) / dy
        cx = px + first * dx
        cz = pz + first * dz
        if abs(cx - size[3]) > size[0] or abs(cz - size[4]) > size[1]:
            continue
        lets_out = (
            beam_factor(emitters, k, samples[k, cell, SAMPLE.U], samples[k, cell, SAMPLE.V], -dx, -dy, -dz)
            if shape[k, PROFILE.BEAM] > 0.0
            else 1.0
        )
        if lets_out <= 0.0:
            continue
        form *= lets_out * coat_entry(at.coat, at.entry, falls)
        share[0] = share[1] = share[2] = 1.0
        if m > 0:
            if not transmits(scene, flats, emitters.veil, among, Ray(px, py, pz, dx, -dy, dz), first, passed):
                continue
            for c in range(3):
                share[c] = passed[1 + c]
            if not transmits(scene, flats, emitters.veil, among, Ray(cx, size[2], cz, dx, dy, dz), d - first, passed):
                continue
            for c in range(3):
                share[c] *= passed[1 + c]
        some = True
        for c in range(3):
            weights[cell, c] = form * share[c] * gloss_share(table.skin, 0, c, dy)
    if not some:
        return -1
    if flats[k, FLAT.SHAPE] == RECTANGLE and side == 0:
        scale = rectangle_form(flats, k, px, iy, pz, nx, -ny, nz, scratch.corners) / whole
    else:
        scale = face_area(flats, k, px, iy, pz) / count
    for cell in range(count):
        for c in range(3):
            weights[cell, c] *= scale
    return side


@leaf
def _way_to_cell(cells: Array, i: int, at: Receiver, height: float) -> tuple[float, float, float, float]:
    """Unit direction from a place so high above the table to one of its cells, and how far it is."""
    dx, dz = cells[i, CELL.X] - at.x, cells[i, CELL.Z] - at.z
    d = math.sqrt(dx * dx + height * height + dz * dz)
    return dx / d, -height / d, dz / d, d


@leaf
def _cell_weight(
    scene: StaticScene,
    emitters: Emitters,
    flats: Array,
    table: TableTop,
    i: int,
    at: Receiver,
    height: float,
    scratch: Scratch,
) -> float:
    """Illuminance at a place for each unit of luminance of a table's cell; its shares R, G, B past what is between in
    scratch.passed[1:4]."""
    dx, dy, dz, d = _way_to_cell(table.cells, i, at, height)
    falls = at.nx * dx + at.ny * dy + at.nz * dz
    area, index, passed = table.cells[i, CELL.AREA], table.skin[0, COAT], scratch.passed
    # pi d^2 + A: the exact form of a disc on its axis, so that near cells stay bounded.
    form = math.pi * falls * -dy * area / (math.pi * d * d + area)
    if form <= LEAST_FORM:
        return 0.0
    if index > 0.0:
        form *= 1.0 - reflectance(-dy, index)
    form *= coat_entry(at.coat, at.entry, falls)
    n, m = _occluded(
        flats, emitters.light.shape[0], scene.bounds, -1, at.x, at.z, table.cells[i, CELL.X], table.cells[i, CELL.Z], 0.0,
        scratch.found,
    )  # fmt: skip
    passed[1] = passed[2] = passed[3] = 1.0
    ray = Ray(at.x, at.y, at.z, dx, dy, dz)
    if m > 0 and not transmits(scene, flats, emitters.veil, Occluders(scratch.found, n, m), ray, d, passed):
        return 0.0
    return form


@inlined
def _table_mirrors(skin: Array) -> bool:
    """Does a table throw light by its gloss?"""
    return skin[0, COAT] > 0.0 or skin[0, KIND] == METAL


class TableCache(NamedTuple):
    """How light comes to places by way of the table, past what stays where it is. Empty arrays: nothing is kept.

    moved, staying, side, weights: as in direct_cache.DirectCache, but by the table's gloss; seen (places,) bool: are the cells known;
    cells (places, cells, 3): illuminance for each unit of luminance of a cell.
    """

    moved: Ints
    staying: Array
    side: NDArray[np.int8]
    weights: NDArray[np.float32]
    seen: NDArray[np.bool_]
    cells: NDArray[np.float32]


NO_TABLE_CACHE = TableCache(
    moved=np.empty(0, np.int64), staying=np.empty((0, 0)), side=np.empty((0, 0), np.int8),
    weights=np.empty((0, 0, 0, 3), np.float32), seen=np.empty(0, np.bool_), cells=np.empty((0, 0, 3), np.float32),
)  # fmt: skip


@leaf
def _moved_near(flats: Array, moved: Ints, px: float, pz: float, qx: float, qz: float, half: float) -> bool:
    """May something that moved stand above the way from p to +-half around q, seen in plan?"""
    near = False
    for j in moved:
        near = near or near_in_plan(px, pz, qx, qz, half, flats[j, FLAT.X], flats[j, FLAT.Z], plan_reach(flats, j))
    return near


@leaf
def _attenuate_by_moved(
    emitters: Emitters, moved: Ints, k: int, height: float, at: Receiver, passed: Array, weights: Array
) -> None:
    """Dim weights (samples, 3) of face k by what moved things let through on both sides of the table's gloss."""
    px, py, pz = at.x, at.y, at.z
    iy = 2.0 * height - py
    for cell in range(emitters.parts[k]):
        if weights[cell, 0] + weights[cell, 1] + weights[cell, 2] <= 0.0:
            continue
        dx, dy, dz, d, _ = direction_to_sample(emitters.flats, emitters.samples, k, cell, px, iy, pz)
        first = (py - height) / dy
        passed[1] = passed[2] = passed[3] = 1.0
        attenuate_by_moved(emitters, moved, Ray(px, py, pz, dx, -dy, dz), first, passed)
        beyond = Ray(px + first * dx, height, pz + first * dz, dx, dy, dz)
        attenuate_by_moved(emitters, moved, beyond, d - first, passed)
        for c in range(3):
            weights[cell, c] *= passed[1 + c]


@leaf
def _mirror_weights_from_cache(
    scene: StaticScene, emitters: Emitters, table: TableTop, cache: TableCache, p: int, k: int, at: Receiver, scratch: Scratch,
    share: Array,
) -> int:  # fmt: skip
    """As _mirror_weights for face k, which stays: what was found once is kept, and dimmed by what has moved."""
    flats, weights = emitters.flats, scratch.weights
    if cache.side[p, k] == UNKNOWN:
        cache.side[p, k] = _mirror_weights(scene, emitters, cache.staying, table, k, at, scratch, share)
        for cell in range(emitters.parts[k]):
            for c in range(3):
                cache.weights[p, k, cell, c] = weights[cell, c]
    side = int(cache.side[p, k])
    if side >= 0:
        for cell in range(emitters.parts[k]):
            for c in range(3):
                weights[cell, c] = cache.weights[p, k, cell, c]
        if _moved_near(flats, cache.moved, at.x, at.z, flats[k, FLAT.X], flats[k, FLAT.Z], plan_reach(flats, k)):
            _attenuate_by_moved(emitters, cache.moved, k, table.size[2], at, scratch.passed, weights)
    return side


@leaf
def _cell_weight_from_cache(
    scene: StaticScene, emitters: Emitters, table: TableTop, cache: TableCache, p: int, i: int, at: Receiver, height: float,
    scratch: Scratch,
) -> float:  # fmt: skip
    """As _cell_weight: what was found once is kept, times its share in passed[1:4], and dimmed by what has moved."""
    passed, cells = scratch.passed, table.cells
    if not cache.seen[p]:
        form = _cell_weight(scene, emitters, cache.staying, table, i, at, height, scratch)
        for c in range(3):
            cache.cells[p, i, c] = form * passed[1 + c] if form > 0.0 else 0.0
    if cache.cells[p, i, 1] <= 0.0:
        return 0.0
    passed[1] = passed[2] = passed[3] = 1.0
    if _moved_near(emitters.flats, cache.moved, at.x, at.z, cells[i, CELL.X], cells[i, CELL.Z], 0.0):
        dx, dy, dz, d = _way_to_cell(cells, i, at, height)
        attenuate_by_moved(emitters, cache.moved, Ray(at.x, at.y, at.z, dx, dy, dz), d, passed)
    for c in range(3):
        passed[1 + c] *= cache.cells[p, i, c]
    return 1.0


@kernel
def _add_table_bounce(
    scene: StaticScene, emitters: Emitters, table: TableTop, lights: int, places: NDArray[np.float32], cache: TableCache,
    begin: int, end: int, out: NDArray[np.float32],
) -> None:  # fmt: skip
    scratch = scratch_room(scene, emitters)
    passed, share, sums = scratch.passed, np.empty(3), np.empty((lights, 3))
    cells, cell_light = table.cells, table.light
    cached = cache.seen.shape[0] > 0
    mirrors = _table_mirrors(table.skin)
    for p in range(begin, end):
        at = receiver_at(places, p)
        height = at.y - table.size[2]
        if height <= OFFSET:
            continue
        sums[:] = 0.0
        for k in range(emitters.light.shape[0] if mirrors else 0):
            if not contributes(emitters, k, True, True):
                continue
            if cached and is_static(cache.moved, k):
                side = _mirror_weights_from_cache(scene, emitters, table, cache, p, k, at, scratch, share)
            else:
                side = _mirror_weights(scene, emitters, emitters.flats, table, k, at, scratch, share)
            if side >= 0:
                add_weighted(emitters, k, side, scratch.weights, sums)
        for i in range(cells.shape[0]):
            if cached:
                form = _cell_weight_from_cache(scene, emitters, table, cache, p, i, at, height, scratch)
            else:
                form = _cell_weight(scene, emitters, emitters.flats, table, i, at, height, scratch)
            if form > 0.0:
                for j in range(lights):
                    for c in range(3):
                        sums[j, c] += form * passed[1 + c] * cell_light[i, j, c]
        if cached:
            cache.seen[p] = True
        for j in range(lights):
            for c in range(3):
                out[p, j, c] += sums[j, c]


def cell_places(table: TableTop) -> NDArray[np.float32]:
    """Middles of the cells with the normal of the top, (n, 8) float32, see columns.place."""
    places = np.zeros((len(table.cells), 8), np.float32)
    places[:, PLACE.ENTRY] = 1.0
    places[:, PLACE.X], places[:, PLACE.Y], places[:, PLACE.Z], places[:, PLACE.NY] = (
        table.cells[:, CELL.X],
        table.size[2],
        table.cells[:, CELL.Z],
        1.0,
    )
    return places


def light_table(table: TableTop, arriving: NDArray[np.float32]) -> None:
    """Fill table.light from the illuminance on its cells (n, lights, 3): what is scattered below the gloss, over pi."""
    table.light[:] = arriving * (table.albedo[:, None] * (table.skin[0, INNER] / math.pi))


def add_table_bounce(
    scene: StaticScene, emitters: Emitters, table: TableTop, lights: int, places: NDArray[np.float32], begin: int, end: int,
    out: NDArray[np.float32], cache: TableCache = NO_TABLE_CACHE,
) -> None:  # fmt: skip
    """Add the table's light at places (n, 8, see columns.place) to out (n, lights, 3), rows begin..end.

    cache: of a preview with one light: the ways past what stays are kept there.
    """
    _add_table_bounce(scene, emitters, table, lights, places, cache, begin, end, out)
