"""A pack with two channels: what each head gets, and how far apart they are."""

from __future__ import annotations

import math

from fotaxis.core.reckoner.calculation import LIGHT, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, mark, scale
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import COUNT, JOULES, POWER, STOPS


def _each(energy: float, power: float, heads: float) -> float:
    return float(energy * 2.0**power / heads)


def _a(v: Given) -> float:
    return _each(v.energy_a, v.power_a, v.heads_a)


def _b(v: Given) -> float:
    return _each(v.energy_b, v.power_b, v.heads_b)


def _picture(v: Given) -> Drawn:
    low = math.log2(min(v.each_a, v.each_b))
    marks = [mark(math.log2(v.each_a) - low, f"A {JOULES.write(v.each_a)}", strong=True),
             mark(math.log2(v.each_b) - low, f"B {JOULES.write(v.each_b)}", strong=True)]  # fmt: skip
    return scale("Each head in stops from the weaker", marks, low=-1, high=max(3, math.ceil(abs(v.difference)) + 1))


CALCULATION = Calculation(
    key="pack", name="Pack: shared channels", group=LIGHT,
    words="Heads on one channel share its energy. What each gets on A and B, and how far apart they are.",
    also="generator sockets asymmetric ws joules channel symmetry head energy",
    asks=(
        Quantity(name="energy_a", words="Channel A at full", unit=JOULES, usual="400 Ws", low=0, above=True, high=20_000,
                 shot="pack.energy"),
        Quantity(name="heads_a", words="Heads on A", unit=COUNT, usual="1", low=1, high=8),
        Quantity(name="power_a", words="A is set to", unit=POWER, usual="1/2", low=-10, high=0),
        Quantity(name="energy_b", words="Channel B at full", unit=JOULES, usual="1200 Ws", low=0, above=True, high=20_000),
        Quantity(name="heads_b", words="Heads on B", unit=COUNT, usual="1", low=1, high=8),
        Quantity(name="power_b", words="B is set to", unit=POWER, usual="1/1", low=-10, high=0),
        Quantity(name="difference", words="A head on B over one on A", unit=STOPS, usual="+2", low=-15, high=15),
    ),
    unknowns={
        "difference": lambda v: math.log2(_b(v) / _a(v)),
        "power_b": lambda v: math.log2(_a(v) * 2.0**v.difference * v.heads_b / v.energy_b),
        "power_a": lambda v: math.log2(_b(v) * 2.0**-v.difference * v.heads_a / v.energy_a),
        "energy_b": lambda v: _a(v) * 2.0**v.difference * v.heads_b / 2.0**v.power_b,
    },
    gives=(
        Quantity(name="each_a", words="Each head on A", unit=JOULES), Quantity(name="each_b", words="Each head on B",
            unit=JOULES),
    ),
    beside=lambda v: {"each_a": _a(v), "each_b": _b(v)}, picture=_picture,
    cautions=lambda v: ["Power down and discharge the pack before plugging a head in or out. No more heads, and no more "
                        "energy on one "
                        "head, than its maker's manual allows."],
    formula="each head = channel · 2^power / heads; stops between = log₂(B / A)",
    limits="Equal heads and cables; a weaker tube gives less from the same energy. 400 to 1200 Ws is 1.6 stops.",
    source="energy shared in equal parts: common practice; your pack's manual says how its channels divide",
)  # fmt: skip
