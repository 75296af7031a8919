"""What a surface does at one place: its share of mirrored light, its colour, its slope."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from fotaxis.core.kernel import inlined, kernel, leaf
from fotaxis.core.materials.fresnel import reflectance, reflectance_metal
from fotaxis.core.materials.ggx import LEAST_ENERGY, lobe_energy, lobe_weight, mirrored_at_facet, spread_place
from fotaxis.core.materials.material import (
    ACROSS,
    ALONG,
    BACK,
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
def coat_entry(coat: float, entry: float, cosine: float) -> float:
    """How much of light from one direction enters a coat, over what enters on average; 1 without one (coat 0).

        (1 - R(cosine)) / (1 - mean R)        coat: its index, cosine: to the normal, entry: 1 / (1 - mean R)

    Source: Judd 1942; the mean over the hemisphere is in the inner factor of the skin (material.inner_factor).
    """
    return (1.0 - reflectance(cosine, coat)) * entry if coat > 0.0 else 1.0


@leaf
def below_coat(top: float, under: float) -> float:
    """What a metal mirrors through a smooth coat over it, light thrown to and fro between them included.

        (1 - Rc)^2 Rm / (1 - Rc Rm)        Rc: the coat's share, Rm: the metal's, at the angle inside the coat

    Source: geometric series of the bounces, incoherent (the coat is thick against the wavelength).
    """
    return (1.0 - top) * (1.0 - top) * under / (1.0 - top * under)


@leaf
def metal_under_coat(skins: Array, skin: int, c: int, cosine: float) -> float:
    """What the metal of a coated skin mirrors of channel c of light that meets the coat at an angle, seen from inside the coat."""
    coat = skins[skin, COAT]
    return metal_share(skins, skin, c, math.sqrt(1.0 - (1.0 - cosine * cosine) / (coat * coat)), coat)


@leaf
def metal_share(skins: Array, skin: int, c: int, cosine: float, outside: float) -> float:
    """What the metal of a skin mirrors of channel c, in a medium of index `outside`, tint included."""
    return reflectance_metal(cosine, skins[skin, N + c] / outside, skins[skin, K + c] / outside) * skins[skin, TINT + c]


@leaf
def coat_of_facet(coat: float, back: float, cosine: float) -> float:
    """What a facet of a clear coat mirrors at an angle; of one that mirrors back what it mirrors head on, times the cosine.

    The fall with the angle is common practice: sheets return about half of it at 50 degrees.
    """
    return reflectance(1.0, coat) * cosine if back > 0.0 else reflectance(cosine, coat)


@inlined
def gloss_share(skins: Array, skin: int, c: int, cosine: float) -> float:
    """What the smooth gloss of a skin, seen in air, mirrors of channel c: its coat, its metal, or both, incoherently.

    Coat over metal:  R = Rc + below_coat(Rc, Rm), Rm at the angle inside the coat.
    """
    coat = skins[skin, COAT]
    if skins[skin, BACK] > 0.0:
        return 0.0
    if skins[skin, KIND] != METAL:
        return reflectance(cosine, coat) if coat > 0.0 else 0.0
    if coat <= 0.0:
        return metal_share(skins, skin, c, cosine, 1.0)
    top = reflectance(cosine, coat)
    return top + below_coat(top, metal_under_coat(skins, skin, c, cosine))


@leaf
def facet_share(skins: Array, skin: int, c: int, cosine: float, top: float) -> float:
    """What a facet of the rough part of a skin's gloss mirrors of channel c: its metal (under its coat) or its coat.

    cosine: to the facet; top: what the smooth coat over a rough metal mirrors towards the viewer, see coat_share.
    """
    coat = skins[skin, COAT]
    if skins[skin, KIND] != METAL:
        return coat_of_facet(coat, skins[skin, BACK], cosine)
    if coat <= 0.0:
        return metal_share(skins, skin, c, cosine, 1.0)
    return below_coat(top, metal_under_coat(skins, skin, c, cosine))


@leaf
def coat_share(skins: Array, skin: int, cosine: float) -> float:
    """What the smooth coat over a rough metal mirrors at an angle to the viewer; 0 for every other skin."""
    coat = skins[skin, COAT]
    return reflectance(cosine, coat) if coat > 0.0 and skins[skin, KIND] == METAL else 0.0


@leaf
def _thrown_on(head_on: float, energy: float) -> float:
    """Factor by which light thrown on between facets makes rough gloss brighter.

        1 + F0 (1 - E) / E        E: ggx.lobe_energy, F0: what a facet mirrors head on

    Source: Turquin 2019, Practical multiple scattering compensation for microfacet models.
    """
    return 1.0 + head_on * (1.0 - energy) / energy


@leaf
def _head_on(skins: Array, skin: int, c: int) -> float:
    """What a facet of a skin's rough gloss mirrors of channel c head on."""
    coat = skins[skin, COAT]
    if skins[skin, KIND] != METAL:
        return reflectance(1.0, coat)
    if coat > 0.0:
        return metal_under_coat(skins, skin, c, 1.0)
    return metal_share(skins, skin, c, 1.0, 1.0)


@leaf
def multiple_scattering(skins: Array, skin: int, vx: float, vy: float, vz: float) -> tuple[float, float, float]:
    """By how much light thrown on between its facets makes a skin's rough gloss brighter seen from v, for red, green and blue."""
    energy = lobe_energy(vx, vy, vz, skins[skin, ALONG], skins[skin, ACROSS])
    return (
        _thrown_on(_head_on(skins, skin, 0), energy), _thrown_on(_head_on(skins, skin, 1), energy),
        _thrown_on(_head_on(skins, skin, 2), energy),
    )  # fmt: skip


ALBEDO_STEPS, ALBEDO_FACETS, ALBEDO_TURNS = 96, 512, 6


@lru_cache(maxsize=256)
def rough_coat_albedo(coat: float, along: float, across: float, back: float) -> tuple[float, ...]:
    """What a rough clear coat mirrors of an even surround, for squares of the cosine to the viewer evenly spaced from 0 to 1; over the
    directions around the normal averaged."""
    return tuple(_rough_coat_albedo(coat, along, across, back).tolist())


@kernel
def _rough_coat_albedo(coat: float, along: float, across: float, back: float) -> Array:
    out = np.zeros(ALBEDO_STEPS + 1)
    for k in range(ALBEDO_STEPS + 1):
        vz = max(math.sqrt(k / ALBEDO_STEPS), 1e-3)
        side = math.sqrt(max(0.0, 1.0 - vz * vz))
        for turn in range(ALBEDO_TURNS):
            phi = 0.5 * math.pi * (turn + 0.5) / ALBEDO_TURNS
            vx, vy = side * math.cos(phi), side * math.sin(phi)
            total = energy = 0.0
            for i in range(ALBEDO_FACETS):
                u, v = spread_place(i, ALBEDO_FACETS, 0.0, 0.0)
                _, _, _, c, lx, ly, lz = mirrored_at_facet(vx, vy, vz, along, across, u, v)
                if lz > 1e-5:
                    weight = lobe_weight(vx, vy, vz, lx, ly, lz, along, across)
                    energy += weight / ALBEDO_FACETS
                    total += weight * coat_of_facet(coat, back, c) / ALBEDO_FACETS
            out[k] += total * _thrown_on(reflectance(1.0, coat), max(energy, LEAST_ENERGY)) / ALBEDO_TURNS
    return out


@inlined
def coat_mirrors(coat_albedo: Array, skins: Array, skin: int, cosine: float) -> float:
    """What the coat over a matte skin mirrors of an even surround at an angle to the viewer.

    coat_albedo: rough_coat_albedo of all skins.
    """
    if skins[skin, ALONG] <= 0.0:
        return reflectance(cosine, skins[skin, COAT])
    at = min(cosine * cosine, 1.0) * ALBEDO_STEPS
    low = min(int(at), ALBEDO_STEPS - 1)
    part = at - low
    return coat_albedo[skin, low] * (1.0 - part) + coat_albedo[skin, low + 1] * part


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
