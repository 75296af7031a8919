"""A shoe as large and as round as a trainer: sole, ledge, and an upper that rises from the toe to the collar."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from fotaxis.core.geometry import solids
from fotaxis.core.geometry.mesh import Mesh
from fotaxis.core.geometry.profile import Profile
from fotaxis.core.limits import require_positive
from fotaxis.core.measures import metres, size
from fotaxis.core.scene.products.shape import Shape, ShapeKind, around_mesh
from fotaxis.core.values import Array

SOLE = 0.22
"""Of its height, common practice; so are the other proportions."""

LEDGE = 0.93
STATIONS, BOTTOM, SIDE, TOP = 72, 8, 4, 40
AT, RISES = (0.0, 0.05, 0.2, 0.38, 0.55, 0.75, 0.92, 1.0), (0.86, 0.97, 1.0, 0.9, 0.72, 0.5, 0.42, 0.3)
"""How high the upper is along the shoe, heel to toe, of its height."""

BROAD_AT, BROAD = (0.0, 0.15, 0.45, 0.72, 1.0), (0.72, 0.74, 0.78, 1.0, 0.9)


@dataclass(frozen=True, slots=True, kw_only=True)
class Trainer(Shape):
    """Its length lies along x, the toe to the right; as wide in z, standing on its sole."""

    sided: ClassVar[bool] = True
    length_m: float
    width_m: float
    height_m: float

    def __post_init__(self) -> None:
        for name, value in (("length", self.length_m), ("width", self.width_m), ("height", self.height_m)):
            require_positive(f"shoe's {name}", value, high=1, unit="m")

    @property
    def mesh(self) -> Mesh:
        return _mesh(self)

    @property
    def profile(self) -> Profile:
        return around_mesh(self.mesh)

    @property
    def from_above(self) -> Array:
        return solids.footprint(_mesh(self).vertices[:, [0, 2]])


def _section(half: float, sole: float, top: float) -> Array:
    """A cut across, (n, 2) of z and y, anticlockwise seen from the toe: sole, side, ledge, upper, and back."""
    turn = np.linspace(0.0, np.pi, TOP)
    inner = LEDGE * half
    upper = np.column_stack([
        inner * np.sign(np.cos(turn)) * np.abs(np.cos(turn)) ** 0.8, sole + (top - sole) * np.sin(turn) ** 0.7,
    ])  # fmt: skip
    bottom = np.column_stack([np.linspace(-half, half, BOTTOM), np.zeros(BOTTOM)])
    right = np.column_stack([np.full(SIDE, half), np.linspace(0, sole, SIDE + 1)[1:]])
    left = np.column_stack([np.full(SIDE, -half), np.linspace(sole, 0, SIDE + 1)[:-1]])
    return np.concatenate([bottom, right, upper, left])


@lru_cache(maxsize=32)
def _mesh(shoe: Trainer) -> Mesh:
    along = (1 - np.cos(np.linspace(0.02, np.pi - 0.02, STATIONS))) / 2
    plan = PchipInterpolator(BROAD_AT, BROAD)(along) * (1 - np.abs(2 * along - 1) ** 3.2) ** (1 / 3.2)
    tops = shoe.height_m * PchipInterpolator(AT, RISES)(along)
    rings = [_section(0.5 * shoe.width_m * p, SOLE * shoe.height_m, top) for p, top in zip(plan, tops, strict=True)]
    count = len(rings[0])
    places = [np.full(count, (u - 0.5) * shoe.length_m) for u in along]
    vertices = np.concatenate([np.column_stack([x, ring[:, 1], ring[:, 0]]) for x, ring in zip(places, rings, strict=True)])
    i, j = np.meshgrid(np.arange(STATIONS - 1), np.arange(count), indexing="ij")
    a, b = i * count + j, i * count + (j + 1) % count
    quads = np.stack([a, b, b + count, a + count], axis=-1).reshape(-1, 4)
    heel, toe = len(vertices), len(vertices) + 1
    ends = np.array([vertices[:count].mean(axis=0), vertices[-count:].mean(axis=0)])
    ring = np.arange(count)
    around = (ring + 1) % count
    last = (STATIONS - 1) * count
    triangles = np.concatenate([
        quads[:, [0, 2, 1]], quads[:, [0, 3, 2]],
        np.column_stack([np.full(count, heel), ring, around]), np.column_stack([np.full(count, toe), last + around, last + ring]),
    ])  # fmt: skip
    return Mesh.smooth(np.concatenate([vertices, ends]), _outward(np.concatenate([vertices, ends]), triangles))


def _outward(vertices: Array, triangles: NDArray[np.int64]) -> NDArray[np.int64]:
    """Triangles anticlockwise from outside: all turned round where the volume they enclose is negative."""
    p, q, r = (vertices[triangles[:, k]] for k in range(3))
    volume = float(np.einsum("ij,ij->i", p, np.cross(q, r)).sum())
    return triangles if volume > 0 else triangles[:, ::-1]


KIND = ShapeKind(
    key="trainer", words="Trainer", about="A shoe as large and as round as a trainer; zones lie around it or on what looks one way.",
    shape=Trainer,
    measures=(
        size("length_cm", "Length", step=0.5), size("width_cm", "Width", step=0.5), size("height_cm", "Height", step=0.5),
    ),
    make=lambda v: Trainer(length_m=metres(v, "length_cm"), width_m=metres(v, "width_cm"), height_m=metres(v, "height_cm")),
    begins={"length_cm": 29, "width_cm": 10.5, "height_cm": 12}, beside=("trainer", "Trainer", "felt board"),
)  # fmt: skip
