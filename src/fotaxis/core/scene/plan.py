"""The whole set as one checked value: product, surface, camera, lights, cards, exposure."""

from __future__ import annotations

import math
from dataclasses import dataclass

from fotaxis.core.camera.camera import Camera
from fotaxis.core.camera.exposure import Exposure
from fotaxis.core.camera.filters import BeforeLens
from fotaxis.core.camera.haze import Haze
from fotaxis.core.camera.sensor import Sensor
from fotaxis.core.camera.tone import PLAIN_TONE, Tone
from fotaxis.core.errors import DomainError
from fotaxis.core.keys import RESERVED_KEYS
from fotaxis.core.lights.fixtures import Card, Emission, Light
from fotaxis.core.lights.gels import COLDEST_K, HOTTEST_K
from fotaxis.core.lights.heads import DAYLIGHT_K
from fotaxis.core.limits import require_finite, require_positive
from fotaxis.core.materials.material import Medium, Skin
from fotaxis.core.scene.meter import Meter
from fotaxis.core.scene.product import Product

MAX_THINGS = 24
MAX_OTHERS = 11
BARE_LENS = BeforeLens()
USUAL_SENSOR = Sensor()


@dataclass(frozen=True, slots=True, kw_only=True)
class Table:
    """A flat top at y = 0, its middle x_m right of and z_m in front of the product's axis.

    rear: how far below a clear front the skin lies, in `medium` (rear-painted glass); 0 for none.
    above_floor_m: height of the top over the floor.
    sweep_m: the paper's rise behind the product: it bends up at the table's back edge to this height; 0 for a flat top.
    drop_m: how far that paper hangs down before the table, over a bend of front_bend_m; 0 for paper that ends at its front edge.
    """

    skin: Skin
    width_m: float
    depth_m: float
    rear_m: float = 0.0
    medium: Medium | None = None
    above_floor_m: float = 0.75
    sweep_m: float = 0.0
    bend_m: float = 0.25
    drop_m: float = 0.0
    front_bend_m: float = 0.1
    x_m: float = 0.0
    z_m: float = 0.0

    def __post_init__(self) -> None:
        require_finite("table's place", self.x_m, low=-10, high=10, unit="m")
        require_finite("table's place", self.z_m, low=-10, high=10, unit="m")
        require_positive("table width", self.width_m, high=20, unit="m")
        require_positive("table depth", self.depth_m, high=20, unit="m")
        require_finite("table glass", self.rear_m, low=0, high=0.05, unit="m")
        require_finite("sweep's height", self.sweep_m, low=0, high=10, unit="m")
        require_positive("sweep's bend", self.bend_m, high=5, unit="m")
        require_finite("paper's hang in front", self.drop_m, low=0, high=5, unit="m")
        require_positive("its bend in front", self.front_bend_m, high=5, unit="m")
        if (self.rear_m > 0) != (self.medium is not None):
            raise DomainError("a rear-painted table needs the thickness of its glass.")


LEAST_RISER_M = 0.001


@dataclass(frozen=True, slots=True, kw_only=True)
class Riser:
    """A round block under the product."""

    height_m: float
    diameter_m: float
    skin: Skin

    def __post_init__(self) -> None:
        require_finite("riser height", self.height_m, low=LEAST_RISER_M, high=1, unit="m")
        require_finite("riser diameter", self.diameter_m, low=LEAST_RISER_M, high=2, unit="m")


@dataclass(frozen=True, slots=True, kw_only=True)
class Background:
    """An upright plane behind the product, its middle `centre_height_m` above the table.

    Its skin may let light through: lit from behind it glows.
    """

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
    """Everything that decides the picture. Lights stand in build order; the room is an even light of its own, taken as white.

    white_k: colour temperature that the camera shows as white; tone: how levels become the picture that is delivered.
    meter: where it was set down, None: before the product; key_light: the one that the others are told against, '' for the first.

    Holds for:  distinct keys; at most 24 lights and 24 cards; camera outside the product and above the table top
                or in front of it. Else DomainError.
    """

    product: Product
    others: tuple[Product, ...] = ()
    table: Table | None
    riser: Riser | None
    background: Background | None
    camera: Camera
    exposure: Exposure
    lights: tuple[Light, ...]
    cards: tuple[Card, ...]
    room_lux: float = 0.0
    white_k: float = DAYLIGHT_K
    tone: Tone = PLAIN_TONE
    before_lens: BeforeLens = BARE_LENS
    sensor: Sensor = USUAL_SENSOR
    haze: Haze | None = None
    meter: Meter | None = None
    key_light: str = ""

    def __post_init__(self) -> None:
        keys = [thing.key for thing in (*self.lights, *self.cards, *self.others)]
        for key in keys:
            if key in RESERVED_KEYS:
                raise DomainError(f"the key {key!r} is taken; give the thing another.")
            if keys.count(key) > 1:
                raise DomainError(f"two things on the set share the key {key!r}; keys must be distinct.")
        if len(self.lights) > MAX_THINGS or len(self.cards) > MAX_THINGS:
            raise DomainError(f"a set holds at most {MAX_THINGS} lights and {MAX_THINGS} cards.")
        if len(self.others) > MAX_OTHERS:
            raise DomainError(f"a set holds at most {MAX_OTHERS} things beside the product.")
        require_finite("room light", self.room_lux, low=0, high=2e5, unit="lux")
        require_finite("white balance", self.white_k, low=COLDEST_K, high=HOTTEST_K, unit="K")
        self._check_camera()

    def counted(self, emission: Emission) -> float:
        """What a light's full-power figures are multiplied by in this exposure, from lux (s) to lux s: its power, for continuous light
        times the shutter; 0 when it is off."""
        return 2.0**emission.power_stops * self.exposure.counted_s(continuous=emission.continuous) if emission.on else 0.0

    @property
    def lift_m(self) -> float:
        """Height of the product's foot above the table."""
        return self.riser.height_m if self.riser else 0.0

    @property
    def products(self) -> tuple[Product, ...]:
        """The product, then what stands beside it."""
        return (self.product, *self.others)

    def ground_m(self, product: Product) -> float:
        """Height of what a subject stands on."""
        return self.lift_m if product is self.product or product.on_riser else 0.0

    def _check_camera(self) -> None:
        eye = self.camera.place
        for product in self.products:
            off_axis = math.hypot(eye.x_m - product.x_m, eye.z_m - product.z_m)
            profile = product.profile
            height = eye.y_m - self.ground_m(product) + profile.foot_m
            if product.lying:
                inside = off_axis <= product.reach_m and profile.foot_m <= height <= profile.foot_m + product.height_m
            else:
                inside = profile.foot_m <= height <= profile.top_m and off_axis <= profile.radius_at(height)
            if inside:
                raise DomainError(
                    f"the camera is inside {'the product' if product is self.product else product.name}: it stands "
                    f"{off_axis * 100:.1f} cm from the axis. Move it back, or check the diameters."
                )
        off_axis = math.hypot(eye.x_m, eye.z_m)
        if self.riser and 0 <= eye.y_m <= self.riser.height_m and off_axis <= self.riser.diameter_m / 2:
            raise DomainError("the camera is inside the riser; move it back.")
        if self.background and eye.z_m <= -self.background.distance_m:
            raise DomainError("the camera is behind the background; bring it to the front.")


__all__ = ["Background", "Plan", "Riser", "Table"]
