"""Two pictures of linear levels against each other, in stops."""

from __future__ import annotations

import numpy as np

from fotaxis.core.constants import MIDDLE_GREY, REC709_LUMINANCE
from fotaxis.core.errors import DomainError
from fotaxis.core.values import Array, Picture

NOISE_STOPS = -9.0
"""What lies this far under middle grey in both pictures counts as the same: no sensor tells it apart."""


def difference_stops(levels: Picture, other: Picture) -> Array:
    """How much brighter `levels` is than `other`, stops, (height, width) float64; both (height, width, 3), linear.

    Holds for:  pictures of the same size. Else DomainError.
    Limits:     below NOISE_STOPS from grey a level counts as that much.
    """
    if levels.shape != other.shape:
        raise DomainError(f"the pictures differ in size: {levels.shape[1::-1]} and {other.shape[1::-1]}.")
    floor = MIDDLE_GREY * 2.0**NOISE_STOPS
    weights = np.array(REC709_LUMINANCE)
    a, b = (np.maximum(p.astype(np.float64) @ weights, floor) for p in (levels, other))
    stops: Array = np.log2(a / b)
    return stops


def as_grey(stops: Array, *, most_stops: float = 3.0) -> np.ndarray:
    """Differences as a picture, (height, width, 3) uint8: middle grey where there is none, white and black at +-most_stops."""
    part = np.clip(stops / most_stops, -1, 1)
    grey = np.round(127.5 + 127.5 * part).astype(np.uint8)
    return np.repeat(grey[:, :, None], 3, axis=2)
