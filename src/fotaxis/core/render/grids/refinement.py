"""Where light bends between nodes (shadow edges, the rim of a pool), and closer nodes there."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import HIT
from fotaxis.core.render.arrays.path_records import MATTE, RECEIVER_COLUMNS, VARIANTS, TracedPaths
from fotaxis.core.render.arrays.static_scene import StaticScene
from fotaxis.core.render.grids.irradiance_grid import (
    GridWeights,
    IrradianceGrid,
    patches_at,
    surface_nodes,
    with_coat,
)
from fotaxis.core.values import Array

STEEP = 0.03
"""Second difference between neighbouring nodes that still counts as smooth, as a share of the layer's brightest node,
both as bright as they are seen: an edge of light on a black surface needs less care than one on paper."""

MESH_STEEP = 0.12
"""Likewise the difference between the corners of one triangle."""

GOBO_PART = 0.01
OF_SURFACE = 32
"""Bits of a node's number that count within its surface's grid; the surface is above them."""

TIMES, GOBO_TIMES = 8, 40
"""Cells where light bends are cut this many times finer each way, where it has a pattern PATTERNED times."""


def steep_hits(
    scene: StaticScene,
    grid: IrradianceGrid,
    at: GridWeights,
    traced: TracedPaths,
    light: NDArray[np.float32],
    patterned: NDArray[np.bool_],
) -> NDArray[np.int64]:
    """Numbers of the matte hits beside a crease or among nodes where some layer's light bends; light (g, lights, 3) at the nodes.

    patterned (lights,): light whose pattern may slip between nodes, and is taken as bent wherever it falls.
    """
    n = grid.nodes
    if not light.size:
        return np.empty(0, np.int64)
    seen = light[..., 1] * grid.weights[:, None]
    scale = np.maximum(seen.max(axis=0), 1e-12)
    flag = np.zeros(len(seen), bool)
    count = grid.grids * n * n
    if count:
        field = seen[:count].reshape(-1, n, n, seen.shape[1])
        limit = STEEP * scale
        bent = np.zeros(field.shape[:3], bool)
        across = (np.abs(field[:, :, 2:] - 2 * field[:, :, 1:-1] + field[:, :, :-2]) > limit).any(axis=-1)
        down = (np.abs(field[:, 2:] - 2 * field[:, 1:-1] + field[:, :-2]) > limit).any(axis=-1)
        bent |= (field[..., patterned] > GOBO_PART * scale[patterned]).any(axis=-1)
        bent[:, :, 1:-1] |= across
        bent[:, 1:-1] |= down
        wide = bent.copy()
        wide[:, 1:] |= bent[:, :-1]
        wide[:, :-1] |= bent[:, 1:]
        wide[:, :, 1:] |= bent[:, :, :-1]
        wide[:, :, :-1] |= bent[:, :, 1:]
        flag[:count] = wide.ravel()
    matte = traced.hits[:, HIT.KIND] == MATTE
    known = np.minimum(at.node, len(flag) - 1)  # gather points point beyond
    hit = flag[known].any(axis=1) & matte
    hit[beside_creases(scene, grid, traced)] = True
    on_mesh_hits = np.flatnonzero(matte & (at.node[:, 0] >= count) & (at.weight[:, :3].sum(axis=1) > 0))
    if len(on_mesh_hits):
        corners = seen[at.node[on_mesh_hits, :3]]
        hit[on_mesh_hits[(np.ptp(corners, axis=1) > MESH_STEEP * scale).any(axis=1)]] = True
    return np.flatnonzero(hit)


def beside_creases(
    scene: StaticScene, grid: IrradianceGrid, traced: TracedPaths, *, both: bool = False
) -> NDArray[np.int64]:
    """Numbers of the matte hits with a row of nodes beside them that lies beyond a crease; both: the rows on both sides."""
    ids = traced.hits[:, HIT.SURFACE].astype(np.int64)
    turned = (traced.hits[:, HIT.KIND] == MATTE) & (ids // VARIANTS >= len(scene.flats))
    rows = np.flatnonzero(turned)
    rows = rows[grid.begin[ids[rows]] >= 0]
    if not len(rows):
        return rows
    k, along = ids[rows], traced.hits[rows, HIT.V]
    v = np.clip((along - grid.spans[k, 2]) / (grid.spans[k, 3] - grid.spans[k, 2]), 0, 1) * (grid.nodes - 1)
    below = np.minimum(v.astype(np.int64), grid.nodes - 2)
    patch = scene.frustum_patch[along.astype(np.int64)]
    beyond, further = grid.row_patch[k, below] != patch, grid.row_patch[k, below + 1] != patch
    return rows[beyond & further if both else beyond | further]


@dataclass(frozen=True, slots=True, kw_only=True)
class RefinedNodes:
    """A finer grid for some hits: their places (g, 8), and four nodes and weights for every hit (m, 4).

    keys (n,) sorted: numbers of the last n places, in grids `times` as fine as the first, see found_again.
    """

    places: NDArray[np.float32]
    at: GridWeights
    keys: NDArray[np.int64]
    times: int


def _steps_up(
    scene: StaticScene, grid: IrradianceGrid, rows: NDArray[np.float32], ids: NDArray[np.int64], on_grid: NDArray[np.bool_],
    fine: int,
) -> tuple[NDArray[np.int64], Array]:  # fmt: skip
    """Between which rows of a grid of `fine` steps up hits lie: the lower one, and the upper one's part, 0..1; -1 where both lie
    beyond a crease."""
    step, side = np.zeros(len(rows), np.int64), np.zeros(len(rows))
    for k in np.unique(ids[on_grid]):
        mine = np.flatnonzero(on_grid & (ids == k))
        low, high = grid.spans[k, 2:]
        v = np.clip((rows[mine, HIT.V] - low) / (high - low), 0, 1) * fine
        j = np.minimum(v.astype(np.int64), fine - 1)
        step[mine], side[mine] = j, v - j
        surface = int(k) // VARIANTS
        if surface < len(scene.flats):
            continue
        patch = patches_at(scene, surface, rows[mine, HIT.V])
        below, above = (patches_at(scene, surface, low + (j + up) / fine * (high - low)) == patch for up in (0, 1))
        side[mine] = np.where(below == above, np.where(below, side[mine], -1.0), np.where(below, 0.0, 1.0))
    return step, side


def _corners(
    scene: StaticScene, grid: IrradianceGrid, rows: NDArray[np.float32], fine: int
) -> tuple[NDArray[np.int64], Array]:  # fmt: skip
    """The four nodes around matte hits in grids of `fine` steps, as numbers of their own, and their weights, (m, 4) each; the number
    is -1 for hits that lie in no grid, or between two creases."""
    ids = rows[:, HIT.SURFACE].astype(np.int64)
    on_grid = grid.begin[ids] >= 0
    step, side = _steps_up(scene, grid, rows, ids, on_grid, fine)
    on_grid &= side >= 0
    span = grid.spans[ids]
    wide = np.where(on_grid, span[:, 1] - span[:, 0], 1.0)
    u = np.clip((rows[:, HIT.U] - np.where(on_grid, span[:, 0], 0.0)) / wide, 0, 1) * fine
    i = np.minimum(u.astype(np.int64), fine - 1)
    a, b = u - i, side
    first = step * (fine + 1) + i
    corners = np.stack([first, first + 1, first + fine + 1, first + fine + 2], axis=1) + (ids << OF_SURFACE)[:, None]
    weights = np.stack([(1 - a) * (1 - b), a * (1 - b), (1 - a) * b, a * b], axis=1)
    return np.where(on_grid[:, None], corners, -1), weights


def refine(
    scene: StaticScene, grid: IrradianceGrid, traced: TracedPaths, hits: NDArray[np.int64], *, times: int = TIMES
) -> RefinedNodes:
    """Nodes so many times as close around hits that lie in grids; those on meshes, and between two creases, are nodes themselves."""
    rows = traced.hits[hits]
    fine = times * (grid.nodes - 1)
    corners, weights = _corners(scene, grid, rows, fine)
    on_grid = corners[:, 0] >= 0
    node = np.zeros((len(hits), 4), np.int32)
    weight = np.zeros((len(hits), 4), np.float32)
    own = np.flatnonzero(~on_grid)
    node[own, 0], weight[own, 0] = np.arange(len(own)), 1.0
    places = [rows[own][:, RECEIVER_COLUMNS]]
    unique, first, index = np.unique(corners[on_grid], return_index=True, return_inverse=True)
    node[on_grid] = index.reshape(-1, 4) + len(own)
    weight[on_grid] = weights[on_grid]
    coats = rows[on_grid][first // 4][:, [HIT.COAT, HIT.ENTRY]]
    ids, corner = unique >> OF_SURFACE, unique & ((1 << OF_SURFACE) - 1)
    for k in np.unique(ids):
        mine = np.flatnonzero(ids == k)
        low_u, high_u, low_v, high_v = grid.spans[k]
        surface, variant = divmod(int(k), VARIANTS)
        made = surface_nodes(
            scene, surface, variant, low_u + (corner[mine] % (fine + 1)) / fine * (high_u - low_u),
            low_v + (corner[mine] // (fine + 1)) / fine * (high_v - low_v),
        )  # fmt: skip
        places.append(with_coat(made, coats[mine[0]]).astype(np.float32))
    return RefinedNodes(places=np.concatenate(places), at=GridWeights(node=node, weight=weight), keys=unique, times=times)


def found_again(
    scene: StaticScene, grid: IrradianceGrid, traced: TracedPaths, near: RefinedNodes
) -> tuple[NDArray[np.int64], GridWeights]:
    """Numbers of the hits of another picture of the same set that lie among refined nodes, and where; near: of the first picture."""
    hits = np.flatnonzero(traced.hits[:, HIT.KIND] == MATTE)
    if not len(hits) or not len(near.keys):
        return hits[:0], GridWeights(node=np.empty((0, 4), np.int32), weight=np.empty((0, 4), np.float32))
    corners, weights = _corners(scene, grid, traced.hits[hits], near.times * (grid.nodes - 1))
    at = np.searchsorted(near.keys, corners).clip(0, len(near.keys) - 1)
    known = ((near.keys[at] == corners) | (weights <= 0)).all(axis=1) & (corners[:, 0] >= 0)
    own = len(near.places) - len(near.keys)
    return hits[known], GridWeights(node=(at[known] + own).astype(np.int32), weight=weights[known].astype(np.float32))
