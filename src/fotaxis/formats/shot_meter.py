"""The reading line and the meter of a shot file."""

from __future__ import annotations

from typing import Annotated

from pydantic import AfterValidator, Field

from fotaxis.core.frames.line_profile import ReadingLine
from fotaxis.core.scene.meter import SURFACE, Meter
from fotaxis.core.values import Point
from fotaxis.formats.shot_parts import Part, Triple, keepable


class LinePart(Part):
    """The reading line, ends in parts of the picture's width and height from its upper left corner; without one it lies across the
    product where that is bare."""

    x0: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = 0.0
    y0: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = 0.4
    x1: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = 1.0
    y1: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = 0.4

    def value(self) -> ReadingLine:
        return ReadingLine(x0=self.x0, y0=self.y0, x1=self.x1, y1=self.y1)


class PlacePart(Part):
    """A place on the set, centimetres: right of and in front of the axis, above the table."""

    x_cm: Annotated[float, Field(ge=-1000, le=1000, allow_inf_nan=False)]
    y_cm: Annotated[float, Field(ge=-1000, le=1000, allow_inf_nan=False)]
    z_cm: Annotated[float, Field(ge=-5000, le=1000, allow_inf_nan=False)]


class MeterOnSetPart(Part):
    """An incident meter set down on a surface: the place, the surface's unit normal, and on what. faces: surface, camera, or the key
    of a light; dome: a half ball as receptor instead of a flat disc."""

    place: PlacePart
    normal: Triple
    on: Annotated[str, Field(max_length=80), AfterValidator(keepable)] = ""
    dome: bool = False
    faces: Annotated[str, Field(max_length=60)] = SURFACE

    def value(self) -> Meter:
        x, y, z = self.normal
        place = Point(x_m=self.place.x_cm / 100, y_m=self.place.y_cm / 100, z_m=self.place.z_cm / 100)
        return Meter(place=place, normal=(x, y, z), on=self.on, dome=self.dome, faces=self.faces)
