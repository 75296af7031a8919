"""A tube standing on its cap, pressed flat at its end."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from fotaxis.core.geometry import solids
from fotaxis.core.geometry.mesh import Mesh
from fotaxis.core.geometry.profile import Profile
from fotaxis.core.limits import require_finite, require_positive
from fotaxis.core.measures import Measure, metres, size
from fotaxis.core.scene.products.shape import Shape, ShapeKind, around_mesh
from fotaxis.core.values import Array


@dataclass(frozen=True, slots=True, kw_only=True)
class Tube(Shape):
    """A tube standing on its cap, pressed flat at its end."""

    diameter_m: float
    length_m: float
    crimp_m: float = 0.008

    def __post_init__(self) -> None:
        require_positive("tube's diameter", self.diameter_m, high=0.5, unit="m")
        require_positive("tube's length", self.length_m, high=1, unit="m")
        require_finite("tube's crimp", self.crimp_m, low=0.001, high=self.length_m / 2, unit="m")

    @property
    def mesh(self) -> Mesh:
        return _mesh(self)

    @property
    def profile(self) -> Profile:
        return around_mesh(self.mesh)

    @property
    def from_above(self) -> Array:
        return solids.footprint(_mesh(self).vertices[:, [0, 2]])


@lru_cache(maxsize=128)
def _mesh(tube: Tube) -> Mesh:
    return solids.tube(diameter_m=tube.diameter_m, length_m=tube.length_m, crimp_m=tube.crimp_m)


KIND = ShapeKind(
    key="tube", words="Tube", about="A tube standing on its cap, pressed flat at its end.", shape=Tube,
    measures=(
        size("diameter_cm", "Diameter", step=0.1), size("length_cm", "Length", step=0.1),
        Measure(name="crimp_mm", words="Pressed end", unit="mm", low=0, above=True, usual=8.0, least=1),
    ),
    make=lambda v: Tube(diameter_m=metres(v, "diameter_cm"), length_m=metres(v, "length_cm"), crimp_m=metres(v, "crimp_mm")),
    begins={"diameter_cm": 3.5, "length_cm": 13}, beside=("tube", "Tube", "satin lacquer"),
)  # fmt: skip
