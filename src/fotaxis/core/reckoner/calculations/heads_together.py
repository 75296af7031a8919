"""Several heads on one surface: their readings added."""

from __future__ import annotations

import math

from fotaxis.core.errors import DomainError, NoSolution
from fotaxis.core.reckoner.calculation import LIGHT, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, mark, scale
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import F_NUMBER, STOPS, listed


def _sum(readings: tuple[float, ...]) -> float:
    if not readings:
        raise DomainError("no head is listed; write what each gives alone, as f/5.6, f/8.")
    return math.fsum(n * n for n in readings)


def _more(v: Given) -> float:
    left = v.total**2 - _sum(v.readings)
    if left <= 0:
        raise NoSolution(
            "the heads already give "
            f"{F_NUMBER.finer(math.sqrt(_sum(v.readings))) or F_NUMBER.write(math.sqrt(_sum(v.readings)))}, "
            f"which is more than {F_NUMBER.write(v.total)}: turn them down first"
        )
    return math.sqrt(left)


def _beside(v: Given) -> dict[str, float]:
    return {"over": 2 * math.log2(v.total / max(v.readings))}


def _picture(v: Given) -> Drawn:
    readings = [*v.readings, *([v.more] if v.more else [])]
    base = 2 * math.log2(min(readings))
    marks = [mark(2 * math.log2(n) - base, F_NUMBER.write(n)) for n in readings]
    top = 2 * math.log2(v.total) - base
    marks.append(mark(top, f"together {F_NUMBER.finer(v.total) or F_NUMBER.write(v.total)}", strong=True))
    return scale("Readings in stops from the weakest head", marks, low=-1, high=math.ceil(top) + 1)


CALCULATION = Calculation(
    key="heads-together", name="Heads on one surface", group=LIGHT,
    words="Light adds: each head metered alone, then all together; or what one more head must give.",
    also="two heads add sum combine multiple lights one stop ratio fill",
    asks=(
        Quantity(name="readings", words="Each head alone", unit=listed(F_NUMBER), usual="f/5.6, f/5.6", low=0.1, high=256,
                 note="With commas between: f/5.6, f/8."),
        Quantity(name="more", words="One more head", unit=F_NUMBER, usual="f/4", low=0.1, high=256),
        Quantity(name="total", words="All together", unit=F_NUMBER, usual="f/11", low=0.1, high=512,
            shot="exposure.f_number"),
    ),
    unknowns={"total": lambda v: math.sqrt(_sum(v.readings)), "more": _more},
    idle={"total": ("more",)},
    gives=(
        Quantity(name="over", words="Over the strongest alone", unit=STOPS),
    ),
    beside=_beside, picture=_picture,
    formula="N = √(N₁² + N₂² + …): light goes with the square of the f-number, and light adds",
    limits="All at the same ISO, metered at the same place with the same receptor; n equal heads give log₂ n stops.",
    source="ISO 2720 and the sum of illuminances; two equal heads: one stop",
)  # fmt: skip
