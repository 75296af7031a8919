"""A solid of revolution by its measured outline: bottle, jar, glass. The only shape that may be real glass."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import ClassVar

from fotaxis.core.geometry.profile import Outline, Profile, refine
from fotaxis.core.scene.products.shape import Shape, ShapeKind

BOTTLE_CM = (
    (0, 6.6), (0.4, 7.2), (1.2, 7.4), (6, 7.4), (12, 7.4), (17, 7.4), (18.5, 7.2), (20, 6.4), (21.5, 5.0), (23, 3.7),
    (24.5, 3.05), (27, 2.9), (29, 2.8), (29.2, 3.1), (30.5, 3.1), (30.8, 2.6),
)  # fmt: skip
"""Heights and diameters of the bottle a new shot begins with."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Turned(Shape):
    """A solid of revolution by its measured outline."""

    holds_liquid: ClassVar[bool] = True
    profile: Profile

    @property
    def turned(self) -> Outline:
        return refined(self.profile)


@lru_cache(maxsize=128)
def refined(profile: Profile) -> Outline:
    """A measured outline as a smooth one."""
    return refine(profile)


def points(measured: tuple[tuple[float, float], ...]) -> list[dict[str, float]]:
    """Heights and diameters in centimetres as a shot file lists them."""
    return [{"height_cm": height, "diameter_cm": diameter} for height, diameter in measured]


KIND = ShapeKind(
    key="turned", words="Turned (outline)", about="A turned product by its outline from the foot up.", shape=Turned,
    begins={"profile": points(BOTTLE_CM)}, beside=("bottle", "Bottle", "black gloss"),
)  # fmt: skip
