"""A drawn can."""

from __future__ import annotations

from dataclasses import dataclass

from fotaxis.core.geometry import solids
from fotaxis.core.geometry.profile import Outline, Profile
from fotaxis.core.limits import require_finite, require_positive
from fotaxis.core.measures import Measure, metres, size
from fotaxis.core.scene.products.shape import Shape, ShapeKind
from fotaxis.core.scene.products.turned import refined


@dataclass(frozen=True, slots=True, kw_only=True)
class Can(Shape):
    """A drawn can: its wall drawn in at the top by `neck_m` per side."""

    diameter_m: float
    height_m: float
    neck_m: float = 0.004

    def __post_init__(self) -> None:
        require_positive("can's diameter", self.diameter_m, high=1, unit="m")
        require_positive("can's height", self.height_m, high=1, unit="m")
        require_finite("can's neck", self.neck_m, low=0, high=0.4 * self.diameter_m, unit="m")

    @property
    def profile(self) -> Profile:
        return solids.can_profile(diameter_m=self.diameter_m, height_m=self.height_m, neck_m=self.neck_m)

    @property
    def turned(self) -> Outline:
        return refined(self.profile)


KIND = ShapeKind(
    key="can", words="Can", about="A drawn can.", shape=Can,
    measures=(
        size("diameter_cm", "Diameter", step=0.1), size("height_cm", "Height", step=0.1),
        Measure(name="neck_mm", words="Drawn in at the top", unit="mm", low=0, usual=4.0, step=0.5, least=0),
    ),
    make=lambda v: Can(diameter_m=metres(v, "diameter_cm"), height_m=metres(v, "height_cm"), neck_m=metres(v, "neck_mm")),
    begins={"diameter_cm": 6.6, "height_cm": 11.5}, beside=("can", "Can", "brushed aluminium"),
)  # fmt: skip
