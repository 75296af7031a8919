"""Several flashes into one exposure."""

from __future__ import annotations

import math

from fotaxis.core.reckoner.calculation import TIME, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, curve
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import COUNT, F_NUMBER, LOST
from fotaxis.core.reckoner.units import TIME as DURATION


def _pops(v: Given) -> float:
    return float(2.0**v.stops)


def _whole(v: Given) -> int:
    return max(1, math.ceil(v.pops - 1e-9))


def _beside(v: Given) -> dict[str, float]:
    pops = _whole(v)
    return {
        "whole": float(pops),
        "given": math.log2(pops),
        "f_number": v.one * math.sqrt(pops),
        "lasts": (pops - 1) * v.recycle,
    }


def _picture(v: Given) -> Drawn:
    return curve("Stops gained by flashes", lambda n: math.log2(max(n, 1)), low=1, high=max(8, 2 * v.whole), x="flashes",
        y="stops",
                 at=[(v.whole, v.given, f"{v.whole:.0f}")])  # fmt: skip


CALCULATION = Calculation(
    key="pops", name="Flashes for a level", group=TIME,
    words="Too dim at full power: how many flashes into one exposure, and how long that takes.",
    also="multi pop multiple flash open flash burst",
    asks=(
        Quantity(name="stops", words="More light wanted", unit=LOST, usual="+2", low=0, high=8),
        Quantity(name="pops", words="Flashes", unit=COUNT, usual="4", low=1, high=256),
        Quantity(name="one", words="One flash gives", unit=F_NUMBER, usual="f/5.6", low=0.1, high=256),
        Quantity(name="recycle", words="From flash to flash", unit=DURATION, usual="1.5 s", low=0, high=600,
            shot="head.recycle"),
    ),
    unknowns={"pops": _pops, "stops": lambda v: math.log2(v.pops)},
    gives=(
        Quantity(name="whole", words="Flashes to give", unit=COUNT), Quantity(name="given", words="They gain", unit=LOST),
        Quantity(name="f_number", words="Aperture for them", unit=F_NUMBER, shot="exposure.f_number"),
        Quantity(name="lasts", words="Shutter open at least", unit=DURATION, shot="exposure.at_least"),
    ),
    beside=_beside, picture=_picture,
    says=lambda v: ["The room must be dark for all that time: check the black frame at the long exposure."],
    cautions=lambda v: ["Many full flashes in a row heat tube and pack: keep to the maker's limit."] if v.whole >= 8 else [],
    formula="stops = log₂(flashes); aperture = N of one flash · √flashes",
    limits="Nothing may move between flashes. Each doubling gains a stop: after 16 flashes another head is the shorter way.",
    source="light adds; common practice",
)  # fmt: skip
