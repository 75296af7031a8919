"""Where a picture shows the mirror images of movable things."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.kernel import kernel
from fotaxis.core.optics.faces import Movables
from fotaxis.core.optics.paths import Traced
from fotaxis.core.optics.relight import NOT_KNOWN, Met, nearest_met
from fotaxis.core.optics.still import Ints

LEAST_WEIGHT = 0.004
"""A mirror image fainter than this part of what it mirrors is none to the eye."""


@kernel
def _mirrored(
    things: Movables, in_view: Ints, met: Met, segments: NDArray[np.float32], skip: NDArray[np.int32],
    starts: NDArray[np.int64], begin: int, end: int, out: NDArray[np.bool_],
) -> None:  # fmt: skip
    count = things.light.shape[0]
    for p in range(begin, end):
        n = starts[p]
        while n < starts[p + 1]:
            first = n == starts[p]
            if segments[n, 6] > 0.0:
                found, _, _, _ = nearest_met(things, count, in_view, met, segments, n, first)
                if found >= 0:
                    weight = max(segments[n, 7], max(segments[n, 8], segments[n, 9]))
                    if not first and weight >= LEAST_WEIGHT:
                        out[found, p] = True
                    n += skip[n]
                    continue
            n += 1


def mirrored(movables: Movables, in_view: Ints, traced: Traced, begin: int, end: int, out: NDArray[np.bool_]) -> None:
    """Set out (faces, samples) where samples begin..end show a face after at least one event, sharply mirrored or refracted."""
    _mirrored(movables, in_view, NOT_KNOWN, traced.segments, traced.skip, traced.starts, begin, end, out)
