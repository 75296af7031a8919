"""Lights, cards, sheets and nets in the shot file."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import Field

from fotaxis.core.errors import DomainError
from fotaxis.core.sources.calibration import Calibration, Candela, GuideNumber, MeterReading
from fotaxis.core.sources.colour import COLDEST_K, GEL, HOTTEST_K, MOST_GELS, known_gels
from fotaxis.core.sources.finishes import FINISH, NETS, SHEETS, Finish
from fotaxis.core.sources.heads import DAYLIGHT_K, HEAD, HEADS, Head
from fotaxis.core.sources.patterns import TABLE, Pattern
from fotaxis.core.sources.power import PowerRange
from fotaxis.core.sources.things import Card, Emission, Lamp, Light, Panel, Stance
from fotaxis.core.values import Point
from fotaxis.formats.shot_parts import Key, Name, Number, Part, Positive, named

MEASURED = "measured lamp"
MEASURED_FACE_CM = 10.0
HeadName = Annotated[str, *named([*(head.name for head in HEADS), MEASURED], "head")]
SheetName = Annotated[str, *named((finish.name for finish in SHEETS), "sheet")]
NetName = Annotated[str, *named((finish.name for finish in NETS), "net")]
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


class ThingPart(Part):
    """What every movable thing has: key, name, place of its middle, turn and tilt in degrees.

    Turn 0 looks towards the camera, positive turns its front to the right as the camera sees it; positive tilt lifts
    its front.
    """

    key: Key
    name: Name
    place: PointCm
    turn_deg: Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)]
    tilt_deg: Annotated[float, Field(ge=-90, le=90, allow_inf_nan=False)] = 0.0

    def stance(self) -> Stance:
        return Stance(place=self.place.value(), turn_rad=math.radians(self.turn_deg), tilt_rad=math.radians(self.tilt_deg))


class LightPart(ThingPart):
    """What every light has. colour_k: colour temperature of the bare head; gels: names in the order the light passes."""

    power_stops: Number
    lowest_stops: int = 7
    steps_per_stop: int = 3
    on: bool = True
    continuous: bool = False
    colour_k: Kelvin = DAYLIGHT_K
    gels: Annotated[list[GelName], Field(max_length=MOST_GELS)] = []
    calibration: AnyCalibration

    def emission(self) -> Emission:
        return Emission(
            calibration=self.calibration.value(), power_stops=self.power_stops, on=self.on, continuous=self.continuous,
            colour_k=self.colour_k, gels=known_gels(tuple(self.gels)),
            power_range=PowerRange(lowest_stops=self.lowest_stops, steps_per_stop=self.steps_per_stop),
        )  # fmt: skip


class PanelPart(LightPart):
    """A rectangular luminous face: even, with a bright core, or with a ramp from its left to its right edge.

    grid_angle_deg: full angle of a fabric grid before it, 0 for none.
    """

    kind: Literal["panel"]
    width_cm: Positive
    height_cm: Positive
    gradient: Literal["even", "core", "ramp"] = "even"
    gradient_stops: Annotated[float, Field(ge=0, le=10, allow_inf_nan=False)] = 0.0
    grid_angle_deg: Degrees = 0.0

    def value(self) -> Light:
        return Panel(
            key=self.key, name=self.name, stance=self.stance(), width_m=self.width_cm / 100, height_m=self.height_cm / 100,
            gradient=self.gradient, gradient_stops=self.gradient_stops,
            grid_angle_rad=math.radians(self.grid_angle_deg), emission=self.emission(),
        )  # fmt: skip


class GridHeadPart(LightPart):
    """An even dish behind a honeycomb grid of a full beam angle in degrees."""

    kind: Literal["grid head"]
    dish_diameter_cm: Positive
    grid_angle_deg: Positive

    def value(self) -> Light:
        return Lamp(
            key=self.key, name=self.name, stance=self.stance(), diameter_m=self.dish_diameter_cm / 100,
            grid_angle_rad=math.radians(self.grid_angle_deg), emission=self.emission(),
        )  # fmt: skip


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


class HeadPart(LightPart):
    """A head of a named kind, or a measured lamp. What is left out is as usual for the kind: brightness, colour, face, whether
    it burns on.

    dish_diameter_cm: of its face; grid_angle_deg: 0 for none.
    """

    kind: Literal["head"]
    head: HeadName
    measured: MeasuredPart | None = None
    dish_diameter_cm: Positive | None = None
    grid_angle_deg: Degrees = 0.0
    continuous: bool | None = None  # type: ignore[assignment]
    colour_k: Kelvin | None = None  # type: ignore[assignment]
    calibration: AnyCalibration | None = None  # type: ignore[assignment]

    def value(self) -> Light:
        head = self._kind()
        own: Calibration = Candela(value=head.candela) if head.continuous else GuideNumber(metres=head.guide_number_m)
        emission = Emission(
            calibration=self.calibration.value() if self.calibration else own, power_stops=self.power_stops, on=self.on,
            continuous=head.continuous if self.continuous is None else self.continuous,
            colour_k=self.colour_k or head.colour_k, gels=known_gels(tuple(self.gels)),
            power_range=PowerRange(lowest_stops=self.lowest_stops, steps_per_stop=self.steps_per_stop),
        )  # fmt: skip
        diameter = self.dish_diameter_cm / 100 if self.dish_diameter_cm else head.diameter_m
        return Lamp(
            key=self.key, name=self.name, stance=self.stance(), head=head, diameter_m=diameter,
            grid_angle_rad=math.radians(self.grid_angle_deg), emission=emission,
        )  # fmt: skip

    def _kind(self) -> Head:
        if self.head != MEASURED:
            return HEAD[self.head]
        if self.measured is None:
            raise DomainError(
                f"{self.name} is a measured lamp without its measurement; bring in its file, or choose a head."
            )
        return self.measured.head((self.dish_diameter_cm or MEASURED_FACE_CM) / 100)


class FlatPart(ThingPart):
    """What every card, sheet and net has."""

    width_cm: Positive
    height_cm: Positive

    def card(self, finish: Finish) -> Card:
        return Card(
            key=self.key, name=self.name, stance=self.stance(), width_m=self.width_cm / 100, height_m=self.height_cm / 100,
            finish=finish,
        )  # fmt: skip


class CardPart(FlatPart):
    """A card, the same on both sides."""

    kind: Literal["white card", "black card", "silver card", "satin silver card", "gold card"]

    def value(self) -> Card:
        return self.card(FINISH[self.kind])


class SheetPart(FlatPart):
    """A sheet that scatters light through: lit from behind it is a luminous face."""

    kind: Literal["sheet"]
    material: SheetName

    def value(self) -> Card:
        return self.card(FINISH[self.material])


class NetPart(FlatPart):
    """A net: dims what passes and leaves its direction."""

    kind: Literal["net"]
    material: NetName

    def value(self) -> Card:
        return self.card(FINISH[self.material])


AnyLight = Annotated[PanelPart | GridHeadPart | HeadPart, Field(discriminator="kind")]
AnyCard = Annotated[CardPart | SheetPart | NetPart, Field(discriminator="kind")]
