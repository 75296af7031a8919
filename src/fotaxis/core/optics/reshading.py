"""Light on matte surfaces while something is dragged: what cannot have changed is not worked out again."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.kernel import kernel
from fotaxis.core.optics.faces import GLOSS_TIGHT, MIRROR_TIGHT, Movables
from fotaxis.core.optics.shading import by_mirror, from_face, gives
from fotaxis.core.optics.shadows import heights_between, may_stand_between, plan_reach
from fotaxis.core.optics.still import Ints, Still


class Before(NamedTuple):
    """What places got from every face in the picture before, for all lights as one.

    moved (m,) int64: flats that have moved since, or may move; stale (faces,) bool: faces that show something else than then.
    light (places, faces, 3); lasts (places, faces) bool: no moved flat may have stood between.
    """

    moved: Ints
    stale: NDArray[np.bool_]
    light: NDArray[np.float32]
    lasts: NDArray[np.bool_]


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
            clear = not mirror
            wide = plan_reach(flats, k)
            low, high = heights_between(flats, k, y)
            for m in before.moved:
                clear = clear and m != k and not may_stand_between(flats, m, k, x, y, z, wide, low, high)
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
