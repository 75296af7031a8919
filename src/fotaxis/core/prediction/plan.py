"""The whole set as one checked value: product, surface, camera, lights, cards, exposure."""

from __future__ import annotations

import math
from dataclasses import dataclass

from fotaxis.core.camera.exposure import Exposure
from fotaxis.core.camera.view import Camera
from fotaxis.core.errors import DomainError
from fotaxis.core.geometry.profile import Profile
from fotaxis.core.sources.things import Card, Light
from fotaxis.core.values import Reflectance, require_finite, require_positive

MAX_THINGS = 24


@dataclass(frozen=True, slots=True, kw_only=True)
class Skin:
    """What a surface is made of: diffuse reflectance below a clear coat of the given index (0: no coat, no gloss)."""

    reflectance: Reflectance
    coat_index: float = 0.0

    def __post_init__(self) -> None:
        if self.coat_index != 0 and not 1.0 < self.coat_index <= 3.0:
            raise DomainError(f"coat index is {self.coat_index:g}; give 0 for no gloss, or more than 1 and at most 3.")


@dataclass(frozen=True, slots=True, kw_only=True)
class Band:
    """A zone of the product between two heights, `width_rad` wide around an azimuth (0 faces the camera)."""

    low_m: float
    high_m: float
    azimuth_rad: float
    width_rad: float
    skin: Skin

    def __post_init__(self) -> None:
        require_finite("zone's lower edge", self.low_m, low=-3, high=3, unit="m")
        require_finite("zone's upper edge", self.high_m, low=-3, high=3, unit="m")
        if self.high_m <= self.low_m:
            raise DomainError(
                f"a zone runs from {self.low_m * 100:g} to {self.high_m * 100:g} cm; its upper edge must be above its lower."
            )
        require_finite("zone's azimuth", self.azimuth_rad, low=-2 * math.pi, high=2 * math.pi, unit="rad")
        require_positive("zone's width", self.width_rad, high=2 * math.pi + 1e-9, unit="rad")


@dataclass(frozen=True, slots=True, kw_only=True)
class Subject:
    """A turned solid with a body skin and zones on it (label, cap); later zones lie over earlier ones."""

    name: str
    profile: Profile
    body: Skin
    bands: tuple[Band, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Table:
    """A flat top at y = 0, centred on the product's axis."""

    skin: Skin
    width_m: float
    depth_m: float

    def __post_init__(self) -> None:
        require_positive("table width", self.width_m, high=20, unit="m")
        require_positive("table depth", self.depth_m, high=20, unit="m")


@dataclass(frozen=True, slots=True, kw_only=True)
class Riser:
    """A round block under the product."""

    height_m: float
    diameter_m: float
    skin: Skin

    def __post_init__(self) -> None:
        require_positive("riser height", self.height_m, high=1, unit="m")
        require_positive("riser diameter", self.diameter_m, high=2, unit="m")


@dataclass(frozen=True, slots=True, kw_only=True)
class Background:
    """An upright plane behind the product, its middle `centre_height_m` above the table."""

    distance_m: float
    width_m: float
    height_m: float
    centre_height_m: float
    skin: Skin

    def __post_init__(self) -> None:
        require_positive("background distance", self.distance_m, high=50, unit="m")
        require_positive("background width", self.width_m, high=50, unit="m")
        require_positive("background height", self.height_m, high=50, unit="m")
        require_finite("background height above the table", self.centre_height_m, low=-20, high=20, unit="m")


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """Everything that decides the picture. Lights stand in build order; the room is an even light of its own.

    Holds for:  distinct keys; at most 24 lights and 24 cards; camera outside the product and above the table top
                or in front of it. Else DomainError.
    """

    subject: Subject
    table: Table | None
    riser: Riser | None
    background: Background | None
    camera: Camera
    exposure: Exposure
    lights: tuple[Light, ...]
    cards: tuple[Card, ...]
    room_lux: float = 0.0

    def __post_init__(self) -> None:
        keys = [thing.key for thing in (*self.lights, *self.cards)]
        for key in keys:
            if keys.count(key) > 1:
                raise DomainError(f"two things on the set share the key {key!r}; keys must be distinct.")
        if len(self.lights) > MAX_THINGS or len(self.cards) > MAX_THINGS:
            raise DomainError(f"a set holds at most {MAX_THINGS} lights and {MAX_THINGS} cards.")
        require_finite("room light", self.room_lux, low=0, high=2e5, unit="lux")
        self._check_camera()

    @property
    def lift_m(self) -> float:
        """Height of the product's foot above the table."""
        return self.riser.height_m if self.riser else 0.0

    def _check_camera(self) -> None:
        eye = self.camera.place
        off_axis = math.hypot(eye.x_m, eye.z_m)
        profile = self.subject.profile
        height = eye.y_m - self.lift_m + profile.foot_m
        if profile.foot_m <= height <= profile.top_m and off_axis <= profile.radius_at(height):
            raise DomainError(
                f"the camera is inside the product: it stands {off_axis * 100:.1f} cm from the axis. "
                "Move it back, or check the product's diameters."
            )
        if self.riser and 0 <= eye.y_m <= self.riser.height_m and off_axis <= self.riser.diameter_m / 2:
            raise DomainError("the camera is inside the riser; move it back.")
        if self.background and eye.z_m <= -self.background.distance_m:
            raise DomainError("the camera is behind the background; bring it to the front.")
