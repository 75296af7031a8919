"""How far room light lies under the working exposure, and what makes the frame black."""

from __future__ import annotations

import math

from fotaxis.core.reckoner.calculation import EXPOSURE, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, mark, scale
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import F_NUMBER, ISO, LOST, SHUTTER

ENOUGH, HARDLY = 6.0, 5.0


def _room(v: Given) -> float:
    """log2 of the light that the fair frame of the room takes."""
    return math.log2(v.room_shutter * v.room_iso / v.room_f_number**2)


def _under(v: Given) -> float:
    return _room(v) - math.log2(v.shutter * v.iso / v.f_number**2)


def _says(v: Given) -> list[str]:
    if v.under >= ENOUGH:
        told = "The black frame holds."
    elif v.under >= HARDLY:
        told = "The black frame just holds: look at it 2 to 3 stops up if shadows will be lifted."
    else:
        told = f"The black frame does not hold: {ENOUGH - v.under:.1f} stops more are wanted. Stop down, lamps off."
    return [told]


def _picture(v: Given) -> Drawn:
    marks = [mark(0, "room is fairly exposed"), mark(-v.under, "room in your frame", strong=True)]
    return scale("Room light in stops", marks, low=-10, high=1, bars=[(-10, -ENOUGH, "black"), (-ENOUGH, -HARDLY, "just")])


CALCULATION = Calculation(
    key="black-frame", name="Room light and the black frame", group=EXPOSURE,
    words="With the flashes off the frame must be black: how far is the room under it, and what makes it so?",
    also="ambient headroom spill daylight work lamp",
    asks=(
        Quantity(name="room_f_number", words="Room looks right at", unit=F_NUMBER, usual="f/2.8", low=0.5, high=128,
                 note="A frame or a meter reading of the room without flash.", shot="room.f_number"),
        Quantity(name="room_shutter", words="with a shutter of", unit=SHUTTER, usual="1/50", low=1e-5, high=3600,
            shot="room.shutter"),
        Quantity(name="room_iso", words="and ISO", unit=ISO, usual="100", low=3, high=409_600, shot="room.iso"),
        Quantity(name="f_number", words="Working aperture", unit=F_NUMBER, usual="f/8", low=0.5, high=128,
            shot="exposure.f_number"),
        Quantity(name="shutter", words="Working shutter", unit=SHUTTER, usual="1/250", low=1e-5, high=3600,
            shot="exposure.shutter"),
        Quantity(name="iso", words="Working ISO", unit=ISO, usual="100", low=3, high=409_600, shot="exposure.iso"),
        Quantity(name="under", words="Room under the exposure", unit=LOST, usual="6", low=-20, high=30),
    ),
    unknowns={
        "under": _under,
        "f_number": lambda v: math.sqrt(v.shutter * v.iso / 2.0 ** (_room(v) - v.under)),
        "shutter": lambda v: 2.0 ** (_room(v) - v.under) * v.f_number**2 / v.iso,
        "iso": lambda v: 2.0 ** (_room(v) - v.under) * v.f_number**2 / v.shutter,
    },
    says=_says, picture=_picture,
    cautions=lambda v: ["A shutter faster than flash sync darkens part of the frame: at most the body's sync speed."],
    formula="stops under = log₂(t₁ S₁ / N₁²) − log₂(t₂ S₂ / N₂²)",
    limits="At least 5 to 6 stops under are wanted; common practice. 1/50 f/2.8 and 1/250 f/8 are 5.3 stops apart.",
    source="exposure H ∝ t S / N² (ISO 12232)",
)  # fmt: skip
