"""The colour of lights: of heat, through gels, as a camera balanced for white sees it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from fotaxis.core.errors import DomainError
from fotaxis.core.values import Array, require_finite

COLDEST_K, HOTTEST_K = 1700.0, 25_000.0
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


@dataclass(frozen=True, slots=True, kw_only=True)
class Gel:
    """A filter before a head.

    mired: how far it moves a light towards warm (above 0) or cool; a coloured gel has none but colour, its transmittance
    relative to the strongest channel. stops: light lost, as metered.
    """

    name: str
    words: str
    stops: float
    mired: float = 0.0
    colour: tuple[float, float, float] | None = None


GELS = (
    Gel(name="eighth warm", stops=1 / 6, mired=20, words="A trace of warmth."),
    Gel(name="quarter warm", stops=1 / 3, mired=42, words="A quarter of the way from daylight to tungsten; two make a half."),
    Gel(name="half warm", stops=1 / 2, mired=81, words="Half of the way from daylight to tungsten."),
    Gel(name="full warm", stops=2 / 3, mired=159, words="Daylight to tungsten: 6500 K becomes 3200 K."),
    Gel(name="quarter cool", stops=1 / 3, mired=-35, words="A quarter of the way from tungsten to daylight."),
    Gel(name="half cool", stops=2 / 3, mired=-78, words="Half of the way from tungsten to daylight."),
    Gel(name="full cool", stops=4 / 3, mired=-131, words="Tungsten to daylight: 3200 K becomes 5500 K."),
    Gel(name="ND 1 stop", stops=1, words="Takes a stop from a head that is at minimum power."),
    Gel(name="ND 2 stops", stops=2, words="Takes two stops."),
    Gel(name="ND 3 stops", stops=3, words="Takes three stops."),
    Gel(name="red", stops=3.0, colour=(1.0, 0.03, 0.04), words="Saturated red. Put colour into kicker or background."),
    Gel(name="amber", stops=1.2, colour=(1.0, 0.48, 0.06), words="Deep amber, as of late sun."),
    Gel(name="green", stops=2.2, colour=(0.10, 1.0, 0.16), words="Saturated green."),
    Gel(name="teal", stops=1.8, colour=(0.05, 0.80, 1.0), words="Blue-green."),
    Gel(name="blue", stops=3.6, colour=(0.05, 0.18, 1.0), words="Saturated blue; it costs most."),
    Gel(name="magenta", stops=2.6, colour=(1.0, 0.10, 0.75), words="Red and blue without green."),
)  # fmt: skip
"""Mired of warm gels from 6500 K to 3200 K is arithmetic; the others and all stops and colours are common practice, from memory."""

GEL = {gel.name: gel for gel in GELS}
MOST_GELS = 4


def shifted_kelvin(kelvin: float, mired: float) -> float:
    """Colour temperature behind a gel:  1e6 / T' = 1e6 / T + mired, held within 1700 K to 25000 K."""
    return min(max(1e6 / max(1e6 / kelvin + mired, 1e6 / HOTTEST_K), COLDEST_K), HOTTEST_K)


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


def stops_lost(gels: tuple[Gel, ...]) -> float:
    """Stops that stacked gels take."""
    return math.fsum(gel.stops for gel in gels)


def known_gels(names: tuple[str, ...]) -> tuple[Gel, ...]:
    """Gels by name. Raises DomainError for an unknown one or too many."""
    if len(names) > MOST_GELS:
        raise DomainError(f"{len(names)} gels are stacked; at most {MOST_GELS} go before one head.")
    for name in names:
        if name not in GEL:
            raise DomainError(f"there is no gel {name[:40]!r}; use one of: {', '.join(GEL)}.")
    return tuple(GEL[name] for name in names)
