"""One reflection in closed form: where the light must come from to be seen in a given spot."""

from __future__ import annotations

import math

import numpy as np

from fotaxis.core.errors import DomainError, NoSolution
from fotaxis.core.values import Array


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


def plane_image(*, point: Array, on_plane: Array, normal: Array) -> Array:
    """Mirror image of a point in a plane, (3,) metres; normal of unit length."""
    return point - 2 * float((point - on_plane) @ normal) * normal


def sphere_spot(*, centre: Array, radius_m: float, eye: Array, light: Array) -> Array:
    """Place on a glossy sphere where an eye sees a light (Alhazen's problem), (3,) metres.

    In the plane through eye, light and centre, with the centre as origin, the spot R (cos a, sin a) satisfies a
    quartic in tan(a / 2); of its real roots the one that both see and that reflects one into the other is taken.
    Holds for:  R > 0, eye and light outside the sphere. Else DomainError. NoSolution when neither sees the spot.
    Limits:     equal distances: the spot lies on the bisector.
    Source:     Alhazen's problem; half-angle substitution.
    """
    p, q = eye - centre, light - centre
    dp, dq = float(np.linalg.norm(p)), float(np.linalg.norm(q))
    if not (radius_m > 0 and dp > radius_m and dq > radius_m):
        raise DomainError("sphere: the radius must be more than 0, and camera and light must be outside it.")
    ex = p / dp
    side = q - float(q @ ex) * ex
    if np.linalg.norm(side) < 1e-12 * dq:
        if float(q @ ex) > 0:
            return centre + radius_m * ex
        raise NoSolution("sphere: the light is straight behind it as the camera sees it.")
    ey = side / np.linalg.norm(side)
    qx, qy = float(q @ ex), float(q @ ey)
    # Equal angles at a: (p.t)/(n.p - R) = -(q.t)/(n.q - R) with n = (c, s), t = (-s, c) and p = (dp, 0):
    #   -dp s (qx c + qy s - R) + (qy c - qx s)(dp c - R) = 0, with c = (1 - m^2)/(1 + m^2), s = 2m/(1 + m^2).
    c2, s2 = np.poly1d([-1.0, 0.0, 1.0]), np.poly1d([2.0, 0.0])
    w = np.poly1d([1.0, 0.0, 1.0])
    quartic = (qy * c2 - qx * s2) * (dp * c2 - radius_m * w) - dp * s2 * (qx * c2 + qy * s2 - radius_m * w)
    best: Array | None = None
    best_path = math.inf
    for root in quartic.roots:
        if abs(root.imag) > 1e-7 * max(1.0, abs(root.real)):
            continue
        angle = 2 * math.atan(root.real)
        n = math.cos(angle) * ex + math.sin(angle) * ey
        spot = radius_m * n
        if float(n @ (p - spot)) > 0 and float(n @ (q - spot)) > 0:
            path = float(np.linalg.norm(p - spot) + np.linalg.norm(q - spot))
            if path < best_path:
                best, best_path = spot, path
    if best is None:
        raise NoSolution("sphere: no spot is seen by both the camera and the light.")
    return centre + best
