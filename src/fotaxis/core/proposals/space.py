"""The space from which a wished highlight can be lit, as it is drawn from above and from the side."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import ConvexHull, QhullError

from fotaxis.core.proposals.ways import MirroredWays
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array

REACH_M = 2.5
"""The space is drawn so far."""

LEAST_M = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class Space:
    """Outlines of a region of space, metres: floor (n, 2) x and z, side (m, 2) z and y; free: the part of its ways that do not run
    into the table."""

    floor: Array
    side: Array
    free: float


def space_of(plan: Plan, mirrored: MirroredWays, *, reach_m: float = REACH_M) -> Space:
    """Where a face may stand, at any depth, so that it is seen in a highlight: between the ways on from all of it.

    Source:     law of reflection; the outlines are hulls of the ways, cut off where they meet the table.
    """
    places, ways = mirrored.places[mirrored.there], mirrored.ways[mirrored.there]
    length = np.full(len(places), reach_m)
    table = plan.table
    if table is not None:
        down = ways[:, 1] < -1e-9
        falls = np.where(down, -places[:, 1] / np.where(down, ways[:, 1], -1.0), np.inf)
        met = places + np.minimum(falls, reach_m)[:, None] * ways
        on = (np.abs(met[:, 0] - table.x_m) < table.width_m / 2) & (np.abs(met[:, 2] - table.z_m) < table.depth_m / 2)
        length = np.where(on & (falls < reach_m), falls, length)
    ends = places + length[:, None] * ways
    both = np.concatenate([places, ends])
    return Space(floor=_hull(both[:, [0, 2]]), side=_hull(both[:, [2, 1]]), free=float((length >= reach_m).mean()))


def _hull(flat: Array) -> Array:
    """The corners of the hull about some places (n, 2), in order; of what is only a line its ends."""
    if max(np.ptp(flat, axis=0)) < LEAST_M:
        return flat[:1]
    try:
        corners: Array = flat[ConvexHull(flat).vertices]
        return corners
    except QhullError:
        axis = int(np.argmax(np.ptp(flat, axis=0)))
        ends: Array = flat[[int(np.argmin(flat[:, axis])), int(np.argmax(flat[:, axis]))]]
        return ends
