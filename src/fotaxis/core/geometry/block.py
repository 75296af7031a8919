"""The hollow of a glass block with flat sides: its dry and wet walls and the liquid's top, facing into it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from fotaxis.core.errors import DomainError
from fotaxis.core.geometry.mesh import Mesh
from fotaxis.core.values import Array

LEAST_M = 1e-3
"""A hollow, and what is wet or dry of it, is at least so large."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Hollow:
    """Surfaces of a closed hollow, metres above the block's foot; normals look into it. wet and level are None when it is empty."""

    dry: Mesh
    wet: Mesh | None
    level: Mesh | None


@lru_cache(maxsize=64)
def hollow_of(
    *, width_m: float, height_m: float, depth_m: float, wall_m: float, floor_m: float, level_m: float = 0.0
) -> Hollow:
    """The hollow of a block so large: walls and top wall_m thick, its floor at floor_m, filled to level_m (0: empty); its
    own edges are sharp.

    Holds for:  room for a hollow of a millimetre. Else DomainError.
    """
    x, z, high = width_m / 2 - wall_m, depth_m / 2 - wall_m, height_m - wall_m
    if min(x, z) < LEAST_M / 2:
        narrow = 100 * min(width_m, depth_m)
        raise DomainError(f"the wall is {1000 * wall_m:g} mm; a block {narrow:g} cm thick has no room for a hollow.")
    if high - floor_m < LEAST_M:
        raise DomainError(f"the base is {100 * floor_m:g} cm thick; it leaves no hollow under the top at {100 * high:g} cm.")
    level = min(level_m, high - LEAST_M)
    if level < floor_m + LEAST_M:
        return Hollow(dry=_box(x, z, floor_m, high, bottom=True, top=True), wet=None, level=None)
    return Hollow(
        dry=_box(x, z, level, high, bottom=False, top=True), wet=_box(x, z, floor_m, level, bottom=True, top=False),
        level=_faces([(_corners(x, z, level), np.array([0.0, 1.0, 0.0]))]),
    )  # fmt: skip


def _corners(x: float, z: float, y: float) -> Array:
    return np.array([[-x, y, -z], [x, y, -z], [x, y, z], [-x, y, z]])


def _box(x: float, z: float, low: float, high: float, *, bottom: bool, top: bool) -> Mesh:
    """Sides of a hollow, and its floor and ceiling where wanted, facing inwards."""
    under, over = _corners(x, z, low), _corners(x, z, high)
    faces = []
    for i, normal in enumerate(([0, 0, 1], [-1, 0, 0], [0, 0, -1], [1, 0, 0])):
        j = (i + 1) % 4
        faces.append((np.array([under[i], under[j], over[j], over[i]]), np.array(normal, np.float64)))
    if bottom:
        faces.append((under, np.array([0.0, 1.0, 0.0])))
    if top:
        faces.append((over, np.array([0.0, -1.0, 0.0])))
    return _faces(faces)


def _faces(faces: list[tuple[Array, Array]]) -> Mesh:
    """A mesh of flat faces of four corners each, anticlockwise as their normals look."""
    vertices: list[Array] = []
    normals: list[Array] = []
    triangles: list[list[int]] = []
    for corners, normal in faces:
        turned = np.cross(corners[1] - corners[0], corners[2] - corners[0]) @ normal < 0
        first = 4 * len(vertices)
        vertices.append(corners[::-1] if turned else corners)
        normals.append(np.tile(normal, (4, 1)))
        triangles += [[first, first + 1, first + 2], [first, first + 2, first + 3]]
    return Mesh(vertices=np.concatenate(vertices), normals=np.concatenate(normals), triangles=np.array(triangles, np.int64))
