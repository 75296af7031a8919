"""Light on matte surfaces from a grid over the part of each that is seen; hits take their light bilinearly from it.

A coarse grid serves while something is being dragged. At rest a fine one serves where the light is smooth; where it
bends (shadow edges, the rim of a pool) every hit is lit on its own.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.kernel import kernel
from fotaxis.core.optics.still import Still
from fotaxis.core.optics.trace import Traced
from fotaxis.core.values import Array

BEND = 0.03
"""Second difference between neighbouring nodes that still counts as smooth, as a share of the layer's brightest node,
both as bright as they are seen: an edge of light on a black surface needs less care than one on paper."""


@dataclass(frozen=True, slots=True, kw_only=True)
class LightGrid:
    """Grids over the matte surfaces of a traced picture, `nodes` x `nodes` on each.

    surfaces (s,) int64      the surfaces that have one, in the order of their nodes
    spans (s, 4) float64     lowest u, highest u, lowest v, highest v that is seen
    weights (s,) float64     the largest share of its light that a surface gives to any pixel
    places (g, 6) float32    place and normal of every node, one surface after the other
    """

    nodes: int
    surfaces: NDArray[np.int64]
    spans: Array
    weights: Array
    places: NDArray[np.float32]


@dataclass(frozen=True, slots=True, kw_only=True)
class InGrid:
    """Where hits lie in a grid: node at the lower corner of the cell (m,) int32, and part of it 0..1 (m, 2) float32."""

    corner: NDArray[np.int32]
    part: NDArray[np.float32]


def lay_grid(still: Still, traced: Traced, *, nodes: int) -> LightGrid:
    """Cover every surface that has hits with a nodes x nodes grid over the part that is seen."""
    hits = traced.hits
    surface_of = hits[:, 9].astype(np.int64)
    surfaces = np.unique(surface_of)
    places: list[NDArray[np.float32]] = []
    spans, weights = np.empty((len(surfaces), 4)), np.empty(len(surfaces))
    count = len(still.flats)
    for i, surface in enumerate(surfaces):
        rows = np.flatnonzero(surface_of == surface)
        weights[i] = hits[rows, 6:9].max()
        u, v = hits[rows, 10].astype(np.float64), hits[rows, 11].astype(np.float64)
        spans[i] = u.min(), max(u.max(), u.min() + 1e-6), v.min(), max(v.max(), v.min() + 1e-6)
        vv, uu = np.meshgrid(
            np.linspace(spans[i, 2], spans[i, 3], nodes), np.linspace(spans[i, 0], spans[i, 1], nodes), indexing="ij"
        )
        if surface < count:
            node = _flat_nodes(still.flats[surface], uu.ravel(), vv.ravel())
            if float(hits[rows[0], 3:6] @ still.flats[surface, 9:12]) < 0:
                node[:, 3:] *= -1
        else:
            node = _solid_nodes(still, int(surface) - count, uu.ravel(), vv.ravel())
        places.append(node.astype(np.float32))
    joined = np.concatenate(places) if places else np.empty((0, 6), np.float32)
    return LightGrid(nodes=nodes, surfaces=surfaces, spans=spans, weights=weights, places=joined)


def locate(grid: LightGrid, traced: Traced) -> InGrid:
    """Where the hits of a traced picture, the grid's own or another of the same set, lie in the grid."""
    hits, n = traced.hits, grid.nodes
    order = np.searchsorted(grid.surfaces, hits[:, 9].astype(np.int64)).clip(0, max(len(grid.surfaces) - 1, 0))
    span = grid.spans[order]
    u = ((hits[:, 10] - span[:, 0]) / (span[:, 1] - span[:, 0])).clip(0.0, 1.0) * (n - 1)
    v = ((hits[:, 11] - span[:, 2]) / (span[:, 3] - span[:, 2])).clip(0.0, 1.0) * (n - 1)
    cell_u, cell_v = np.minimum(u.astype(np.int32), n - 2), np.minimum(v.astype(np.int32), n - 2)
    corner = (order * n * n + cell_v * n + cell_u).astype(np.int32)
    return InGrid(corner=corner, part=np.stack([u - cell_u, v - cell_v], axis=1).astype(np.float32))


def _flat_nodes(flat: Array, u: Array, v: Array) -> Array:
    place = flat[0:3] + (u * flat[12])[:, None] * flat[3:6] + (v * flat[13])[:, None] * flat[6:9]
    return np.concatenate([place, np.broadcast_to(flat[9:12], place.shape)], axis=1)


def _solid_nodes(still: Still, solid: int, azimuth: Array, along: Array) -> Array:
    first, last = still.spans[solid, 0], still.spans[solid, 1]
    stretch = np.clip(along.astype(np.int64), first, last - 1)
    part = np.clip(along - stretch, 0.0, 1.0)[:, None]
    s = still.stretches[stretch]
    y, r = (s[:, 0:2] * (1 - part) + s[:, 2:4] * part).T
    ny, nr = (s[:, 4:6] * (1 - part) + s[:, 6:8] * part).T
    length = np.hypot(ny, nr)
    x, z = np.sin(azimuth), np.cos(azimuth)
    place = still.solids[solid] + np.stack([r * x, y, r * z], axis=1)
    return np.concatenate([place, np.stack([nr * x, ny, nr * z], axis=1) / length[:, None]], axis=1)


@lru_cache(maxsize=64)
def _shares(nodes: int, to: int) -> NDArray[np.float32]:
    """Which part each of `nodes` has in each of `to` places over the same span, linear, (to, nodes)."""
    place = np.linspace(0, nodes - 1, to)
    low = np.minimum(place.astype(int), nodes - 2)
    share = np.zeros((to, nodes), np.float32)
    share[np.arange(to), low] = 1 - (place - low)
    share[np.arange(to), low + 1] = place - low
    return share


def refined(values: NDArray[np.float32], *, nodes: int, to: int) -> NDArray[np.float32]:
    """Values at the nodes of a grid (s * nodes^2, ...) at those of a finer one over the same surfaces (s * to^2, ...)."""
    share = _shares(nodes, to)
    grids = values.reshape(-1, nodes, nodes, *values.shape[1:])
    rows = np.tensordot(share, grids, axes=(1, 1))  # (to, s, nodes, ...)
    both = np.tensordot(share, rows, axes=(1, 2))  # (to across, to down, s, ...)
    return np.ascontiguousarray(np.moveaxis(both, (2, 1), (0, 1))).reshape(-1, *values.shape[1:])


@kernel
def spread(
    nodes: NDArray[np.float32], width: int, corner: NDArray[np.int32], part: NDArray[np.float32],
    begin: int, end: int, out: NDArray[np.float32],
) -> None:  # fmt: skip
    """Bilinear light from nodes (g, lights, 3) to hits begin..end of out (m, lights, 3); width: nodes per side."""
    for h in range(begin, end):
        k = corner[h]
        a = part[h, 0]
        b = part[h, 1]
        for i in range(nodes.shape[1]):
            for c in range(3):
                low = nodes[k, i, c] + a * (nodes[k + 1, i, c] - nodes[k, i, c])
                high = nodes[k + width, i, c] + a * (nodes[k + width + 1, i, c] - nodes[k + width, i, c])
                out[h, i, c] = low + b * (high - low)


def bent_hits(grid: LightGrid, at: InGrid, light: NDArray[np.float32]) -> NDArray[np.int64]:
    """Numbers of the hits in grid cells where some layer's light bends; light (g, lights, 3) at the nodes."""
    n = grid.nodes
    if not light.size:
        return np.empty(0, np.int64)
    field = light[..., 1].reshape(-1, n, n, light.shape[1]) * grid.weights[:, None, None, None]
    scale = BEND * np.maximum(field.max(axis=(0, 1, 2), keepdims=True), 1e-12)
    bent = np.zeros(field.shape[:3], bool)
    across = (np.abs(field[:, :, 2:] - 2 * field[:, :, 1:-1] + field[:, :, :-2]) > scale).any(axis=-1)
    down = (np.abs(field[:, 2:] - 2 * field[:, 1:-1] + field[:, :-2]) > scale).any(axis=-1)
    bent[:, :, 1:-1] |= across
    bent[:, 1:-1] |= down
    wide = bent.copy()
    wide[:, 1:] |= bent[:, :-1]
    wide[:, :-1] |= bent[:, 1:]
    wide[:, :, 1:] |= bent[:, :, :-1]
    wide[:, :, :-1] |= bent[:, :, 1:]
    flat = wide.ravel()
    corner = at.corner
    return np.flatnonzero(flat[corner] | flat[corner + 1] | flat[corner + n] | flat[corner + n + 1])
