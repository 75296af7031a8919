"""Which pixels of a picture one sample each does not do for: edges, reliefs, and lone bright ones."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter

from fotaxis.core.render.preview.traced_scene import TracedScene
from fotaxis.core.values import Picture

MUCH = 0.18
"""Neighbours differ much when one lacks more than this part of the other in some layer, samples of a pixel when they span
more than this part of it."""

EDGE_CONTRAST = 0.03
"""An edge is smoothed where a layer differs between neighbours by more than this part of their brighter one."""

EDGE_FLOOR = 0.002
"""Likewise, as a part of the layer's brightest hundredth: differences in the dark do not show."""

LONE = 3.0
"""A pixel that is so many times as bright as the brightest around it stands alone."""


def _floor(value: Picture) -> float:
    """Below what a layer (height, width), its channels summed, is as good as black."""
    return max(EDGE_FLOOR * float(np.quantile(value[::3, ::3], 0.99)) if value.size > 9 else 0.0, 1e-20)


def edges(stage: TracedScene, seen: NDArray[np.int32], flat: Picture) -> tuple[NDArray[np.bool_], ...]:
    """Pixels whose neighbour sees other things, or the same in another order, and looks otherwise; those of them where it
    looks much otherwise; and pixels of a relief or pattern that look otherwise than a neighbour; (pixels,) bool each."""
    shape = stage.height, stage.width
    other_x, other_y = np.zeros((shape[0], shape[1] - 1), bool), np.zeros((shape[0] - 1, shape[1]), bool)
    fine = stage.traced.fine.reshape(shape)
    for numbers in (stage.traced.route, seen):
        n = numbers.reshape(shape)
        other_x |= n[:, 1:] != n[:, :-1]
        other_y |= n[1:] != n[:-1]
    fine_x, fine_y = fine[:, 1:] | fine[:, :-1], fine[1:] | fine[:-1]
    kinds = ((EDGE_CONTRAST, other_x, other_y), (MUCH, other_x, other_y), (EDGE_CONTRAST, fine_x, fine_y))
    edges = np.zeros((len(kinds), *shape), bool)
    for layer in flat:
        value = layer.sum(axis=1).reshape(shape)
        floor = max(_floor(value), 1e-4 * float(value.max(initial=0.0)))
        step_x, step_y = np.abs(np.diff(value, axis=1)) - floor, np.abs(np.diff(value, axis=0)) - floor
        high_x, high_y = np.maximum(value[:, 1:], value[:, :-1]), np.maximum(value[1:], value[:-1])
        for edge, (contrast, where_x, where_y) in zip(edges, kinds, strict=True):
            across, down = where_x & (step_x > contrast * high_x), where_y & (step_y > contrast * high_y)
            edge[:, 1:] |= across
            edge[:, :-1] |= across
            edge[1:] |= down
            edge[:-1] |= down
    return tuple(edges.reshape(len(kinds), -1))


def lone_pixels(flat: Picture, *, height: int, width: int) -> NDArray[np.bool_]:
    """Pixels that in some layer (1 + lights, pixels, 3) outshine all around them, and those around them, (pixels,)."""
    around = np.ones((3, 3), bool)
    around[1, 1] = False
    alone = np.zeros((height, width), bool)
    for layer in flat:
        value = layer.sum(axis=1).reshape(height, width)
        alone |= value > LONE * np.maximum(maximum_filter(value, footprint=around, mode="nearest"), _floor(value))
    return maximum_filter(alone, 3).ravel()
