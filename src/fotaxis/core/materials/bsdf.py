"""What a surface does at one place: its share of mirrored light, its colour, its slope."""

from __future__ import annotations

import math

from fotaxis.core.kernel import inlined, leaf
from fotaxis.core.materials.fresnel import reflectance, reflectance_metal
from fotaxis.core.materials.material import (
    COAT,
    KIND,
    METAL,
    PATTERN,
    PATTERN_PERIOD,
    SECOND,
    TINT,
    K,
    N,
)
from fotaxis.core.values import Array


@leaf
def metal_share(skins: Array, skin: int, c: int, cosine: float, outside: float) -> float:
    """What the metal of a skin mirrors of channel c, in a medium of index `outside`, tint included."""
    return reflectance_metal(cosine, skins[skin, N + c] / outside, skins[skin, K + c] / outside) * skins[skin, TINT + c]


@inlined
def gloss_share(skins: Array, skin: int, c: int, cosine: float) -> float:
    """What the smooth gloss of a skin, seen in air, mirrors of channel c: its coat, its metal, or both, incoherently.

    Coat over metal:  R = Rc + (1 - Rc)^2 Rm / (1 - Rc Rm), Rm at the angle inside the coat.
    """
    coat = skins[skin, COAT]
    if skins[skin, KIND] != METAL:
        return reflectance(cosine, coat) if coat > 0.0 else 0.0
    if coat <= 0.0:
        return metal_share(skins, skin, c, cosine, 1.0)
    top = reflectance(cosine, coat)
    under = math.sqrt(1.0 - (1.0 - cosine * cosine) / (coat * coat))
    below = metal_share(skins, skin, c, under, coat)
    return top + (1.0 - top) * (1.0 - top) * below / (1.0 - top * below)


@leaf
def facet_share(skins: Array, skin: int, c: int, cosine: float) -> float:
    """What a facet of the rough part of a skin's gloss mirrors of channel c: its metal (under its coat) or its coat."""
    coat = skins[skin, COAT]
    if skins[skin, KIND] != METAL:
        return reflectance(cosine, coat)
    if coat <= 0.0:
        return metal_share(skins, skin, c, cosine, 1.0)
    return metal_share(skins, skin, c, math.sqrt(1.0 - (1.0 - cosine * cosine) / (coat * coat)), coat)


@leaf
def _wood(period: float, u: float, v: float) -> float:
    """0 in the pale, 1 in the dark part of a board whose grain runs along u."""
    bend = (
        0.35 * math.sin(u / (5.1 * period)) + 0.22 * math.sin(u / (2.3 * period) + 1.3) + 0.3 * math.sin(v / (1.7 * period))
    )
    ring = v / period + bend
    share = ring - math.floor(ring)
    ring_part = share * share if share < 0.9 else (1.0 - share) * 8.1
    pores = 0.5 + 0.5 * math.sin(61.0 * v / period + 3.0 * math.sin(u / (1.1 * period)))
    return min(1.0, max(0.0, 0.8 * ring_part + 0.2 * pores))


@inlined
def albedo(skins: Array, skin: int, c: int, u: float, v: float) -> float:
    """Reflectance of a skin's matte part in channel c, its pattern included."""
    own = skins[skin, c]
    if skins[skin, PATTERN] == 0.0:
        return own
    return own + (skins[skin, SECOND + c] - own) * _wood(skins[skin, PATTERN_PERIOD], u, v)
