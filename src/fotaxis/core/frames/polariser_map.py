"""Where turning the polariser helps: how far each place of the picture darkens between its worst and its best turn."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from fotaxis.core.constants import MIDDLE_GREY
from fotaxis.core.values import Array

TURNS_RAD = (0.0, math.pi / 4, math.pi / 2, -math.pi / 4)
"""Turns at which a picture is needed: three would do, four are even."""

DARK = MIDDLE_GREY * 2.0**-9
"""What is darker than this is black at every turn."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PolariserMap:
    """stops (height, width): brightest over darkest turn; best_rad (height, width): the turn at which a place is darkest; mean, and
    the parts that turn with twice the angle (height, width)."""

    stops: Array
    best_rad: Array
    mean: Array
    cosine: Array
    sine: Array

    def at(self, turn_rad: float) -> Array:
        """Luminance at a turn, (height, width)."""
        found: Array = self.mean + self.cosine * math.cos(2 * turn_rad) + self.sine * math.sin(2 * turn_rad)
        return found


def polariser_map(luminance: Array) -> PolariserMap:
    """luminance (4, height, width): of the picture at TURNS_RAD, linear, grey 0.18.

        f = a + b cos 2 phi + c sin 2 phi

    Source:     Malus's law; exact from four turns an eighth of a circle apart.
    """
    straight, up, across, down = luminance
    mean = (straight + up + across + down) / 4
    cosine, sine = (straight - across) / 2, (up - down) / 2
    stops, best = _darkening(mean, cosine, sine)
    return PolariserMap(stops=stops, best_rad=best, mean=mean, cosine=cosine, sine=sine)


def _darkening(mean: Array, cosine: Array, sine: Array) -> tuple[Array, Array]:
    """Stops between the brightest and the darkest turn, and the darkest turn, rad, each of the shape of the parts."""
    swing = np.hypot(cosine, sine)
    stops: Array = np.log2(np.maximum(mean + swing, DARK) / np.maximum(mean - swing, DARK))
    # Darkest where cos(2 phi - 2 phi0) is -1.
    best = (np.arctan2(sine, cosine) + math.pi) / 2
    turned: Array = (best + math.pi / 2) % math.pi - math.pi / 2
    return stops, turned


@dataclass(frozen=True, slots=True, kw_only=True)
class ZoneTurn:
    """What the polariser does to a zone: its name, the turn at which it is darkest, and how many stops darker than at its worst."""

    name: str
    turn_rad: float
    stops: float


def zone_turn(name: str, found: PolariserMap, there: np.ndarray) -> ZoneTurn:
    """Of a zone's pixels (height, width) bool."""
    mean, cosine, sine = (part[there].mean() for part in (found.mean, found.cosine, found.sine))
    stops, turn = _darkening(mean, cosine, sine)
    return ZoneTurn(name=name, turn_rad=float(turn), stops=float(stops))
