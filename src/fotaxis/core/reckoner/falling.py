"""Free fall, without the air."""

from __future__ import annotations

import math

GRAVITY_M_S2 = 9.80665
"""Standard acceleration of free fall. Source: CGPM 1901."""


def fall_s(height_m: float) -> float:
    """Time to fall from rest: √(2 h / g), seconds; h >= 0.  Source: textbook."""
    return math.sqrt(2 * height_m / GRAVITY_M_S2)


def fall_speed_m_s(height_m: float) -> float:
    """Speed after a fall from rest: √(2 g h), m/s; h >= 0.  Source: textbook."""
    return math.sqrt(2 * GRAVITY_M_S2 * height_m)
