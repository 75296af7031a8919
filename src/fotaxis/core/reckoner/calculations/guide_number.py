"""Guide number, distance, aperture: one head or several, zoomed, at any power."""

from __future__ import annotations

import math

from fotaxis.core.constants import REFERENCE_ISO
from fotaxis.core.reckoner.calculation import LIGHT, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, curve
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import COUNT, F_NUMBER, ISO, LOST, METRES, MM, POWER


def _gain(v: Given) -> float:
    """f-number times distance over the guide number at ISO 100 and full power."""
    return math.sqrt(v.heads * v.iso / REFERENCE_ISO * 2.0 ** (v.power - v.shaped)) * math.sqrt(v.zoom / v.guide_zoom)


def _power(v: Given) -> float:
    full = v.guide * math.sqrt(v.heads * v.iso / REFERENCE_ISO * 2.0**-v.shaped) * math.sqrt(v.zoom / v.guide_zoom)
    return 2 * math.log2(v.f_number * v.distance / full)


def _says(v: Given) -> list[str]:
    return [f"Light on the product: {v.arrives:.0f} lx s."]


def _beside(v: Given) -> dict[str, float]:
    return {"arrives": 250 * v.f_number**2 / v.iso, "effective": v.f_number * v.distance}


def _picture(v: Given) -> Drawn:
    def at(distance: float) -> float:
        return float(v.f_number * v.distance / max(distance, 0.05 * v.distance))

    return curve("Aperture by distance", at, low=v.distance / 3, high=2.5 * v.distance, x="distance, m", y="f-number",
                 at=[(v.distance, v.f_number, F_NUMBER.write(v.f_number))])  # fmt: skip


CALCULATION = Calculation(
    key="guide-number", name="Guide number", group=LIGHT,
    words="From a head's guide number to aperture, distance or power; several heads, a zoom, what stands before it.",
    also="gn flash power distance heads zoom speedlight",
    asks=(
        Quantity(name="guide", words="Guide number at ISO 100", unit=METRES, usual="45 m", low=0.5, high=500,
            shot="light.guide"),
        Quantity(name="distance", words="Head to product", unit=METRES, usual="1.2 m", low=0, above=True, high=100,
                 shot="light.distance"),
        Quantity(name="f_number", words="Aperture", unit=F_NUMBER, usual="f/8", low=0.5, high=128, shot="exposure.f_number"),
        Quantity(name="power", words="Power", unit=POWER, usual="1/8", low=-12, high=0, shot="light.power"),
        Quantity(name="iso", words="ISO", unit=ISO, usual="100", low=3, high=409_600, shot="exposure.iso"),
        Quantity(name="heads", words="Heads on the same patch", unit=COUNT, usual="1", low=1, high=24),
        Quantity(name="shaped", words="Lost in box, sheet or grid", unit=LOST, usual="0", low=0, high=12),
        Quantity(name="guide_zoom", words="Guide number holds for a zoom of", unit=MM, usual="35 mm", low=0.01, high=0.3),
        Quantity(name="zoom", words="Zoom is at", unit=MM, usual="35 mm", low=0.01, high=0.3),
    ),
    unknowns={
        "f_number": lambda v: v.guide * _gain(v) / v.distance,
        "power": _power,
        "distance": lambda v: v.guide * _gain(v) / v.f_number,
        "guide": lambda v: v.f_number * v.distance / _gain(v),
    },
    gives=(Quantity(name="effective", words="Guide number as set", unit=METRES),),
    beside=_beside, says=_says, picture=_picture,
    cautions=lambda v: ["No flash into eyes at close range."] if v.distance < 1 else [],
    formula="N d = GN · √(heads · S/100 · 2^(power − lost)) · √(zoom / zoom of the guide number)",
    limits="Small beside its distance; measured in a room unless told otherwise, outdoors up to a stop less. The zoom's "
    "root is common "
    "practice: the head's own table wins.",
    source="ISO 1230 (guide numbers), ISO 2720 with C = 250",
)  # fmt: skip
