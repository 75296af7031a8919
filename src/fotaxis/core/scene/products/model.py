"""An imported mesh."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import ClassVar

import numpy as np

from fotaxis.core.geometry import solids
from fotaxis.core.geometry.mesh import Mesh
from fotaxis.core.geometry.profile import Profile
from fotaxis.core.measures import Measure
from fotaxis.core.scene.products.shape import Shape, ShapeKind, around_mesh
from fotaxis.core.values import Array


@dataclass(frozen=True, slots=True, kw_only=True)
class Modelled(Shape):
    """An imported mesh; its lowest point is put on the ground and its middle on the axis."""

    sided: ClassVar[bool] = True
    solid: ClassVar[bool] = True
    imported: Mesh

    @property
    def mesh(self) -> Mesh:
        return _standing(self.imported)

    @property
    def profile(self) -> Profile:
        return around_mesh(self.mesh)

    @property
    def from_above(self) -> Array:
        return solids.footprint(self.mesh.vertices[:, [0, 2]])


@lru_cache(maxsize=128)
def _standing(mesh: Mesh) -> Mesh:
    """A mesh moved so that it stands on the ground, its middle on the axis."""
    v = mesh.vertices
    low, high = v.min(axis=0), v.max(axis=0)
    middle = np.array([(low[0] + high[0]) / 2, low[1], (low[2] + high[2]) / 2])
    return Mesh(vertices=v - middle, normals=mesh.normals.copy(), triangles=mesh.triangles.copy(), part_of=mesh.part_of)


KIND = ShapeKind(
    key="model", words="Model file", about="An imported mesh.", shape=Modelled,
    measures=(Measure(name="unit_m", words="Its unit is", unit="m", low=0, above=True, usual=0.01, step=0.001, least=1e-6),),
)  # fmt: skip
