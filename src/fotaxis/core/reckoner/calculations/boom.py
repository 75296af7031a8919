"""A boom over the set: counterweight, load, and the sandbag that keeps it up."""

from __future__ import annotations

import math

from fotaxis.core.reckoner.calculation import SET, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, box, line, shape, view
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import ANGLE, CM, KILOGRAMS

SAFE = 1.5
"""The stand must resist so many times what tips it.  Common practice."""


def _arm(v: Given) -> float:
    """Moment of the arm's own weight towards the load, kg m: a straight arm, even along its length."""
    return float(v.arm * (v.reach - v.rear) / 2)


def _sandbag(v: Given, counter: float) -> float:
    """Sandbag on the column that keeps the stand up, 1.5-fold, by moments about the line between two feet under the arm.

    A stand of three legs tips about that line, half a leg's length from its axis.
    """
    inside, across = v.feet * math.cos(math.pi / 3), math.cos(v.tilt)
    tips = v.load * (v.reach * across - inside) + v.arm * ((v.reach - v.rear) / 2 * across - inside)
    holds = v.stand * inside + counter * (v.rear * across + inside)
    return float(max(0.0, (SAFE * tips - holds) / inside))


def _beside(v: Given) -> dict[str, float]:
    return {"sandbag": _sandbag(v, v.counter), "alone": _sandbag(v, 0.0), "carries": v.load + v.arm + v.counter}


def _picture(v: Given) -> Drawn:
    c, s = math.cos(v.tilt), math.sin(v.tilt)
    ends = (v.reach * c, v.reach * s), (-v.rear * c, -v.rear * s)
    reach = v.reach + v.rear
    foot = -0.5 * reach
    side = 0.05 * reach
    return view("From the side: load on the right", [
        line(0, 0, 0, foot, style="thing", words="stand"), line(-v.feet, foot, v.feet, foot, style="ground"),
        shape([(0, foot + 0.15 * reach), (v.feet, foot), (-v.feet, foot)], style="ghost"),
        line(*ends[0], *ends[1], style="thing"),
        box(ends[0][0], ends[0][1], side, side, style="light", words=KILOGRAMS.write(v.load)),
        box(ends[1][0], ends[1][1], side, side, style="thing", words=KILOGRAMS.write(v.counter)),
    ])  # fmt: skip


CALCULATION = Calculation(
    key="boom", name="Boom and counterweight", group=SET,
    words="A head on a boom: the counterweight that balances it, and the sandbag for its stand.",
    also="counterweight sandbag stand arm c-stand tip load weight",
    asks=(
        Quantity(name="load", words="Head and box", unit=KILOGRAMS, usual="3.5 kg", low=0, above=True, high=100,
            shot="light.weight"),
        Quantity(name="reach", words="Pivot to head", unit=CM, usual="150 cm", low=0.01, high=10),
        Quantity(name="rear", words="Pivot to counterweight", unit=CM, usual="60 cm", low=0.01, high=10),
        Quantity(name="arm", words="The arm's own weight", unit=KILOGRAMS, usual="2 kg", low=0, high=100),
        Quantity(name="counter", words="Counterweight", unit=KILOGRAMS, usual="10 kg", low=0, high=400),
        Quantity(name="tilt", words="Arm rises by", unit=ANGLE, usual="0°", low=-math.pi / 3, high=math.pi / 3),
        Quantity(name="feet", words="Stand: axis to a foot", unit=CM, usual="50 cm", low=0.1, high=3),
        Quantity(name="stand", words="Stand's own weight", unit=KILOGRAMS, usual="6 kg", low=0, high=200),
    ),
    unknowns={
        "counter": lambda v: max(0.0, (v.load * v.reach + _arm(v)) / v.rear),
        "load": lambda v: (v.counter * v.rear - _arm(v)) / v.reach,
        "rear": lambda v: (v.load * v.reach + v.arm * v.reach / 2) / (v.counter + v.arm / 2),
    },
    gives=(Quantity(name="sandbag", words="Sandbag on the column, balanced", unit=KILOGRAMS),
           Quantity(name="alone", words="Sandbag that holds it, should the counterweight come off", unit=KILOGRAMS),
           Quantity(name="carries", words="The stand carries", unit=KILOGRAMS)),
    beside=_beside, picture=_picture,
    cautions=lambda v: [
        "Counterweight on first, off last; a leg under the load, sandbag, a safety line on the head, nobody under it.",
        "The maker's load for this arm at this reach counts, whatever balances. A stand that bends is overloaded.",
    ],
    formula="counterweight · rear = load · reach + arm · (reach − rear) / 2; sandbag from the moments about the feet, "
    "1.5-fold",
    limits="Three legs spread, level floor, arm over a gap between two feet (the worst case), head at rest. A moved or "
    "caught boom pulls more.",
    source="lever rule (textbook statics); factor 1.5 common practice",
)  # fmt: skip
