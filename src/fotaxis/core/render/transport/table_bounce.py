"""Light that a table throws up: mirrored by its gloss, scattered by its matte part; one bounce.

Mirrored light from a face is the face's own light on the place's mirror image below the table, dimmed by Fresnel and
only where the way crosses the top. Seen from above, that way is straight, so what may stand in it is found in plan.
Scattered light is summed over cells in rings around the product's axis.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import BOUNDS, CELL, FLAT, PLACE, PROFILE, SAMPLE
from fotaxis.core.constants import SURFACE_OFFSET_M
from fotaxis.core.geometry.planar import RECTANGLE
from fotaxis.core.kernel import inlined, kernel, leaf
from fotaxis.core.materials.bsdf import gloss_share
from fotaxis.core.materials.fresnel import reflectance
from fotaxis.core.materials.material import COAT, INNER, KIND, METAL
from fotaxis.core.render.arrays.emitters import Emitters, beam_factor, direction_to_sample, face_area
from fotaxis.core.render.arrays.static_scene import Ints, StaticScene
from fotaxis.core.render.arrays.table_top import TableTop
from fotaxis.core.render.transport.direct import add_weighted, scatters_light, side_towards
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
def _coat_entry(coat: float, entry: float, cosine: float) -> float:
    """How much of light from a direction enters a coat, over what enters on average; 1 without one."""
    return (1.0 - reflectance(cosine, coat)) * entry if coat > 0.0 else 1.0


@leaf
def mirror_weights(
    scene: StaticScene, emitters: Emitters, flats: Array, size: Array, skin: Array, k: int, place: NDArray[np.float32], found: Ints,
    corners: Array, passed: Array, share: Array, weights: Array,
) -> int:  # fmt: skip
    """As shading.sample_weights, by way of the table's gloss: weights (samples, 3) and the side of face k, -1 for none.

    flats: those that may stand in between.
    """
    light, shape, samples = emitters.light, emitters.shape, emitters.samples
    px, py, pz = float(place[0]), float(place[1]), float(place[2])
    nx, ny, nz = float(place[3]), float(place[4]), float(place[5])
    iy = 2.0 * size[2] - py
    side = side_towards(flats, light[k] < 0, k, px, iy, pz)
    if side < 0:
        return -1
    n, m = _occluded(
        flats, light.shape[0], scene.bounds, k, px, pz, flats[k, FLAT.X], flats[k, FLAT.Z], plan_reach(flats, k), found
    )
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
        if abs(cx) > size[0] or abs(cz) > size[1]:
            continue
        lets_out = (
            beam_factor(emitters, k, samples[k, cell, SAMPLE.U], samples[k, cell, SAMPLE.V], -dx, -dy, -dz)
            if shape[k, PROFILE.BEAM] > 0.0
            else 1.0
        )
        if lets_out <= 0.0:
            continue
        form *= lets_out * _coat_entry(float(place[6]), float(place[7]), falls)
        share[0] = share[1] = share[2] = 1.0
        if m > 0:
            if not transmits(scene, flats, emitters.veil, found, n, m, px, py, pz, dx, -dy, dz, first, passed):
                continue
            for c in range(3):
                share[c] = passed[1 + c]
            if not transmits(scene, flats, emitters.veil, found, n, m, cx, size[2], cz, dx, dy, dz, d - first, passed):
                continue
            for c in range(3):
                share[c] *= passed[1 + c]
        some = True
        for c in range(3):
            weights[cell, c] = form * share[c] * gloss_share(skin, 0, c, dy)
    if not some:
        return -1
    if flats[k, FLAT.SHAPE] == RECTANGLE and side == 0:
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
    dx, dz = table[i, CELL.X] - place[0], table[i, CELL.Z] - place[2]
    d = math.sqrt(dx * dx + height * height + dz * dz)
    return dx / d, -height / d, dz / d, d


@leaf
def cell_weight(
    scene: StaticScene, emitters: Emitters, flats: Array, index: float, table: Array, i: int, place: NDArray[np.float32], height: float,
    found: Ints, passed: Array,
) -> float:  # fmt: skip
    """Illuminance at a place for each unit of luminance of a table's cell; its shares R, G, B past what is between in passed[1:4]."""
    dx, dy, dz, d = way_to_cell(place, height, table, i)
    falls = place[3] * dx + place[4] * dy + place[5] * dz
    # pi d^2 + A: the exact form of a disc on its axis, so that near cells stay bounded.
    form = math.pi * falls * -dy * table[i, CELL.AREA] / (math.pi * d * d + table[i, CELL.AREA])
    if form <= LEAST_FORM:
        return 0.0
    if index > 0.0:
        form *= 1.0 - reflectance(-dy, index)
    form *= _coat_entry(float(place[6]), float(place[7]), falls)
    px, py, pz = float(place[0]), float(place[1]), float(place[2])
    n, m = _occluded(
        flats, emitters.light.shape[0], scene.bounds, -1, px, pz, table[i, CELL.X], table[i, CELL.Z], 0.0, found
    )
    passed[1] = passed[2] = passed[3] = 1.0
    if m > 0 and not transmits(scene, flats, emitters.veil, found, n, m, px, py, pz, dx, dy, dz, d, passed):
        return 0.0
    return form


@inlined
def table_mirrors(skin: Array) -> bool:
    """Does a table throw light by its gloss?"""
    return skin[0, COAT] > 0.0 or skin[0, KIND] == METAL


@kernel
def _add_table_bounce(
    scene: StaticScene, emitters: Emitters, size: Array, skin: Array, table: Array, table_light: Array, lights: int,
    places: NDArray[np.float32], begin: int, end: int, out: NDArray[np.float32],
) -> None:  # fmt: skip
    flats, light = emitters.flats, emitters.light
    count = light.shape[0]
    corners = np.empty((4, 3))
    passed = np.empty(4)
    share = np.empty(3)
    sums = np.empty((lights, 3))
    weights = np.empty((emitters.samples.shape[1], 3))
    found = np.empty(count + scene.bounds.shape[0], np.int64)
    for p in range(begin, end):
        height = places[p, PLACE.Y] - size[2]
        if height <= OFFSET:
            continue
        sums[:] = 0.0
        if table_mirrors(skin):
            for k in range(count):
                if light[k] < 0 and not scatters_light(emitters, k):
                    continue
                side = mirror_weights(
                    scene, emitters, flats, size, skin, k, places[p], found, corners, passed, share, weights
                )
                if side >= 0:
                    add_weighted(emitters, k, side, weights, sums)
        for i in range(table.shape[0]):
            form = cell_weight(scene, emitters, flats, skin[0, COAT], table, i, places[p], height, found, passed)
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
    table.light[:] = arriving * (table.skin[0, :3] * table.skin[0, INNER] / math.pi)


def add_table_bounce(
    scene: StaticScene, emitters: Emitters, table: TableTop, lights: int, places: NDArray[np.float32], begin: int, end: int,
    out: NDArray[np.float32],
) -> None:  # fmt: skip
    """Add the table's light at places (n, 8, as light_places reads them) to out (n, lights, 3), rows begin..end."""
    _add_table_bounce(scene, emitters, *table, lights, places, begin, end, out)
