"""A ball standing on its lowest point."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from fotaxis.core.geometry import solids
from fotaxis.core.geometry.profile import Outline, Profile
from fotaxis.core.limits import require_positive
from fotaxis.core.measures import metres, size
from fotaxis.core.scene.products.shape import Shape, ShapeKind


@dataclass(frozen=True, slots=True, kw_only=True)
class Sphere(Shape):
    """A ball standing on its lowest point."""

    diameter_m: float

    def __post_init__(self) -> None:
        require_positive("ball's diameter", self.diameter_m, high=2, unit="m")

    @property
    def profile(self) -> Profile:
        return _outline(self.diameter_m / 2)

    @property
    def turned(self) -> Outline:
        return _surface(self.diameter_m / 2)


@lru_cache(maxsize=64)
def _outline(radius_m: float) -> Profile:
    a = np.linspace(0, math.pi, 33)
    heights, radii = radius_m * (1 - np.cos(a)), np.abs(radius_m * np.sin(a))
    return Profile(heights_m=tuple(float(h) for h in heights), radii_m=tuple(float(x) for x in radii))


@lru_cache(maxsize=64)
def _surface(radius_m: float) -> Outline:
    return solids.sphere_outline(radius_m=radius_m)


KIND = ShapeKind(
    key="ball", words="Ball", about="A sphere.", shape=Sphere, measures=(size("diameter_cm", "Diameter", step=0.1),),
    make=lambda v: Sphere(diameter_m=metres(v, "diameter_cm")), begins={"diameter_cm": 6}, beside=("ball", "Ball", "chrome"),
)  # fmt: skip
