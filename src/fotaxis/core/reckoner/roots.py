"""Unknowns without a closed form: the place where something that only rises or falls meets a wish."""

from __future__ import annotations

import math
from collections.abc import Callable

from fotaxis.core.errors import NoSolution

HALVINGS = 100


def where(forward: Callable[[float], float], wanted: float, *, low: float, high: float, what: str) -> float:
    """The x between low and high with forward(x) = wanted, for a forward that only rises or only falls.

    Raises NoSolution saying what the ends give.   Source: bisection.
    """
    at_low, at_high = forward(low), forward(high)
    rising = at_high > at_low
    if not min(at_low, at_high) - 1e-12 <= wanted <= max(at_low, at_high) + 1e-12:
        raise NoSolution(f"no {what} gives that; it lies beyond what is possible here.")
    for _ in range(HALVINGS):
        middle = math.sqrt(low * high) if low > 0 else (low + high) / 2
        low, high = (middle, high) if (forward(middle) < wanted) == rising else (low, middle)
    return (low + high) / 2
