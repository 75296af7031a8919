"""An absence: no line here."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from fotaxis.core.frames.levels import percent
from fotaxis.core.frames.readings.edge import LineValue
from fotaxis.core.frames.readings.reading import Value
from fotaxis.core.wishes.wish import MET, OPEN, Judged, Wish, WishKind, missing

LEAST = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class Absent(Wish):
    """A line that must not be there."""

    reading: str

    @property
    def words(self) -> str:
        return "nothing mirrored there"

    def judge(self, values: Mapping[str, Value | None], names: Mapping[str, str]) -> Judged:
        if self.reading not in names:
            return missing(names, self.reading)
        value = values.get(self.reading)
        if not isinstance(value, LineValue) or value.found < LEAST:
            return Judged(state=MET, figure="none", words="nothing is mirrored there")
        of = next((run.of for run in value.runs if run.of), "something")
        words = f"{of} is mirrored over {percent(value.found)} of its height, {value.short}"
        return Judged(state=OPEN, figure=percent(value.found), words=words)


KIND = WishKind(
    key="absent", about="No bright line where a line is read.", refs=("reading",), measures=(),
    make=lambda v: Absent(reading=v["reading"]), add="No line there", readings=("edge",),
)  # fmt: skip
