"""Light at a few places, spread to many hits.

Matte flats and turned surfaces have grids over the part that is seen, meshes their corners (fannodes has the others). A
coarse set serves while something is being dragged; at rest a fine one, closer where light bends (see refinement).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import BODY, FLAT, FRUSTUM, HIT, PLACE, SPAN
from fotaxis.core.kernel import kernel, leaf
from fotaxis.core.render.arrays.path_records import BACK, COATED, MATTE, TILT, TILT_U, TILT_V, VARIANTS, TracedPaths
from fotaxis.core.render.arrays.static_scene import MESH, StaticScene, to_world
from fotaxis.core.render.arrays.surface_hit import SurfaceHit, hit_on_mesh, hit_on_revolution
from fotaxis.core.values import Array


@dataclass(frozen=True, slots=True, kw_only=True)
class IrradianceGrid:
    """Nodes on the matte surfaces of a traced picture: `nodes` x `nodes` on a flat or turned one, corners of a mesh.

    spans (ids, 4) float64     lowest u, highest u, lowest v, highest v that is seen; an id is surface times 8 plus variant
    begin (ids,) int64         first node of an id's grid, -1 where there is none
    corner_of (8, v) int32     node of a mesh vertex seen in a variant, -1 for none
    weights (g,) float32       the largest share of its light that the surface of a node gives to any pixel
    row_patch (ids, nodes) int64    smooth patch of its body that a row of nodes lies in, on a turned surface, else 0
    grids                      number of grids; their nodes come first, then the corners of meshes
    places (g, 8) float32      place, normal, coat index and entry factor of every node
    """

    nodes: int
    spans: Array
    begin: NDArray[np.int64]
    corner_of: NDArray[np.int32]
    weights: NDArray[np.float32]
    row_patch: NDArray[np.int64]
    grids: int
    places: NDArray[np.float32]


@dataclass(frozen=True, slots=True, kw_only=True)
class GridWeights:
    """Where hits take their light: four nodes each (m, 4) int32, and their weights (m, 4) float32."""

    node: NDArray[np.int32]
    weight: NDArray[np.float32]

    def part(self, hits: NDArray[np.int64]) -> GridWeights:
        """For some hits alone."""
        return GridWeights(node=self.node[hits], weight=self.weight[hits])


@kernel
def _measure(hits: NDArray[np.float32], spans: Array, weight: Array, coat: Array) -> None:
    for h in range(hits.shape[0]):
        if hits[h, HIT.KIND] != MATTE:
            continue
        k = int(hits[h, HIT.SURFACE])
        spans[k, 0] = min(spans[k, 0], hits[h, HIT.U])
        spans[k, 1] = max(spans[k, 1], hits[h, HIT.U])
        spans[k, 2] = min(spans[k, 2], hits[h, HIT.V])
        spans[k, 3] = max(spans[k, 3], hits[h, HIT.V])
        w = max(abs(hits[h, HIT.RED]), max(abs(hits[h, HIT.GREEN]), abs(hits[h, HIT.BLUE])))
        if w > weight[k]:
            weight[k] = w
        if hits[h, HIT.COAT] > coat[k, 0]:
            coat[k, 0] = hits[h, HIT.COAT]
            coat[k, 1] = hits[h, HIT.ENTRY]


@kernel
def _use_corners(scene: StaticScene, hits: NDArray[np.float32], is_mesh: NDArray[np.bool_], used: NDArray[np.bool_]) -> None:
    for h in range(hits.shape[0]):
        if hits[h, HIT.KIND] != MATTE:
            continue
        k = int(hits[h, HIT.SURFACE])
        if is_mesh[k // VARIANTS]:
            for c in range(3):
                used[k % VARIANTS, scene.triangles[int(hits[h, HIT.U]), c]] = True


class SeenSurfaces(NamedTuple):
    """Where matte surfaces are seen, by surface times VARIANTS plus variant.

    spans (n, 4): u and v from and to; weight (n,): the most that a hit counts, 0 where it is not seen; coat (n, 2): index and entry
    factor; is_mesh (surfaces,) bool; used (VARIANTS, vertices) bool: corners of meshes that are needed.
    """

    spans: Array
    weight: Array
    coat: Array
    is_mesh: NDArray[np.bool_]
    used: NDArray[np.bool_]


def seen_surfaces(scene: StaticScene, *traced: TracedPaths, share: float = 1.0, whole_meshes: bool = False) -> SeenSurfaces:
    """Where the hits of traced pictures lie.

    share: of the hits of the first, each way, that are spanned; the others, in mirrors and lenses far aside, take the rim's light.
    whole_meshes: corners of all of a mesh that is seen, not only of its triangles met: samples between will meet others.
    """
    count = len(scene.media_of)
    spans = np.tile([np.inf, -np.inf, np.inf, -np.inf], (count * VARIANTS, 1))
    weight, coat = np.zeros(count * VARIANTS), np.zeros((count * VARIANTS, 2))
    coat[:, 1] = 1.0
    is_mesh = np.zeros(count, np.bool_)
    is_mesh[len(scene.flats) :] = scene.bodies[:, BODY.KIND] == MESH
    used = np.zeros((VARIANTS, max(len(scene.vertices), 1)), np.bool_)
    for part in traced:
        _measure(part.hits, spans, weight, coat)
        if is_mesh.any():
            _use_corners(scene, part.hits, is_mesh, used)
    for surface in np.flatnonzero(is_mesh).tolist() if whole_meshes else ():
        mine = _vertices_of(scene, surface - len(scene.flats))
        used[np.ix_(used[:, mine].any(axis=1), mine)] = True
    if share < 1.0:
        _narrow(spans, traced[0].hits, weight, share)
    return SeenSurfaces(spans=spans, weight=weight, coat=coat, is_mesh=is_mesh, used=used)


def lay_grid(scene: StaticScene, seen: SeenSurfaces, *, nodes: int) -> IrradianceGrid:
    """Cover every matte surface with nodes over the part that is seen."""
    count, flats = len(scene.media_of), len(scene.flats)
    spans, weight, coat, is_mesh, used = seen.spans.copy(), seen.weight, seen.coat, seen.is_mesh, seen.used
    begin = np.full(count * VARIANTS, -1, np.int64)
    row_patch = np.zeros((count * VARIANTS, nodes), np.int64)
    places: list[Array] = []
    weights: list[Array] = []
    grids = 0
    for k in np.flatnonzero(weight > 0).tolist():
        surface, variant = divmod(k, VARIANTS)
        if is_mesh[surface]:
            continue
        begin[k] = grids * nodes * nodes
        grids += 1
        spans[k, 1], spans[k, 3] = max(spans[k, 1], spans[k, 0] + 1e-6), max(spans[k, 3], spans[k, 2] + 1e-6)
        rows = np.linspace(spans[k, 2], spans[k, 3], nodes)
        row_patch[k] = patches_at(scene, surface, rows)
        vv, uu = np.meshgrid(rows, np.linspace(spans[k, 0], spans[k, 1], nodes), indexing="ij")
        places.append(with_coat(surface_nodes(scene, surface, variant, uu.ravel(), vv.ravel()), coat[k]))
        weights.append(np.full(nodes * nodes, weight[k]))
    corner_of = np.full(used.shape, -1, np.int32)
    at = grids * nodes * nodes
    if used.any():
        for surface in np.flatnonzero(is_mesh).tolist():
            body = surface - flats
            mine = _vertices_of(scene, body)
            for variant in range(VARIANTS):
                vertices = mine[used[variant, mine]]
                if not len(vertices):
                    continue
                k = surface * VARIANTS + variant
                corner_of[variant, vertices] = at + np.arange(len(vertices))
                at += len(vertices)
                places.append(with_coat(_corner_nodes(scene, body, variant, vertices), coat[k]))
                weights.append(np.full(len(vertices), weight[k]))
    joined = np.concatenate([np.empty((0, PLACE.COUNT)), *places]).astype(np.float32)
    return IrradianceGrid(
        nodes=nodes, spans=spans, begin=begin, corner_of=corner_of, grids=grids, places=joined, row_patch=row_patch,
        weights=np.concatenate([np.empty(0), *weights]).astype(np.float32),
    )  # fmt: skip


def patches_at(scene: StaticScene, surface: int, v: Array) -> NDArray[np.int64]:
    """Smooth patch of a turned body's outline at places v (n,) along it; 0 on a flat surface."""
    body = surface - len(scene.flats)
    if body < 0:
        return np.zeros(len(v), np.int64)
    first, end = scene.spans[body, SPAN.FIRST], scene.spans[body, SPAN.END]
    return scene.frustum_patch[np.clip(v.astype(np.int64), first, end - 1)]


FEW_HITS, EACH = 200, 5
"""Every fifth hit tells where the others lie."""


def _narrow(spans: Array, hits: NDArray[np.float32], weight: Array, share: float) -> None:
    """Draw spans in to where a share of the hits lies, each way; surfaces with few hits keep theirs."""
    some = hits[::EACH, 9:14]
    matte = some[some[:, HIT.NY] == MATTE]
    ids = matte[:, 0].astype(np.int64)
    for k in np.flatnonzero(weight > 0).tolist():
        mine = matte[ids == k]
        if len(mine) < FEW_HITS:
            continue
        ranks = [round(part * (len(mine) - 1)) for part in ((1 - share) / 2, (1 + share) / 2)]
        low, high = np.partition(mine[:, 1:3], ranks, axis=0)[ranks]
        margin = 0.02 * (high - low)
        spans[k, 0], spans[k, 2] = np.maximum(spans[k, [0, 2]], low - margin)
        spans[k, 1], spans[k, 3] = np.minimum(spans[k, [1, 3]], high + margin)


def _vertices_of(scene: StaticScene, body: int) -> NDArray[np.int64]:
    """Numbers of a mesh body's vertices (span column 1: its first, 2: one past its last)."""
    return np.arange(scene.spans[body, SPAN.END], scene.spans[body, SPAN.FIRST_GROUP])


def with_coat(places: Array, coat: Array) -> Array:
    """Places (n, 6) with coat index and entry factor (2,) behind each."""
    return np.concatenate([places, np.broadcast_to(coat, (len(places), 2))], axis=1)


def _varied(normal: Array, across: Array, up: Array, variant: int) -> Array:
    """The normal a variant looks along: mean, reversed, or tilted towards one axis of the relief."""
    side = variant % COATED
    if side == BACK:
        return -normal
    if side in (TILT_U, TILT_V):
        tilted = normal + TILT * (across if side == TILT_U else up)
        return tilted / np.linalg.norm(tilted, axis=-1, keepdims=True)
    return normal


def surface_nodes(scene: StaticScene, surface: int, variant: int, u: Array, v: Array) -> Array:
    """Places and normals on a flat or turned surface, (n, 6)."""
    flats = len(scene.flats)
    if surface < flats:
        f = scene.flats[surface]
        place = (
            f[FLAT.CENTRE]
            + (u * f[FLAT.HALF_WIDTH])[:, None] * f[FLAT.ACROSS]
            + (v * f[FLAT.HALF_HEIGHT])[:, None] * f[FLAT.UP]
        )
        normal = _varied(f[FLAT.FRONT], f[FLAT.ACROSS], f[FLAT.UP], variant)
        return np.concatenate([place, np.broadcast_to(normal, place.shape)], axis=1)
    body = surface - flats
    out = np.empty((len(u), 6))
    _turned_nodes(scene, body, variant, u, v, out)
    return out


@kernel
def _turned_nodes(scene: StaticScene, b: int, variant: int, azimuth: Array, along: Array, out: Array) -> None:
    s = scene.frusta
    first, last = scene.spans[b, SPAN.FIRST], scene.spans[b, SPAN.END]
    for i in range(len(azimuth)):
        frustum = min(max(int(along[i]), first), last - 1)
        part = along[i] - frustum
        r = s[frustum, FRUSTUM.R0] + part * (s[frustum, FRUSTUM.R1] - s[frustum, FRUSTUM.R0])
        y = s[frustum, FRUSTUM.Y0] + part * (s[frustum, FRUSTUM.Y1] - s[frustum, FRUSTUM.Y0])
        x = r * math.sin(azimuth[i])
        z = r * math.cos(azimuth[i])
        spot = hit_on_revolution(scene, b, frustum, part, x, y, z)
        _write_node(scene, b, x, y, z, spot, variant, out, i)


@leaf
def _write_node(
    scene: StaticScene, b: int, x: float, y: float, z: float, spot: SurfaceHit, variant: int, out: Array, i: int
) -> None:
    """Place and normal of a spot given in the frame of body b, in the world."""
    nx, ny, nz = spot.nx, spot.ny, spot.nz
    side = variant % COATED
    if side == BACK:
        nx, ny, nz = -nx, -ny, -nz
    elif side == TILT_U:
        nx, ny, nz = nx + TILT * spot.tx, ny + TILT * spot.ty, nz + TILT * spot.tz
    elif side == TILT_V:
        nx, ny, nz = nx + TILT * spot.wx, ny + TILT * spot.wy, nz + TILT * spot.wz
    length = math.sqrt(nx * nx + ny * ny + nz * nz)
    if scene.bodies[b, BODY.UPRIGHT] == 0.0:
        nx, ny, nz = to_world(scene.bodies, b, nx, ny, nz)
        x, y, z = to_world(scene.bodies, b, x, y, z)
    out[i, PLACE.X] = x + scene.bodies[b, BODY.X]
    out[i, PLACE.Y] = y + scene.bodies[b, BODY.Y]
    out[i, PLACE.Z] = z + scene.bodies[b, BODY.Z]
    out[i, PLACE.NX] = nx / length
    out[i, PLACE.NY] = ny / length
    out[i, PLACE.NZ] = nz / length


def _corner_nodes(scene: StaticScene, body: int, variant: int, vertices: NDArray[np.int64]) -> Array:
    out = np.empty((len(vertices), 6))
    triangle = np.full(len(scene.vertices), -1, np.int64)
    corner = np.zeros(len(scene.vertices), np.int64)
    mine = np.isin(scene.triangles[:, 0], vertices) | np.isin(scene.triangles[:, 1], vertices)
    mine |= np.isin(scene.triangles[:, 2], vertices)
    rows = np.flatnonzero(mine)
    for c in range(3):
        triangle[scene.triangles[rows, c]], corner[scene.triangles[rows, c]] = rows, c
    _mesh_nodes(scene, body, variant, vertices, triangle, corner, out)
    return out


@kernel
def _mesh_nodes(
    scene: StaticScene, b: int, variant: int, vertices: NDArray[np.int64], triangle: NDArray[np.int64],
    corner: NDArray[np.int64], out: Array,
) -> None:  # fmt: skip
    for i in range(len(vertices)):
        k = vertices[i]
        x, y, z = scene.vertices[k, 0], scene.vertices[k, 1], scene.vertices[k, 2]
        b1 = 1.0 if corner[k] == 1 else 0.0
        b2 = 1.0 if corner[k] == 2 else 0.0
        spot = hit_on_mesh(scene, b, triangle[k], b1, b2, x, y, z)
        _write_node(scene, b, x, y, z, spot, variant, out, i)


@kernel
def _locate(
    scene: StaticScene, hits: NDArray[np.float32], nodes: int, spans: Array, begin: NDArray[np.int64],
    row_patch: NDArray[np.int64], corner_of: NDArray[np.int32], node: NDArray[np.int32], weight: NDArray[np.float32],
) -> None:  # fmt: skip
    flat_count = scene.flats.shape[0]
    for h in range(hits.shape[0]):
        for c in range(4):
            node[h, c] = 0
            weight[h, c] = 0.0
        if hits[h, HIT.KIND] != MATTE:
            continue
        k = int(hits[h, HIT.SURFACE])
        if begin[k] >= 0:
            u = (hits[h, HIT.U] - spans[k, 0]) / (spans[k, 1] - spans[k, 0])
            v = (hits[h, HIT.V] - spans[k, 2]) / (spans[k, 3] - spans[k, 2])
            u = min(1.0, max(0.0, u)) * (nodes - 1)
            v = min(1.0, max(0.0, v)) * (nodes - 1)
            i = min(int(u), nodes - 2)
            j = min(int(v), nodes - 2)
            a = u - i
            b = v - j
            if k // VARIANTS >= flat_count:
                # Beyond a crease light is another: a row there does not count, unless none does.
                patch = scene.frustum_patch[int(hits[h, HIT.V])]
                below, above = row_patch[k, j] == patch, row_patch[k, j + 1] == patch
                if below != above:
                    b = 0.0 if below else 1.0
            corner = begin[k] + j * nodes + i
            node[h, 0] = corner
            node[h, 1] = corner + 1
            node[h, 2] = corner + nodes
            node[h, 3] = corner + nodes + 1
            weight[h, 0] = (1.0 - a) * (1.0 - b)
            weight[h, 1] = a * (1.0 - b)
            weight[h, 2] = (1.0 - a) * b
            weight[h, 3] = a * b
            continue
        body = k // VARIANTS - scene.flats.shape[0]
        if body < 0 or scene.bodies[body, BODY.KIND] != MESH:
            continue
        t = int(hits[h, HIT.U])
        variant = k % VARIANTS
        weight[h, 0] = 1.0 - hits[h, HIT.V] - hits[h, HIT.W]
        weight[h, 1] = hits[h, HIT.V]
        weight[h, 2] = hits[h, HIT.W]
        total = np.float32(0.0)
        for c in range(3):
            found = corner_of[variant, scene.triangles[t, c]]
            if found >= 0:
                node[h, c] = found
                total += weight[h, c]
            else:
                weight[h, c] = 0.0
        if total > 1e-6:
            for c in range(3):
                weight[h, c] /= total


def locate(scene: StaticScene, grid: IrradianceGrid, traced: TracedPaths) -> GridWeights:
    """Where the matte hits of a traced picture, the grid's own or another of the same set, lie in the grid.

    Gather points get weight 0: see gather_grid.with_gather_points. A hit on a surface the grid does not know gets weight 0 too.
    """
    count = len(traced.hits)
    node, weight = np.empty((count, 4), np.int32), np.empty((count, 4), np.float32)
    if len(grid.places):
        _locate(scene, traced.hits, grid.nodes, grid.spans, grid.begin, grid.row_patch, grid.corner_of, node, weight)
    else:
        node[:], weight[:] = 0, 0.0
    return GridWeights(node=node, weight=weight)


@lru_cache(maxsize=16)
def _between(nodes: int, to: int) -> tuple[NDArray[np.int64], NDArray[np.float32]]:
    """Lower neighbour and share of the upper one for `to` places across a row of `nodes`."""
    at = np.linspace(0, nodes - 1, to)
    low = np.minimum(at.astype(np.int64), nodes - 2)
    return low, (at - low).astype(np.float32)


def interpolate_to(light: NDArray[np.float32], *, nodes: int, to: int, grids: int) -> NDArray[np.float32]:
    """Light (grids nodes^2, lights, 3) of grids `nodes` wide at the nodes of grids `to` wide over the same surfaces."""
    field = light[: grids * nodes * nodes].reshape(-1, nodes, nodes, *light.shape[1:])
    low, part = _between(nodes, to)
    part_v, part_u = part[None, :, None, None, None], part[None, None, :, None, None]
    field = field[:, low] * (1 - part_v) + field[:, low + 1] * part_v
    field = field[:, :, low] * (1 - part_u) + field[:, :, low + 1] * part_u
    return field.reshape(-1, *light.shape[1:])


@kernel
def interpolate(
    nodes: NDArray[np.float32], node: NDArray[np.int32], weight: NDArray[np.float32], begin: int, end: int,
    out: NDArray[np.float32],
) -> None:  # fmt: skip
    """Light of nodes (g, layers, 3) at hits begin..end into out (hits, layers, 3)."""
    for h in range(begin, end):
        a, b, c, d = node[h, 0], node[h, 1], node[h, 2], node[h, 3]
        wa, wb, wc, wd = weight[h, 0], weight[h, 1], weight[h, 2], weight[h, 3]
        for i in range(nodes.shape[1]):
            for k in range(3):
                out[h, i, k] = wa * nodes[a, i, k] + wb * nodes[b, i, k] + wc * nodes[c, i, k] + wd * nodes[d, i, k]
