"""What an incident meter asks for: light at the product, ISO and time to the f-number."""

from __future__ import annotations

import math

from fotaxis.core.constants import INCIDENT_CONSTANT_DOME, INCIDENT_CONSTANT_FLAT
from fotaxis.core.reckoner.calculation import EXPOSURE, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, curve
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import F_NUMBER, ISO, LUX, RATIO, SHUTTER, choice

FLAT, DOME = "flat", "dome"


def _constant(v: Given) -> float:
    return INCIDENT_CONSTANT_DOME if v.receptor == DOME else INCIDENT_CONSTANT_FLAT


def _beside(v: Given) -> dict[str, float]:
    return {"ev": math.log2(v.f_number**2 / v.shutter), "ev100": math.log2(v.f_number**2 / v.shutter * 100 / v.iso)}


def _picture(v: Given) -> Drawn:
    def at(lux: float) -> float:
        return math.sqrt(max(lux, 0) * v.shutter * v.iso / _constant(v))

    return curve("f-number asked for as the light grows", at, low=0, high=2 * v.light, x="light, lx", y="f-number",
                 at=[(v.light, at(v.light), F_NUMBER.write(v.f_number))])  # fmt: skip


CALCULATION = Calculation(
    key="meter", name="Incident meter", group=EXPOSURE,
    words="Light at the product, ISO and time to the f-number, and back; for light that burns on.",
    also="lux ev exposure value incident reading light meter",
    asks=(
        Quantity(name="light", words="Light at the product", unit=LUX, usual="2000 lx", low=0, above=True, high=1e7),
        Quantity(name="iso", words="ISO", unit=ISO, usual="100", low=3, high=409_600, shot="exposure.iso"),
        Quantity(name="shutter", words="Shutter", unit=SHUTTER, usual="1/8", low=1e-5, high=3600, shot="exposure.shutter"),
        Quantity(name="f_number", words="Aperture", unit=F_NUMBER, usual="f/8", low=0.5, high=128, shot="exposure.f_number"),
        Quantity(name="receptor", words="Receptor", unit=choice(FLAT, DOME), usual=FLAT,
                 note="Flat for light on a label, dome for a rounded product."),
    ),
    unknowns={
        "f_number": lambda v: math.sqrt(v.light * v.shutter * v.iso / _constant(v)),
        "shutter": lambda v: _constant(v) * v.f_number**2 / (v.light * v.iso),
        "iso": lambda v: _constant(v) * v.f_number**2 / (v.light * v.shutter),
        "light": lambda v: _constant(v) * v.f_number**2 / (v.shutter * v.iso),
    },
    gives=(
        Quantity(name="ev", words="Exposure value", unit=RATIO), Quantity(name="ev100", words="at ISO 100", unit=RATIO),
    ),
    beside=_beside, picture=_picture,
    formula="N² / t = E S / C, with C = 250 for a flat receptor and 330 for a dome; EV = log₂(N² / t)",
    limits="Meters may be built for other constants, up to a third of a stop; calibrate yours against a frame of a grey "
    "card.",
    source="ISO 2720 (incident meters)",
)  # fmt: skip
