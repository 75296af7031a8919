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
from fotaxis.core.geometry.flat import DISC
from fotaxis.core.kernel import kernel
from fotaxis.core.optics.fresnel import reflectance
from fotaxis.core.optics.illuminance import rectangle_form
from fotaxis.core.optics.shading import Movables, beam, blocked, near_in_plan, plan_reach, way_to_sample
from fotaxis.core.optics.still import Ints, Still
from fotaxis.core.values import Array

OFFSET = 2 * SURFACE_OFFSET_M
LEAST_FORM = 1e-7
SUBCELLS = 5


class TableTop(NamedTuple):
    """A table as a thing that throws light.

    size (3,): half width, half depth, height of the top, metres; skin (5,): as Still.skins
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


@kernel
def _in_the_way(
    flats: Array, count: int, solids: Array, spans: Ints, groups: Array, skip: int,
    px: float, pz: float, qx: float, qz: float, half: float, found: Ints,
) -> tuple[int, int]:  # fmt: skip
    """Numbers of the movable flats, then of the solids, that in plan may stand between a place and a face."""
    n = 0
    for j in range(count):
        if j != skip and near_in_plan(px, pz, qx, qz, half, flats[j, 0], flats[j, 2], plan_reach(flats, j)):
            found[n] = j
            n += 1
    m = n
    for s in range(solids.shape[0]):
        if near_in_plan(px, pz, qx, qz, half, solids[s, 0], solids[s, 2], groups[spans[s, 2], 2]):
            found[m] = s
            m += 1
    return n, m


@kernel
def _mirrored(
    stretches: Array, groups: Array, solids: Array, spans: Ints, flats: Array, shape: Array, cells: Ints, samples: Array,
    size: Array, index: float, count: int, k: int, px: float, py: float, pz: float, nx: float, ny: float, nz: float,
    found: Ints, corners: Array,
) -> float:  # fmt: skip
    """Light from face k by way of the gloss, as a part of the luminance of its middle."""
    iy = 2.0 * size[2] - py
    toward = (px - flats[k, 0]) * flats[k, 9] + (iy - flats[k, 1]) * flats[k, 10] + (pz - flats[k, 2]) * flats[k, 11]
    if toward <= OFFSET:
        return 0.0
    n, m = _in_the_way(flats, count, solids, spans, groups, k, px, pz, flats[k, 0], flats[k, 2], plan_reach(flats, k), found)
    passed = 0.0
    whole = 0.0
    for cell in range(cells[k, 0] * cells[k, 1]):
        dx, dy, dz, d = way_to_sample(flats, samples, k, cell, px, iy, pz)
        falls = nx * dx - ny * dy + nz * dz
        leaves = -(flats[k, 9] * dx + flats[k, 10] * dy + flats[k, 11] * dz)
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
        lets_out = beam(flats, shape, k, -dx, -dy, -dz) if shape[k, 2] > 0.0 else 1.0
        if lets_out <= 0.0:
            continue
        if m > 0:
            if blocked(stretches, groups, solids, spans, flats, found, n, m, px, py, pz, dx, -dy, dz, first):
                continue
            if blocked(stretches, groups, solids, spans, flats, found, n, m, cx, size[2], cz, dx, dy, dz, d - first):
                continue
        passed += form * lets_out * samples[k, cell, 2] * reflectance(dy, index)
    if passed <= 0.0:
        return 0.0
    if flats[k, 14] == DISC:
        return math.pi * flats[k, 12] * flats[k, 13] * passed / (cells[k, 0] * cells[k, 1])
    return rectangle_form(flats, k, px, iy, pz, nx, -ny, nz, corners) * passed / whole


@kernel
def _add_table_light(
    stretches: Array, groups: Array, solids: Array, spans: Ints,
    flats: Array, light: Ints, gain: Array, shape: Array, albedo: Array, cells: Ints, samples: Array, card_luminance: Array,
    size: Array, skin: Array, table: Array, table_light: Array, lights: int,
    places: NDArray[np.float32], begin: int, end: int, out: NDArray[np.float32],
) -> None:  # fmt: skip
    count = light.shape[0]
    corners = np.empty((4, 3))
    found = np.empty(count + solids.shape[0], np.int64)
    index = skin[3]
    for p in range(begin, end):
        px, py, pz = float(places[p, 0]), float(places[p, 1]), float(places[p, 2])
        nx, ny, nz = float(places[p, 3]), float(places[p, 4]), float(places[p, 5])
        height = py - size[2]
        if height <= OFFSET:
            continue
        if index > 0.0:
            for k in range(count):
                if light[k] < 0:
                    continue
                share = _mirrored(
                    stretches, groups, solids, spans, flats, shape, cells, samples, size, index, count, k,
                    px, py, pz, nx, ny, nz, found, corners,
                )  # fmt: skip
                if share > 0.0:
                    for c in range(3):
                        out[p, light[k], c] += share * gain[k, c]
        for i in range(table.shape[0]):
            dx = table[i, 0] - px
            dz = table[i, 1] - pz
            d2 = dx * dx + height * height + dz * dz
            d = math.sqrt(d2)
            falls = (nx * dx - ny * height + nz * dz) / d
            leaves = height / d
            # pi d^2 + A: the exact form of a disc on its axis, so that near cells stay bounded.
            form = math.pi * falls * leaves * table[i, 2] / (math.pi * d2 + table[i, 2])
            if form <= LEAST_FORM:
                continue
            if index > 0.0:
                form *= 1.0 - reflectance(leaves, index)
            n, m = _in_the_way(flats, count, solids, spans, groups, -1, px, pz, table[i, 0], table[i, 1], 0.0, found)
            if m > 0 and blocked(
                stretches, groups, solids, spans, flats, found, n, m, px, py, pz, dx / d, -height / d, dz / d, d
            ):
                continue
            for j in range(lights):
                for c in range(3):
                    out[p, j, c] += form * table_light[i, j, c]


def cell_places(table: TableTop) -> NDArray[np.float32]:
    """Middles of the cells with the normal of the top, (n, 6) float32, as light_places reads them."""
    places = np.zeros((len(table.cells), 6), np.float32)
    places[:, 0], places[:, 1], places[:, 2], places[:, 4] = table.cells[:, 0], table.size[2], table.cells[:, 1], 1.0
    return places


def light_table(table: TableTop, arriving: NDArray[np.float32]) -> None:
    """Fill table.light from the illuminance on its cells (n, lights, 3): what is scattered below the gloss, over pi."""
    table.light[:] = arriving * (table.skin[:3] * table.skin[4] / math.pi)


def add_table_light(
    still: Still, movables: Movables, table: TableTop, lights: int, places: NDArray[np.float32], begin: int, end: int,
    out: NDArray[np.float32],
) -> None:  # fmt: skip
    """Add the table's light at places (n, >= 6: place, normal) to out (n, lights, 3), rows begin..end."""
    _add_table_light(*still[:4], *movables, *table, lights, places, begin, end, out)
