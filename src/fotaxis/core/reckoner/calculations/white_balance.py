"""White balance from two readings: where between two lights the camera should stand, and how far each is off."""

from __future__ import annotations

import math

from fotaxis.core.errors import NoSolution
from fotaxis.core.lights.gels import COLDEST_K, HOTTEST_K
from fotaxis.core.reckoner.calculation import COLOUR, Calculation, Given
from fotaxis.core.reckoner.calculations.mired import SEEN_MIRED, gel_words, nearest_gels
from fotaxis.core.reckoner.pictures import Drawn, mark, scale
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.unit import Unit
from fotaxis.core.reckoner.units import KELVIN, MIRED, STOPS


def _weight(stops: float) -> float:
    """Part of the first light where it is so many stops over the second."""
    return float(1 / (1 + 2.0**-stops))


def _stops(v: Given) -> float:
    first, second, white = (1e6 / k for k in (v.first, v.second, v.white))
    if abs(first - second) < 1e-9:
        raise NoSolution("both lights have one colour: any mixture of them has it too")
    part = (white - second) / (first - second)
    if not 0 < part < 1:
        raise NoSolution(f"{KELVIN.write(v.white)} does not lie between the two lights; a gel on one of them is needed")
    return -math.log2(1 / part - 1)


def _white(v: Given) -> float:
    part = _weight(v.stops)
    return 1e6 / (part * 1e6 / v.first + (1 - part) * 1e6 / v.second)


def _beside(v: Given) -> dict[str, object]:
    apart = 1e6 / v.second - 1e6 / v.first
    return {
        "first_off": 1e6 / v.first - 1e6 / v.white, "second_off": 1e6 / v.second - 1e6 / v.white, "apart": abs(apart),
        "gel": gel_words(nearest_gels(apart)),
    }  # fmt: skip


def _says(v: Given) -> list[str]:
    if v.apart <= SEEN_MIRED:
        return ["The two agree: one white balance serves both."]
    return ["No white balance makes both neutral. Gel one to the other, or give each its own capture and white balance."]


def _picture(v: Given) -> Drawn:
    marks = [mark(1e6 / v.first, f"first {KELVIN.write(v.first)}"), mark(1e6 / v.second, f"second {KELVIN.write(v.second)}"),
             mark(1e6 / v.white, f"white {KELVIN.write(v.white)}", strong=True)]  # fmt: skip
    at = [one["at"] for one in marks]
    return scale("Mired: cool on the left, warm on the right", marks, low=min(at) - 40, high=max(at) + 40)


CALCULATION = Calculation(
    key="white-balance", name="White balance from two readings", group=COLOUR,
    words="Two lights of different colour on one product: the white balance between them, how far each is off, the gel that "
    "joins them.",
    also="wb kelvin mixed light colour meter grey card",
    asks=(
        Quantity(name="first", words="First light", unit=KELVIN, usual="5600 K", low=COLDEST_K, high=HOTTEST_K,
            shot="light.kelvin"),
        Quantity(name="second", words="Second light", unit=KELVIN, usual="3200 K", low=COLDEST_K, high=HOTTEST_K),
        Quantity(name="stops", words="First over second", unit=STOPS, usual="0", low=-12, high=12),
        Quantity(name="white", words="White balance", unit=KELVIN, usual="4300 K", low=COLDEST_K, high=HOTTEST_K,
            shot="camera.white"),
    ),
    unknowns={"white": _white, "stops": _stops},
    gives=(
        Quantity(name="first_off", words="First is off by", unit=MIRED), Quantity(name="second_off", words="Second is "
            "off by", unit=MIRED),
        Quantity(name="gel", words="Gel on the first to join them", unit=Unit(key="words")),
    ),
    beside=_beside, says=_says, picture=_picture,
    formula="mired of the mixture = w · mired₁ + (1 − w) · mired₂, w = 1 / (1 + 2^−stops)",
    limits="Mired mix nearly in proportion to the light: within 5 mired between 3200 and 5600 K. Lamps off the colours of "
    "heat (tubes, "
    "some LEDs) need a tint too.",
    source="reciprocal colour temperature (CIE 15); the mixture's rule is common practice, checked against Planck's law",
)  # fmt: skip
