"""Captures, their masks, what the composite is developed to, and places to retouch, in the shot file."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import AfterValidator, Field, TypeAdapter

from fotaxis.core.camera.tone import LEAST_WHITE, MOST_BLACK, WHITE, Tone
from fotaxis.core.captures.composite import MOST_STOPS
from fotaxis.core.captures.masks import (
    LEAST_RADIUS,
    MOST_FEATHER_MM,
    MOST_RADIUS,
    MOST_STROKE,
    BrushPart,
    DepthPart,
    GradientPart,
    MaskPart,
    ScenePart,
)
from fotaxis.formats.shot_light import Kelvin
from fotaxis.formats.shot_parts import Key, Name, Part, Positive, keepable

MOST_CAPTURES = 24
Place = Annotated[list[Annotated[float, Field(ge=-1, le=2, allow_inf_nan=False)]], Field(min_length=2, max_length=2)]
Stops = Annotated[float, Field(ge=-12, le=0, allow_inf_nan=False)]


class MaskBase(Part):
    """how: it adds to the parts before it, or takes from them. feather_mm: of the product, from a tenth to nine tenths."""

    how: Literal["add", "take"] = "add"
    invert: bool = False
    feather_mm: Annotated[float, Field(ge=0, le=MOST_FEATHER_MM, allow_inf_nan=False)] = 2.0


class SceneMaskPart(MaskBase):
    """An area of the set: product, zone, paper, metal, glass, liquid, table, background, beside, left, right, or a thing's key."""

    kind: Literal["scene"] = "scene"
    area: Annotated[str, Field(min_length=1, max_length=60), AfterValidator(keepable)]
    zone: Annotated[str, Field(max_length=80), AfterValidator(keepable)] = ""

    def value(self) -> MaskPart:
        return ScenePart(how=self.how, invert=self.invert, feather_mm=self.feather_mm, area=self.area, zone=self.zone)


class BrushMaskPart(MaskBase):
    """A stroke: places in parts of the frame, radius in parts of its width, hard: share of the radius that is full."""

    kind: Literal["brush"] = "brush"
    feather_mm: Annotated[float, Field(ge=0, le=MOST_FEATHER_MM, allow_inf_nan=False)] = 0.0
    points: Annotated[list[Place], Field(min_length=1, max_length=MOST_STROKE)]
    radius: Annotated[float, Field(ge=LEAST_RADIUS, le=MOST_RADIUS, allow_inf_nan=False)] = 0.03
    hard: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = 0.5

    def value(self) -> MaskPart:
        points = tuple((x, y) for x, y in self.points)
        return BrushPart(
            how=self.how, invert=self.invert, feather_mm=self.feather_mm, points=points, radius=self.radius, hard=self.hard
        )


class GradientMaskPart(MaskBase):
    """All at its beginning, nothing at its end and beyond; both in parts of the frame."""

    kind: Literal["gradient"] = "gradient"
    feather_mm: Annotated[float, Field(ge=0, le=MOST_FEATHER_MM, allow_inf_nan=False)] = 0.0
    begin: Place
    end: Place

    def value(self) -> MaskPart:
        return GradientPart(
            how=self.how, invert=self.invert, feather_mm=self.feather_mm, begin=(self.begin[0], self.begin[1]),
            end=(self.end[0], self.end[1]),
        )  # fmt: skip


class DepthMaskPart(MaskBase):
    """What lies between two distances from the lens, along its axis; far_cm null: and all beyond."""

    kind: Literal["depth"] = "depth"
    near_cm: Annotated[float, Field(ge=0, allow_inf_nan=False)] = 0.0
    far_cm: Positive | None = None

    def value(self) -> MaskPart:
        far = math.inf if self.far_cm is None else self.far_cm / 100
        return DepthPart(how=self.how, invert=self.invert, feather_mm=self.feather_mm, near_m=self.near_cm / 100, far_m=far)


AnyMaskPart = Annotated[SceneMaskPart | BrushMaskPart | GradientMaskPart | DepthMaskPart, Field(discriminator="kind")]
MASK_LIST: TypeAdapter[list[AnyMaskPart]] = TypeAdapter(list[AnyMaskPart])


class CapturePart(Part):
    """One exposure of the set. lights: what is on, by key, at its power in stops from full.

    away: keys of what is lifted away (cards, lights, things, or `product`, `riser`, `table`, `background`); poured: is liquid in
    the glass; wet: water, droplets or a splash on the product, splash: something flies. framing: name of a kept framing, '' for
    the shot's own camera (locked). after: keys of captures that must be shot before this one. blend, strength_stops, good_half,
    flipped, mask: how it goes into the composite; shown: is it in it.
    """

    key: Key
    name: Name
    lights: Annotated[dict[Key, Stops], Field(max_length=24)] = {}
    iso: Positive = 100.0
    shutter_s: Positive
    f_number: Positive
    focus: Literal["aim", "distance", "all sharp"] = "aim"
    focus_cm: Positive | None = None
    polariser_deg: Annotated[float, Field(ge=-180, le=180, allow_inf_nan=False)] | None = None
    framing: Annotated[str, Field(max_length=80)] = ""
    away: Annotated[list[Key], Field(max_length=80)] = []
    poured: bool = True
    wet: bool = False
    splash: bool = False
    blend: Literal["sum", "lightest", "over"] = "sum"
    strength_stops: Annotated[float, Field(ge=-12, le=MOST_STOPS, allow_inf_nan=False)] = 0.0
    good_half: Literal["", "left", "right"] = ""
    flipped: bool = False
    shown: bool = True
    mask: Annotated[list[AnyMaskPart], Field(max_length=24)] = []
    after: Annotated[list[Key], Field(max_length=24)] = []
    hands: Annotated[str, Field(max_length=120), AfterValidator(keepable)] = ""
    note: Annotated[str, Field(max_length=1000), AfterValidator(keepable)] = ""


class FinishPart(Part):
    """How the composite is developed: black and white point, shoulder, and a white of its own (None: as the exposures have it)."""

    black_point: Annotated[int, Field(ge=0, le=MOST_BLACK)] = 0
    white_point: Annotated[int, Field(ge=LEAST_WHITE, le=WHITE)] = WHITE
    soft_shoulder: bool = True
    white_k: Kelvin | None = None
    school: Literal["one frame", "one per part"] = "one per part"

    def tone(self) -> Tone:
        return Tone(black=self.black_point, white=self.white_point, shoulder=self.soft_shoulder)


class RetouchPart(Part):
    """A place to retouch in the merged picture, in parts of it."""

    key: Key
    what: Literal["dust", "seam", "card seen", "join", "print", "other"] = "dust"
    x: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
    y: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
    note: Annotated[str, Field(max_length=200), AfterValidator(keepable)] = ""
    done: bool = False


class ShootingPart(Part):
    """When it is shot: begin and the client's arrival as hour and minute, '' where nothing is
    planned; guide: a frame with everything at the end; background_plate: one without the product."""

    begin: Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$|^$")] = ""
    client: Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$|^$")] = ""
    guide: bool = True
    background_plate: bool = False
