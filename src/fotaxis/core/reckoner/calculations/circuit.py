"""Load of a circuit, and what a long cable loses."""

from __future__ import annotations

import math

from fotaxis.core.reckoner.calculation import SET, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, curve
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import AMPERES, METRES, PERCENT, SQUARE_MM, VOLTS, WATTS

OHM_MM2_PER_M = 0.0225
"""Copper at 70 °C. Source: 0.01724 at 20 °C (IEC 60228) and 0.0039 per kelvin."""

LASTING = 0.8
"""Part of a breaker's rating that may be drawn for hours.  Common practice."""
MOST_DROP = 0.03


def _volts_lost(v: Given, watts: float) -> float:
    return float(2 * v.length * OHM_MM2_PER_M / v.section * _amps(v, watts))


def _amps(v: Given, watts: float) -> float:
    return float(watts / v.volts)


def _part(v: Given) -> float:
    return _amps(v, v.watts) / v.breaker


def _beside(v: Given) -> dict[str, float]:
    amps = _amps(v, v.watts)
    lost = _volts_lost(v, v.watts)
    return {
        "amps": amps,
        "lost": lost / v.volts,
        "heat": lost * amps,
        "longest": MOST_DROP * v.volts * v.section / (2 * OHM_MM2_PER_M * amps) if amps > 0 else math.inf,
        "free": max(0.0, LASTING * v.breaker - amps) * v.volts,
    }


def _says(v: Given) -> list[str]:
    told = []
    if v.part > 1:
        told.append("Too much for this circuit: its breaker will trip. Spread the lamps over circuits.")
    elif v.part > LASTING:
        told.append(f"More than {100 * LASTING:.0f} % of the breaker: it may trip after a while. Spread the lamps.")
    if v.lost > MOST_DROP:
        told.append(
            f"The cable loses {100 * v.lost:.1f} % of the voltage: a shorter or a thicker one; lamps get dimmer and warmer."
        )
    return told


def _picture(v: Given) -> Drawn:
    def at(length: float) -> float:
        return 100 * 2 * length * OHM_MM2_PER_M / v.section * _amps(v, v.watts) / v.volts

    return curve("Voltage lost by length of the cable", at, low=0, high=max(50.0, 1.5 * v.length), x="length, m", y="%",
                 at=[(v.length, at(v.length), f"{at(v.length):.1f} %")], across=[(100 * MOST_DROP, "3 %")])  # fmt: skip


CALCULATION = Calculation(
    key="circuit", name="Load of a circuit, loss in a cable", group=SET,
    words="How many amperes the lamps draw, whether the breaker holds, and what a long cable loses.",
    also="watt amp volt breaker fuse power mains cable extension voltage drop",
    asks=(
        Quantity(name="watts", words="All that hangs on it", unit=WATTS, usual="2000 W", low=0, high=100_000,
                 note="Add lamps, packs while they charge, heaters, computers."),
        Quantity(name="volts", words="Mains", unit=VOLTS, usual="230 V", low=5, high=500),
        Quantity(name="breaker", words="Breaker", unit=AMPERES, usual="16 A", low=0.5, high=400),
        Quantity(name="part", words="That is, of the breaker", unit=PERCENT, usual="80 %", low=0, high=50),
        Quantity(name="length", words="Cable, one way", unit=METRES, usual="25 m", low=0, high=1000),
        Quantity(name="section", words="Its copper", unit=SQUARE_MM, usual="1.5 mm²", low=0.1, high=500),
    ),
    unknowns={
        "part": _part,
        "watts": lambda v: v.part * v.breaker * v.volts,
    },
    gives=(
        Quantity(name="amps", words="Draws", unit=AMPERES), Quantity(name="lost", words="Lost in the cable", unit=PERCENT),
        Quantity(name="heat", words="as heat in it", unit=WATTS), Quantity(name="longest", words="Longest cable for 3 %",
            unit=METRES), Quantity(name="free", words="Still free, for hours",
            unit=WATTS),
    ),
    beside=_beside, says=_says, picture=_picture,
    cautions=lambda v: [
        "Local codes come first, and a licensed person for anything that is not plugged in by hand.",
        "Unwind a cable reel wholly: wound up it overheats. Cables dry, taped, never through a door.",
    ],
    formula="I = P / U; ΔU = 2 L ρ I / A, ρ = 0.0225 Ω mm²/m",
    limits="One phase, loads with a power factor near 1; packs draw more for a moment. What a cable may carry depends on "
    "how it lies: local codes.",
    source="Ohm's law; IEC 60228 (copper); 80 % for hours and 3 % common practice",
)  # fmt: skip
