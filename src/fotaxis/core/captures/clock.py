"""When each step of a shoot is: from what is touched, what the exposure takes, and how long this studio has taken before."""

from __future__ import annotations

import statistics
from collections.abc import Sequence
from dataclasses import dataclass

from fotaxis.core.errors import DomainError

STEP_S, TOUCH_S = 45.0, 25.0
"""A frame taken and looked at, and a touch of the set. Common practice; the studio's own history replaces them."""

LEAST_HISTORY = 3
SLOWEST, FASTEST = 8.0, 0.2


@dataclass(frozen=True, slots=True, kw_only=True)
class Took:
    """A step that was shot: what it was reckoned to take by the constants, and what it took, seconds."""

    reckoned_s: float
    took_s: float


def reckoned_s(*, touch_cost: float, exposure_s: float = 0.0, pops: int = 1, recycle_s: float = 0.0) -> float:
    """Seconds of a step:  45 + 25 touches + exposure + (pops - 1) recycle.   Source: common practice.

    Raises DomainError for negative values.
    """
    if touch_cost < 0 or exposure_s < 0 or pops < 1 or recycle_s < 0:
        raise DomainError(f"a step cannot take {touch_cost=} touches, {exposure_s=} s, {pops=} flashes, {recycle_s=} s.")
    return STEP_S + TOUCH_S * touch_cost + exposure_s + (pops - 1) * recycle_s


def pace_of(history: Sequence[Took]) -> float:
    """How many times as long as reckoned this studio takes: the median of its steps, 1 before there are three of them."""
    ratios = [one.took_s / one.reckoned_s for one in history if one.reckoned_s > 0 and one.took_s > 0]
    if len(ratios) < LEAST_HISTORY:
        return 1.0
    return min(max(statistics.median(ratios), FASTEST), SLOWEST)


@dataclass(frozen=True, slots=True, kw_only=True)
class Slot:
    """When a step begins and ends, seconds after midnight."""

    begin_s: float
    end_s: float


def timetable(seconds: Sequence[float], *, begin_s: float) -> list[Slot]:
    """Steps one after the other."""
    slots, at = [], begin_s
    for took in seconds:
        slots.append(Slot(begin_s=at, end_s=at + took))
        at += took
    return slots


def clock_name(seconds: float) -> str:
    """A time of day as 14:05, rounded to the minute."""
    minutes = round(seconds / 60) % (24 * 60)
    return f"{minutes // 60:02d}:{minutes % 60:02d}"


def seconds_of(clock: str) -> float | None:
    """Seconds after midnight of 14:05; None for ''. Raises DomainError for what is no time of day."""
    if not clock:
        return None
    hour, _, minute = clock.partition(":")
    if not (hour.isdecimal() and minute.isdecimal() and int(hour) < 24 and int(minute) < 60):
        raise DomainError(f"{clock[:20]!r} is no time of day; write it as 14:05.")
    return int(hour) * 3600.0 + int(minute) * 60.0
