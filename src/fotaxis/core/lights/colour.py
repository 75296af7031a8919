"""The colour of lights: of heat, through gels, as a camera balanced for white sees it."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from fotaxis.core.lights.gels import COLDEST_K, HOTTEST_K, Gel, shifted_kelvin
from fotaxis.core.limits import require_finite
from fotaxis.core.values import Array

XYZ_TO_RGB = np.array(
    [[3.2404542, -1.5371385, -0.4985314], [-0.9692660, 1.8760108, 0.0415560], [0.0556434, -0.2040259, 1.0572252]]
)
"""Linear Rec. 709 from CIE XYZ, D65 white. Source: ITU-R BT.709 primaries."""


def temperature_xy(kelvin: float) -> tuple[float, float]:
    """Chromaticity of a black body, CIE 1931 x and y.

    Holds for:  1700 K to 25000 K. Else DomainError.
    Source:     cubic fits of Kim, Kang, Kang, Lee & Moon 2002 (coefficients from memory).
    """
    require_finite("colour temperature", kelvin, low=COLDEST_K, high=HOTTEST_K, unit="K")
    t = 1e3 / kelvin
    if kelvin <= 4000:
        x = -0.2661239 * t**3 - 0.2343589 * t**2 + 0.8776956 * t + 0.179910
    else:
        x = -3.0258469 * t**3 + 2.1070379 * t**2 + 0.2226347 * t + 0.240390
    if kelvin <= 2222:
        y = -1.1063814 * x**3 - 1.34811020 * x**2 + 2.18555832 * x - 0.20219683
    elif kelvin <= 4000:
        y = -0.9549476 * x**3 - 1.37418593 * x**2 + 2.09137015 * x - 0.16748867
    else:
        y = 3.0817580 * x**3 - 5.87338670 * x**2 + 3.75112997 * x - 0.37001483
    return x, y


@lru_cache(maxsize=256)
def temperature_rgb(kelvin: float) -> tuple[float, float, float]:
    """Linear Rec. 709 of a black body of luminance 1; a very warm one has no blue left.

    Raises DomainError as temperature_xy.
    """
    x, y = temperature_xy(kelvin)
    rgb = np.maximum(XYZ_TO_RGB @ np.array([x / y, 1.0, (1 - x - y) / y]), 0.0)
    return float(rgb[0]), float(rgb[1]), float(rgb[2])


@lru_cache(maxsize=512)
def _tint(kelvin: float, gels: tuple[Gel, ...], white_k: float) -> tuple[float, float, float]:
    seen = np.array(temperature_rgb(shifted_kelvin(kelvin, sum(gel.mired for gel in gels))))
    for gel in gels:
        if gel.colour is not None:
            seen = seen * np.array(gel.colour)
    seen = seen / np.array(temperature_rgb(white_k))
    # The eye's weights of Rec. 709: a tint changes colour alone, what a gel takes is in its stops.
    tint = seen / float(seen @ np.array([0.2126, 0.7152, 0.0722]))
    return float(tint[0]), float(tint[1]), float(tint[2])


def tint(*, kelvin: float, gels: tuple[Gel, ...] = (), white_k: float) -> Array:
    """Linear RGB of a light behind gels, of luminance 1, as a camera balanced for `white_k` sees it, (3,)."""
    return np.array(_tint(kelvin, gels, white_k))


def hue_rgb(*, hue_rad: float, saturation: float) -> Array:
    """Linear RGB of a coloured LED head whose primaries are those of Rec. 709, each at most 1, (3,).

    hue_rad: 0 red, a third of a turn green, two thirds blue; saturation: 0 white to 1, the head's white emitters off.
    Its luminance against white is what the colour costs.   Source: the hue circle of HSV, on linear levels; common practice.
    """
    require_finite("saturation", saturation, low=0, high=1)
    turn = (hue_rad / (2 * math.pi)) % 1.0 * 6
    away = np.abs((turn - np.array([0.0, 2.0, 4.0]) + 3) % 6 - 3)
    levels: Array = 1 - saturation + saturation * np.clip(2 - away, 0, 1)
    return levels
