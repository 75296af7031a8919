"""In which order captures are shot: what must come before what, and then as few touches of the set as there can be."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.errors import NoSolution
from fotaxis.core.kernel import kernel
from fotaxis.core.values import Array

SWITCH, POWER, DIAL, POLARISER, FOCUS, LIFT, POUR, BACK, FRAMING = 0.5, 1.0, 0.5, 1.5, 2.0, 2.0, 4.0, 8.0, 20.0
"""What a touch costs, in turns of a power: a switch at the remote, a dial of the camera, focus, something lifted away, something
brought back to its very place, another framing. Common practice: what is brought back or moved with the camera is hardly ever
quite the same."""

WEAKEST_FIRST = 0.02
"""So much for every stop by which a step is weaker than the one before: of equal orders the one that begins with the weakest light."""

MOST_EXACT = 15
SAME = 1e-6


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """A frame to be shot. lights: power in stops by key of what is on; settings: ISO, shutter, aperture; focus, polariser: anything
    that tells two apart; away: what is lifted away; after: keys of steps that come before; opens: a black frame, which is first."""

    key: str
    lights: Mapping[str, float] = field(default_factory=dict)
    settings: tuple[float, float, float] = (100.0, 0.004, 8.0)
    focus: object = None
    polariser: object = None
    framing: str = ""
    away: frozenset[str] = frozenset()
    poured: bool = True
    wet: bool = False
    splash: bool = False
    after: tuple[str, ...] = ()
    opens: bool = False

    @property
    def strength(self) -> float:
        """Its strongest light, stops from full."""
        return max(self.lights.values(), default=-20.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Touches:
    """What changes from one step to the next, as keys and names; cost: see the constants."""

    on: tuple[str, ...] = ()
    off: tuple[str, ...] = ()
    power: tuple[str, ...] = ()
    dials: tuple[str, ...] = ()
    focus: bool = False
    polariser: bool = False
    framing: bool = False
    lifted: tuple[str, ...] = ()
    back: tuple[str, ...] = ()
    poured: bool = False

    @property
    def cost(self) -> float:
        return (
            SWITCH * (len(self.on) + len(self.off)) + POWER * len(self.power) + DIAL * len(self.dials) + FOCUS * self.focus
            + POLARISER * self.polariser + FRAMING * self.framing + LIFT * len(self.lifted) + BACK * len(self.back)
            + POUR * self.poured
        )  # fmt: skip


DIALS = ("ISO", "shutter", "aperture")


def touches(before: Step, after: Step) -> Touches:
    """What has to be touched to go from one step to the next."""
    both = before.lights.keys() & after.lights.keys()
    return Touches(
        on=tuple(sorted(after.lights.keys() - before.lights.keys())),
        off=tuple(sorted(before.lights.keys() - after.lights.keys())),
        power=tuple(sorted(key for key in both if abs(before.lights[key] - after.lights[key]) > SAME)),
        dials=tuple(n for n, a, b in zip(DIALS, before.settings, after.settings, strict=True) if abs(a - b) > SAME * abs(a)),
        focus=before.focus != after.focus, polariser=before.polariser != after.polariser,
        framing=before.framing != after.framing, lifted=tuple(sorted(after.away - before.away)),
        back=tuple(sorted(before.away - after.away)), poured=before.poured != after.poured,
    )  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Order:
    """Steps in order, what is touched before each, what it costs together, and whether no order costs less."""

    steps: tuple[Step, ...]
    touches: tuple[Touches, ...]
    cost: float
    exact: bool


def must_precede(a: Step, b: Step) -> bool:
    """Must one step come before another? A black frame first; what is told; clean before poured, dry before wet, a splash last."""
    return (
        a.key in b.after or (a.opens and not b.opens) or (not a.poured and b.poured)
        or (not a.wet and not a.splash and b.wet and not b.splash) or (not a.splash and b.splash)
    )  # fmt: skip


def precedence(steps: Sequence[Step]) -> NDArray[np.bool_]:
    """before[i, j]: step i must come before step j, by way of others too. Raises NoSolution where two must each come first."""
    n = len(steps)
    before = np.array([[i != j and must_precede(a, b) for j, b in enumerate(steps)] for i, a in enumerate(steps)], bool)
    before = before.reshape(n, n)
    for k in range(n):
        before |= before[:, k : k + 1] & before[k : k + 1, :]
    both = before & before.T & ~np.eye(n, dtype=bool)
    if both.any():
        i, j = np.argwhere(both)[0]
        raise NoSolution(
            f"{steps[i].key} and {steps[j].key} must each be shot before the other; take one of these conditions away."
        )
    return before


def costs(steps: Sequence[Step], start: Step) -> Array:
    """What each step costs after each other, (n + 1, n); the last row: from what stands there now."""
    rows = [*steps, start]
    found = np.array([[_cost(a, b) for b in steps] for a in rows], np.float64)
    return found.reshape(len(rows), len(steps))


def _cost(a: Step, b: Step) -> float:
    weaker = max(0.0, min(a.strength - b.strength, 10.0)) if a.lights and b.lights else 0.0
    return touches(a, b).cost + WEAKEST_FIRST * weaker


@kernel
def _cheapest(cost: NDArray[np.float64], needs: NDArray[np.int64], ending: NDArray[np.float64]) -> NDArray[np.int64]:
    """The cheapest order of n steps by trying all sets: best[set, last].

    cost (n + 1, n): see costs; needs (n,): steps that come before each, as bits; ending (n,): what follows costs after each.

    Source: Held and Karp 1962; sets that break a precedence are never reached.
    """
    n = cost.shape[1]
    count = 1 << n
    best = np.full((count, n), np.inf)
    came = np.full((count, n), -1, np.int64)
    for j in range(n):
        if needs[j] == 0:
            best[1 << j, j] = cost[n, j]
    for made in range(1, count):
        for last in range(n):
            here = best[made, last]
            if here == np.inf:
                continue
            for j in range(n):
                if made & (1 << j) or needs[j] & ~made:
                    continue
                on = made | (1 << j)
                there = here + cost[last, j]
                if there < best[on, j] - 1e-12:
                    best[on, j] = there
                    came[on, j] = last
    order = np.empty(n, np.int64)
    made = count - 1
    last = int(np.argmin(best[made] + ending))
    for k in range(n - 1, -1, -1):
        order[k] = last
        before = came[made, last]
        made ^= 1 << last
        last = before
    return order


def planned(steps: Sequence[Step], start: Step) -> Order:
    """Steps in the cheapest order that breaks no precedence.

    Exact up to 15 steps; beyond, the best of many begun by the nearest next step and mended by moving up to three steps in a row for
    as long as that helps. Raises NoSolution where conditions contradict each other.
    """
    if not steps:
        return Order(steps=(), touches=(), cost=0.0, exact=True)
    before = precedence(steps)
    cost = costs(steps, start)
    exact = len(steps) <= MOST_EXACT
    if exact:
        needs = _bits(before)
        order = [int(i) for i in _cheapest(cost, needs, np.zeros(len(steps)))]
    else:
        order = _mended(cost, before)
    made = [steps[i] for i in order]
    changed = [touches(a, b) for a, b in zip([start, *made], made, strict=False)]
    return Order(steps=tuple(made), touches=tuple(changed), cost=length(cost, order), exact=exact)


def length(cost: Array, order: Sequence[int]) -> float:
    """What an order costs."""
    n = cost.shape[1]
    return float(cost[n, order[0]] + sum(cost[a, b] for a, b in itertools.pairwise(order)))


def keeps(before: NDArray[np.bool_], order: Sequence[int]) -> bool:
    """Does an order break no precedence?"""
    return not any(before[b, a] for i, a in enumerate(order) for b in order[i + 1 :])


def _bits(before: NDArray[np.bool_]) -> NDArray[np.int64]:
    """Steps that come before each, as bits."""
    return np.array([sum(1 << int(i) for i in np.flatnonzero(column)) for column in before.T], np.int64)


def _mended(cost: Array, before: NDArray[np.bool_]) -> list[int]:
    """The best of the orders that begin with each step that may come first, mended."""
    found = [_windowed(cost, before, _nearest(cost, before, int(first))) for first in np.flatnonzero(~before.any(axis=0))]
    return min(found, key=lambda order: length(cost, order))


def _nearest(cost: Array, before: NDArray[np.bool_], first: int) -> list[int]:
    order, left = [first], set(range(cost.shape[1])) - {first}
    while left:
        free = [j for j in left if not any(before[i, j] for i in left)]
        order.append(min(free, key=lambda j: (cost[order[-1], j], j)))
        left.remove(order[-1])
    return order


WINDOW = 9
"""So many steps in a row are ordered anew by trying all sets."""


def _windowed(cost: Array, before: NDArray[np.bool_], order: list[int]) -> list[int]:
    """An order in which no three steps in a row stand better elsewhere, and no nine in a row better in another order."""
    n = len(order)
    while True:
        order = [int(i) for i in _moved(cost, before, np.array(order))]
        was = length(cost, order)
        for at in range(max(1, n - WINDOW + 1)):
            part = order[at : at + WINDOW]
            ahead = order[at - 1] if at else n
            own = np.vstack([cost[np.ix_(part, part)], cost[ahead, part]])
            ending = cost[part, order[at + WINDOW]] if at + WINDOW < n else np.zeros(len(part))
            order[at : at + WINDOW] = [part[k] for k in _cheapest(own, _bits(before[np.ix_(part, part)]), ending)]
        if length(cost, order) > was - 1e-9:
            return order


@kernel
def _total(cost: NDArray[np.float64], order: NDArray[np.int64]) -> float:
    found = cost[cost.shape[1], order[0]]
    for k in range(1, len(order)):
        found += cost[order[k - 1], order[k]]
    return found


@kernel
def _in_order(before: NDArray[np.bool_], order: NDArray[np.int64]) -> bool:
    for i in range(len(order)):
        for k in range(i + 1, len(order)):
            if before[order[k], order[i]]:
                return False
    return True


@kernel
def _moved(cost: NDArray[np.float64], before: NDArray[np.bool_], order: NDArray[np.int64]) -> NDArray[np.int64]:
    """An order with up to three steps in a row moved elsewhere, for as long as that makes it cheaper."""
    n = len(order)
    best = _total(cost, order)
    better = True
    while better:
        better = False
        for long in range(1, min(4, n)):
            for at in range(n - long + 1):
                rest = np.concatenate((order[:at], order[at + long :]))
                for to in range(n - long + 1):
                    tried = np.concatenate((rest[:to], order[at : at + long], rest[to:]))
                    now = _total(cost, tried)
                    if now < best - 1e-9 and _in_order(before, tried):
                        order, best, better = tried, now, True
                        break
    return order
