"""How light leaves a head: its intensity off the axis, and what honeycombs and snoots leave of it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from fotaxis.core.errors import DomainError
from fotaxis.core.values import Array

LAMBERT, BELL, FLAT_TOP, TABLE = "lambert", "bell", "flat top", "table"
LEAST_COSINE = 0.02
"""Luminance off the axis is intensity over the cosine; beyond 88.9 degrees the cosine is held."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Pattern:
    """Intensity I of a head at an angle off its axis, relative to that on it.

        lambert     I = cos a: an even, matt face
        bell        I = 2 ^ -(a / a_half)^2, never more than a matt face off to the side: a reflector
        flat top    I = 1 within a_half - soft, 0 beyond a_half + soft, smooth between: a lens that images its gate
        table       I from measured values, straight lines between them

    half_rad: angle off the axis at which half is left (half the "beam angle" of a data sheet); soft_rad: half width of the
    edge; table: angles in radians from 0 upwards and intensities.
    Holds for:  0 < half <= 90 degrees. Else DomainError.
    """

    kind: str = LAMBERT
    half_rad: float = math.pi / 3
    soft_rad: float = 0.0
    table: tuple[tuple[float, ...], tuple[float, ...]] | None = None

    def __post_init__(self) -> None:
        if self.kind not in (LAMBERT, BELL, FLAT_TOP, TABLE):
            raise DomainError(f"light pattern is {self.kind!r}; it must be lambert, bell, flat top or table.")
        if not 0 < self.half_rad <= math.pi / 2:
            raise DomainError(f"beam's half angle is {math.degrees(self.half_rad):g}°; it must be from 0° to 90°.")
        if (self.kind == TABLE) != (self.table is not None):
            raise DomainError("a measured light pattern needs its table, and only that needs one.")

    def intensity(self, angle: Array) -> Array:
        """Relative intensity at angles off the axis, radians, same shape; 0 beyond 90 degrees."""
        front = np.where(angle < math.pi / 2, 1.0, 0.0)
        cosine = np.maximum(np.cos(angle), 0.0)
        if self.kind == LAMBERT:
            return cosine
        if self.kind == BELL:
            return front * np.minimum(2.0 ** -((angle / self.half_rad) ** 2), np.minimum(1.0, cosine * 10.0))
        if self.kind == FLAT_TOP:
            part = np.clip((self.half_rad + self.soft_rad - angle) / max(2 * self.soft_rad, 1e-6), 0.0, 1.0)
            return front * part * part * (3 - 2 * part)
        assert self.table is not None
        angles, intensities = self.table
        return np.interp(angle, np.array(angles), np.array(intensities), right=0.0)

    def luminance(self, angle: Array) -> Array:
        """Luminance of the face at angles off its axis relative to that on it, same shape."""
        return self.intensity(angle) / np.maximum(np.cos(angle), LEAST_COSINE)


def cell_transmission(tangent: Array, tangent_cell: float) -> Array:
    """Share of a round cell seen open at angles off its axis, given as tangents, same shape.

        T = 2/pi (acos x - x sqrt(1 - x^2)),  x = tan(angle) / (diameter / length);  0 for x >= 1

    The overlap of the cell's two ends: one cell of a honeycomb (its diameter over its length is the tangent of half the
    grid's nominal angle) or a whole snoot.  Limits: 1 on the axis.
    """
    x = np.minimum(tangent / tangent_cell, 1.0)
    return (np.arccos(x) - x * np.sqrt(1.0 - x * x)) * 2.0 / math.pi


class Shaping(NamedTuple):
    """What a face's luminance off its axis follows from, wherever it stands.

    cell: diameter over length of a snoot; grid_angle_rad: full angle of a honeycomb; 0 for none of either.
    """

    pattern: Pattern
    cell: float
    grid_angle_rad: float

    def off_axis(self, angle: Array) -> Array:
        """Luminance at angles off the axis relative to that on it, same shape."""
        level = self.pattern.luminance(angle)
        tangent = np.tan(np.minimum(angle, math.radians(89.9)))
        for tangent_cell in (self.cell, math.tan(self.grid_angle_rad / 2)):
            if tangent_cell:
                level = level * cell_transmission(tangent, tangent_cell)
        return level
