"""Reflectance of a smooth boundary between clear media."""

from __future__ import annotations

import math
from functools import lru_cache

from fotaxis.core.errors import DomainError
from fotaxis.core.kernel import leaf


@leaf
def reflectance_sp(cosine: float, index: float) -> tuple[float, float]:
    """Reflectance polarised across (s) and along (p) the plane of incidence; cosine of incidence and n2/n1 > 0.

        rs = (ci - n ct) / (ci + n ct),  rp = (n ci - ct) / (n ci + ct),  n ct = sqrt(n^2 - 1 + ci^2)

    Beyond the critical angle both are 1 (total internal reflection).
    Source:     Fresnel's formulas, as in Born & Wolf, Principles of Optics, section 1.5.2.
    """
    c = min(1.0, abs(cosine))
    under = index * index - 1.0 + c * c
    if under <= 0.0:
        return 1.0, 1.0
    nct = math.sqrt(under)
    ct = nct / index
    rs = (c - nct) / (c + nct)
    rp = (index * c - ct) / (index * c + ct)
    return rs * rs, rp * rp


@leaf
def reflectance(cosine: float, index: float) -> float:
    """Reflectance for unpolarised light, the mean of s and p."""
    rs, rp = reflectance_sp(cosine, index)
    return 0.5 * (rs + rp)


def brewster_angle_rad(*, index: float) -> float:
    """Incidence at which the p part vanishes, atan(n), radians.

    Holds for:  index > 0. Else DomainError.
    Source:     Brewster's law.
    """
    if not index > 0:
        raise DomainError(f"Brewster angle: refractive index is {index:g}; it must be more than 0.")
    return math.atan(index)


@lru_cache(maxsize=256)
def hemispherical_reflectance(*, index: float) -> float:
    """Mean reflectance under even light from a whole hemisphere.

        F = integral of 2 R(c) c dc, c from 0 to 1

    Holds for:  index > 0. Else DomainError.
    Limits:     n = 1 gives 0.
    Source:     derived; for n = 1.5 tables give 0.0918 from outside and 0.5963 from inside.
    """
    if not index > 0:
        raise DomainError(f"hemispherical reflectance: refractive index is {index:g}; it must be more than 0.")
    knee = [math.sqrt(1 - index * index)] if index < 1 else None
    from scipy.integrate import quad  # costs a third of a second, and most sets need no coat anew

    value, _ = quad(lambda c: 2 * reflectance(c, index) * c, 0.0, 1.0, points=knee, limit=200)
    return float(value)


@leaf
def reflectance_metal(cosine: float, n: float, k: float) -> float:
    """Reflectance of a metal of complex index n + ik for unpolarised light; cosine of incidence.

        2 a^2 = sqrt((n^2 - k^2 - s^2)^2 + 4 n^2 k^2) + n^2 - k^2 - s^2,   s = sin(incidence), c = cos(incidence)
        Rs = (a^2 + b^2 - 2 a c + c^2) / (a^2 + b^2 + 2 a c + c^2),  a^2 + b^2 the root above
        Rp = Rs (c^2 (a^2 + b^2) - 2 a c s^2 + s^4) / (c^2 (a^2 + b^2) + 2 a c s^2 + s^4)
    Limits:     k = 0 gives the dielectric's reflectance.
    Source:     Born & Wolf, Principles of Optics, section 14.2 (Fresnel's formulas with a complex index).
    """
    c = min(1.0, abs(cosine))
    s2 = 1.0 - c * c
    m = n * n - k * k - s2
    root = math.sqrt(m * m + 4.0 * n * n * k * k)
    a = math.sqrt(max(0.0, 0.5 * (root + m)))
    rs = (root - 2.0 * a * c + c * c) / (root + 2.0 * a * c + c * c)
    rp = rs * (c * c * root - 2.0 * a * c * s2 + s2 * s2) / (c * c * root + 2.0 * a * c * s2 + s2 * s2)
    return 0.5 * (rs + rp)
