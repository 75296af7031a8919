"""The table as a thing that throws light, as the kernels read it."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from fotaxis.core.kernel import kernel
from fotaxis.core.materials.bsdf import albedo
from fotaxis.core.materials.material import PATTERN
from fotaxis.core.values import Array

SUBCELLS = 5
"""Places across a cell, both ways, by which its part on the table is found."""


class TableTop(NamedTuple):
    """A table as a thing that throws light.

    size (3,): half width, half depth, height of the top, metres; skin (1, 28): as StaticScene.skins
    cells (n, 3): see columns.cell; albedo (n, 3): mean reflectance of each, its pattern included; light (n, lights,
    3): luminance below the gloss, filled by light_table
    """

    size: Array
    skin: Array
    cells: Array
    albedo: Array
    light: Array


def table_cells(
    *, half_width: float, half_depth: float, middle: tuple[float, float] = (0.0, 0.0), inner: float, rings: int, around: int
) -> tuple[Array, list[Array]]:
    """Cells on a table top in rings that widen outwards from radius `inner` about the axis, (n, 3): see columns.cell; and places in
    each, (m, 2): x, z from the table's middle.

    middle: of the table, x and z. A cell cut by the table's edge keeps the part that is on the table; metres.
    """
    mx, mz = middle
    outer = max(math.hypot(half_width + abs(mx), half_depth + abs(mz)), inner * 1.1)
    edges = np.geomspace(inner, outer, rings + 1)
    part = (np.arange(SUBCELLS) + 0.5) / SUBCELLS
    rows, places = [], []
    for low, high in pairwise(edges):
        radius = np.sqrt(low**2 + part * (high**2 - low**2))
        whole = math.pi * (high**2 - low**2) / around
        for k in range(around):
            angle = 2 * math.pi * (k + part) / around
            x, z = np.outer(radius, np.sin(angle)).ravel(), np.outer(radius, np.cos(angle)).ravel()
            on = (np.abs(x - mx) <= half_width) & (np.abs(z - mz) <= half_depth)
            if on.any():
                rows.append([x[on].mean(), z[on].mean(), whole * on.mean()])
                places.append(np.stack([x[on] - mx, z[on] - mz], axis=1))
    return np.array(rows).reshape(-1, 3), places


@kernel
def _mean_albedo(skin: Array, places: Array) -> Array:
    mean = np.zeros(3)
    for i in range(places.shape[0]):
        for c in range(3):
            mean[c] += albedo(skin, 0, c, places[i, 0], -places[i, 1]) / places.shape[0]
    return mean


def cell_albedo(skin: Array, places: list[Array]) -> Array:
    """Mean reflectance of the matte part of a table's skin (1, 28) over the places (m, 2) of each cell, (n, 3).

    The pattern counts from the table's middle, to the right and away from the camera, as on the top itself.
    """
    if skin[0, PATTERN] == 0.0:
        return np.tile(skin[0, :3], (len(places), 1))
    return np.array([_mean_albedo(skin, some) for some in places]).reshape(-1, 3)
