"""Is the black frame black? A frame taken without flash at the working exposure must show nothing."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from fotaxis.core.camera.exposure import Exposure, decode_srgb, stops_between
from fotaxis.core.constants import DEEPEST_BLACK_STOPS, INCIDENT_CONSTANT_FLAT, MIDDLE_GREY, REC709_LUMINANCE
from fotaxis.core.stops import measured_stops

SAFE_STOPS = -6.0
HOLDS_STOPS = -5.0
"""Ambient at least 5 to 6 stops under the picture. Common practice."""

LIT_STOPS = 0.0
"""A photograph brighter than middle grey: somebody lit it."""

DARKEST_STEP = 1
"""Below one 8-bit step nothing can be told apart."""


@dataclass(frozen=True, slots=True, kw_only=True)
class BlackVerdict:
    """How far the brightest patch of a frame lies under middle grey, and what follows.

    holds: True at -6 stops or lower (or black outright), None between -6 and -5, False above.
    """

    stops: float
    holds: bool | None
    text: str


def judge(stops: float) -> BlackVerdict:
    """Verdict on a brightest patch `stops` from middle grey (-inf: nothing at all)."""
    if stops <= DEEPEST_BLACK_STOPS or math.isinf(stops):
        return BlackVerdict(stops=-math.inf, holds=True, text="Nothing shows.")
    under = f"{measured_stops(stops)} stops {'under' if stops < 0 else 'over'} grey"
    if stops <= SAFE_STOPS:
        return BlackVerdict(stops=stops, holds=True, text=f"Brightest patch {under}.")
    if stops <= HOLDS_STOPS:
        return BlackVerdict(
            stops=stops, holds=None,
            text=f"Brightest patch {under}. If shadows will be lifted later, darken the room or close down by a stop.",
        )  # fmt: skip
    need = stops - SAFE_STOPS
    return BlackVerdict(
        stops=stops, holds=False,
        text=f"Room light shows: {under}. Take away {measured_stops(need)} stops: shorter shutter (down to sync), smaller aperture, "
        "lamps and screens off, window covered.",
    )  # fmt: skip


def frame_verdict(picture: np.ndarray) -> BlackVerdict:
    """Verdict on a photographed black frame, (height, width, 3) uint8 sRGB.

    The brightest 0.1 % is read as a patch, so that single hot pixels do not decide.
    """
    levels = decode_srgb(picture) @ np.array(REC709_LUMINANCE, np.float32)
    bright = float(np.quantile(levels, 0.999))
    if bright <= float(decode_srgb(np.array([DARKEST_STEP], np.uint8))[0]) * 0.5:
        return judge(-math.inf)
    stops = stops_between(bright, MIDDLE_GREY)
    if stops <= LIT_STOPS:
        return judge(stops)
    return BlackVerdict(
        stops=stops, holds=False,
        text=f"Brightest patch {measured_stops(stops)} stops over grey: this frame is lit. If it was meant as the black frame, a "
        "flash or lamp was on; otherwise take one with every flash off and attach that.",
    )  # fmt: skip


def room_verdict(*, room_lux: float, exposure: Exposure) -> BlackVerdict:
    """Verdict on the planned room light: stops under grey of an 18 % card lit by the room at the planned exposure.

    stops = log2(E t S / (C N^2))        Source: ISO 2720 incident equation, C = 250
    """
    if room_lux <= 0:
        return judge(-math.inf)
    light = room_lux * exposure.shutter_s * exposure.iso / exposure.f_number**2
    return judge(stops_between(light, INCIDENT_CONSTANT_FLAT))
