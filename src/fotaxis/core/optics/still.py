"""The part of the set that stands still while lights move, as plain arrays for the kernels."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.values import Array

Ints = NDArray[np.int64]


class Still(NamedTuple):
    """Solids of revolution and flat surfaces with their skins; every array C-contiguous.

    stretches (n, 8), groups (g, 3)    see geometry.revolution.pack
    solids (s, 3)                      axis x, height of the foot line, axis z, metres
    spans (s, 4) int64                 first and last stretch, first and last group of each solid
    flats (f, 24), flat_skin (f,)      see geometry.flat; skin number of each
    zones (z, 7)                       solid, lowest y, highest y, azimuth of the middle and half width in radians
                                       (0 faces +z), skin, rank; the last zone that holds a place wins
    solid_skin (s,) int64              skin of a solid where no zone holds
    skins (k, 5)                       diffuse R, G, B leaving the surface, coat index (0 for none), inner factor
    """

    stretches: Array
    groups: Array
    solids: Array
    spans: Ints
    flats: Array
    flat_skin: Ints
    zones: Array
    solid_skin: Ints
    skins: Array
