"""A cone-shaped flacon: a straight cone from its foot to a short neck with a collar; opaque, or real glass with a liquid."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import ClassVar

from fotaxis.core.errors import DomainError
from fotaxis.core.geometry.profile import Outline, Profile
from fotaxis.core.limits import require_positive
from fotaxis.core.measures import Measure, metres, size
from fotaxis.core.scene.products.shape import Shape, ShapeKind
from fotaxis.core.scene.products.turned import refined

FOOT_PART = 0.06
"""The foot is drawn in by this part of its radius, as blown glass is."""

BODY_PART = 0.82
"""So much of the height is cone; the rest neck and collar."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Flacon(Shape):
    """A cone that narrows from its foot to its neck."""

    holds_liquid: ClassVar[bool] = True
    foot_diameter_m: float
    neck_diameter_m: float
    height_m: float

    def __post_init__(self) -> None:
        require_positive("flacon's foot", self.foot_diameter_m, high=1, unit="m")
        require_positive("flacon's neck", self.neck_diameter_m, high=1, unit="m")
        require_positive("flacon's height", self.height_m, high=1, unit="m")
        if not self.neck_diameter_m < 0.9 * self.foot_diameter_m:
            raise DomainError("a flacon's neck must be narrower than nine tenths of its foot.")

    @property
    def profile(self) -> Profile:
        return _profile(self)

    @property
    def turned(self) -> Outline:
        return refined(_profile(self))


@lru_cache(maxsize=64)
def _profile(flacon: Flacon) -> Profile:
    h, foot, neck = flacon.height_m, flacon.foot_diameter_m / 2, flacon.neck_diameter_m / 2
    body = BODY_PART * h

    def on_cone(part: float) -> float:
        return foot + (neck - foot) * part

    measured = [(0.0, foot * (1 - FOOT_PART)), (0.012 * h, foot * 0.985), (0.03 * h, on_cone(0.03 / BODY_PART))]
    measured += [(part * body, on_cone(part)) for part in (0.2, 0.4, 0.6, 0.8, 0.95)]
    measured += [(body, neck), (0.9 * h, neck), (0.905 * h, 1.12 * neck), (0.99 * h, 1.12 * neck), (h, 1.05 * neck)]
    return Profile(heights_m=tuple(y for y, _ in measured), radii_m=tuple(r for _, r in measured))


KIND = ShapeKind(
    key="flacon", words="Flacon, cone", about="A cone-shaped flacon.", shape=Flacon,
    measures=(
        size("foot_diameter_cm", "Foot", step=0.1), size("neck_diameter_cm", "Neck", step=0.1),
        Measure(name="height_cm", words="Height", unit="cm", low=0, above=True, step=0.1, least=0.1),
    ),
    make=lambda v: Flacon(
        foot_diameter_m=metres(v, "foot_diameter_cm"), neck_diameter_m=metres(v, "neck_diameter_cm"), height_m=metres(v, "height_cm")
    ),
    begins={"foot_diameter_cm": 7, "neck_diameter_cm": 2, "height_cm": 13}, beside=("flacon", "Flacon", "black gloss"),
)  # fmt: skip
