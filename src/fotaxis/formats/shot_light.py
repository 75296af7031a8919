"""Lights, cards, sheets and nets in the shot file."""

from __future__ import annotations

import datetime
import math
from typing import TYPE_CHECKING, Annotated, Literal, Union

from pydantic import AfterValidator, Field

from fotaxis.core.errors import DomainError
from fotaxis.core.lights.beam_patterns import FLAT_TOP, TABLE, Pattern
from fotaxis.core.lights.calibration import Calibration, Candela, GuideNumber, MeterReading
from fotaxis.core.lights.fixtures import MOST_POPS, MOST_WAY, Card, Emission, Lamp, Light, Stance, sun_lamp
from fotaxis.core.lights.gels import COLDEST_K, GEL, HOTTEST_K, MOST_GELS, known_gels
from fotaxis.core.lights.gobos import Gate
from fotaxis.core.lights.heads import DAYLIGHT_K, HEAD, HEADS, Head
from fotaxis.core.lights.modifiers import MODIFIERS
from fotaxis.core.lights.modifiers.head import MEASURED
from fotaxis.core.lights.modifiers.kind import CARDS, LIGHTS, ModifierKind, Placed
from fotaxis.core.lights.power import PowerRange
from fotaxis.core.lights.sun import Sun, sun_at
from fotaxis.core.values import Point
from fotaxis.formats.shot_parts import Key, Name, Number, Part, Positive, Share, keepable, named, part_of

MEASURED_FACE_CM = 10.0
HeadName = Annotated[str, *named([*(head.name for head in HEADS), MEASURED], "head")]
GelName = Annotated[str, *named(GEL, "gel")]
Kelvin = Annotated[float, Field(ge=COLDEST_K, le=HOTTEST_K, allow_inf_nan=False)]
Degrees = Annotated[float, Field(ge=0, le=90, allow_inf_nan=False)]


class PointCm(Part):
    """A place: x right as the camera sees it, y up from the table, z towards the camera; centimetres."""

    x_cm: Number
    y_cm: Number
    z_cm: Number

    def value(self) -> Point:
        return Point(x_m=self.x_cm / 100, y_m=self.y_cm / 100, z_m=self.z_cm / 100)


class GuideNumberPart(Part):
    """Full-power guide number, metres at ISO 100."""

    kind: Literal["guide number"]
    metres: Positive

    def value(self) -> Calibration:
        return GuideNumber(metres=self.metres)


class MeterPart(Part):
    """One incident reading on the light's axis."""

    kind: Literal["meter"]
    distance_cm: Positive
    f_number: Positive
    iso: Positive = 100.0
    power_stops: Number = 0.0
    dome: bool = False
    shutter_s: Positive | None = None

    def value(self) -> Calibration:
        return MeterReading(
            distance_m=self.distance_cm / 100, f_number=self.f_number, iso=self.iso, power_stops=self.power_stops,
            dome=self.dome, shutter_s=self.shutter_s,
        )  # fmt: skip


class CandelaPart(Part):
    """Intensity on the axis at full power: candela for continuous light, candela seconds for flash."""

    kind: Literal["candela"]
    candela: Positive

    def value(self) -> Calibration:
        return Candela(value=self.candela)


AnyCalibration = Annotated[GuideNumberPart | MeterPart | CandelaPart, Field(discriminator="kind")]


Group = Annotated[str, Field(max_length=40), AfterValidator(keepable)]
OfKit = Annotated[str, Field(max_length=60), AfterValidator(keepable)]


class AimPart(PointCm):
    """What a thing stays aimed at while either is moved: a place, `camera`, or the key of a light, card or sheet; source: of a card or
    mirror the light that it throws there. Turn and tilt follow from it."""

    x_cm: Number = 0.0
    y_cm: Number = 0.0
    z_cm: Number = 0.0
    at: Annotated[str, Field(max_length=60)] = "place"
    on: Annotated[str, Field(max_length=80), AfterValidator(keepable)] = ""
    source: Annotated[str, Field(max_length=60)] = ""


class ThingPart(Part):
    """What every movable thing has: key, name, place of its middle, turn and tilt in degrees; pair: key of the thing on the other
    side that stays its mirror image; own, stand: what it is in the studio's kit, and the stand it is on, by their names there.

    Turn 0 looks towards the camera, positive turns its front to the right as the camera sees it; positive tilt lifts
    its front.
    """

    key: Key
    name: Name
    place: PointCm
    turn_deg: Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)]
    tilt_deg: Annotated[float, Field(ge=-90, le=90, allow_inf_nan=False)] = 0.0
    pair: Key | None = None
    aim: AimPart | None = None
    own: OfKit = ""
    stand: OfKit = ""

    def stance(self) -> Stance:
        return Stance(place=self.place.value(), turn_rad=math.radians(self.turn_deg), tilt_rad=math.radians(self.tilt_deg))


class LightPart(ThingPart):
    """What every light has. colour_k: colour temperature of the bare head; hue_deg, saturation: of a coloured LED in its place;
    gels: names in the order the light passes; group: lights of one name are switched and set together; own_head: its head
    in the studio's kit, by its name there.
    """

    power_stops: Number
    lowest_stops: int = 7
    steps_per_stop: int = 3
    on: bool = True
    continuous: bool = False
    group: Group = ""
    own_head: OfKit = ""
    colour_k: Kelvin = DAYLIGHT_K
    hue_deg: Annotated[float, Field(ge=0, le=360, allow_inf_nan=False)] | None = None
    saturation: Share = 1.0
    gels: Annotated[list[GelName], Field(max_length=MOST_GELS)] = []
    calibration: AnyCalibration

    def emission(self) -> Emission:
        return Emission(
            calibration=self.calibration.value(), power_stops=self.power_stops, on=self.on, continuous=self.continuous,
            colour_k=self.colour_k, gels=known_gels(tuple(self.gels)), hue_rad=self.hue_rad(), saturation=self.saturation,
            power_range=PowerRange(lowest_stops=self.lowest_stops, steps_per_stop=self.steps_per_stop),
        )  # fmt: skip

    def hue_rad(self) -> float | None:
        return None if self.hue_deg is None else math.radians(self.hue_deg)


class MeasuredPart(Part):
    """A measured lamp: candela at angles off its axis, round about it the same; it burns on."""

    angles_deg: Annotated[list[Degrees], Field(min_length=2, max_length=200)]
    candela: Annotated[list[Annotated[float, Field(ge=0, le=1e9, allow_inf_nan=False)]], Field(min_length=2, max_length=200)]

    def head(self, diameter_m: float) -> Head:
        """The lamp as a kind of head. Raises DomainError where angles and intensities do not make a lamp."""
        if len(self.angles_deg) != len(self.candela) or sorted(set(self.angles_deg)) != self.angles_deg:
            raise DomainError("a measured lamp needs one intensity for every angle, the angles rising from one to the next.")
        if self.angles_deg[0] != 0 or not self.candela[0] > 0:
            raise DomainError("a measured lamp's first angle is 0, and it shines there.")
        table = tuple(math.radians(a) for a in self.angles_deg), tuple(c / self.candela[0] for c in self.candela)
        return Head(
            name=MEASURED, words="", diameter_m=diameter_m, pattern=Pattern(kind=TABLE, table=table), candela=self.candela[0]
        )


class GatePart(Part):
    """Blades and a mask in the gate of a focusing spot.

    blades_percent: pushed in from the left, right, top and bottom, seen from behind the head; the image is reversed.
    """

    blades_percent: Annotated[
        list[Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)]], Field(min_length=4, max_length=4)
    ]
    mask: Literal["open", "window", "slats", "leaves", "dots"] = "open"
    focus_cm: Positive = 150.0
    blur_percent: Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)] = 2.0

    def value(self) -> Gate:
        left, right, top, bottom = (part / 100 for part in self.blades_percent)
        return Gate(
            blades=(left, right, top, bottom), mask=self.mask, focus_m=self.focus_cm / 100, blur=self.blur_percent / 100
        )


class MovePart(Part):
    """Where a lamp is moved to, and how it is turned there."""

    place: PointCm
    turn_deg: Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)]
    tilt_deg: Annotated[float, Field(ge=-90, le=90, allow_inf_nan=False)] = 0.0

    def value(self) -> Stance:
        return Stance(place=self.place.value(), turn_rad=math.radians(self.turn_deg), tilt_rad=math.radians(self.tilt_deg))


Percent = Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)]
Door = Annotated[float, Field(ge=-15, le=90, allow_inf_nan=False)]


class HeadPart(LightPart):
    """A head of a named kind, or a measured lamp. What is left out is as usual for the kind: brightness, colour, face, whether
    it burns on.

    dish_diameter_cm: of its face; grid_angle_deg: 0 for none; doors_deg: barn doors left, right, top, bottom, off the axis;
    gate: of a focusing spot; to: where it is moved to during the exposure, by way of the points in `via`; lit_from_percent,
    lit_to_percent: the part of its way on which it shines; pops: flashes of one exposure.
    """

    kind: Literal["head"]
    head: HeadName
    measured: MeasuredPart | None = None
    dish_diameter_cm: Positive | None = None
    grid_angle_deg: Degrees = 0.0
    doors_deg: Annotated[list[Door], Field(min_length=4, max_length=4)] | None = None
    gate: GatePart | None = None
    to: MovePart | None = None
    via: Annotated[list[MovePart], Field(max_length=MOST_WAY - 1)] = []
    lit_from_percent: Percent = 0.0
    lit_to_percent: Percent = 100.0
    pops: Annotated[int, Field(ge=1, le=MOST_POPS)] = 1
    continuous: bool | None = None  # type: ignore[assignment]
    colour_k: Kelvin | None = None  # type: ignore[assignment]
    calibration: AnyCalibration | None = None  # type: ignore[assignment]

    def value(self) -> Light:
        head = self._kind()
        own: Calibration = Candela(value=head.candela) if head.continuous else GuideNumber(metres=head.guide_number_m)
        emission = Emission(
            calibration=self.calibration.value() if self.calibration else own, power_stops=self.power_stops, on=self.on,
            continuous=head.continuous if self.continuous is None else self.continuous,
            colour_k=self.colour_k or head.colour_k, gels=known_gels(tuple(self.gels)), hue_rad=self.hue_rad(),
            saturation=self.saturation,
            power_range=PowerRange(lowest_stops=self.lowest_stops, steps_per_stop=self.steps_per_stop),
        )  # fmt: skip
        diameter = self.dish_diameter_cm / 100 if self.dish_diameter_cm else head.diameter_m
        return Lamp(
            key=self.key, name=self.name, stance=self.stance(), head=head, diameter_m=diameter,
            grid_angle_rad=math.radians(self.grid_angle_deg), doors=self._doors(), way=self._way(),
            lit=(self.lit_from_percent / 100, self.lit_to_percent / 100),
            gate=self.gate.value() if self.gate and head.pattern.kind == FLAT_TOP else None,
            pops=1 if emission.continuous else self.pops, emission=emission,
        )  # fmt: skip

    def _way(self) -> tuple[Stance, ...]:
        return tuple(point.value() for point in (*self.via, self.to)) if self.to else ()

    def _doors(self) -> tuple[float, float, float, float] | None:
        if self.doors_deg is None:
            return None
        left, right, top, bottom = (math.radians(door) for door in self.doors_deg)
        return left, right, top, bottom

    def _kind(self) -> Head:
        if self.head != MEASURED:
            return HEAD[self.head]
        if self.measured is None:
            raise DomainError(
                f"{self.name} is a measured lamp without its measurement; bring in its file, or choose a head."
            )
        return self.measured.head((self.dish_diameter_cm or MEASURED_FACE_CM) / 100)


SUN_AWAY_M = 60.0
"""The sun is put so far away: over a set its light is parallel to half a degree, less than it is wide."""


class SunPart(Part):
    """The sun in a clear sky at a place, date and hour.

    hour: of Universal Time; longitude east positive; looks_deg: bearing the camera looks along, clockwise from north.
    """

    kind: Literal["sun"]
    key: Key
    name: Name
    latitude_deg: Annotated[float, Field(ge=-90, le=90, allow_inf_nan=False)]
    longitude_deg: Annotated[float, Field(ge=-180, le=180, allow_inf_nan=False)]
    date: datetime.date
    hour: Annotated[float, Field(ge=0, lt=24, allow_inf_nan=False)]
    looks_deg: Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)] = 0.0
    power_stops: Annotated[float, Field(ge=-10, le=0, allow_inf_nan=False)] = 0.0
    on: bool = True
    group: Group = ""
    own_head: OfKit = ""
    gels: Annotated[list[GelName], Field(max_length=MOST_GELS)] = []

    def sun(self) -> Sun:
        """Where it stands then. Raises DomainError for a date that is not known."""
        seconds = round(self.hour * 3600)
        moment = datetime.datetime(self.date.year, self.date.month, self.date.day, tzinfo=datetime.UTC)
        return sun_at(
            latitude_deg=self.latitude_deg,
            longitude_deg=self.longitude_deg,
            when=moment + datetime.timedelta(seconds=seconds),
        )

    def value(self) -> Light:
        sun = self.sun()
        candela = max(sun.illuminance_lux, 1e-3) * SUN_AWAY_M**2
        emission = Emission(
            calibration=Candela(value=candela), power_stops=self.power_stops, on=self.on and sun.elevation_rad > 0, continuous=True,
            colour_k=max(sun.colour_k, COLDEST_K), gels=known_gels(tuple(self.gels)),
            power_range=PowerRange(lowest_stops=10, steps_per_stop=3),
        )  # fmt: skip
        side = sun.bearing_rad - math.radians(self.looks_deg)
        return sun_lamp(key=self.key, name=self.name, sun=sun, side_rad=side, away_m=SUN_AWAY_M, emission=emission)


class MeasuredLight(LightPart):
    """A light that its kind makes of plain measures."""

    if TYPE_CHECKING:
        kind: str

    def value(self) -> Light:
        make = MODIFIERS[self.kind].make_light
        assert make is not None, "told by measures alone"
        light: Light = make(Placed(key=self.key, name=self.name, stance=self.stance()), self.emission(), self.model_dump())
        return light


class MeasuredCard(ThingPart):
    """A card, sheet or net that its kind makes of plain measures."""

    if TYPE_CHECKING:
        kind: str

    def value(self) -> Card:
        card = MODIFIERS.get(self.kind) or MODIFIERS["card"]
        assert card.make is not None, "told by measures alone"
        made: Card = card.make(Placed(key=self.key, name=self.name, stance=self.stance()), self.model_dump())
        return made


OWN_PARTS: dict[str, type[Part]] = {"head": HeadPart, "sun": SunPart}
"""Kinds that hold more than plain measures."""


def _parts(group: str, base: type[ThingPart]) -> list[type[Part]]:
    """How the kinds of a list stand in a shot file."""
    kinds = [kind for kind in MODIFIERS.values() if kind.group == group]
    return [
        OWN_PARTS.get(kind.key) or part_of(kind.key, kind.about, kind.measures, base, names=kind.names, first=_first(kind))
        for kind in kinds
    ]


def _first(kind: ModifierKind) -> tuple[str, ...]:
    """Cards have always been written with their face before their kind."""
    return tuple(m.name for m in kind.measures if m.part == "place") if kind.group == CARDS else ()


if TYPE_CHECKING:
    AnyLight = MeasuredLight | HeadPart | SunPart
    AnyCard = MeasuredCard
else:
    AnyLight = Annotated[Union[*_parts(LIGHTS, MeasuredLight)], Field(discriminator="kind")]
    AnyCard = Annotated[Union[*_parts(CARDS, MeasuredCard)], Field(discriminator="kind")]
