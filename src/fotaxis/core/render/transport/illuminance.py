"""Closed forms for the light that arrives on a surface."""

from __future__ import annotations

import math

import numpy as np

from fotaxis.core.columns import FLAT
from fotaxis.core.errors import DomainError
from fotaxis.core.kernel import leaf
from fotaxis.core.values import Array


def disc_illuminance_lux(*, luminance_cd_m2: float, radius_m: float, distance_m: float) -> float:
    """Illuminance on the axis of a uniform Lambertian disc, receiver facing it.

        E = pi L R^2 / (R^2 + d^2)        L cd/m2, R m, d m -> E lux

    Holds for:  L >= 0, R > 0, d >= 0; even face, clear air. Else DomainError.
    Limits:     d -> 0 gives pi L; the inverse-square law is 1 % high at d = 10 R.
    Source:     derived: integral of L cos^2(theta)/s^2 dA over rings.
    """
    if not (luminance_cd_m2 >= 0 and radius_m > 0 and distance_m >= 0):  # refuses NaN too
        raise DomainError(f"disc: {luminance_cd_m2=}, {radius_m=}, {distance_m=}; sizes must be positive.")
    return math.pi * luminance_cd_m2 * radius_m**2 / (radius_m**2 + distance_m**2)


def polygon_illuminance_lux(*, corners: Array, point: Array, normal: Array, luminance_cd_m2: float) -> float:
    """Illuminance from an even Lambertian polygon of either winding, cut off at the receiver's horizon.

        E = L/2 * | sum over edges of angle(a, b) * n . (a x b)/|a x b| |     a, b: unit vectors to the corners

    corners: (n, 3) float64, 3 <= n <= 4, metres; point, normal: (3,) float64, normal of unit length.
    Holds for:  luminance >= 0 and a point that is not on an edge. Else DomainError.
    Limits:     a plane filling the hemisphere gives pi L.
    Source:     Lambert, Photometria (1760); horizon clipping as in Arvo, Analytic Methods (1995).
    """
    if corners.shape not in ((3, 3), (4, 3)):
        raise DomainError(f"polygon: corners have shape {corners.shape}; give 3 or 4 corners of 3 coordinates.")
    if not luminance_cd_m2 >= 0:
        raise DomainError(f"polygon: luminance is {luminance_cd_m2:g} cd/m2; it must be 0 or more.")
    local = np.ascontiguousarray(corners - point, dtype=np.float64)
    nx, ny, nz = (float(v) for v in normal)
    return luminance_cd_m2 * abs(_signed_form(local, len(local), nx, ny, nz))


@leaf
def _edge_term(ax: float, ay: float, az: float, bx: float, by: float, bz: float, nx: float, ny: float, nz: float) -> float:
    """angle(a, b) times n . unit(a x b) for two vectors from the receiver."""
    cx = ay * bz - az * by
    cy = az * bx - ax * bz
    cz = ax * by - ay * bx
    sine = math.sqrt(cx * cx + cy * cy + cz * cz)
    if sine < 1e-18:
        return 0.0
    return math.atan2(sine, ax * bx + ay * by + az * bz) * (nx * cx + ny * cy + nz * cz) / sine


@leaf
def _signed_form(corners: Array, count: int, nx: float, ny: float, nz: float) -> float:
    """Half the sum over the polygon's edges above the horizon: illuminance for luminance 1, sign by winding."""
    total = 0.0
    px = py = pz = 0.0
    have = False
    fx = fy = fz = 0.0
    for i in range(count):
        j = i + 1 if i + 1 < count else 0
        ax, ay, az = corners[i, 0], corners[i, 1], corners[i, 2]
        bx, by, bz = corners[j, 0], corners[j, 1], corners[j, 2]
        ha = ax * nx + ay * ny + az * nz
        hb = bx * nx + by * ny + bz * nz
        if ha < 0.0 and hb < 0.0:
            continue
        if ha < 0.0:
            s = ha / (ha - hb)
            ax, ay, az = ax + s * (bx - ax), ay + s * (by - ay), az + s * (bz - az)
        elif hb < 0.0:
            s = ha / (ha - hb)
            bx, by, bz = ax + s * (bx - ax), ay + s * (by - ay), az + s * (bz - az)
        if have:
            total += _edge_term(px, py, pz, ax, ay, az, nx, ny, nz)
        else:
            fx, fy, fz = ax, ay, az
            have = True
        total += _edge_term(ax, ay, az, bx, by, bz, nx, ny, nz)
        px, py, pz = bx, by, bz
    if not have:
        return 0.0
    total += _edge_term(px, py, pz, fx, fy, fz, nx, ny, nz)
    return 0.5 * total


@leaf
def rectangle_form(
    flats: Array, k: int, px: float, py: float, pz: float, nx: float, ny: float, nz: float, corners: Array
) -> float:
    """Illuminance at a point from rectangle k at luminance 1, seen from its front; 0 from behind.

    corners: (4, 3) float64 scratch space of the caller.
    """
    cx = flats[k, FLAT.X] - px
    cy = flats[k, FLAT.Y] - py
    cz = flats[k, FLAT.Z] - pz
    if cx * flats[k, FLAT.NX] + cy * flats[k, FLAT.NY] + cz * flats[k, FLAT.NZ] >= 0.0:
        return 0.0
    w = flats[k, FLAT.HALF_WIDTH]
    h = flats[k, FLAT.HALF_HEIGHT]
    for i in range(4):
        su = w if i == 1 or i == 2 else -w
        sv = h if i >= 2 else -h
        corners[i, 0] = cx + su * flats[k, FLAT.AX] + sv * flats[k, FLAT.UX]
        corners[i, 1] = cy + su * flats[k, FLAT.AY] + sv * flats[k, FLAT.UY]
        corners[i, 2] = cz + su * flats[k, FLAT.AZ] + sv * flats[k, FLAT.UZ]
    return abs(_signed_form(corners, 4, nx, ny, nz))
