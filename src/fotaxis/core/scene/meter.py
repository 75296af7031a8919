"""An incident meter that was set down somewhere on the set."""

from __future__ import annotations

import math
from dataclasses import dataclass

from fotaxis.core.errors import DomainError
from fotaxis.core.limits import require_finite
from fotaxis.core.values import Point

SURFACE, CAMERA = "surface", "camera"
"""What a meter may face beside a light: straight away from what it lies on, or the camera."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Meter:
    """Where a meter is held: at a place on a surface (m) with the unit normal of that, and on what, in words.

    dome: a half ball as receptor instead of a flat disc. faces: SURFACE, CAMERA, or the key of a light.
    """

    place: Point
    normal: tuple[float, float, float]
    on: str = ""
    dome: bool = False
    faces: str = SURFACE

    def __post_init__(self) -> None:
        for value in self.normal:
            require_finite("meter's normal", value, low=-1, high=1)
        if abs(math.hypot(*self.normal) - 1) > 0.01:
            raise DomainError("the meter's normal must be of length 1; set the meter down again.")
