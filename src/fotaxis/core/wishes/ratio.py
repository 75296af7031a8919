"""One level over another: left = right, rim 1⅓ over the key."""

from __future__ import annotations

from dataclasses import dataclass

from fotaxis.core.constants import DEEPEST_BLACK_STOPS
from fotaxis.core.errors import DomainError
from fotaxis.core.limits import require_finite
from fotaxis.core.measures import Measure
from fotaxis.core.stops import measured_stops, over_or_under, stops_name
from fotaxis.core.wishes.wish import (
    MET,
    OPEN,
    UNMET,
    VISIBLE_STOPS,
    Figure,
    Judged,
    LevelTarget,
    Seen,
    Wish,
    WishKind,
    lit,
    missing,
    stops_within,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Ratio(Wish):
    """A reading so many stops over another."""

    reading: str
    over: str
    stops: float
    within: float

    def __post_init__(self) -> None:
        require_finite("ratio wished for", self.stops, low=-12, high=12, unit="stops")
        require_finite("tolerance of a ratio", self.within, low=0.05, high=4, unit="stops")
        if self.reading == self.over:
            raise DomainError("a ratio needs two readings; choose another one of them.")

    @property
    def target(self) -> LevelTarget:
        return LevelTarget(reading=self.reading, over=self.over, stops=self.stops, within=self.within)

    @property
    def words(self) -> str:
        by = "equal" if self.stops == 0 else f"{over_or_under(self.stops)} the other"
        return f"{by}, within {measured_stops(self.within)}"

    def judge(self, seen: Seen) -> Judged:
        one, other = lit(seen.values, self.reading), lit(seen.values, self.over)
        if one is None or other is None:
            return missing(seen.names, self.reading, self.over)
        if max(one, other) <= DEEPEST_BLACK_STOPS:
            return Judged(state=OPEN, figure="—", words="both are black")
        now = one - other
        gap = now - self.stops
        figure = stops_name(now)
        if abs(gap) <= self.within:
            return Judged(state=MET, figure=figure, words=f"is {figure}")
        way = "too much" if gap > 0 else "too little"
        return Judged(state=OPEN, figure=figure, words=f"is {figure}: {measured_stops(gap)} stops {way}")

    def lack(self, seen: Seen) -> float:
        one, other = lit(seen.values, self.reading), lit(seen.values, self.over)
        return UNMET if one is None or other is None else max(0.0, abs(one - other - self.stops) / self.within - 1)

    def figures(self, seen: Seen) -> tuple[Figure, ...]:
        one, other = lit(seen.values, self.reading), lit(seen.values, self.over)
        if one is None or other is None:
            return ()
        return (Figure(name="one over the other", value=one - other, visible=VISIBLE_STOPS, unit="stops"),)


KIND = WishKind(
    key="ratio", about="A reading so many stops over another one; 0: both equal.", refs=("reading", "over"),
    measures=(Measure(name="stops", words="Over", unit="stops", low=-12, high=12, usual=0, step=0.1), stops_within(0.17)),
    make=lambda v: Ratio(reading=v["reading"], over=v["over"], stops=v["stops"], within=v["within"]), add="One over another",
    readings=("spot", "frame", "edge", "patch", "area", "frame area"),
)  # fmt: skip
