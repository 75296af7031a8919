"""Recycling and battery by power: how soon the next flash comes, how many are left."""

from __future__ import annotations

import math

from fotaxis.core.reckoner.calculation import TIME, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, curve
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import COUNT, POWER
from fotaxis.core.reckoner.units import TIME as DURATION

LEAST = 0.05
"""No head is ready in a shorter time.  Common practice."""


def _recycle(v: Given) -> float:
    return float(max(v.full * 2.0**v.power, LEAST))


def _picture(v: Given) -> Drawn:
    return curve("Recycling by power", lambda stops: max(v.full * 2.0**stops, LEAST), low=-7, high=0, x="stops from full",
        y="seconds",
                 at=[(v.power, v.recycle, DURATION.write(v.recycle))])  # fmt: skip


CALCULATION = Calculation(
    key="recycle", name="Recycling and battery", group=TIME,
    words="How long until the next flash at a lower power, and how many flashes a battery gives.",
    also="recharge ready battery shots left runtime",
    asks=(
        Quantity(name="full", words="Recycling at full power", unit=DURATION, usual="1.8 s", low=0.01, high=120,
            shot="head.recycle"),
        Quantity(name="power", words="Power", unit=POWER, usual="1/8", low=-12, high=0, shot="light.power"),
        Quantity(name="recycle", words="Ready again after", unit=DURATION, usual="0.25 s", low=LEAST, high=120),
        Quantity(name="flashes_full", words="Battery gives at full", unit=COUNT, usual="400", low=1, high=100_000),
        Quantity(name="frames", words="Frames planned", unit=COUNT, usual="120", low=1, high=100_000),
    ),
    unknowns={"recycle": _recycle, "power": lambda v: math.log2(v.recycle / v.full)},
    gives=(
        Quantity(name="flashes", words="Flashes from one battery", unit=COUNT),
        Quantity(name="batteries", words="Batteries for the frames", unit=COUNT),
        Quantity(name="least", words="Least time for all", unit=DURATION),
    ),
    beside=lambda v: {
        "flashes": float(math.floor(v.flashes_full * 2.0**-v.power)),
        "batteries": float(math.ceil(v.frames / max(1.0, math.floor(v.flashes_full * 2.0**-v.power)))),
        "least": v.frames * v.recycle,
    },
    picture=_picture,
    says=lambda v: ["Low powers give fewer than told here: modelling light, radio and standing by take their "
                    "share."] if v.power < -3 else [],
    cautions=lambda v: ["Batteries warm at full power in a row: let them cool, charge them as their maker says."],
    formula="time = time at full · 2^power; flashes = flashes at full · 2^−power",
    limits=f"Energy and time go together for most heads, never under {LEAST * 1000:.0f} ms. Cold halves a battery.",
    source="common practice; your head's table wins",
)  # fmt: skip
