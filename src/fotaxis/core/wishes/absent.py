"""An absence: no line here, nothing mirrored there."""

from __future__ import annotations

from dataclasses import dataclass

from fotaxis.core.frames.levels import percent
from fotaxis.core.frames.readings.area import AreaValue
from fotaxis.core.frames.readings.edge import LineValue
from fotaxis.core.wishes.wish import MET, OPEN, Judged, Seen, Wish, WishKind, missing

LEAST = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class Absent(Wish):
    """A line or an image that must not be there."""

    reading: str

    @property
    def words(self) -> str:
        return "nothing mirrored there"

    def judge(self, seen: Seen) -> Judged:
        if self.reading not in seen.names:
            return missing(seen.names, self.reading)
        value = seen.values.get(self.reading)
        if isinstance(value, AreaValue):
            return self._in_area(value)
        if not isinstance(value, LineValue) or value.found < LEAST:
            return Judged(state=MET, figure="none", words="nothing is mirrored there")
        of = next((run.of for run in value.runs if run.of), "something")
        words = f"{of} is mirrored over {percent(value.found)} of its height, {value.short}"
        return Judged(state=OPEN, figure=percent(value.found), words=words)

    def _in_area(self, value: AreaValue) -> Judged:
        share = value.covered or 0.0
        if share < LEAST:
            return Judged(state=MET, figure="none", words="nothing is mirrored there")
        words = f"{value.of or 'something'} is mirrored over {percent(share)} of it"
        return Judged(state=OPEN, figure=percent(share), words=words)


KIND = WishKind(
    key="absent", about="No bright line where a line is read, nothing bright mirrored in an area.", refs=("reading",), measures=(),
    make=lambda v: Absent(reading=v["reading"]), add="Nothing mirrored there", readings=("edge", "area"),
)  # fmt: skip
