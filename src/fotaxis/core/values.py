"""Small value types shared by the rules."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.limits import require_finite

Array = NDArray[np.float64]
Picture = NDArray[np.float32]

FAR_M = 100.0
"""Nothing on a set is further away than this; larger numbers are slips of the key or a wrong unit."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Point:
    """A place on the set in metres: x right as the camera sees it, y up, z towards the camera."""

    x_m: float
    y_m: float
    z_m: float

    def __post_init__(self) -> None:
        for axis, value in (("x", self.x_m), ("y", self.y_m), ("z", self.z_m)):
            require_finite(f"position {axis}", value, low=-FAR_M, high=FAR_M, unit="m")

    def array(self) -> Array:
        """(3,) float64, metres."""
        return np.array([self.x_m, self.y_m, self.z_m])


@dataclass(frozen=True, slots=True, kw_only=True)
class Reflectance:
    """Diffuse reflectance in linear Rec. 709, each 0..1: no material creates light."""

    red: float
    green: float
    blue: float

    def __post_init__(self) -> None:
        for name, value in (("red", self.red), ("green", self.green), ("blue", self.blue)):
            require_finite(f"reflectance {name}", value, low=0.0, high=1.0)

    @classmethod
    def grey(cls, value: float) -> Reflectance:
        """The same reflectance in all three channels."""
        return cls(red=value, green=value, blue=value)

    def array(self) -> Array:
        """(3,) float64, dimensionless."""
        return np.array([self.red, self.green, self.blue])


GOLDEN_ANGLE = math.pi * (3.0 - math.sqrt(5.0))
"""Turns by it spread evenly around a circle, however many."""


def lattice(count: int) -> tuple[Array, Array]:
    """Evenly spread places in the unit square, x and y each (count,) float64, no two in one column or one row.

    x_i = (i g mod count + 1/2) / count, y_i = (i + 1/2) / count, with g coprime to count and next to count over the golden
    ratio: a straight edge across the square divides them in the right shares to about one place.
    Holds for:  count >= 1; best when count is a Fibonacci number.
    Source:     rank-1 (Fibonacci) lattice, Niederreiter 1992, section 5.
    """
    step = max(1, round(count * (math.sqrt(5) - 1) / 2))
    while math.gcd(step, count) != 1:
        step += 1
    i = np.arange(count)
    return (i * step % count + 0.5) / count, (i + 0.5) / count
