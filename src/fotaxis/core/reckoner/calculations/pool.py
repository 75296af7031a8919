"""The pool of a grid, a snoot or a focusing spot: how wide it is and how it fades."""

from __future__ import annotations

import math

from fotaxis.core.errors import NoSolution
from fotaxis.core.reckoner.calculation import LIGHT, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, curve
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import ANGLE, CM, STOPS, choice

GRID, SNOOT, SPOT = "grid", "snoot", "focusing spot"
HALF = 0.4040
"""x at which the two ends of a round tube overlap by half: 2/π (acos x − x √(1 − x²)) = 1/2."""


def _own(v: Given) -> float:
    """What the face adds to the pool: a lens images its gate, so that its face does not count."""
    return 0.0 if v.kind == SPOT else float(v.face)


def _angle(v: Given) -> float:
    if v.diameter <= _own(v):
        raise NoSolution(
            f"a pool no wider than the face ({CM.write(v.face)}) needs a smaller face: a snoot, or a focusing spot"
        )
    return 2 * math.atan((v.diameter - _own(v)) / 2 / v.distance)


def _distance(v: Given) -> float:
    if v.diameter <= _own(v):
        raise NoSolution(f"a pool no wider than the face ({CM.write(v.face)}) cannot be had by moving: take a smaller face")
    return float((v.diameter - _own(v)) / 2 / math.tan(v.angle / 2))


def _level(v: Given, off_m: float) -> float:
    """Level in the pool against its middle, of a small face: what passes the tube, and the cosine's fourth power on a flat "
    "surface."""
    tangent = abs(off_m) / v.distance
    fourth = (1 + tangent * tangent) ** -2
    if v.kind == SPOT:
        return fourth if tangent <= math.tan(v.angle / 2) else 1e-4
    x = min(tangent / math.tan(v.angle / 2), 1.0)
    return max(2 / math.pi * (math.acos(x) - x * math.sqrt(1 - x * x)) * fourth, 1e-4)


def _picture(v: Given) -> Drawn:
    half = v.diameter * 50

    def at(off_cm: float) -> float:
        return max(math.log2(_level(v, off_cm / 100)), -5.0)

    return curve("Across the pool, small face", at, low=-half * 1.1, high=half * 1.1, x="from the middle, cm", y="stops",
                 across=[(-1.0, "one stop under")])  # fmt: skip


CALCULATION = Calculation(
    key="pool", name="Pool of a grid, snoot or spot", group=LIGHT,
    words="How wide a gridded or snooted head's pool is, how far away it must stand, which grid it needs.",
    also="honeycomb grid snoot spot beam angle circle diameter",
    asks=(
        Quantity(name="kind", words="Before the head", unit=choice(GRID, SNOOT, SPOT), usual=GRID),
        Quantity(name="angle", words="Full angle", unit=ANGLE, usual="20°", low=math.radians(1), high=math.radians(120),
                 note="A grid's name; for a snoot twice the angle whose tangent is its diameter over its length.",
                     shot="light.grid"),
        Quantity(name="face", words="Face", unit=CM, usual="18 cm", low=0, high=3, shot="light.face"),
        Quantity(name="distance", words="Head to surface", unit=CM, usual="100 cm", low=0, above=True, high=50,
            shot="light.distance"),
        Quantity(name="diameter", words="Pool", unit=CM, usual="50 cm", low=0, above=True, high=50),
    ),
    unknowns={
        "diameter": lambda v: 2 * v.distance * math.tan(v.angle / 2) + _own(v),
        "distance": _distance,
        "angle": _angle,
    },
    gives=(Quantity(name="bright", words="Within one stop of its middle", unit=CM), Quantity(name="rim", words="Half way to "
        "the rim",
           unit=STOPS)),
    beside=lambda v: {
        "bright": 2 * v.distance * math.tan(v.angle / 2) * (1.0 if v.kind == SPOT else HALF),
        "rim": math.log2(_level(v, v.distance * math.tan(v.angle / 2) / 2)),
    },
    picture=_picture,
    formula="pool = 2 d tan(angle / 2) + face; level = 2/π (acos x − x √(1 − x²)) · cos⁴, x = tan(off axis) / "
    "tan(angle / 2)",
    limits="A nominal grid angle is the full beam. The middle and its fading are told of a face small beside the pool; a "
    "large dish "
    "behind a tight grid makes the middle wider and about three stops weaker. A focusing spot: even to its edge.",
    source="overlap of the two ends of a round tube (geometry); grids' names: common practice",
)  # fmt: skip
