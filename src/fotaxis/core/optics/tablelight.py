"""Light that a table throws up: mirrored by its gloss, scattered by its matte part; one bounce.

Mirrored light from a face is the face's own light on the place's mirror image below the table, dimmed by Fresnel and
only where the way crosses the top. Seen from above, that way is straight, so what may stand in it is found in plan.
Scattered light is summed over cells in rings around the product's axis.
"""

from __future__ import annotations

import math
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.constants import SURFACE_OFFSET_M
from fotaxis.core.geometry.flat import RECTANGLE
from fotaxis.core.kernel import inlined, kernel, leaf
from fotaxis.core.optics.faces import Movables, beam, face_area, way_to_sample
from fotaxis.core.optics.fresnel import reflectance
from fotaxis.core.optics.illuminance import rectangle_form
from fotaxis.core.optics.material import COAT, INNER, KIND, METAL
from fotaxis.core.optics.shading import add_weighed, side_towards, throws_light
from fotaxis.core.optics.shadows import near_in_plan, passes, plan_reach
from fotaxis.core.optics.still import Ints, Still
from fotaxis.core.optics.surface import gloss_share
from fotaxis.core.values import Array

OFFSET = 2 * SURFACE_OFFSET_M
LEAST_FORM = 1e-7
SUBCELLS = 5


class TableTop(NamedTuple):
    """A table as a thing that throws light.

    size (3,): half width, half depth, height of the top, metres; skin (1, 28): as Still.skins
    cells (n, 3): x, z of the middle and area; light (n, lights, 3): luminance below the gloss, filled by light_table
    """

    size: Array
    skin: Array
    cells: Array
    light: Array


def table_cells(*, half_width: float, half_depth: float, inner: float, rings: int, around: int) -> Array:
    """Cells on a table top in rings that widen outwards from radius `inner`, (n, 3): x, z of the middle, area.

    A cell cut by the table's edge keeps the part that is on the table; metres.
    """
    outer = max(math.hypot(half_width, half_depth), inner * 1.1)
    edges = np.geomspace(inner, outer, rings + 1)
    part = (np.arange(SUBCELLS) + 0.5) / SUBCELLS
    rows = []
    for low, high in pairwise(edges):
        radius = np.sqrt(low**2 + part * (high**2 - low**2))
        whole = math.pi * (high**2 - low**2) / around
        for k in range(around):
            angle = 2 * math.pi * (k + part) / around
            x, z = np.outer(radius, np.sin(angle)).ravel(), np.outer(radius, np.cos(angle)).ravel()
            on = (np.abs(x) <= half_width) & (np.abs(z) <= half_depth)
            if on.any():
                rows.append([x[on].mean(), z[on].mean(), whole * on.mean()])
    return np.array(rows).reshape(-1, 3)


@leaf
def _in_the_way(
    flats: Array, count: int, bounds: Array, skip: int, px: float, pz: float, qx: float, qz: float, half: float, found: Ints
) -> tuple[int, int]:
    """Numbers of the movable flats, then of the bodies, that in plan may stand between a place and a face."""
    n = 0
    for j in range(count):
        if j != skip and near_in_plan(px, pz, qx, qz, half, flats[j, 0], flats[j, 2], plan_reach(flats, j)):
            found[n] = j
            n += 1
    m = n
    for s in range(bounds.shape[0]):
        if near_in_plan(px, pz, qx, qz, half, bounds[s, 0], bounds[s, 1], bounds[s, 2]):
            found[m] = s
            m += 1
    return n, m


@leaf
def _enters(coat: float, entry: float, cosine: float) -> float:
    """How much of light from a direction enters a coat, over what enters on average; 1 without one."""
    return (1.0 - reflectance(cosine, coat)) * entry if coat > 0.0 else 1.0


@leaf
def mirror_weights(
    still: Still, things: Movables, flats: Array, size: Array, skin: Array, k: int, place: NDArray[np.float32], found: Ints,
    corners: Array, passed: Array, share: Array, weights: Array,
) -> int:  # fmt: skip
    """As shading.sample_weights, by way of the table's gloss: weights (samples, 3) and the side of face k, -1 for none.

    flats: those that may stand in between.
    """
    light, shape, samples = things.light, things.shape, things.samples
    px, py, pz = float(place[0]), float(place[1]), float(place[2])
    nx, ny, nz = float(place[3]), float(place[4]), float(place[5])
    iy = 2.0 * size[2] - py
    side = side_towards(flats, light[k] < 0, k, px, iy, pz)
    if side < 0:
        return -1
    n, m = _in_the_way(flats, light.shape[0], still.bounds, k, px, pz, flats[k, 0], flats[k, 2], plan_reach(flats, k), found)
    whole = 0.0
    some = False
    count = things.parts[k]
    for cell in range(count):
        weights[cell, 0] = weights[cell, 1] = weights[cell, 2] = 0.0
        dx, dy, dz, d, leaves = way_to_sample(flats, samples, k, cell, px, iy, pz)
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
        if abs(cx) > size[0] or abs(cz) > size[1]:
            continue
        lets_out = beam(things, k, samples[k, cell, 0], samples[k, cell, 1], -dx, -dy, -dz) if shape[k, 2] > 0.0 else 1.0
        if lets_out <= 0.0:
            continue
        form *= lets_out * _enters(float(place[6]), float(place[7]), falls)
        share[0] = share[1] = share[2] = 1.0
        if m > 0:
            if not passes(still, flats, things.veil, found, n, m, px, py, pz, dx, -dy, dz, first, passed):
                continue
            for c in range(3):
                share[c] = passed[1 + c]
            if not passes(still, flats, things.veil, found, n, m, cx, size[2], cz, dx, dy, dz, d - first, passed):
                continue
            for c in range(3):
                share[c] *= passed[1 + c]
        some = True
        for c in range(3):
            weights[cell, c] = form * share[c] * gloss_share(skin, 0, c, dy)
    if not some:
        return -1
    if flats[k, 14] == RECTANGLE and side == 0:
        scale = rectangle_form(flats, k, px, iy, pz, nx, -ny, nz, corners) / whole
    else:
        scale = face_area(flats, k, px, iy, pz) / count
    for cell in range(count):
        for c in range(3):
            weights[cell, c] *= scale
    return side


@leaf
def way_to_cell(place: NDArray[np.float32], height: float, table: Array, i: int) -> tuple[float, float, float, float]:
    """Unit direction from a place so high above the table to one of its cells, and how far it is."""
    dx, dz = table[i, 0] - place[0], table[i, 1] - place[2]
    d = math.sqrt(dx * dx + height * height + dz * dz)
    return dx / d, -height / d, dz / d, d


@leaf
def cell_weight(
    still: Still, things: Movables, flats: Array, index: float, table: Array, i: int, place: NDArray[np.float32], height: float,
    found: Ints, passed: Array,
) -> float:  # fmt: skip
    """Illuminance at a place for each unit of luminance of a table's cell; its shares R, G, B past what is between in passed[1:4]."""
    dx, dy, dz, d = way_to_cell(place, height, table, i)
    falls = place[3] * dx + place[4] * dy + place[5] * dz
    # pi d^2 + A: the exact form of a disc on its axis, so that near cells stay bounded.
    form = math.pi * falls * -dy * table[i, 2] / (math.pi * d * d + table[i, 2])
    if form <= LEAST_FORM:
        return 0.0
    if index > 0.0:
        form *= 1.0 - reflectance(-dy, index)
    form *= _enters(float(place[6]), float(place[7]), falls)
    px, py, pz = float(place[0]), float(place[1]), float(place[2])
    n, m = _in_the_way(flats, things.light.shape[0], still.bounds, -1, px, pz, table[i, 0], table[i, 1], 0.0, found)
    passed[1] = passed[2] = passed[3] = 1.0
    if m > 0 and not passes(still, flats, things.veil, found, n, m, px, py, pz, dx, dy, dz, d, passed):
        return 0.0
    return form


@inlined
def mirrors(skin: Array) -> bool:
    """Does a table throw light by its gloss?"""
    return skin[0, COAT] > 0.0 or skin[0, KIND] == METAL


@kernel
def _add_table_light(
    still: Still, things: Movables, size: Array, skin: Array, table: Array, table_light: Array, lights: int,
    places: NDArray[np.float32], begin: int, end: int, out: NDArray[np.float32],
) -> None:  # fmt: skip
    flats, light = things.flats, things.light
    count = light.shape[0]
    corners = np.empty((4, 3))
    passed = np.empty(4)
    share = np.empty(3)
    sums = np.empty((lights, 3))
    weights = np.empty((things.samples.shape[1], 3))
    found = np.empty(count + still.bounds.shape[0], np.int64)
    for p in range(begin, end):
        height = places[p, 1] - size[2]
        if height <= OFFSET:
            continue
        sums[:] = 0.0
        if mirrors(skin):
            for k in range(count):
                if light[k] < 0 and not throws_light(things, k):
                    continue
                side = mirror_weights(still, things, flats, size, skin, k, places[p], found, corners, passed, share, weights)
                if side >= 0:
                    add_weighed(things, k, side, weights, sums)
        for i in range(table.shape[0]):
            form = cell_weight(still, things, flats, skin[0, COAT], table, i, places[p], height, found, passed)
            if form > 0.0:
                for j in range(lights):
                    for c in range(3):
                        sums[j, c] += form * passed[1 + c] * table_light[i, j, c]
        for j in range(lights):
            for c in range(3):
                out[p, j, c] += sums[j, c]


def cell_places(table: TableTop) -> NDArray[np.float32]:
    """Middles of the cells with the normal of the top, (n, 8) float32, as light_places reads them."""
    places = np.zeros((len(table.cells), 8), np.float32)
    places[:, 7] = 1.0
    places[:, 0], places[:, 1], places[:, 2], places[:, 4] = table.cells[:, 0], table.size[2], table.cells[:, 1], 1.0
    return places


def light_table(table: TableTop, arriving: NDArray[np.float32]) -> None:
    """Fill table.light from the illuminance on its cells (n, lights, 3): what is scattered below the gloss, over pi."""
    table.light[:] = arriving * (table.skin[0, :3] * table.skin[0, INNER] / math.pi)


def add_table_light(
    still: Still, movables: Movables, table: TableTop, lights: int, places: NDArray[np.float32], begin: int, end: int,
    out: NDArray[np.float32],
) -> None:  # fmt: skip
    """Add the table's light at places (n, 8, as light_places reads them) to out (n, lights, 3), rows begin..end."""
    _add_table_light(still, movables, *table, lights, places, begin, end, out)
