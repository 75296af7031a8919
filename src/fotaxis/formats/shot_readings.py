"""Readings in the shot file: the reading line's named companions, that stay attached to the product."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Union

from pydantic import Field, TypeAdapter

from fotaxis.core.frames.readings import READINGS, NamedReading
from fotaxis.core.frames.readings.reading import Reading
from fotaxis.formats.shot_parts import Key, Name, Part, part_of


class ReadingPart(Part):
    """A named reading that its kind makes of plain measures."""

    if TYPE_CHECKING:
        kind: str
        key: str
        name: str

    def value(self) -> Reading:
        made: Reading = READINGS[self.kind].make(self.model_dump())
        return made

    def named(self) -> NamedReading:
        return NamedReading(key=self.key, name=self.name, at=self.value())


if TYPE_CHECKING:
    AnyReading = ReadingPart
else:
    OWN = {"key": (Key, ...), "name": (Name, ...)}
    PARTS = [part_of(kind.key, kind.about, kind.measures, ReadingPart, own=OWN) for kind in READINGS.values()]
    AnyReading = Annotated[Union[*PARTS], Field(discriminator="kind")]

READING_LIST = TypeAdapter(list[AnyReading])
"""Readings of a document that was checked, by themselves."""
