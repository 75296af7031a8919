"""One reflection in closed form: where the light must come from to be seen in a given spot."""

from __future__ import annotations

import math

import numpy as np

from fotaxis.core.errors import DomainError, NoSolution
from fotaxis.core.values import Array


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
