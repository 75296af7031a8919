"""A carton, tin, compact or flat pack with rounded edges."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import ClassVar

import numpy as np

from fotaxis.core.geometry import solids
from fotaxis.core.geometry.mesh import Mesh
from fotaxis.core.geometry.profile import Profile
from fotaxis.core.limits import require_finite, require_positive
from fotaxis.core.measures import Measure, metres, size
from fotaxis.core.scene.products.shape import Shape, ShapeKind, around_mesh
from fotaxis.core.values import Array


@dataclass(frozen=True, slots=True, kw_only=True)
class Box(Shape):
    """A carton, tin or compact: width along x, depth along z, edges rounded. A small height makes a flat pack."""

    faced: ClassVar[bool] = True
    holds_liquid: ClassVar[bool] = True
    width_m: float
    height_m: float
    depth_m: float
    edge_m: float = 0.0005

    def __post_init__(self) -> None:
        for name, value in (("width", self.width_m), ("height", self.height_m), ("depth", self.depth_m)):
            require_positive(f"box's {name}", value, high=2, unit="m")
        most = min(self.width_m, self.height_m, self.depth_m) / 2
        require_finite("box's edge radius", self.edge_m, low=0, high=most, unit="m")

    @property
    def mesh(self) -> Mesh:
        return _mesh(self)

    @property
    def half_sizes_m(self) -> tuple[float, float, float]:
        return self.width_m / 2, self.height_m / 2, self.depth_m / 2

    @property
    def profile(self) -> Profile:
        return around_mesh(self.mesh)

    @property
    def from_above(self) -> Array:
        return np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * [self.width_m / 2, self.depth_m / 2]

    @property
    def side_is_a_box(self) -> bool:
        return True


@lru_cache(maxsize=128)
def _mesh(box: Box) -> Mesh:
    return solids.rounded_box(width_m=box.width_m, height_m=box.height_m, depth_m=box.depth_m, edge_m=box.edge_m)


KIND = ShapeKind(
    key="box", words="Box", about="A carton, tin, compact or flat pack with rounded edges.", shape=Box,
    measures=(
        size("width_cm", "Width", step=0.1), size("height_cm", "Height", step=0.1), size("depth_cm", "Depth", step=0.1),
        Measure(name="edge_mm", words="Edge radius", unit="mm", low=0, usual=0.5, step=0.1, least=0),
    ),
    make=lambda v: Box(
        width_m=metres(v, "width_cm"), height_m=metres(v, "height_cm"), depth_m=metres(v, "depth_cm"), edge_m=metres(v, "edge_mm")
    ),
    begins={"width_cm": 8, "height_cm": 14, "depth_cm": 6}, beside=("carton", "Carton", "coated paper"),
)  # fmt: skip
