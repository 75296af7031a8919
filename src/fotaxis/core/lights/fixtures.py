"""Panels, heads, cards, sheets and nets: what is moved about the product."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from functools import lru_cache

from fotaxis.core.errors import DomainError
from fotaxis.core.lights.beam_patterns import FLAT_TOP, Shaping
from fotaxis.core.lights.calibration import (
    Calibration,
    MeterReading,
    ball_luminance,
    disc_luminance,
    rectangle_luminance,  # fmt: skip
)
from fotaxis.core.lights.card_finishes import Finish
from fotaxis.core.lights.colour import hue_rgb, tint
from fotaxis.core.lights.gels import COLDEST_K, HOTTEST_K, Gel, stops_lost
from fotaxis.core.lights.gobos import OPEN_GATE, Gate
from fotaxis.core.lights.gradients import EVEN, GRADIENT_KINDS
from fotaxis.core.lights.heads import DAYLIGHT_K, EVEN_FACE, PLAIN, SUN, Head
from fotaxis.core.lights.power import PowerRange
from fotaxis.core.lights.sun import SUN_DIAMETER_RAD, Sun
from fotaxis.core.limits import require_finite, require_positive
from fotaxis.core.stops import set_stops
from fotaxis.core.values import Array, Point

MAX_PANEL_M = 5.0
MOST_POPS = 60
MOST_WAY = 12
FULL_TURN = 2 * math.pi


@dataclass(frozen=True, slots=True, kw_only=True)
class Stance:
    """Where a flat thing's middle is and how it is turned and tilted (see geometry.facing)."""

    place: Point
    turn_rad: float
    tilt_rad: float

    def __post_init__(self) -> None:
        require_finite("turn", self.turn_rad, low=-2 * FULL_TURN, high=2 * FULL_TURN, unit="rad")
        require_finite("tilt", self.tilt_rad, low=-FULL_TURN / 4, high=FULL_TURN / 4, unit="rad")


@dataclass(frozen=True, slots=True, kw_only=True)
class Emission:
    """What every light has: calibration, power, colour, gels, and whether it is on. Flash unless continuous.

    hue_rad, saturation: of a coloured LED head, in place of its white; None for white light.
    gels: in the order the light passes; a meter reading counts with them, other calibrations without.
    """

    calibration: Calibration
    power_stops: float
    power_range: PowerRange = field(default_factory=PowerRange)
    on: bool = True
    continuous: bool = False
    colour_k: float = DAYLIGHT_K
    gels: tuple[Gel, ...] = ()
    hue_rad: float | None = None
    saturation: float = 1.0

    def __post_init__(self) -> None:
        self.power_range.check(self.power_stops)
        require_finite("colour temperature", self.colour_k, low=COLDEST_K, high=HOTTEST_K, unit="K")
        require_finite("saturation", self.saturation, low=0, high=1)
        if self.hue_rad is not None:
            require_finite("hue", self.hue_rad, low=-FULL_TURN, high=FULL_TURN, unit="rad")

    def colour(self, white_k: float) -> Array:
        """What its gels and colour make of the light's luminance, as a camera balanced for white_k sees it, (3,)."""
        seen = tint(kelvin=self.colour_k, gels=self.gels, white_k=white_k)
        if self.hue_rad is not None:
            seen = seen * hue_rgb(hue_rad=self.hue_rad, saturation=self.saturation)
        return seen if isinstance(self.calibration, MeterReading) else seen * 2.0 ** -stops_lost(self.gels)


@dataclass(frozen=True, slots=True, kw_only=True)
class Panel:
    """A rectangular or octagonal luminous face: a box, strip or sheet, dark from behind.

    gradient even; core: bright middle, `gradient_stops` darker in the corners; ramp: from its own left edge
    (as seen by someone facing it: its bright edge) `gradient_stops` darker at the other. grid_angle_rad: full angle of a fabric
    grid before it, 0 for none; guide number or intensity count for the box without it, a meter reading for the light as it is.
    wrinkles: of its cloth, 0 to 1: how far folds brighten and darken it.
    """

    key: str
    name: str
    stance: Stance
    width_m: float
    height_m: float
    gradient: str = EVEN
    gradient_stops: float = 0.0
    grid_angle_rad: float = 0.0
    octagon: bool = False
    wrinkles: float = 0.0
    emission: Emission

    def __post_init__(self) -> None:
        require_finite(f"wrinkles of {self.name}", self.wrinkles, low=0, high=1)
        require_positive(f"width of {self.name}", self.width_m, high=MAX_PANEL_M, unit="m")
        require_positive(f"height of {self.name}", self.height_m, high=MAX_PANEL_M, unit="m")
        if self.gradient not in GRADIENT_KINDS:
            raise DomainError(f"gradient of {self.name} is {self.gradient!r}; it must be even, core or ramp.")
        require_finite(f"gradient of {self.name}", self.gradient_stops, low=0, high=10, unit="stops")
        _check_grid(self.name, self.grid_angle_rad)

    @property
    def shaping(self) -> Shaping:
        """What its luminance off the axis follows from."""
        return Shaping(EVEN_FACE, 0.0, self.grid_angle_rad)

    @property
    def full_luminance(self) -> float:
        """Luminance at the middle at full power, cd s/m2 (flash) or cd/m2."""
        return rectangle_luminance(
            calibration=self.emission.calibration, width_m=self.width_m, height_m=self.height_m,
            kind=self.gradient, stops=self.gradient_stops, grid_angle_rad=self.grid_angle_rad, octagon=self.octagon,
        )  # fmt: skip

    @property
    def size_words(self) -> str:
        """Its size as a tape reads it."""
        return f"{self.width_m * 100:g} × {self.height_m * 100:g} cm"

    @property
    def kind_words(self) -> str:
        """What it is."""
        words = {"even": "even", "core": "bright core", "ramp": "ramp"}[self.gradient]
        if self.gradient != EVEN:
            words += f", {set_stops(self.gradient_stops)} stops"
        if self.octagon:
            words = f"octagon, {words}"
        if self.grid_angle_rad:
            words += f", grid {math.degrees(self.grid_angle_rad):g}°"
        return f"panel, {words}"

    @property
    def half_size_m(self) -> tuple[float, float]:
        """Half width and half height of its face."""
        return self.width_m / 2, self.height_m / 2


@dataclass(frozen=True, slots=True, kw_only=True)
class Lamp:
    """A head of a kind, bare or with a honeycomb grid named by the full angle of its beam (0: none).

    doors: how far barn doors on its left, right, top and bottom (seen from behind it) are open, radians off its axis; None
    without them. gate: of a projecting head. way: where it is moved to while the shutter is open, point after point at an even
    pace, or while it flashes `pops` times; lit: the part of its way, 0 to 1, from where to where it shines; pops: flashes of one
    exposure.

    diameter_m: of its face where it differs from the kind's. A guide number or intensity counts for the head without its grid,
    a meter reading for the light as it is.
    """

    key: str
    name: str
    stance: Stance
    head: Head = PLAIN
    diameter_m: float
    grid_angle_rad: float = 0.0
    doors: tuple[float, float, float, float] | None = None
    gate: Gate | None = None
    way: tuple[Stance, ...] = ()
    lit: tuple[float, float] = (0.0, 1.0)
    pops: int = 1
    emission: Emission

    def __post_init__(self) -> None:
        require_positive(f"face of {self.name}", self.diameter_m, high=1.5, unit="m")
        _check_grid(self.name, self.grid_angle_rad)
        if self.head.ball and self.grid_angle_rad:
            raise DomainError(f"{self.name} shines all round and takes no grid; give it a dish first.")
        if self.doors is not None:
            if self.head.ball:
                raise DomainError(f"{self.name} shines all round and takes no barn doors; give it a dish first.")
            for door in self.doors:
                require_finite(f"barn door of {self.name}", door, low=-FULL_TURN / 24, high=FULL_TURN / 4, unit="rad")
        if self.gate and self.head.pattern.kind != FLAT_TOP:
            raise DomainError(f"{self.name} has no gate to image; blades and masks go into a focusing spot.")
        if len(self.way) > MOST_WAY:
            raise DomainError(f"{self.name} is moved to {len(self.way)} points; it can be {MOST_WAY} at most.")
        begin, end = self.lit
        if not 0 <= begin < end <= 1:
            raise DomainError(
                f"{self.name} is lit from {100 * begin:g} to {100 * end:g} % of its way; it must begin before it ends, in 0 to 100."
            )
        if not 1 <= self.pops <= MOST_POPS:
            raise DomainError(f"{self.name} flashes {self.pops} times; it must be from 1 to {MOST_POPS}.")
        if self.pops > 1 and self.emission.continuous:
            raise DomainError(f"{self.name} burns on and does not flash; set the flashes to 1.")

    @property
    def shaping(self) -> Shaping:
        """What its luminance off the axis follows from."""
        return Shaping(self.head.pattern, self.head.cell, self.grid_angle_rad)

    @property
    def full_luminance(self) -> float:
        """Luminance on the axis at full power, cd s/m2 (flash) or cd/m2."""
        return _lamp_luminance(self.emission.calibration, self.head.ball, self.diameter_m / 2, self.shaping)

    @property
    def size_words(self) -> str:
        """Its size as a tape reads it, and what shapes its light; of the sun where it stands."""
        if self.head is SUN:
            return self._sun_words
        grid = f", grid {math.degrees(self.grid_angle_rad):g}°" if self.grid_angle_rad else ""
        return f"Ø {self.diameter_m * 100:g} cm{grid}" + "".join(f", {word}" for word in self._shaped_words)

    @property
    def kind_words(self) -> str:
        """What it is."""
        return "grid head" if self.head is PLAIN and self.grid_angle_rad else self.head.name

    @property
    def half_size_m(self) -> tuple[float, float]:
        """Half width and half height of its face."""
        return self.diameter_m / 2, self.diameter_m / 2

    @property
    def _sun_words(self) -> str:
        p = self.stance.place
        height = math.degrees(math.asin(p.y_m / math.hypot(p.x_m, p.y_m, p.z_m)))
        if height <= 0:
            return "below the horizon"
        side = math.degrees(math.atan2(p.x_m, -p.z_m))
        return f"{height:.0f}° high, {abs(side):.0f}° {'right' if side >= 0 else 'left'} of where the camera looks"

    @property
    def _shaped_words(self) -> list[str]:
        words = []
        if self.doors:
            words.append("doors " + "/".join(f"{math.degrees(door):.0f}" for door in self.doors) + "°")
        if self.gate:
            blades = "/".join(f"{100 * blade:.0f}" for blade in self.gate.blades)
            words.append(f"blades {blades} %" + (f", mask {self.gate.mask}" if self.gate.mask != OPEN_GATE else ""))
        if self.way:
            p = self.way[-1].place
            over = f" by {len(self.way) - 1} points" if len(self.way) > 1 else ""
            words.append(f"moved{over} to {p.x_m * 100:.0f} right, {p.z_m * 100:.0f} front, {p.y_m * 100:.0f} cm high")
            if self.lit != (0.0, 1.0):
                words.append(f"lit from {100 * self.lit[0]:.0f} to {100 * self.lit[1]:.0f} % of it")
        if self.pops > 1:
            words.append(f"{self.pops} flashes")
        return words


@lru_cache(maxsize=512)
def _lamp_luminance(calibration: Calibration, ball: bool, radius: float, shaping: Shaping) -> float:
    if ball:
        return ball_luminance(calibration=calibration, radius_m=radius)
    return disc_luminance(calibration=calibration, radius_m=radius, off_axis=shaping.off_axis)


def _check_grid(name: str, angle_rad: float) -> None:
    if angle_rad and not math.radians(5) <= angle_rad <= math.radians(90):
        raise DomainError(f"grid of {name} is {math.degrees(angle_rad):g}°; grids run from 5° to 90°, 0 for none.")


@dataclass(frozen=True, slots=True, kw_only=True)
class Card:
    """A card, sheet or net: it throws light on or lets it through, the same from both sides.

    hole_m: diameter of a hole in its middle for the lens; like_product: cut to the product's outline, its own width standing for
    the product's widest; bend_rad: of a curved reflector, the arc it spans across, hollow side to the front;
    round: a disc of its width.
    """

    key: str
    name: str
    stance: Stance
    width_m: float
    height_m: float
    finish: Finish
    hole_m: float = 0.0
    like_product: bool = False
    bend_rad: float = 0.0
    round: bool = False

    def __post_init__(self) -> None:
        require_positive(f"width of {self.name}", self.width_m, high=MAX_PANEL_M, unit="m")
        require_positive(f"height of {self.name}", self.height_m, high=MAX_PANEL_M, unit="m")
        require_finite(f"hole of {self.name}", self.hole_m, low=0, high=0.9 * min(self.width_m, self.height_m), unit="m")
        require_finite(f"bend of {self.name}", self.bend_rad, low=0, high=math.pi, unit="rad")
        if self.bend_rad and (self.hole_m or self.like_product):
            raise DomainError(f"{self.name} is bent; a hole or an outline needs a flat card.")
        if self.round and (self.width_m != self.height_m or self.hole_m or self.like_product or self.bend_rad):
            raise DomainError(f"{self.name} is round; it is as high as wide, flat and whole.")

    @property
    def size_words(self) -> str:
        """Its size as a tape reads it, and what is cut or bent of it."""
        if self.round:
            return f"Ø {self.width_m * 100:g} cm"
        words = f"{self.width_m * 100:g} × {self.height_m * 100:g} cm"
        if self.hole_m:
            words += f", hole Ø {self.hole_m * 100:g} cm"
        if self.bend_rad:
            words += f", bent by {math.degrees(self.bend_rad):.0f}°"
        if self.like_product:
            words += ", cut like the product"
        return words

    @property
    def kind_words(self) -> str:
        """What it is, and the stops a sheet or net takes."""
        return self.finish.name + (f", −{set_stops(self.finish.stops)} stops" if self.finish.stops else "")

    @property
    def half_size_m(self) -> tuple[float, float]:
        """Half width and half height of its face."""
        return self.width_m / 2, self.height_m / 2


Light = Panel | Lamp


def sun_lamp(*, key: str, name: str, sun: Sun, side_rad: float, away_m: float, emission: Emission) -> Lamp:
    """The sun as a lamp so far away, as wide as it looks, turned to the product.

    side_rad: how far right of where the camera looks it stands, as seen from above.
    """
    flat = away_m * math.cos(sun.elevation_rad)
    place = Point(x_m=flat * math.sin(side_rad), y_m=away_m * math.sin(sun.elevation_rad), z_m=-flat * math.cos(side_rad))
    turn = math.atan2(-place.x_m, -place.z_m) if flat > 1e-6 else 0.0
    return Lamp(
        key=key, name=name, stance=Stance(place=place, turn_rad=turn, tilt_rad=-sun.elevation_rad), head=SUN,
        diameter_m=2 * away_m * math.tan(SUN_DIAMETER_RAD / 2), emission=emission,
    )  # fmt: skip


def at_full_power(light: Light) -> Light:
    """The light switched on, at the top of its power range."""
    return replace(light, emission=replace(light.emission, power_stops=0.0, on=True))
