"""The shot file: a JSON document that holds a whole set, version 2. Described in docs/shot-file.md.

Units are in the names: centimetres, degrees, millimetres, stops. A file that is wrong is refused with the place.
"""

from __future__ import annotations

import json
import math
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, ValidationError

from fotaxis.core.camera.camera import Camera
from fotaxis.core.camera.exposure import Exposure
from fotaxis.core.camera.sensor import USUAL_RANGE_STOPS, Sensor
from fotaxis.core.camera.tone import LEAST_WHITE, MOST_BLACK, WHITE, Tone
from fotaxis.core.errors import DomainError, FormatError
from fotaxis.core.frames.line_profile import ReadingLine
from fotaxis.core.frames.line_reading import usual_line
from fotaxis.core.frames.readings import NamedReading
from fotaxis.core.lights.heads import DAYLIGHT_K
from fotaxis.core.materials.catalogue import REAR_GLASS, TABLE_SKIN
from fotaxis.core.materials.material import Medium, Skin
from fotaxis.core.reckoner.asked import MOST_RECKONED
from fotaxis.core.scene.plan import Background, Plan, Riser, Table
from fotaxis.core.values import Point, Reflectance
from fotaxis.core.wishes.wish import NamedWish
from fotaxis.formats.shot_captures import MOST_CAPTURES, CapturePart, FinishPart, RetouchPart, ShootingPart
from fotaxis.formats.shot_lens import HazePart, LensPart
from fotaxis.formats.shot_light import AnyCard, AnyLight, Kelvin
from fotaxis.formats.shot_meter import LinePart, MeterOnSetPart
from fotaxis.formats.shot_parts import Key, Name, Number, Part, Positive, Triple, keepable, named
from fotaxis.formats.shot_readings import AnyReading
from fotaxis.formats.shot_reckoned import ReckonedPart
from fotaxis.formats.shot_subject import AnySubject, SkinPart
from fotaxis.formats.shot_wishes import AnyWish
from fotaxis.formats.wording import fault_words

FORMAT_NAME = "fotaxis-shot"
FORMAT_VERSION = 2
MAX_BYTES = 12_000_000
Surface = Annotated[str, *named(TABLE_SKIN, "surface")]


def _coloured(skin: Skin, colour: Triple | None) -> Skin:
    """A skin with another colour of its matte part; metals keep theirs."""
    if colour is None or skin.metal:
        return skin
    red, green, blue = colour
    return replace(skin, reflectance=Reflectance(red=red, green=green, blue=blue))


class TablePart(Part):
    """A flat top at height 0, its middle right of and in front of the product's axis.

    index: of its gloss in place of the named surface's (of its glass where that is painted behind), 0 for as named.
    colour: its matte part in place of the named surface's own. glass_mm: thickness of rear-painted glass. ripple_mm: height of
    the ripples of a water film; above_floor_cm: height of the top. sweep_cm: paper that bends up behind the product to this
    height, with a bend of bend_cm.
    """

    surface: Surface
    width_cm: Positive
    depth_cm: Positive
    colour: Triple | None = None
    glass_mm: Positive = 5.0
    ripple_mm: Annotated[float, Field(ge=0, le=5, allow_inf_nan=False)] = 0.06
    above_floor_cm: Annotated[float, Field(ge=0, le=300, allow_inf_nan=False)] = 75.0
    sweep_cm: Annotated[float, Field(ge=0, allow_inf_nan=False)] = 0.0
    bend_cm: Positive = 25.0
    drop_cm: Annotated[float, Field(ge=0, allow_inf_nan=False)] = 0.0
    front_bend_cm: Positive = 10.0
    right_cm: Number = 0.0
    front_cm: Number = 0.0
    index: Annotated[float, Field(ge=0, le=3, allow_inf_nan=False)] = 0.0

    def value(self) -> Table:
        skin = _coloured(TABLE_SKIN[self.surface].skin, self.colour)
        if self.index:
            skin = replace(skin, coat_index=self.index)
        if self.surface == "water film" and skin.relief:
            relief = replace(skin.relief, depth_m=self.ripple_mm / 1000) if self.ripple_mm else None
            skin = replace(skin, relief=relief)
        rear = self.surface == "rear-painted glass" and not self.sweep_cm
        return Table(
            skin=skin, width_m=self.width_cm / 100, depth_m=self.depth_cm / 100, rear_m=self.glass_mm / 1000 if rear else 0.0,
            medium=self._glass() if rear else None, above_floor_m=self.above_floor_cm / 100, sweep_m=self.sweep_cm / 100,
            bend_m=self.bend_cm / 100, drop_m=self.drop_cm / 100, front_bend_m=self.front_bend_cm / 100,
            x_m=self.right_cm / 100, z_m=self.front_cm / 100,
        )  # fmt: skip

    def _glass(self) -> Medium:
        return replace(REAR_GLASS, index=self.index) if self.index else REAR_GLASS


class RiserPart(Part):
    """A round block under the product, at least 0.1 cm high and wide. colour: its matte part in place of the surface's own."""

    height_cm: Positive
    diameter_cm: Positive
    surface: Surface = "black matte"
    colour: Triple | None = None

    def value(self) -> Riser:
        skin = _coloured(TABLE_SKIN[self.surface].skin, self.colour)
        return Riser(height_m=self.height_cm / 100, diameter_m=self.diameter_cm / 100, skin=skin)


class BackgroundPart(Part):
    """An upright plane behind the product."""

    distance_cm: Positive
    width_cm: Positive
    height_cm: Positive
    centre_height_cm: Number
    skin: SkinPart

    def value(self) -> Background:
        return Background(
            distance_m=self.distance_cm / 100, width_m=self.width_cm / 100, height_m=self.height_cm / 100,
            centre_height_m=self.centre_height_cm / 100, skin=self.skin.value(),
        )  # fmt: skip


class CameraPart(Part):
    """Camera on the product's axis plane: distance and height of the lens, point aimed at, sensor and crop.

    Shift: how far the frame lies off the lens's axis on the sensor, counted to where more is seen. Tilt and swing: the lens turned
    against the sensor, its top and its right side forward: the plane of focus comes nearer below and on the left.
    """

    distance_cm: Positive
    height_cm: Number
    side_cm: Number = 0.0
    aim_height_cm: Number
    aim_side_cm: Number = 0.0
    focal_length_mm: Positive
    sensor_width_mm: Positive = 36.0
    sensor_height_mm: Positive = 24.0
    crop_width: Positive = 4.0
    crop_height: Positive = 5.0
    shift_right_mm: Number = 0.0
    shift_up_mm: Number = 0.0
    tilt_deg: Number = 0.0
    swing_deg: Number = 0.0

    def value(self) -> Camera:
        return Camera(
            place=Point(x_m=self.side_cm / 100, y_m=self.height_cm / 100, z_m=self.distance_cm / 100),
            aim=Point(x_m=self.aim_side_cm / 100, y_m=self.aim_height_cm / 100, z_m=0.0),
            focal_length_m=self.focal_length_mm / 1000,
            sensor_width_m=self.sensor_width_mm / 1000, sensor_height_m=self.sensor_height_mm / 1000,
            crop_width=self.crop_width, crop_height=self.crop_height,
            shift_right_m=self.shift_right_mm / 1000, shift_up_m=self.shift_up_mm / 1000,
            tilt_rad=math.radians(self.tilt_deg), swing_rad=math.radians(self.swing_deg),
        )  # fmt: skip


class KeptCameraPart(Part):
    """A framing of the same set under a name of its own."""

    name: Name
    camera: CameraPart


class ExposurePart(Part):
    """ISO, shutter and aperture as exact values: f/5.6 is 5.656854..., 1/125 s is 0.0078125.

    white_k: colour temperature that is shown as white; range_stops: of the sensor, from clipping to its noise at ISO 100.
    black_point, white_point: output values that become 0 and 255 in what is delivered; soft_shoulder: what is too bright goes
    softly to white there. frames_per_s: of film, whose shutter angle is 360 times that times shutter_s; none for stills.
    """

    iso: Positive = 100.0
    shutter_s: Positive
    f_number: Positive
    sync_s: Positive = 2.0**-8
    white_k: Kelvin = DAYLIGHT_K
    range_stops: Annotated[float, Field(ge=5, le=18, allow_inf_nan=False)] = USUAL_RANGE_STOPS
    black_point: Annotated[int, Field(ge=0, le=MOST_BLACK)] = 0
    white_point: Annotated[int, Field(ge=LEAST_WHITE, le=WHITE)] = WHITE
    soft_shoulder: bool = False
    frames_per_s: Annotated[float, Field(gt=0, le=1000, allow_inf_nan=False)] | None = None

    def tone(self) -> Tone:
        return Tone(black=self.black_point, white=self.white_point, shoulder=self.soft_shoulder)

    def value(self) -> Exposure:
        if self.frames_per_s and self.shutter_s > 1 / self.frames_per_s * (1 + 1e-6):
            raise DomainError(
                f"at {self.frames_per_s:g} frames a second the shutter is open for 1/{self.frames_per_s:g} s at most (360°); "
                "shorten it, or take fewer frames."
            )
        return Exposure(iso=self.iso, shutter_s=self.shutter_s, f_number=self.f_number, sync_s=self.sync_s)


class ShotDocument(Part):
    """A whole shot. Lights stand in the order they were built."""

    format: Literal["fotaxis-shot"] = "fotaxis-shot"
    version: Literal[2] = 2
    name: Name
    note: Annotated[str, Field(max_length=4000), AfterValidator(keepable)] = ""
    subject: AnySubject
    others: Annotated[list[AnySubject], Field(max_length=11)] = []
    table: TablePart | None = None
    riser: RiserPart | None = None
    background: BackgroundPart | None = None
    camera: CameraPart
    cameras: Annotated[list[KeptCameraPart], Field(max_length=24)] = []
    lens: LensPart = LensPart()
    haze: HazePart | None = None
    exposure: ExposurePart
    room_lux: Annotated[float, Field(ge=0, le=200_000, allow_inf_nan=False)] = 0.0
    lights: Annotated[list[AnyLight], Field(max_length=24)] = []
    cards: Annotated[list[AnyCard], Field(max_length=24)] = []
    reading_line: LinePart | None = None
    readings: Annotated[list[AnyReading], Field(max_length=24)] = []
    wishes: Annotated[list[AnyWish], Field(max_length=24)] = []
    held: Annotated[list[Key], Field(max_length=24)] = []
    meter: MeterOnSetPart | None = None
    key_light: Annotated[str, Field(max_length=60)] = ""
    captures: Annotated[list[CapturePart], Field(max_length=MOST_CAPTURES)] = []
    finish: FinishPart = FinishPart()
    retouch: Annotated[list[RetouchPart], Field(max_length=200)] = []
    shooting: ShootingPart = ShootingPart()
    reckoned: Annotated[list[ReckonedPart], Field(max_length=MOST_RECKONED)] = []

    def line(self, plan: Plan) -> ReadingLine:
        """The reading line, where it was put or where it usually lies."""
        return self.reading_line.value() if self.reading_line else usual_line(plan)

    def named_readings(self) -> tuple[NamedReading, ...]:
        return tuple(one.named() for one in self.readings)

    def named_wishes(self) -> tuple[NamedWish, ...]:
        return tuple(one.value() for one in self.wishes)

    def plan(self, raw: dict[str, Any] | None = None, values: Values | None = None) -> Plan:
        """The checked set. Raises DomainError where values contradict each other.

        values: what parts of the parsed JSON `raw` came to is taken from there, and what is not there yet is kept there.
        """
        raw, values = raw or {}, values or Values()

        def each(name: str, parts: Sequence[Any]) -> tuple[Any, ...]:
            return tuple(
                values.of(one, part.value) for one, part in zip(_same_many(raw.get(name), parts), parts, strict=True)
            )

        return Plan(
            product=values.of(raw.get("subject"), lambda: self.subject.value(main=True)),
            others=each("others", self.others),
            table=values.of(raw.get("table"), self.table.value) if self.table else None,
            riser=values.of(raw.get("riser"), self.riser.value) if self.riser else None,
            background=values.of(raw.get("background"), self.background.value) if self.background else None,
            camera=self.lens.focused(self.camera.value()),
            before_lens=self.lens.value(),
            haze=self.haze.value() if self.haze else None,
            sensor=Sensor(range_stops=self.exposure.range_stops),
            exposure=self.exposure.value(),
            lights=each("lights", self.lights),
            cards=each("cards", self.cards),
            room_lux=self.room_lux,
            white_k=self.exposure.white_k,
            tone=self.exposure.tone(),
            meter=self.meter.value() if self.meter else None,
            key_light=self.key_light,
        )


def _same_many(raw: object, parts: Sequence[Any]) -> Sequence[object]:
    return raw if isinstance(raw, list) and len(raw) == len(parts) else [None] * len(parts)


class Values:
    """What parts of documents came to: a document that follows a hand shares all that did not change with the one before.

    By the very part, not by what it holds: parts must not be changed in place.
    """

    MOST = 128

    def __init__(self) -> None:
        self._of: dict[int, tuple[object, Any]] = {}

    def of(self, part: object, make: Callable[[], Any]) -> Any:
        found = self._of.get(id(part))
        if part is not None and found is not None and found[0] is part:
            return found[1]
        value = make()
        if isinstance(part, dict):
            if len(self._of) >= self.MOST:
                self._of.clear()
            self._of[id(part)] = part, value
        return value


def read(data: bytes) -> ShotDocument:
    """A shot document from a file's bytes, its set checked too.

    Raises FormatError with the place: not UTF-8, not JSON, another format or version, a wrong value.
    """
    if len(data) > MAX_BYTES:
        raise FormatError(f"the file has {len(data):,} bytes; a shot file has at most {MAX_BYTES:,}. Is it a picture?")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise FormatError(
            "this is not text, so it is not a shot file; choose a .json file that was exported here.",
            place=f"byte {error.start}",
        ) from error
    try:
        raw = json.loads(text, parse_constant=_refuse_constant)
    except json.JSONDecodeError as error:
        raise FormatError(
            "this is no whole shot file: here a comma, colon, bracket or quotation mark is missing or too many.",
            place=f"line {error.lineno}, column {error.colno}",
        ) from error
    except (RecursionError, ValueError) as error:  # too deep, or a number of thousands of digits
        raise FormatError("not a shot file: it is nested too deeply or holds an endless number.") from error
    return from_raw(raw)


def _refuse_constant(name: str) -> float:
    raise FormatError(f"{name} is not a number that can be measured; write a number.")


def from_raw(raw: object) -> ShotDocument:
    """A shot document from parsed JSON. Raises FormatError with the place of the first fault and how many there are."""
    return with_plan(raw)[0]


def with_plan(raw: object, values: Values | None = None) -> tuple[ShotDocument, Plan]:
    """A shot document from parsed JSON and its checked set. Raises FormatError as from_raw does. values: see ShotDocument.plan."""
    if not isinstance(raw, dict):
        raise FormatError("a shot file holds one JSON object with a format, a version and a subject.", place="top")
    if raw.get("format") != FORMAT_NAME:
        raise FormatError(f"this is not a shot file: its format must be {FORMAT_NAME!r}.", place="format")
    if raw.get("version") not in (1, FORMAT_VERSION):
        raise FormatError(
            f"version {str(raw.get('version'))[:20]!r} is not known here; this program reads versions 1 and {FORMAT_VERSION}.",
            place="version",
        )
    try:
        raw = upgraded(raw)
        document = ShotDocument.model_validate(raw)
    except ValidationError as error:
        faults = error.errors(include_url=False, include_context=True, include_input=True)
        raise _as_format_error(faults[0], len(faults)) from error
    try:
        plan = document.plan(raw, values)
        if document.reading_line:
            document.reading_line.value()
        for part in document.captures:
            for piece in part.mask:
                piece.value()
        lists: dict[str, Sequence[Any]] = {
            "readings": document.named_readings(), "wishes": document.named_wishes(), "captures": document.captures,
            "places to retouch": document.retouch, "calculations": document.reckoned,
        }  # fmt: skip
        for what, named in lists.items():
            if len({one.key for one in named}) < len(named):
                raise DomainError(f"two {what} share a key; keys must be distinct.")
    except DomainError as error:
        raise FormatError(str(error)) from error
    return document, plan


def upgraded(raw: dict[str, Any]) -> dict[str, Any]:
    """A document of version 1 as one of this version, and without gaps; others unchanged. Version 1 knew turned solids alone."""
    for name, part in (("lens", LensPart), ("finish", FinishPart), ("shooting", ShootingPart)):
        if name not in raw:
            raw = {**raw, name: part().model_dump(mode="json")}
    if raw.get("version") != 1:
        return raw
    subject = raw.get("subject")
    if isinstance(subject, dict):
        subject = {"kind": "turned", **subject}
    return {**raw, "version": FORMAT_VERSION, "subject": subject}


KINDS = {
    "panel", "grid head", "head", "guide number", "meter", "candela", "turned", "can", "ball", "box", "tube", "model", "sheet",
    "net", "sun", "scene", "brush", "gradient", "depth", "spot", "edge", "frame", "white card", "black card", "mirror card",
    "silver card", "satin silver card", "gold card",
}  # fmt: skip
"""Names that pydantic puts into the place of a fault where a kind is chosen."""


def _as_format_error(fault: Any, count: int) -> FormatError:
    steps = [step for step in fault["loc"] if step not in KINDS]
    place = ""
    for step in steps:
        place += f"[{step}]" if isinstance(step, int) else f".{step}" if place else str(step)
    given = fault["input"]
    shown = f" (it is {_plain(given)})" if isinstance(given, str | int | float | bool) and len(repr(given)) <= 40 else ""
    more = f" {count - 1} more places are wrong." if count > 2 else " One more place is wrong." if count == 2 else ""
    return FormatError(f"{fault_words(fault)}{shown}.{more}", place=place or "top")


def _plain(value: str | int | float | bool) -> str:
    """A value as the file has it."""
    return json.dumps(value, ensure_ascii=False)


def write(document: ShotDocument) -> bytes:
    """The bytes of a shot file; read(write(d)) == d and write(read(b)) == b for files written here."""
    return (json.dumps(document.model_dump(mode="json"), indent=2, ensure_ascii=False) + "\n").encode()


def json_schema() -> dict[str, Any]:
    """The published JSON Schema (draft 2020-12) of shot files."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Fotaxis shot file, version 2",
        **ShotDocument.model_json_schema(),
        "required": ["format", "version", "name", "subject", "camera", "exposure"],
    }
