"""Painting with a lamp: its way, its pace, how often, and the exposure that follows."""

from __future__ import annotations

import math

from fotaxis.core.constants import INCIDENT_CONSTANT_FLAT
from fotaxis.core.reckoner.calculation import TIME, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, curve
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import ANGLE, CANDELA, CM, COUNT, F_NUMBER, ISO, SPEED
from fotaxis.core.reckoner.units import TIME as DURATION


def _spot(v: Given) -> float:
    """Width of the lamp's patch along its way, metres."""
    return float(2 * v.distance * math.tan(v.beam / 2))


def _lux(v: Given) -> float:
    return float(v.candela / v.distance**2)


def _needed(v: Given) -> float:
    """Light a place must get for the aperture, lux seconds."""
    return float(INCIDENT_CONSTANT_FLAT * v.f_number**2 / v.iso)


def _f_number(v: Given) -> float:
    return math.sqrt(v.passes * _lux(v) * _spot(v) / v.speed * v.iso / INCIDENT_CONSTANT_FLAT)


def _beside(v: Given) -> dict[str, float]:
    return {"spot": _spot(v), "lasts": v.passes * (v.way + _spot(v)) / v.speed, "each": _spot(v) / v.speed}


def _picture(v: Given) -> Drawn:
    def at(speed: float) -> float:
        return _f_number(Given(**{**vars(v), "speed": max(speed, v.speed / 20)}))

    return curve("Aperture by pace", at, low=v.speed / 4, high=3 * v.speed, x="pace, m/s", y="f-number",
                 at=[(v.speed, v.f_number, F_NUMBER.write(v.f_number))])  # fmt: skip


CALCULATION = Calculation(
    key="light-painting", name="Painted light", group=TIME,
    words="A lamp moved along the product while the shutter is open: pace, passes and aperture.",
    also="torch moving light wand long exposure paint",
    asks=(
        Quantity(name="candela", words="Lamp's intensity", unit=CANDELA, usual="100 cd", low=0, above=True, high=1e7,
                 note="Lux at one metre is the same number."),
        Quantity(name="distance", words="Lamp to product", unit=CM, usual="50 cm", low=0, above=True, high=20),
        Quantity(name="beam", words="Beam", unit=ANGLE, usual="16°", low=math.radians(1), high=math.radians(160)),
        Quantity(name="way", words="Length of the way", unit=CM, usual="30 cm", low=0, high=20, shot="product.height"),
        Quantity(name="speed", words="Pace", unit=SPEED, usual="0.2 m/s", low=0, above=True, high=10),
        Quantity(name="passes", words="Passes", unit=COUNT, usual="1", low=1, high=200),
        Quantity(name="iso", words="ISO", unit=ISO, usual="100", low=3, high=409_600, shot="exposure.iso"),
        Quantity(name="f_number", words="Aperture", unit=F_NUMBER, usual="f/11", low=0.5, high=256,
            shot="exposure.f_number"),
    ),
    unknowns={
        "f_number": _f_number,
        "speed": lambda v: v.passes * _lux(v) * _spot(v) / _needed(v),
        "passes": lambda v: float(max(1, math.ceil(_needed(v) / (_lux(v) * _spot(v) / v.speed) - 1e-9))),
    },
    gives=(
        Quantity(name="lasts", words="Shutter open at least", unit=DURATION, shot="exposure.at_least"),
        Quantity(name="spot", words="Patch on the product", unit=CM), Quantity(name="each", words="Each place is lit for",
            unit=DURATION),
    ),
    beside=_beside, picture=_picture,
    cautions=lambda v: ["Nothing hot near cloth or paper while it is moved by hand in the dark; keep cables out of "
                        "the way."],
    formula="light on a place = passes · (I / d²) · (patch / pace); N = √(that · S / 250)",
    limits="An even patch, moved square to the product at one pace. A patch that fades to its rim gives up to a stop less.",
    source="exposure is illuminance times time; ISO 2720 with C = 250",
)  # fmt: skip
