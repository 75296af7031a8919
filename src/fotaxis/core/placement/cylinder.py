"""One reflection on an upright round product in closed form: where the light of a line must come from."""

from __future__ import annotations

import math

from fotaxis.core.errors import DomainError


def light_angle_rad(*, offset_ratio: float) -> float:
    """Angle off the camera axis from which a highlight on an upright glossy cylinder is lit, far camera.

        theta = asin(x / R),  light from 2 theta

    offset_ratio x / R: 0 the middle of the cylinder, +-1 its edges.
    Holds for:  -1 <= x/R <= 1. Else DomainError.
    Limits:     0.90 gives 128.3 degrees: edge panels stand beside and behind.
    Source:     law of reflection; the camera is far against R.
    """
    if not -1 <= offset_ratio <= 1:
        raise DomainError(f"a highlight at {offset_ratio:.0%} of the radius lies beside the product; stay within ±100 %.")
    return 2 * math.asin(offset_ratio)


def offset_ratio(*, light_angle_rad: float) -> float:
    """Inverse of light_angle_rad: x / R of the highlight of a light at an angle off the camera axis, sin(angle / 2).

    Holds for:  |angle| <= pi. Else DomainError.
    """
    if not abs(light_angle_rad) <= math.pi:
        raise DomainError("a light more than 180° off the camera axis does not exist; give -180° to 180°.")
    return math.sin(light_angle_rad / 2)


def mirror_height_m(*, wall_height_m: float, camera_height_m: float, camera_distance_m: float, path_m: float) -> float:
    """Height at which the ray seen at a height of an upright wall meets a panel after a path s: y + s (y - c) / d.

    Holds for:  d > 0, s >= 0. Else DomainError.
    Limits:     foot (0), c = 0.15, d = 1.20, s = 0.50 gives 6.25 cm below the foot: the riser that is needed.
    Source:     law of reflection on an upright wall: the slope of the ray stays.
    """
    if not (camera_distance_m > 0 and path_m >= 0):
        raise DomainError("mirror height: the camera distance must be more than 0 and the path 0 or more.")
    return wall_height_m + path_m * (wall_height_m - camera_height_m) / camera_distance_m


def highlight_shift_m(*, radius_m: float, normal_angle_rad: float, panel_shift_rad: float) -> float:
    """How far the edge of a highlight moves when the panel's edge moves by a small angle: R cos(theta) delta / 2.

    Holds for:  R > 0. Else DomainError.
    Limits:     vanishes at the product's edge (theta = 90 degrees).
    Source:     derivative of x = R sin(angle / 2).
    """
    if not radius_m > 0:
        raise DomainError(f"radius is {radius_m:g} m; it must be more than 0.")
    return radius_m * math.cos(normal_angle_rad) * panel_shift_rad / 2
