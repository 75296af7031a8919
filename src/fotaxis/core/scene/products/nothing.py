"""No product: a set of table, background, lights and things beside alone."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from fotaxis.core.geometry.profile import Profile
from fotaxis.core.limits import require_positive
from fotaxis.core.measures import metres, size
from fotaxis.core.scene.products.shape import Shape, ShapeKind

THIN_M = 1e-3


@dataclass(frozen=True, slots=True, kw_only=True)
class Nothing(Shape):
    """Nothing that is seen or shades; what asks where the product is gets a line on the axis."""

    height_m: float

    def __post_init__(self) -> None:
        require_positive("height", self.height_m, high=2, unit="m")

    @property
    def profile(self) -> Profile:
        return _line(self.height_m)

    @property
    def seen(self) -> bool:
        return False


@lru_cache(maxsize=16)
def _line(height_m: float) -> Profile:
    return Profile(heights_m=(0.0, height_m), radii_m=(THIN_M, THIN_M))


KIND = ShapeKind(
    key="nothing", words="Nothing", shape=Nothing,
    about="No product: table, background, lights and things beside alone; meters and set-ups count from the axis up to a height.",
    measures=(size("height_cm", "Up to a height of", step=1),), make=lambda v: Nothing(height_m=metres(v, "height_cm")),
    begins={"height_cm": 20},
)  # fmt: skip
