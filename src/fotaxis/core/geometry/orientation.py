"""Where a flat thing stands and which way it looks."""

from __future__ import annotations

import math

import numpy as np

from fotaxis.core.errors import DomainError
from fotaxis.core.values import Array


def axes(*, turn_rad: float, tilt_rad: float) -> tuple[Array, Array, Array]:
    """Across, up and front unit vectors of a flat thing, each (3,) float64.

    At turn 0 and tilt 0 it looks along +z, towards the camera, with `across` to the right as the camera sees it.
    Positive turn swings its front to +x (as seen from above, anticlockwise with the camera below);
    positive tilt lifts its front.

        front  = (sin turn cos tilt, sin tilt, cos turn cos tilt)
        across = (cos turn, 0, -sin turn)
        up     = front x across = (-sin turn sin tilt, cos tilt, -cos turn sin tilt)
    """
    st, ct = math.sin(turn_rad), math.cos(turn_rad)
    sp, cp = math.sin(tilt_rad), math.cos(tilt_rad)
    front = np.array([st * cp, sp, ct * cp])
    across = np.array([ct, 0.0, -st])
    up = np.array([-st * sp, cp, -ct * sp])
    return across, up, front


def aim(*, place: Array, target: Array) -> tuple[float, float]:
    """Turn and tilt in radians that make a thing at `place` look at `target`, both (3,) metres.

    Holds for:  two different places. Else DomainError.
    """
    d = target - place
    length = float(np.linalg.norm(d))
    if length < 1e-9:
        raise DomainError("aim: the thing stands where it aims; move one of them.")
    return math.atan2(d[0], d[2]), math.asin(max(-1.0, min(1.0, d[1] / length)))
