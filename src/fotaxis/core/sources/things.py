"""Panels, gridded heads and cards: what is moved about the product."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from fotaxis.core.errors import DomainError
from fotaxis.core.sources.calibration import (
    CORE,
    EVEN,
    RAMP,
    Calibration,
    disc_luminance,
    rectangle_luminance,
)  # fmt: skip
from fotaxis.core.sources.power import PowerRange
from fotaxis.core.values import Point, Reflectance, require_finite, require_positive

MAX_PANEL_M = 5.0
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
    """What every light has: calibration, power, and whether it is on. Flash unless continuous."""

    calibration: Calibration
    power_stops: float
    power_range: PowerRange = field(default_factory=PowerRange)
    on: bool = True
    continuous: bool = False

    def __post_init__(self) -> None:
        self.power_range.check(self.power_stops)


@dataclass(frozen=True, slots=True, kw_only=True)
class Panel:
    """A rectangular luminous face: a box, strip or sheet, dark from behind.

    gradient even; core: bright middle, `gradient_stops` darker in the corners; ramp: from its own left edge
    (as seen by someone facing it: its bright edge) `gradient_stops` darker at the other.
    """

    key: str
    name: str
    stance: Stance
    width_m: float
    height_m: float
    gradient: str = EVEN
    gradient_stops: float = 0.0
    emission: Emission

    def __post_init__(self) -> None:
        require_positive(f"width of {self.name}", self.width_m, high=MAX_PANEL_M, unit="m")
        require_positive(f"height of {self.name}", self.height_m, high=MAX_PANEL_M, unit="m")
        if self.gradient not in (EVEN, CORE, RAMP):
            raise DomainError(f"gradient of {self.name} is {self.gradient!r}; it must be even, core or ramp.")
        require_finite(f"gradient of {self.name}", self.gradient_stops, low=0, high=10, unit="stops")

    @property
    def full_luminance(self) -> float:
        """Luminance at the middle at full power, cd s/m2 (flash) or cd/m2."""
        return rectangle_luminance(
            calibration=self.emission.calibration, width_m=self.width_m, height_m=self.height_m,
            kind=self.gradient, stops=self.gradient_stops,
        )  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class GridHead:
    """A dish behind a honeycomb grid, named by the full angle of its beam."""

    key: str
    name: str
    stance: Stance
    dish_diameter_m: float
    grid_angle_rad: float
    emission: Emission

    def __post_init__(self) -> None:
        require_positive(f"dish of {self.name}", self.dish_diameter_m, high=1.0, unit="m")
        if not math.radians(5) <= self.grid_angle_rad <= math.radians(90):
            raise DomainError(f"grid of {self.name} is {math.degrees(self.grid_angle_rad):g}°; grids run from 5° to 90°.")

    @property
    def full_luminance(self) -> float:
        """Luminance on the axis at full power, cd s/m2 (flash) or cd/m2."""
        return disc_luminance(calibration=self.emission.calibration, radius_m=self.dish_diameter_m / 2)


@dataclass(frozen=True, slots=True, kw_only=True)
class Card:
    """A white or black card, the same on both sides."""

    key: str
    name: str
    stance: Stance
    width_m: float
    height_m: float
    reflectance: Reflectance

    def __post_init__(self) -> None:
        require_positive(f"width of {self.name}", self.width_m, high=MAX_PANEL_M, unit="m")
        require_positive(f"height of {self.name}", self.height_m, high=MAX_PANEL_M, unit="m")


Light = Panel | GridHead


def half_size(thing: Light | Card) -> tuple[float, float]:
    """Half width and half height of a thing's face, metres."""
    if isinstance(thing, GridHead):
        return thing.dish_diameter_m / 2, thing.dish_diameter_m / 2
    return thing.width_m / 2, thing.height_m / 2
