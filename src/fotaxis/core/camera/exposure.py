"""From light to output level: the absolute exposure chain."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from fotaxis.core.constants import (
    DEEPEST_BLACK_STOPS,
    INCIDENT_CONSTANT_DOME,
    INCIDENT_CONSTANT_FLAT,
    LENS_FACTOR_Q,
    MIDDLE_GREY,
    SOS_EXPOSURE_LUX_S,
)  # fmt: skip
from fotaxis.core.errors import DomainError
from fotaxis.core.limits import require_positive
from fotaxis.core.srgb import srgb_curve, srgb_linear
from fotaxis.core.values import Picture


@dataclass(frozen=True, slots=True, kw_only=True)
class Exposure:
    """What is set on the camera.

    f_number and shutter_s exact (f/5.6 is 4 sqrt 2, 1/125 s is 2^-7 s); sync_s: shortest time the flash allows.
    """

    iso: float
    shutter_s: float
    f_number: float
    sync_s: float = 2.0**-8

    def __post_init__(self) -> None:
        require_positive("ISO", self.iso, high=1e6)
        require_positive("shutter time", self.shutter_s, high=3600, unit="s")
        require_positive("f-number", self.f_number, high=128)
        require_positive("sync time", self.sync_s, high=1, unit="s")

    @property
    def flash_in_step(self) -> bool:
        """Is the shutter at or below the sync speed, so that flash lights the whole frame?"""
        return self.shutter_s >= self.sync_s * (1 - 1e-6)

    def in_step(self) -> Exposure:
        """The same with the shutter at sync if it is faster than flash allows."""
        return self if self.flash_in_step else replace(self, shutter_s=self.sync_s)

    def level_per_luminance_time(self) -> float:
        """Linear output level (grey 0.18) per cd s/m2 of scene luminance-time.

            H = q L t / N^2,  level = 0.18 H S / 10
        Source:     ISO 12232 (standard output sensitivity), q = 0.65.
        """
        return LENS_FACTOR_Q / self.f_number**2 * self.iso / SOS_EXPOSURE_LUX_S * MIDDLE_GREY

    def counted_s(self, *, continuous: bool) -> float:
        """Seconds by which a light at full power counts: the shutter time for continuous light, 1 for flash, whose full-power
        figures are in lux seconds already. Source: definition of exposure, H = E t."""
        return self.shutter_s if continuous else 1.0

    def layer_gain(self, *, power_stops: float, continuous: bool) -> float:
        """What a light's picture at full power is multiplied by to give linear output levels.

        Flash ignores the shutter at or below sync, continuous light is multiplied by it.
        Above sync flash raises DomainError: part of the frame would be dark, and no number describes that.
        """
        gain = self.level_per_luminance_time() * 2.0**power_stops
        if not continuous and not self.flash_in_step:
            raise DomainError(
                f"the shutter is faster than flash sync (1/{1 / self.sync_s:.0f} s): the curtain would shade part of the "
                "frame. Use a longer time, or switch the flashes off."
            )
        return float(gain * self.counted_s(continuous=continuous))


def image_exposure_lux_s(*, luminance_time_cd_s_m2: float, f_number: float) -> float:
    """Image-plane exposure H = q L t / N^2, q = 0.65, lux s.  Source: ISO 12232 / ISO 2720 practice."""
    require_positive("f-number", f_number)
    return LENS_FACTOR_Q * luminance_time_cd_s_m2 / f_number**2


def incident_f_number(*, exposure_lux_s: float, iso: float, dome: bool = False) -> float:
    """What an incident meter shows for flash: N = sqrt(H_i S / C), C = 250 flat or 330 dome.

    Holds for:  exposure > 0, iso > 0. Else DomainError.  Source: ISO 2720.
    """
    require_positive("light at the meter", exposure_lux_s, unit="lux s")
    require_positive("ISO", iso)
    return math.sqrt(exposure_lux_s * iso / (INCIDENT_CONSTANT_DOME if dome else INCIDENT_CONSTANT_FLAT))


def stops_between(value: float, reference: float) -> float:
    """log2(value / reference); minus infinity for value 0. Reference must be positive, else DomainError."""
    require_positive("reference", reference)
    return math.log2(value / reference) if value > 0 else -math.inf


def stops_from_grey(levels: Picture) -> Picture:
    """Linear levels to stops from middle grey (0.18), held at -16 stops where a sensor sees only black."""
    floor = MIDDLE_GREY * 2.0**DEEPEST_BLACK_STOPS
    return np.log2(np.maximum(levels, floor) / MIDDLE_GREY).astype(np.float32)


def encode_srgb(levels: Picture) -> np.ndarray:
    """Linear levels to 8-bit output, clipped at 1: 0.18 becomes 118.  Source: IEC 61966-2-1.

    levels any shape, float; returns uint8 of the same shape. NaN is refused upstream.
    """
    return (srgb_curve(np.clip(levels, 0.0, 1.0)) * 255.0 + 0.5).astype(np.uint8)


def decode_srgb(values: np.ndarray) -> Picture:
    """8-bit sRGB output values to linear levels, float32.  Source: IEC 61966-2-1."""
    x = values.astype(np.float32) / 255.0
    return srgb_linear(x).astype(np.float32)
