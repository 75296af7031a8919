"""An even field or line: the label even to a third of a stop from top to bottom."""

from __future__ import annotations

from dataclasses import dataclass

from fotaxis.core.limits import require_finite
from fotaxis.core.stops import measured_stops
from fotaxis.core.wishes.wish import (
    MET,
    OPEN,
    UNMET,
    VISIBLE_STOPS,
    Figure,
    Judged,
    Seen,
    Wish,
    WishKind,
    missing,
    stops_within,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Even(Wish):
    """What a reading covers differs by no more than so many stops."""

    reading: str
    within: float

    def __post_init__(self) -> None:
        require_finite("evenness wished for", self.within, low=0.05, high=4, unit="stops")

    @property
    def words(self) -> str:
        return f"even within {measured_stops(self.within)} stops"

    def judge(self, seen: Seen) -> Judged:
        value = seen.values.get(self.reading)
        if value is None or value.uneven is None:
            return missing(seen.names, self.reading)
        figure = measured_stops(value.uneven)
        if value.uneven <= self.within:
            return Judged(state=MET, figure=figure, words=f"is even within {figure}")
        return Judged(state=OPEN, figure=figure, words=f"differs by {figure} stops")

    def lack(self, seen: Seen) -> float:
        value = seen.values.get(self.reading)
        return UNMET if value is None or value.uneven is None else max(0.0, value.uneven / self.within - 1)

    def figures(self, seen: Seen) -> tuple[Figure, ...]:
        value = seen.values.get(self.reading)
        if value is None or value.uneven is None:
            return ()
        return (Figure(name="how even it is", value=value.uneven, visible=VISIBLE_STOPS, unit="stops"),)


KIND = WishKind(
    key="even", about="What a reading covers is even within so many stops.", refs=("reading",), measures=(stops_within(0.35),),
    make=lambda v: Even(reading=v["reading"], within=v["within"]), add="Even", readings=("patch", "edge", "area", "frame area"),
)  # fmt: skip
