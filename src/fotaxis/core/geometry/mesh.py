"""Triangle meshes: smooth normals, a tree of boxes, and the ray test over it."""

from __future__ import annotations

import hashlib
import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import BOX
from fotaxis.core.errors import DomainError
from fotaxis.core.geometry.rays import Ray
from fotaxis.core.geometry.revolution import NO_HIT
from fotaxis.core.kernel import leaf
from fotaxis.core.values import Array

Ints = NDArray[np.int64]

MAX_TRIANGLES = 24_000
MAX_SIZE_M = 3.0
LEAST_SIZE_M = 1e-3
LEAF = 4
CREASE_COSINE = math.cos(math.radians(40.0))
"""Faces meeting at more than this are an edge; below it their normals are blended."""


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Mesh:
    """Triangles with a normal at every corner. Equal when their numbers are.

    vertices (n, 3), normals (n, 3) float64, metres and unit vectors; triangles (t, 3) int64, anticlockwise from outside.
    part_of (t,) int64: number of the part that each triangle belongs to, None: all are one.
    Holds for:  1 to 24,000 triangles, finite vertices within 3 m, larger than 1 mm, indices in range. Else DomainError.
    """

    vertices: Array
    normals: Array
    triangles: Ints
    part_of: Ints | None = None
    mark: str = field(init=False)

    def __post_init__(self) -> None:
        v, n, t = self.vertices, self.normals, self.triangles
        if v.ndim != 2 or v.shape[1:] != (3,) or n.shape != v.shape or t.ndim != 2 or t.shape[1:] != (3,):
            raise DomainError("mesh: vertices, normals and triangles must be lists of three numbers each.")
        if not 1 <= len(t) <= MAX_TRIANGLES:
            raise DomainError(f"mesh: {len(t):,} triangles; it must have 1 to {MAX_TRIANGLES:,}.")
        if t.min() < 0 or t.max() >= len(v):
            row = int(np.flatnonzero((t < 0).any(axis=1) | (t >= len(v)).any(axis=1))[0]) + 1
            raise DomainError(f"mesh, triangle {row}: it names a vertex that does not exist (there are {len(v)}).")
        if self.part_of is not None and self.part_of.shape != (len(t),):
            raise DomainError("mesh: its parts do not name every triangle once.")
        if not np.isfinite(v).all() or not np.isfinite(n).all():
            row = int(np.flatnonzero(~(np.isfinite(v).all(axis=1) & np.isfinite(n).all(axis=1)))[0]) + 1
            raise DomainError(f"mesh, vertex {row}: a coordinate is not a number.")
        size = np.ptp(v, axis=0)
        if size.max() < LEAST_SIZE_M or np.abs(v).max() > MAX_SIZE_M:
            raise DomainError(
                f"mesh: it measures {' x '.join(f'{s * 100:.4g}' for s in size)} cm; it must be 0.1 to 300 cm. Check its unit."
            )
        for array in (v, n, t):
            array.flags.writeable = False
        parts = b"" if self.part_of is None else self.part_of.tobytes()
        digest = hashlib.sha256(v.tobytes() + n.tobytes() + t.tobytes() + parts).hexdigest()
        object.__setattr__(self, "mark", digest)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Mesh) and other.mark == self.mark

    def __hash__(self) -> int:
        return hash(self.mark)

    @classmethod
    def smooth(cls, vertices: Array, triangles: Ints, part_of: Ints | None = None) -> Mesh:
        """A mesh with normals blended over faces that meet at less than 40 degrees, weighted by their angle."""
        if len(triangles) > MAX_TRIANGLES:
            raise DomainError(f"mesh: {len(triangles):,} triangles; it must have 1 to {MAX_TRIANGLES:,}.")
        if len(triangles) and (triangles.min() < 0 or triangles.max() >= len(vertices)):
            raise DomainError(f"mesh: a triangle names a vertex that does not exist (there are {len(vertices)}).")
        return _smoothed(np.asarray(vertices, np.float64), np.asarray(triangles, np.int64), part_of)

    def parts(self, numbers: Sequence[int]) -> Mesh | None:
        """The triangles of some parts as a mesh of their own, in the same place; None where there are none."""
        chosen = self.triangles[np.isin(self.part_of, numbers)] if self.part_of is not None else self.triangles
        if not len(chosen):
            return None
        used, index = np.unique(chosen, return_inverse=True)
        return Mesh(
            vertices=self.vertices[used], normals=self.normals[used], triangles=index.reshape(-1, 3).astype(np.int64)
        )


def _smoothed(vertices: Array, triangles: Ints, part_of: Ints | None) -> Mesh:
    corners = vertices[triangles]
    edges = corners[:, [1, 2, 0]] - corners
    faces = np.cross(edges[:, 0], -edges[:, 2])
    area = np.linalg.norm(faces, axis=1)
    kept = area > 1e-14
    triangles, corners, edges = triangles[kept], corners[kept], edges[kept]
    if not len(triangles):
        raise DomainError("mesh: every triangle is flat or a point; there is no surface.")
    faces = faces[kept] / area[kept, None]
    unit = edges / np.maximum(np.linalg.norm(edges, axis=2, keepdims=True), 1e-18)
    angle = np.arccos(np.clip(-(unit * unit[:, [2, 0, 1]]).sum(axis=2), -1, 1))
    # Corners of every vertex position, faces within the crease angle of each blended.
    _, place = np.unique(np.round(vertices, 8), axis=0, return_inverse=True)
    where = place.ravel()[triangles].ravel()
    face_of = np.repeat(np.arange(len(triangles)), 3)
    order = np.argsort(where, kind="stable")
    starts = np.flatnonzero(np.r_[True, np.diff(where[order]) > 0, True])
    normals = np.empty((len(triangles) * 3, 3))
    weight = angle.ravel()
    for a, b in itertools.pairwise(starts):
        rows = order[a:b]
        around = faces[face_of[rows]]
        near = around @ around.T >= CREASE_COSINE
        normals[rows] = (near * weight[rows]) @ around
    length = np.linalg.norm(normals, axis=1, keepdims=True)
    normals = np.where(length > 1e-12, normals / np.maximum(length, 1e-12), faces[face_of])
    joined = np.concatenate([vertices[triangles.ravel()], np.round(normals, 7)], axis=1)
    unique, index = np.unique(joined, axis=0, return_inverse=True)
    normal = unique[:, 3:] / np.linalg.norm(unique[:, 3:], axis=1, keepdims=True)
    return Mesh(
        vertices=np.ascontiguousarray(unique[:, :3]), normals=np.ascontiguousarray(normal),
        triangles=index.reshape(-1, 3).astype(np.int64), part_of=None if part_of is None else part_of[kept],
    )  # fmt: skip


@lru_cache(maxsize=32)
def tree(mesh: Mesh) -> tuple[Ints, Array, Ints]:
    """Triangles in the tree's order (t, 3), boxes (n, 6) low then high corner, links (n, 3): first triangle, how many, next.

    Nodes stand depth first: the children of node k follow it; `next` is the node to go on with when a ray misses node k.
    How many is 0 for a node with children.
    """
    corners = mesh.vertices[mesh.triangles]
    low, high = corners.min(axis=1), corners.max(axis=1)
    middle = (low + high) / 2
    order = np.arange(len(mesh.triangles))
    boxes: list[Array] = []
    links: list[list[int]] = []
    todo: list[tuple[int, int, int]] = [(0, len(order), -1)]
    while todo:
        begin, end, closes = todo.pop()
        if closes >= 0:  # both children of that node are written
            links[closes][2] = len(boxes)
            continue
        rows = order[begin:end]
        node = len(boxes)
        boxes.append(np.concatenate([low[rows].min(axis=0) - 1e-9, high[rows].max(axis=0) + 1e-9]))
        if end - begin <= LEAF:
            links.append([begin, end - begin, node + 1])
            continue
        links.append([0, 0, -1])
        axis = int(np.argmax(np.ptp(middle[rows], axis=0)))
        order[begin:end] = rows[np.argsort(middle[rows, axis], kind="stable")]
        split = (begin + end) // 2
        todo += [(0, 0, node), (split, end, -1), (begin, split, -1)]
    return mesh.triangles[order], np.array(boxes), np.array(links, np.int64)


@lru_cache(maxsize=32)
def is_closed(mesh: Mesh) -> bool:
    """Has every edge a triangle on either side? Corners at one place are one."""
    _, same = np.unique(np.round(mesh.vertices, 7), axis=0, return_inverse=True)
    corners = same.ravel()[mesh.triangles]
    edges = np.sort(np.concatenate([corners[:, [0, 1]], corners[:, [1, 2]], corners[:, [2, 0]]]), axis=1)
    edges = edges[edges[:, 0] != edges[:, 1]]
    _, count = np.unique(edges, axis=0, return_counts=True)
    return bool((count % 2 == 0).all())


@lru_cache(maxsize=32)
def smooth_patches(mesh: Mesh) -> Ints:
    """Number of the smooth patch that each triangle belongs to, in the tree's order (t,): triangles that share a corner with its
    normal run on smoothly into each other, a crease parts them."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    triangles, _, _ = tree(mesh)
    corners = np.round(np.concatenate([mesh.vertices, mesh.normals], axis=1), 6)
    _, same = np.unique(corners, axis=0, return_inverse=True)
    corner = same.ravel()[triangles]
    count = int(corner.max()) + 1
    joined = np.concatenate([corner[:, [0, 1]], corner[:, [1, 2]]])
    links = coo_array((np.ones(len(joined), np.int8), (joined[:, 0], joined[:, 1])), shape=(count, count))
    _, patch = connected_components(links, directed=False)
    return patch[corner[:, 0]].astype(np.int64)


@leaf
def _enters(
    boxes: Array, n: int, ox: float, oy: float, oz: float, ix: float, iy: float, iz: float, t_min: float, t_max: float
) -> float:
    """Where a ray enters box n, inf when it misses; ix, iy, iz: one over the direction."""
    a = (boxes[n, BOX.LOW_X] - ox) * ix
    b = (boxes[n, BOX.HIGH_X] - ox) * ix
    low = max(t_min, min(a, b))
    high = min(t_max, max(a, b))
    a = (boxes[n, BOX.LOW_Y] - oy) * iy
    b = (boxes[n, BOX.HIGH_Y] - oy) * iy
    low = max(low, min(a, b))
    high = min(high, max(a, b))
    a = (boxes[n, BOX.LOW_Z] - oz) * iz
    b = (boxes[n, BOX.HIGH_Z] - oz) * iz
    low = max(low, min(a, b))
    high = min(high, max(a, b))
    if low > high:
        return NO_HIT
    return low


@leaf
def _inverse(d: float) -> float:
    return 1.0 / d if abs(d) > 1e-18 else 1e18


@leaf
def hit_mesh(
    vertices: Array, triangles: Ints, boxes: Array, links: Ints, root: int, ray: Ray, t_min: float, t_max: float
) -> tuple[float, int, float, float]:
    """Nearest hit of a ray with the mesh whose tree starts at node `root`: t, triangle, and weights of its corners 1, 2.

    (inf, -1, 0, 0) for none. Ray in the mesh's own frame, metres.
    Source: Moeller & Trumbore 1997, double-sided.
    """
    ox, oy, oz, dx, dy, dz = ray
    best = t_max
    found = -1
    bu = 0.0
    bv = 0.0
    ix, iy, iz = _inverse(dx), _inverse(dy), _inverse(dz)
    node = root
    last = links[root, 2]
    while node < last:
        if _enters(boxes, node, ox, oy, oz, ix, iy, iz, t_min, best) == NO_HIT:
            node = links[node, 2]
            continue
        first = links[node, 0]
        count = links[node, 1]
        node += 1
        for i in range(first, first + count):
            p, q, r = triangles[i, 0], triangles[i, 1], triangles[i, 2]
            e1x = vertices[q, 0] - vertices[p, 0]
            e1y = vertices[q, 1] - vertices[p, 1]
            e1z = vertices[q, 2] - vertices[p, 2]
            e2x = vertices[r, 0] - vertices[p, 0]
            e2y = vertices[r, 1] - vertices[p, 1]
            e2z = vertices[r, 2] - vertices[p, 2]
            hx = dy * e2z - dz * e2y
            hy = dz * e2x - dx * e2z
            hz = dx * e2y - dy * e2x
            det = e1x * hx + e1y * hy + e1z * hz
            if abs(det) < 1e-20:
                continue
            inverse = 1.0 / det
            sx = ox - vertices[p, 0]
            sy = oy - vertices[p, 1]
            sz = oz - vertices[p, 2]
            u = (sx * hx + sy * hy + sz * hz) * inverse
            if u < -1e-9 or u > 1.0 + 1e-9:
                continue
            qx = sy * e1z - sz * e1y
            qy = sz * e1x - sx * e1z
            qz = sx * e1y - sy * e1x
            v = (dx * qx + dy * qy + dz * qz) * inverse
            if v < -1e-9 or u + v > 1.0 + 1e-9:
                continue
            t = (e2x * qx + e2y * qy + e2z * qz) * inverse
            if t > t_min and t < best:
                best, found, bu, bv = t, i, u, v
    if found < 0:
        return NO_HIT, -1, 0.0, 0.0
    return best, found, bu, bv
