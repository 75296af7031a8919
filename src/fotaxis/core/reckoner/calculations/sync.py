"""The shutter beside flash: what room light gains when it is slowed, and how long the frame lies open whole."""

from __future__ import annotations

import math

from fotaxis.core.errors import DomainError
from fotaxis.core.reckoner.calculation import EXPOSURE, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, box, line, view
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import FRACTION, SHUTTER, STOPS

TRAVEL = 0.8
"""Part of the sync time that a curtain takes over the frame; the rest is the room the maker leaves. Common practice."""


def _shutter(v: Given) -> float:
    return float(v.sync * 2.0**v.ambient)


def _ambient(v: Given) -> float:
    if v.shutter < v.sync * (1 - 1e-6):
        raise DomainError(
            f"a shutter of {SHUTTER.write(v.shutter)} is faster than sync ({SHUTTER.write(v.sync)}): the curtain would "
            "shade part "
            f"of the frame. Choose {SHUTTER.write(v.sync)} or slower with flash."
        )
    return math.log2(v.shutter / v.sync)


def _says(v: Given) -> list[str]:
    if v.duration > v.open_whole + 1e-9:
        return ["The flash is longer than the frame lies open whole: its tail is cut at one edge. Slow the shutter, or use "
                "less power "
                "where that shortens it."]  # fmt: skip
    return ["The whole flash falls into the time in which the frame lies open."]


def _picture(v: Given) -> Drawn:
    """Time to the right; the two curtains' edges as slanting lines, the flash between them."""
    travel, unit = TRAVEL * v.sync, 1 / v.shutter
    first = line(0, 1, travel * unit, 0, style="thing", words="first curtain")
    second = line(v.shutter * unit, 1, (v.shutter + travel) * unit, 0, style="thing", words="second curtain")
    flash = box((travel + v.duration / 2) * unit, 0.5, max(v.duration * unit, 0.01), 1, style="light", words="flash")
    return view("Curtains over the frame (top to bottom) as time passes to the right", [first, second, flash])


CALCULATION = Calculation(
    key="sync", name="Sync and shutter", group=EXPOSURE,
    words="Flash ignores the shutter up to sync; room light does not. What a slower shutter gives the room.",
    also="x-sync curtain drag shutter ambient flash duration",
    asks=(
        Quantity(name="sync", words="The body's sync time", unit=SHUTTER, usual="1/250", low=1e-4, high=1,
            shot="exposure.sync"),
        Quantity(name="shutter", words="Shutter", unit=SHUTTER, usual="1/125", low=1e-5, high=3600, shot="exposure.shutter"),
        Quantity(name="ambient", words="Room light against sync", unit=STOPS, usual="+1", low=0, high=20),
        Quantity(name="duration", words="Flash duration (t 0.1)", unit=FRACTION, usual="1/1000", low=1e-6, high=0.1,
                 note="The whole flash, about three times the t 0.5 of many data sheets."),
    ),
    unknowns={"ambient": _ambient, "shutter": _shutter},
    gives=(Quantity(name="open_whole", words="Whole frame open for", unit=FRACTION),),
    beside=lambda v: {"open_whole": v.shutter - TRAVEL * v.sync},
    says=_says, picture=_picture,
    formula="stops = log₂(t / t_sync); whole frame open = t − 0.8 t_sync, the curtain's travel",
    limits="Focal-plane shutters. Radio triggers add up to a millisecond: test a body at its sync speed with the trigger "
    "you use.",
    source="definition of exposure; ISO 2827 for flash durations",
)  # fmt: skip
