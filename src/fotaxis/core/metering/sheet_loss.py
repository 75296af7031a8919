"""What a sheet takes of an even light, from a pair of meter readings with and without it."""

from __future__ import annotations

import math

import numpy as np

from fotaxis.core.camera.camera import Camera
from fotaxis.core.camera.exposure import Exposure
from fotaxis.core.errors import DomainError
from fotaxis.core.geometry.profile import Profile
from fotaxis.core.lights.calibration import GuideNumber
from fotaxis.core.lights.card_finishes import Finish, passing
from fotaxis.core.lights.fixtures import Card, Emission, Lamp, Stance
from fotaxis.core.lights.heads import Head
from fotaxis.core.limits import require_positive
from fotaxis.core.materials.material import Skin
from fotaxis.core.metering.path_losses import metered_lux
from fotaxis.core.scene.plan import Plan
from fotaxis.core.scene.product import Product
from fotaxis.core.scene.products.turned import Turned
from fotaxis.core.values import Point, Reflectance

LEAST, MOST = 0.02, 8.0
STEPS = 30
UNDER_M = 5.0
"""The set needs some product: it stands so far under the way that it takes no part."""


def taken_stops(finish: Finish, head: Head, *, head_m: float, meter_m: float, size_m: tuple[float, float]) -> float:
    """Stops that a sheet takes at a meter on the axis of a head that stands head_m behind it, meter_m before it."""
    lamp = Lamp(
        key="head", name="head", head=head, diameter_m=head.diameter_m,
        stance=Stance(place=Point(x_m=0, y_m=UNDER_M, z_m=-head_m), turn_rad=0.0, tilt_rad=0.0),
        emission=Emission(calibration=GuideNumber(metres=45), power_stops=0.0),
    )  # fmt: skip
    sheet = Card(
        key="sheet", name="sheet", width_m=size_m[0], height_m=size_m[1], finish=finish,
        stance=Stance(place=Point(x_m=0, y_m=UNDER_M, z_m=0), turn_rad=0.0, tilt_rad=0.0),
    )  # fmt: skip
    place, normal = np.array([0.0, UNDER_M, meter_m]), np.array([0.0, 0.0, -1.0])
    without, with_it = (metered_lux(_EMPTY, lamp, cards, (place, normal)) for cards in ((), (sheet,)))
    return math.log2(without / with_it)


def loss_from_readings(
    finish: Finish, head: Head, *, head_m: float, meter_m: float, size_m: tuple[float, float], stops: float
) -> float:
    """What a sheet of a kind takes of an even light, so that the readings differ by `stops`; spread as its kind spreads.

    Holds for:  0 < stops; what the readings show must lie between a sheet that takes next to nothing and one of 8 stops.
                Else DomainError.
    """
    require_positive("head to sheet", head_m, high=10, unit="m")
    require_positive("sheet to meter", meter_m, high=20, unit="m")

    def taken(loss: float) -> float:
        return taken_stops(passing(finish, loss), head, head_m=head_m, meter_m=meter_m, size_m=size_m)

    low, high = LEAST, MOST
    if not taken(low) <= stops <= taken(high):
        raise DomainError(
            f"the readings differ by {stops:.1f} stops; this sheet, so held, takes from {taken(low):.1f} to {taken(high):.1f}. "
            "Check the two readings and the distances, or choose another kind of sheet."
        )
    for _ in range(STEPS):
        middle = (low + high) / 2
        low, high = (middle, high) if taken(middle) < stops else (low, middle)
    return (low + high) / 2


_EMPTY = Plan(
    product=Product(
        name="nothing", shape=Turned(profile=Profile(heights_m=(0.0, 0.01), radii_m=(0.001, 0.001))),
        body=Skin(reflectance=Reflectance.grey(0.0)),
    ),
    table=None, riser=None, background=None, lights=(), cards=(),
    camera=Camera(
        place=Point(x_m=0.0, y_m=0.0, z_m=3.0), aim=Point(x_m=0.0, y_m=0.0, z_m=0.0), focal_length_m=0.1, sensor_width_m=0.036,
        sensor_height_m=0.024, crop_width=4.0, crop_height=5.0,
    ),
    exposure=Exposure(iso=100, shutter_s=2.0**-7, f_number=8.0),
)  # fmt: skip
