"""Light on blurred mirrors and on places inside glass (gather points), from nodes a few pixels apart in the picture."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix
from scipy.spatial import cKDTree

from fotaxis.core.columns import GATHER, HIT
from fotaxis.core.materials.material import ALONG
from fotaxis.core.render.arrays.path_records import (
    GATHERED,
    GLOSSY,
    INSIDE_GLASS,
    INTERREFLECTION,
    MOST_PATCHES,
    SKINS_PER_SURFACE,
    VARIANTS,
    TracedPaths,
)
from fotaxis.core.render.arrays.static_scene import StaticScene
from fotaxis.core.render.grids.irradiance_grid import GridWeights
from fotaxis.core.values import Array

Numbers = NDArray[np.int64]

CELLS_ACROSS = 16_384
REPEATS, SETTLED = 12, 1e-4
"""Light thrown back by glass is followed so often at most, and no further once it adds less than that part of the brightest."""

OUTLIER = 1.3
INNER_CELLS = 20
"""Light on places inside glass changes slowly: about this many nodes across and up."""

BEND, DARK = 0.12, 0.03
"""Light runs straight through a node where its second difference is less than the first part of it; what is darker than the
second part of the layer's brightest counts as so bright. Between such nodes it is known to a fiftieth."""

FAR_PIXELS, FAR_M = 200.0, 0.2
"""Where no node was met by the same route, so far beside is as different as facing a right angle away."""

APART = 1e3
"""Nodes of another skin are never taken instead."""

SHARP = 0.06
"""GGX alpha from which a blurred mirror has its nodes at the full spacing; sharper ones have them closer."""


@dataclass(frozen=True, slots=True, kw_only=True)
class GatherGrid:
    """Nodes among a picture's gather points: rows of them (n,), and how other gather points find theirs.

    keys (n,) sorted: route, smooth patch, skin and cell; x, y (n,): places of the nodes in their cells' widths; alike: a tree over
    what is alike without the route, see _cells.
    """

    rows: Numbers
    spacing: float
    inner_step: float
    keys: Numbers
    x: Array
    y: Array
    alike: cKDTree

    def find(self, scene: StaticScene, gather_points: Array) -> tuple[NDArray[np.int32], NDArray[np.float32]]:
        """Four nodes and their weights for every gather point, (f, 4) each, in proportion to tents around the nodes' own places.

        A gather point met by a route that no node has takes the light of the node of the same skin that is most like it.
        """
        node = np.zeros((len(gather_points), 4), np.int32)
        weight = np.zeros((len(gather_points), 4), np.float32)
        if not len(gather_points) or not len(self.rows):
            return node, weight
        x, y, kind, alike = _cells(scene, gather_points, self.spacing, self.inner_step)
        cell_x, cell_y = np.floor(x).astype(np.int64), np.floor(y).astype(np.int64)
        side_x, side_y = np.where(x - cell_x < 0.5, -1, 1), np.where(y - cell_y < 0.5, -1, 1)
        for column, (dx, dy) in enumerate(((0, 0), (1, 0), (0, 1), (1, 1))):
            wanted = _key(kind, cell_x + dx * side_x, cell_y + dy * side_y)
            at = np.searchsorted(self.keys, wanted).clip(0, len(self.keys) - 1)
            there = self.keys[at] == wanted
            node[:, column] = np.where(there, at, 0)
            tent = np.maximum(1e-4, 1 - np.abs(self.x[at] - x)) * np.maximum(1e-4, 1 - np.abs(self.y[at] - y))
            weight[:, column] = np.where(there, tent, 0)
        total = weight.sum(axis=1, keepdims=True)
        lost = total[:, 0] <= 0
        if lost.any():
            _, node[lost, 0] = self.alike.query(alike[lost])
            weight[lost, 0] = total[lost, 0] = 1.0
        return node, weight / total


def _key(kind: Numbers, cell_x: Numbers, cell_y: Numbers) -> Numbers:
    """One number for a kind and a cell."""
    return (kind * CELLS_ACROSS + cell_y + 8) * CELLS_ACROSS + cell_x + 8


def _cells(
    scene: StaticScene, gather_points: Array, spacing: float, inner_step: float
) -> tuple[Array, Array, Numbers, Array]:
    """Places of gather points in widths of their cells, their kind (route, smooth patch, skin), and what is alike without the route.

    The last (f, 6): skin and kind far apart, then the side a place faces and where it lies, to be compared by distance.
    """
    skins = gather_points[:, GATHER.SKIN].astype(np.int64)
    gloss = gather_points[:, GATHER.KIND] == GLOSSY
    narrow = np.minimum(scene.skins[skins, ALONG], scene.skins[skins, ALONG + 1])
    step = np.where(gloss, np.maximum(1.0, spacing * np.clip(narrow / SHARP, 0.3, 1.0)), inner_step)
    # Places on either side of a crease must not share: the smooth patch joins the kind.
    part = skins * MOST_PATCHES + gather_points[:, GATHER.PATCH].astype(np.int64)
    kind = (gather_points[:, GATHER.ROUTE].astype(np.int64) * 31_337 + part * 1_009) % 34_359_738_337
    near = np.where(gloss, 1 / FAR_PIXELS, 1 / FAR_M)
    u, v = gather_points[:, GATHER.U], gather_points[:, GATHER.V]
    alike = np.column_stack([APART * (2.0 * skins + gloss), gather_points[:, GATHER.NORMAL], u * near, v * near])
    return u / step, v / step, kind, alike


def gather_grid(scene: StaticScene, gather_points: Array, *, spacing: float, among: Numbers | None = None) -> GatherGrid:
    """Choose nodes about `spacing` pixels apart among gather points met by the same route: in each cell the one nearest its middle.

    among: rows of gather points to choose from, else all.
    """
    if among is not None:
        chosen = gather_grid(scene, gather_points[among], spacing=spacing)
        return replace(chosen, rows=among[chosen.rows])
    inner = gather_points[gather_points[:, GATHER.KIND] != GLOSSY, GATHER.PLACE_ON_SURFACE]
    inner_step = max(float(np.ptp(inner, axis=0).max()) / INNER_CELLS, 1e-4) if len(inner) else 1.0
    x, y, kind, alike = _cells(scene, gather_points, spacing, inner_step)
    cell_x, cell_y = np.floor(x).astype(np.int64), np.floor(y).astype(np.int64)
    own = _key(kind, cell_x, cell_y)
    order = np.lexsort(((x - cell_x - 0.5) ** 2 + (y - cell_y - 0.5) ** 2, own))
    rows = order[np.r_[True, own[order][1:] != own[order][:-1]]] if len(order) else order
    return GatherGrid(
        rows=rows.astype(np.int64),
        spacing=spacing,
        inner_step=inner_step,
        keys=own[rows],
        x=x[rows],
        y=y[rows],
        alike=cKDTree(alike[rows]),
    )


def between(
    grid: GatherGrid, light: NDArray[np.float32], node: NDArray[np.int32], weight: NDArray[np.float32]
) -> tuple[NDArray[np.float32], NDArray[np.bool_]]:
    """Light (n, layers, 3) of all nodes of `grid` at places that find four of them (f, 4) with weights; and where that will
    do, (f,) bool: where at least three nodes stand around and the light runs straight through each in every layer."""
    straight = np.ones(len(light), bool)
    value = light.sum(axis=2)
    floor = DARK * value.max(axis=0, initial=0.0)
    for step in (1, CELLS_ACROSS):
        before, after = _beside(grid, -step), _beside(grid, step)
        both = (before >= 0) & (after >= 0)
        bend = np.abs(value[before] - 2 * value + value[after])
        straight &= both & (bend <= BEND * np.maximum(value, floor)).all(axis=1)
    there = weight > 0
    enough = (there.sum(axis=1) >= 3) & (straight[node] | ~there).all(axis=1)
    return np.einsum("fnlc,fn->flc", light[node], weight), enough


def _beside(grid: GatherGrid, step: int) -> Numbers:
    """For every node the number of the one some cells on in its row, -1 for none."""
    at = np.searchsorted(grid.keys, grid.keys + step).clip(0, len(grid.keys) - 1)
    return np.where(grid.keys[at] == grid.keys + step, at, -1)


def with_gather_points(
    scene: StaticScene, at: GridWeights, traced: TracedPaths, grid: GatherGrid, *, first_node: int
) -> GridWeights:
    """The same, its gather point hits pointing at nodes that follow `first_node` others."""
    hits = np.flatnonzero(traced.hits[:, HIT.KIND] == GATHERED)
    if len(hits):
        node, weight = grid.find(scene, traced.gather_points)
        row = traced.hits[hits, HIT.U].astype(np.int64)
        at.node[hits] = node[row] + first_node
        at.weight[hits] = weight[row]
    return at


SMALL = 600
"""Between so few nodes the matrices are written out in full."""


def interreflection(
    scene: StaticScene, spread_out: TracedPaths, grid: GatherGrid, nodes: Numbers
) -> list[csr_matrix | Array]:
    """What of the light at each of some nodes of `grid` (numbers (n,), all those inside glass among them) comes back to each, for
    R, G, B (n, n), from the directions that met such a place again; none where none did.
    """
    hits = np.flatnonzero(spread_out.hits[:, HIT.KIND] == INTERREFLECTION)
    if not len(hits):
        return []
    rows = spread_out.hits[hits]
    found = np.zeros((len(hits), GATHER.COUNT))
    patch, skin = np.divmod(rows[:, HIT.SURFACE].astype(np.int64) // VARIANTS, SKINS_PER_SURFACE)
    found[:, GATHER.NORMAL], found[:, GATHER.SKIN], found[:, GATHER.KIND] = rows[:, HIT.NORMAL], skin, INSIDE_GLASS
    found[:, GATHER.PATCH] = patch
    found[:, GATHER.PLACE_ON_SURFACE] = rows[:, HIT.PLACE_ON_SURFACE]
    node, weight = grid.find(scene, found)
    position = np.zeros(len(grid.rows), np.int32)
    position[nodes] = np.arange(len(nodes))
    node = position[node]
    linked = np.flatnonzero(spread_out.segment_hit >= 0)
    owner = np.full(len(spread_out.hits), -1, np.int64)
    owner[spread_out.segment_hit[linked]] = np.searchsorted(spread_out.starts, linked, side="right") - 1
    sample = np.repeat(owner[hits], 4)
    shares = [(rows[:, 6 + c, None] * weight).ravel() for c in range(3)]
    count = len(nodes)
    if count <= SMALL:
        cell = sample * count + node.ravel()
        return [np.bincount(cell, share, count * count).reshape(count, count) for share in shares]
    return [csr_matrix((share, (sample, node.ravel())), shape=(count, count)) for share in shares]


def with_interreflection(coming_back: list[csr_matrix | Array], light: NDArray[np.float32]) -> NDArray[np.float32]:
    """Light (n, layers, 3) at nodes of gather points with what comes back to them, see returns.

    Paper behind glass is lit by itself: much of what it scatters is thrown back by the glass. Solved by repetition,
    B = E + M B.
    """
    if not coming_back:
        return light
    result = light.copy()
    for c, matrix in enumerate(coming_back):
        first = light[:, :, c].astype(np.float64)
        now = first
        for _ in range(REPEATS):
            before, now = now, first + matrix @ now
            if np.abs(now - before).max() <= SETTLED * now.max():
                break
        result[:, :, c] = now
    return result


def without_outliers(grid: GatherGrid, light: NDArray[np.float32]) -> NDArray[np.float32]:
    """Light (n, layers, 3) at all nodes of `grid`; one that outshines every neighbour takes the neighbours' mean.

    A single direction that finds a small lamp by a second mirror would show as a dot.
    """
    if len(light) < 4:
        return light
    at = np.stack([_beside(grid, step) for step in (-1, 1, -CELLS_ACROSS, CELLS_ACROSS)])
    there = at >= 0
    value = light.sum(axis=2)
    near = np.where(there[..., None], value[at], -np.inf)
    alone = (value > OUTLIER * near.max(axis=0)) & (there.sum(axis=0) >= 3)[:, None]
    if not alone.any():
        return light
    mean = (light[at] * there[..., None, None]).sum(axis=0) / np.maximum(there.sum(axis=0), 1)[:, None, None]
    return np.where(alone[..., None], mean, light).astype(np.float32)
