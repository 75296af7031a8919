"""The table as a thing that throws light, as the kernels read it."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from fotaxis.core.values import Array

SUBCELLS = 5
"""Places across a cell, both ways, by which its part on the table is found."""


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
