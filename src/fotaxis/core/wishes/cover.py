"""A highlight over an area: top, shoulder, rim, a flat face, a line of lettering, a patch of table."""

from __future__ import annotations

from dataclasses import dataclass

from fotaxis.core.frames.levels import percent
from fotaxis.core.frames.readings.area import AreaValue
from fotaxis.core.limits import require_finite
from fotaxis.core.measures import Measure
from fotaxis.core.wishes.wish import MET, OPEN, UNMET, Figure, Judged, Seen, Wish, WishKind, missing


@dataclass(frozen=True, slots=True, kw_only=True)
class Cover(Wish):
    """An area that mirrors a light, over so much of it at least."""

    reading: str
    share: float

    def __post_init__(self) -> None:
        require_finite("share of a highlight", self.share, low=0.05, high=1)

    @property
    def words(self) -> str:
        return f"a highlight over {percent(self.share)} of it"

    def judge(self, seen: Seen) -> Judged:
        value = seen.values.get(self.reading)
        if not isinstance(value, AreaValue) or value.covered is None:
            return missing(seen.names, self.reading)
        figure = percent(value.covered)
        if value.covered >= self.share:
            return Judged(state=MET, figure=figure, words=f"mirrors {value.of or 'light'} over {figure}")
        if not value.covered:
            return Judged(state=OPEN, figure=figure, words="mirrors no light")
        return Judged(state=OPEN, figure=figure, words=f"mirrors {value.of or 'light'} over {figure} only")

    def lack(self, seen: Seen) -> float:
        value = seen.values.get(self.reading)
        if not isinstance(value, AreaValue) or value.covered is None:
            return UNMET
        return UNMET * max(0.0, self.share - value.covered)

    def figures(self, seen: Seen) -> tuple[Figure, ...]:
        value = seen.values.get(self.reading)
        if not isinstance(value, AreaValue) or value.covered is None:
            return ()
        return (Figure(name="its cover", value=value.covered, visible=0.02, unit="share"),)


KIND = WishKind(
    key="cover", about="A highlight over an area: so much of it at least mirrors a light.", refs=("reading",),
    measures=(Measure(name="share", words="Over", unit="0–1", low=0.05, high=1, usual=0.9, step=0.05),),
    make=lambda v: Cover(reading=v["reading"], share=v["share"]), add="A highlight over it", readings=("area", "frame area"),
)  # fmt: skip
