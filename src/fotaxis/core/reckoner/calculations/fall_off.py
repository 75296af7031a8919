"""The inverse square across a set: how even it is, and how far away a light must stand."""

from __future__ import annotations

import math

from fotaxis.core.errors import NoSolution
from fotaxis.core.reckoner.calculation import LIGHT, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, curve
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import CM, LOST, PERCENT


def _distance(v: Given) -> float:
    if v.difference <= 0:
        raise NoSolution("only a light at infinity is as strong at both ends; allow a difference of more than 0 stops")
    return float(v.depth / (2.0 ** (v.difference / 2) - 1))


def _picture(v: Given) -> Drawn:
    def at(x_cm: float) -> float:
        return -2 * math.log2((v.distance + x_cm / 100) / v.distance)

    return curve("Level across the set", at, low=0, high=v.depth * 100, x="from the near end, cm", y="stops",
                 at=[(v.depth * 100, at(v.depth * 100), f"−{v.difference:.1f}")])  # fmt: skip


CALCULATION = Calculation(
    key="fall-off", name="Fall-off across the set", group=LIGHT,
    words="A light near one end of the set is weaker at the other. How much, and how far back it must go to be even.",
    also="inverse square law evenness even distance",
    asks=(
        Quantity(name="distance", words="Light to the near end", unit=CM, usual="120 cm", low=0, above=True, high=100,
                 shot="light.near_end"),
        Quantity(name="depth", words="Near end to far end", unit=CM, usual="30 cm", low=0, above=True, high=50,
            shot="product.width"),
        Quantity(name="difference", words="Far end is weaker by", unit=LOST, usual="1/3", low=0, high=12),
    ),
    unknowns={
        "difference": lambda v: 2 * math.log2((v.distance + v.depth) / v.distance),
        "distance": _distance,
        "depth": lambda v: v.distance * (2.0 ** (v.difference / 2) - 1),
    },
    gives=(Quantity(name="left", words="Left at the far end", unit=PERCENT),),
    beside=lambda v: {"left": 2.0**-v.difference}, picture=_picture,
    formula="stops = 2 log₂((d + s) / d)",
    limits="For lights small beside their distance: a box nearer than its own width falls off less at first. Table and "
    "walls give some back.",
    source="inverse-square law (textbook)",
)  # fmt: skip
