"""Powers that bring levels to where they are wished for, on the steps that heads really have.

Every reading's level is a sum over the lights, each linear in its power (layers), so no picture is made. Levels are compared in
stops, which is not linear: continuous powers come from bounded least squares, real steps from the neighbours of those, and then one
or two lights at a time run through all their steps until nothing gets better.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from scipy.optimize import least_squares

from fotaxis.core.constants import MIDDLE_GREY
from fotaxis.core.lights.power import PowerRange
from fotaxis.core.stops import measured_stops
from fotaxis.core.values import Array
from fotaxis.core.wishes.wish import LevelTarget

DARK = MIDDLE_GREY * 2.0**-20
"""No light at all counts as this level, so that a logarithm has a value."""

TOUCH = 0.05
"""What a head that is touched costs, in squares of tolerances: one that changes nothing is left alone."""

INSIDE = 0.05
"""What is within its tolerance counts so much of what the same gap counts beyond it: heads are not touched for what nobody sees."""

STRAY = 1e-4
"""What a stop away from the present power costs, so that of equal answers the nearest is taken."""

AROUND_AT_MOST = 5
"""Of more lights than this the neighbours of the continuous answer are not all tried: one or two are moved at a time only."""

STAY = 0.01
"""What draws continuous powers towards the present ones, tolerances per stop."""

HEAL_STOPS = 4
THIRDS = 3
MEANS = 0.05
"""A light that makes less of a level than this part has nothing to do with it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Dial:
    """A light as its power is set: stops from full now, its steps; fixed: it cannot be dimmed, or must not be."""

    key: str
    name: str
    now: float
    steps: PowerRange
    fixed: bool = False

    def notches(self) -> Array:
        """All powers it can be set to, stops from full, from the lowest up; of a fixed one the present."""
        if self.fixed:
            return np.array([self.now])
        count = self.steps.lowest_stops * self.steps.steps_per_stop
        return -np.arange(count, -1, -1) / self.steps.steps_per_stop


@dataclass(frozen=True, slots=True, kw_only=True)
class Bound:
    """A wish that powers cannot meet, and why: of: its number; key: the light that binds, '' where wishes contradict each other;
    stops: by how much it stays too bright (above 0) or too dark; against: numbers of the wishes that pull the other way."""

    of: int
    key: str
    stops: float
    words: str
    against: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Touch:
    """The one change that helps most: a light, its power, and how many wishes are met then."""

    key: str
    power_stops: float
    met: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Balance:
    """powers: stops from full by key, of the lights that are touched; levels: what the targets come to (stops); met: which of them are
    within their tolerance; aperture_stops: by how much all light must come down (or up, below 0) so that every one is met, None where
    the present exposure does or no other helps; bounds: of those not met."""

    powers: Mapping[str, float]
    levels: tuple[float, ...]
    met: tuple[bool, ...]
    cost: float
    aperture_stops: float | None = None
    bounds: tuple[Bound, ...] = ()
    first: Touch | None = None
    all_powers: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class _Sums:
    """Levels of the targets' readings as sums over the lights: room (t,) and parts (t, lights) at full power; over_room and
    over_parts of what they are told against, with is_ratio (t,)."""

    room: Array
    parts: Array
    over_room: Array
    over_parts: Array
    is_ratio: Array
    stops: Array
    within: Array
    side: Array

    def levels(self, powers: Array, shift: float = 0.0) -> Array:
        """Levels in stops (m, t) at powers (m, lights), stops from full, and all light shifted by some stops."""
        gains = 2.0 ** (powers + shift)
        one: Array = np.log2(np.maximum(gains @ self.parts.T + self.room * 2.0**shift, DARK) / MIDDLE_GREY)
        if not self.is_ratio.any():
            return one
        other = np.log2(np.maximum(gains @ self.over_parts.T + self.over_room * 2.0**shift, DARK) / MIDDLE_GREY)
        return np.where(self.is_ratio, one - other, one)

    def slopes(self, powers: Array, shift: float) -> Array:
        """By how many stops levels change per stop of each light, (t, lights), at powers (lights,)."""
        gains = 2.0 ** (powers + shift)
        one, other = self.parts * gains, self.over_parts * gains
        whole = np.maximum(one.sum(axis=1) + self.room * 2.0**shift, DARK)
        whole_other = np.maximum(other.sum(axis=1) + self.over_room * 2.0**shift, DARK)
        slopes: Array = one / whole[:, None] - np.where(self.is_ratio[:, None], other / whole_other[:, None], 0.0)
        return slopes

    def gaps(self, levels: Array) -> Array:
        """How far levels (m, t) are from what is wished for, stops, 0 where a side allows it."""
        off: Array = levels - self.stops
        return np.where(self.side < 0, np.maximum(off, 0), np.where(self.side > 0, np.minimum(off, 0), off))


def _sums(targets: Sequence[LevelTarget], parts: Mapping[str, Array], lights: int) -> _Sums:
    nothing = np.zeros(1 + lights)
    one = np.array([parts[target.reading] for target in targets]).reshape(-1, 1 + lights)
    other = np.array([parts[target.over] if target.over else nothing for target in targets]).reshape(-1, 1 + lights)
    return _Sums(
        room=one[:, 0], parts=one[:, 1:], over_room=other[:, 0], over_parts=other[:, 1:],
        is_ratio=np.array([bool(target.over) for target in targets]), stops=np.array([target.stops for target in targets]),
        within=np.array([target.within for target in targets]), side=np.array([target.side for target in targets]),
    )  # fmt: skip


class _Search:
    """Powers on real steps for one exposure."""

    def __init__(self, sums: _Sums, dials: Sequence[Dial], shift: float) -> None:
        self.sums, self.dials, self.shift = sums, dials, shift
        self.now = np.array([dial.now for dial in dials])
        self.notches = [dial.notches() for dial in dials]
        self.free = [i for i, dial in enumerate(dials) if not dial.fixed]

    def cost(self, powers: Array) -> Array:
        """Squares of tolerances (m,), and a little for every head that is touched."""
        gaps = np.abs(self.sums.gaps(self.sums.levels(powers, self.shift))) / self.sums.within
        beyond = np.maximum(gaps - 1, 0)
        moved = np.abs(powers - self.now)
        total: Array = (
            (beyond**2 + INSIDE * gaps**2).sum(axis=1) + TOUCH * (moved > 1e-9).sum(axis=1) + STRAY * moved.sum(axis=1)
        )
        return total

    def best(self) -> tuple[Array, float]:
        """The powers that cost least, and what they cost."""
        return self._settled(self.quick()[0], 2)

    def quick(self) -> tuple[Array, float]:
        """As best, with one light at a time run through its steps."""
        found = [self._settled(self._nearest(start), 1) for start in (self.now, *self._continuous())]
        return min(found, key=lambda pair: pair[1])

    def _continuous(self) -> list[Array]:
        """Powers between steps that meet the targets best, from where things stand and from the middle of all ranges."""
        if not self.free:
            return []
        low = np.array([self.notches[i][0] for i in self.free])
        high = np.array([self.notches[i][-1] for i in self.free])

        def off(some: Array) -> Array:
            powers = self.now.copy()
            powers[self.free] = some
            gaps = self.sums.gaps(self.sums.levels(powers[None], self.shift))[0] / self.sums.within
            return np.concatenate([gaps, STAY * (some - self.now[self.free])])

        def slopes(some: Array) -> Array:
            powers = self.now.copy()
            powers[self.free] = some
            counts = self.sums.gaps(self.sums.levels(powers[None], self.shift))[0] != 0
            steep = self.sums.slopes(powers, self.shift)[:, self.free] * (counts / self.sums.within)[:, None]
            return np.concatenate([steep, STAY * np.eye(len(self.free))])

        answers = []
        for start in (np.clip(self.now[self.free], low + 1e-6, high - 1e-6), (low + high) / 2):
            solved = least_squares(off, start, jac=slopes, bounds=(low - 1e-9, high + 1e-9), max_nfev=25)
            powers = self.now.copy()
            powers[self.free] = solved.x
            answers.append(powers)
        return answers

    def _nearest(self, powers: Array) -> Array:
        """Of the steps around continuous powers those that cost least."""
        if len(self.free) > AROUND_AT_MOST:
            return np.array(
                [dial.steps.notch(p) if not dial.fixed else dial.now for dial, p in zip(self.dials, powers, strict=True)]
            )
        choices = []
        for i, dial in enumerate(self.dials):
            if dial.fixed:
                choices.append([dial.now])
                continue
            at = int(np.searchsorted(self.notches[i], powers[i] - 1e-9))
            near = self.notches[i][max(0, at - 1) : at + 1].tolist()
            choices.append(sorted({*near, self.now[i]}))
        tried = np.array(list(itertools.product(*choices)))
        best: Array = tried[int(np.argmin(self.cost(tried)))]
        return best

    def _settled(self, powers: Array, at_once: int) -> tuple[Array, float]:
        """Every light, or all groups of up to so many, run through all their steps until nothing costs less."""
        powers = powers.copy()
        cost = float(self.cost(powers[None])[0])
        while True:
            before = cost
            for group in (group for size in range(1, at_once + 1) for group in itertools.combinations(self.free, size)):
                steps = np.array(list(itertools.product(*(self.notches[i] for i in group))))
                tried = np.repeat(powers[None], len(steps), axis=0)
                tried[:, group] = steps
                costs = self.cost(tried)
                k = int(np.argmin(costs))
                if costs[k] < cost - 1e-9:
                    powers, cost = tried[k], float(costs[k])
            if cost >= before - 1e-9:
                return powers, cost


def balance(targets: Sequence[LevelTarget], parts: Mapping[str, Array], dials: Sequence[Dial]) -> Balance:
    """Powers that meet levels as closely as the heads' steps allow.

    parts: by reading (1 + lights,): its level from the room, and from every dial's light at full power, linear, grey 0.18; of a light
    that is off 0. Of targets whose reading is not there nothing is said: leave them out.
    Source:     bounded least squares (trust region reflective) over stops; steps by exhaustive search around it.
    """
    sums = _sums(targets, parts, len(dials))
    search = _Search(sums, dials, 0.0)
    powers, cost = search.best()
    levels = sums.levels(powers[None])[0]
    met = np.abs(sums.gaps(levels[None])[0]) <= sums.within + 1e-9
    touched = {dial.key: float(power) for dial, power in zip(dials, powers, strict=True) if abs(power - dial.now) > 1e-9}
    bounds = tuple(_bound(int(k), targets, sums, dials, powers, levels) for k in np.flatnonzero(~met))
    return Balance(
        powers=touched, levels=tuple(map(float, levels)), met=tuple(map(bool, met)), cost=cost,
        aperture_stops=_healing(sums, dials, bounds) if bounds else None, first=_first(search, touched), bounds=bounds,
        all_powers={dial.key: float(power) for dial, power in zip(dials, powers, strict=True)},
    )  # fmt: skip


def _healing(sums: _Sums, dials: Sequence[Dial], bounds: Sequence[Bound]) -> float | None:
    """The least change of aperture or speed, in thirds, by which every target can be met: how much less light; None for none.

    Only heads at the end of their power are healed by it, all by about what they lack.
    """
    lacks = [bound.stops for bound in bounds]
    if not all(bound.key for bound in bounds) or (min(lacks) < 0 < max(lacks)):
        return None
    most = max(map(abs, lacks))
    sign = 1 if max(lacks) > 0 else -1
    first = max(1, math.ceil((most - float(sums.within.max())) * THIRDS - 1e-9))
    for third in range(first, math.ceil(most * THIRDS - 1e-9) + 2):
        if third > HEAL_STOPS * THIRDS:
            break
        search = _Search(sums, dials, -sign * third / THIRDS)
        powers, _ = search.quick()
        gaps = np.abs(sums.gaps(sums.levels(powers[None], search.shift))[0])
        if (gaps <= sums.within + 1e-9).all():
            return sign * third / THIRDS
    return None


def _first(search: _Search, touched: Mapping[str, float]) -> Touch | None:
    """Of all changes to one light the one that helps most; None where nothing need be touched."""
    if not touched:
        return None
    best: tuple[float, int, float] | None = None
    for i in search.free:
        tried = np.repeat(search.now[None], len(search.notches[i]), axis=0)
        tried[:, i] = search.notches[i]
        costs = search.cost(tried)
        k = int(np.argmin(costs))
        if best is None or costs[k] < best[0]:
            best = float(costs[k]), i, float(search.notches[i][k])
    assert best is not None
    _, i, power = best
    powers = search.now.copy()
    powers[i] = power
    gaps = np.abs(search.sums.gaps(search.sums.levels(powers[None], search.shift))[0])
    return Touch(key=search.dials[i].key, power_stops=power, met=int((gaps <= search.sums.within + 1e-9).sum()))


def _bound(
    k: int, targets: Sequence[LevelTarget], sums: _Sums, dials: Sequence[Dial], powers: Array, levels: Array
) -> Bound:
    """Why a target stays open."""
    gap = float(sums.gaps(levels[None])[0, k])
    size, bright = measured_stops(gap), gap > 0
    made = sums.parts[k] * 2.0**powers
    whole = float(made.sum() + sums.room[k])
    if whole <= DARK:
        return Bound(of=k, key="", stops=gap, words="no light that is on reaches it")
    if bright and sums.room[k] > whole / 2:
        words = f"the room's light alone is {size} stops too much: darken it, or a faster shutter"
        return Bound(of=k, key="", stops=gap, words=words)
    order = [int(i) for i in np.argsort(-made) if made[i] >= MEANS * whole]
    other = sums.over_parts[k] * 2.0**powers
    under = [int(i) for i in np.argsort(-other) if other[i] >= MEANS * float(other.sum() + sums.over_room[k])]
    for some, way in ((order, gap), (under if sums.is_ratio[k] else [], -gap)):
        for i in some:
            words = _at_its_end(dials[i], float(powers[i]), way)
            if words:
                return Bound(of=k, key=dials[i].key, stops=gap, words=words)
    if not order:
        return Bound(of=k, key="", stops=gap, words="no light that is on makes enough of it to be set by")
    shares = sums.parts * 2.0**powers / np.maximum(sums.parts @ 2.0**powers + sums.room, DARK)[:, None]
    against = tuple(j for j in range(len(targets)) if j != k and shares[j, order[0]] >= MEANS)
    words = (
        f"{dials[order[0]].name} makes {size} stops too {'much' if bright else 'little'} of it, and lights other wishes too"
    )
    return Bound(of=k, key="", stops=gap, against=against, words=words)


def _at_its_end(dial: Dial, power: float, gap: float) -> str:
    """What is told of a light that cannot go further the way it should; '' where it can."""
    size, bright = measured_stops(gap), gap > 0
    if dial.fixed:
        way = "further away, a net or a denser sheet" if bright else "closer, or set the others to it"
        return f"{dial.name} cannot be dimmed and leaves it {size} stops too {'bright' if bright else 'dark'}: {way}"
    notches = dial.notches()
    if bright and power <= notches[0] + 1e-9:
        return f"{dial.name} at its lowest power is {size} stops too strong: polariser or ND, a net, a denser sheet, further away"
    if not bright and power >= notches[-1] - 1e-9:
        pops = 2 ** math.ceil(-gap - 1e-9)
        return f"{dial.name} at full power is {size} stops too weak: closer, wider open, a higher ISO, or {pops} pops"
    return ""
