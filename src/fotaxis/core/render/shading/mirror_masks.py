"""Where a picture shows the mirror images of movable things."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import SEGMENT
from fotaxis.core.kernel import kernel
from fotaxis.core.render.arrays.emitters import Emitters
from fotaxis.core.render.arrays.path_records import TracedPaths
from fotaxis.core.render.arrays.static_scene import Ints
from fotaxis.core.render.shading.first_hits import NO_FIRST_HITS, FirstHits, nearest_emitter

LEAST_WEIGHT = 0.004
"""A mirror image fainter than this part of what it mirrors is none to the eye."""


@kernel
def _mirror_mask(
    emitters: Emitters, in_view: Ints, met: FirstHits, segments: NDArray[np.float32], skip: NDArray[np.int32],
    starts: NDArray[np.int64], begin: int, end: int, out: NDArray[np.bool_],
) -> None:  # fmt: skip
    count = emitters.light.shape[0]
    for p in range(begin, end):
        n = starts[p]
        while n < starts[p + 1]:
            first = n == starts[p]
            if segments[n, SEGMENT.LENGTH] > 0.0:
                found, _, _, _ = nearest_emitter(emitters, count, in_view, met, segments, n, first)
                if found >= 0:
                    weight = max(segments[n, SEGMENT.RED], max(segments[n, SEGMENT.GREEN], segments[n, SEGMENT.BLUE]))
                    if not first and weight >= LEAST_WEIGHT:
                        out[found, p] = True
                    n += skip[n]
                    continue
            n += 1


def mirror_mask(
    emitters: Emitters, in_view: Ints, traced: TracedPaths, begin: int, end: int, out: NDArray[np.bool_]
) -> None:
    """Set out (faces, samples) where samples begin..end show a face after at least one event, sharply mirrored or refracted."""
    _mirror_mask(emitters, in_view, NO_FIRST_HITS, traced.segments, traced.skip, traced.starts, begin, end, out)
