"""A level: label at 0, left line at +2, background at most -6, glow at least +1."""

from __future__ import annotations

from dataclasses import dataclass

from fotaxis.core.constants import DEEPEST_BLACK_STOPS
from fotaxis.core.limits import require_finite
from fotaxis.core.measures import Choice, Measure
from fotaxis.core.stops import BLACK, measured_stops, signed_stops
from fotaxis.core.wishes.wish import (
    MET,
    OPEN,
    SIDES,
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

SIDE_WITHIN = 0.05
"""At most and at least mean what they say, to what is shown of a level."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Level(Wish):
    """A reading's level in stops from middle grey; side: one of SIDES."""

    reading: str
    stops: float
    within: float
    side: str

    def __post_init__(self) -> None:
        require_finite("level wished for", self.stops, low=-16, high=8, unit="stops")
        require_finite("tolerance of a level", self.within, low=0.05, high=4, unit="stops")

    @property
    def target(self) -> LevelTarget:
        side = {"at": 0, "at most": -1, "at least": 1}[self.side]
        within = self.within if side == 0 else SIDE_WITHIN
        return LevelTarget(reading=self.reading, stops=self.stops, within=within, side=side)

    @property
    def words(self) -> str:
        if self.side == "at":
            return f"{signed_stops(self.stops)} stops, within {measured_stops(self.within)}"
        return f"{self.side} {signed_stops(self.stops)} stops"

    def judge(self, seen: Seen) -> Judged:
        now = lit(seen.values, self.reading)
        if now is None:
            return missing(seen.names, self.reading)
        gap = self.target.gap(now)
        figure = BLACK if now <= DEEPEST_BLACK_STOPS else signed_stops(now)
        if abs(gap) <= self.target.within:
            return Judged(state=MET, figure=figure, words=f"is {figure}")
        way = "too bright" if gap > 0 else "too dark"
        return Judged(state=OPEN, figure=figure, words=f"is {figure}: {measured_stops(gap)} stops {way}")

    def lack(self, seen: Seen) -> float:
        now = lit(seen.values, self.reading)
        return UNMET if now is None else max(0.0, abs(self.target.gap(now)) / self.target.within - 1)

    def figures(self, seen: Seen) -> tuple[Figure, ...]:
        now = lit(seen.values, self.reading)
        return () if now is None else (Figure(name="its level", value=now, visible=VISIBLE_STOPS, unit="stops"),)


KIND = WishKind(
    key="level", about="A reading at a level in stops from middle grey, or at most or at least there.", refs=("reading",),
    measures=(
        Measure(name="stops", words="Level", unit="stops", low=-16, high=8, usual=0, step=0.1),
        Choice(name="side", words="Side", choices=SIDES, usual="at"), stops_within(0.17),
    ),
    make=lambda v: Level(reading=v["reading"], stops=v["stops"], side=v["side"], within=v["within"]), add="A level",
    readings=("spot", "frame", "edge", "patch", "area", "frame area"),
)  # fmt: skip
