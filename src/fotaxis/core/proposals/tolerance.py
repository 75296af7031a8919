"""How delicate a set is: by how much a thing may be off before a wish changes visibly."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

REFINED = 3
"""A step so many times off the tolerance that it led to is taken anew, this often at most."""

NEAR = 2.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """A number that wishes are about, and by how much it changes before anybody sees it."""

    value: float
    visible: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Tolerance:
    """By how much something may be off, in the unit it was moved in, inf where nothing changes visibly; of: the number that changes
    first, '' for none."""

    limit: float
    of: str


Figures = Callable[[float], Mapping[str, Reading]]
"""The numbers of a picture in which something is off by so much."""


def tolerance(figures: Figures, *, step: float, most: float) -> Tolerance:
    """The least offset at which one number has changed visibly, either way.

        offset = visible / |slope|,   slope = (f(+h) - f(-h)) / 2 h

    step: h to begin with, taken anew near the answer; most: beyond it nothing is looked at. A number that is no longer seen at an
    offset has changed there.
    Source:     central differences.
    """
    names = [*figures(0.0)]
    found = Tolerance(limit=math.inf, of="")
    for _ in range(REFINED):
        found = _at(figures, names, step)
        if found.limit > most:
            if step >= most:
                return Tolerance(limit=math.inf, of="")
            step = most
            continue
        if step / NEAR <= found.limit <= step * NEAR:
            return found
        step = min(found.limit, most)
    return found if found.limit <= most else Tolerance(limit=math.inf, of="")


def _at(figures: Figures, names: Sequence[str], step: float) -> Tolerance:
    before, after = figures(-step), figures(step)
    best = Tolerance(limit=math.inf, of="")
    for name in names:
        if name not in before or name not in after:
            limit = step
        else:
            slope = abs(after[name].value - before[name].value) / (2 * step)
            limit = after[name].visible / slope if slope > 0 else math.inf
        if limit < best.limit:
            best = Tolerance(limit=limit, of=name)
    return best
