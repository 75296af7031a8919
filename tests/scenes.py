"""Scenes for tests: the plain bottle of the closed forms, and small helpers."""

from __future__ import annotations

import math
from dataclasses import replace

from fotaxis.core.camera.camera import Camera
from fotaxis.core.camera.exposure import Exposure
from fotaxis.core.geometry.profile import Profile
from fotaxis.core.lights.calibration import GuideNumber, MeterReading
from fotaxis.core.lights.card_finishes import Finish
from fotaxis.core.lights.fixtures import Card, Emission, Lamp, Panel, Stance
from fotaxis.core.materials.material import Skin
from fotaxis.core.scene.plan import Background, Plan, Riser, Table
from fotaxis.core.scene.product import Product, Zone
from fotaxis.core.scene.products.turned import Turned
from fotaxis.core.values import Point, Reflectance

BLACK_GLASS = Skin(reflectance=Reflectance.grey(0.0), coat_index=1.5)
PAPER = Skin(reflectance=Reflectance.grey(0.75))
CYLINDER_RADIUS = 0.04

BOTTLE_CM = (
    (0, 6.6), (0.4, 7.2), (1.2, 7.4), (6, 7.4), (12, 7.4), (17, 7.4), (18.5, 7.2), (20, 6.4), (21.5, 5.0), (23, 3.7),
    (24.5, 3.05), (27, 2.9), (29, 2.8), (29.2, 3.1), (30.5, 3.1), (30.8, 2.6),
)  # fmt: skip


def profile(points=BOTTLE_CM) -> Profile:
    return Profile(heights_m=tuple(h / 100 for h, _ in points), radii_m=tuple(d / 200 for _, d in points))


def cylinder(radius: float = CYLINDER_RADIUS, height: float = 0.30) -> Profile:
    return Profile(heights_m=(0.0, height), radii_m=(radius, radius))


def camera(*, distance=1.5, height=0.15, aim=0.15, focal=0.1, ratio=(4.0, 5.0)) -> Camera:
    return Camera(
        place=Point(x_m=0, y_m=height, z_m=distance), aim=Point(x_m=0, y_m=aim, z_m=0), focal_length_m=focal,
        sensor_width_m=0.036, sensor_height_m=0.024, crop_width=ratio[0], crop_height=ratio[1],
    )  # fmt: skip


def panel(
    key="left", *, x=-0.42, y=0.22, z=-0.35, turn=50.0, tilt=0.0, width=0.3, height=1.2, gradient="even", stops=0.0,
    calibration=None, power=-4.0, on=True, continuous=False,
) -> Panel:  # fmt: skip
    return Panel(
        key=key, name=f"Panel {key}", stance=stance(x, y, z, turn, tilt), width_m=width, height_m=height,
        gradient=gradient, gradient_stops=stops,
        emission=Emission(
            calibration=calibration or GuideNumber(metres=22), power_stops=power, on=on, continuous=continuous
        ),
    )  # fmt: skip


def head(key="label", *, x=0.25, y=0.8, z=0.9, turn=-164.0, tilt=-37.0, power=-4.0) -> Lamp:
    return Lamp(
        key=key, name="Label light", stance=stance(x, y, z, turn, tilt), diameter_m=0.18,
        grid_angle_rad=math.radians(20), emission=Emission(calibration=GuideNumber(metres=45), power_stops=power),
    )  # fmt: skip


def card(key="card", *, x=0.3, y=0.2, z=0.2, turn=-120.0, width=0.2, height=0.4, reflectance=0.85) -> Card:
    return Card(
        key=key, name="Card", stance=stance(x, y, z, turn, 0.0), width_m=width, height_m=height,
        finish=Finish(reflectance=Reflectance.grey(reflectance)),
    )  # fmt: skip


def stance(x, y, z, turn, tilt=0.0) -> Stance:
    return Stance(place=Point(x_m=x, y_m=y, z_m=z), turn_rad=math.radians(turn), tilt_rad=math.radians(tilt))


def plan(**changes) -> Plan:
    """A black bottle with a label on a black gloss table, two panels and a label light."""
    made = Plan(
        product=Product(
            name="Bottle", shape=Turned(profile=profile()), body=BLACK_GLASS,
            bands=(Zone(low_m=0.04, high_m=0.13, azimuth_rad=0.0, width_rad=math.radians(150), skin=PAPER),),
        ),
        table=Table(skin=Skin(reflectance=Reflectance.grey(0.0), coat_index=1.49), width_m=1.2, depth_m=0.8),
        riser=Riser(height_m=0.04, diameter_m=0.066, skin=Skin(reflectance=Reflectance.grey(0.03))),
        background=Background(
            distance_m=1.5, width_m=3, height_m=3, centre_height_m=0.6, skin=Skin(reflectance=Reflectance.grey(0.04))
        ),
        camera=camera(height=0.19, aim=0.19),
        exposure=Exposure(iso=100, shutter_s=2.0**-7, f_number=8.0),
        lights=(panel("left"), panel("right", x=0.42, turn=-50.0), head()),
        cards=(),
    )  # fmt: skip
    return replace(made, **changes)


def bare(profile_: Profile, *, lights=(), cam=None, body=BLACK_GLASS, **changes) -> Plan:
    """A product alone in the dark."""
    return plan(
        product=Product(name="Solid", shape=Turned(profile=profile_), body=body), table=None, riser=None, background=None,
        camera=cam or camera(), lights=lights, **changes,
    )  # fmt: skip


__all__ = ["MeterReading"]
