"""A small set that shows one material: a ball, a card, a tumbler or a ball on a table, lit the same for all."""

from __future__ import annotations

import math
from dataclasses import replace

from fotaxis.core.camera.camera import Camera
from fotaxis.core.camera.exposure import Exposure
from fotaxis.core.errors import DomainError
from fotaxis.core.geometry.profile import Profile
from fotaxis.core.lights.calibration import GuideNumber
from fotaxis.core.lights.fixtures import Emission, Panel, Stance
from fotaxis.core.lights.power import PowerRange
from fotaxis.core.materials.bump import EMBOSS, KINDS
from fotaxis.core.materials.catalogue import GLASS, LIQUID, REAR_GLASS, SKIN, TABLE_SKIN
from fotaxis.core.materials.material import Skin
from fotaxis.core.scene.plan import Background, Plan, Table
from fotaxis.core.scene.product import Product, Vessel, Zone
from fotaxis.core.scene.products.ball import Sphere
from fotaxis.core.scene.products.box import Box
from fotaxis.core.scene.products.turned import Turned
from fotaxis.core.values import Point, Reflectance

LEAST_GLOW = 0.2
"""Sheets that let more light through than this are shown lit from behind."""

DARK = Table(skin=TABLE_SKIN["black gloss"].skin, width_m=0.5, depth_m=0.4)
TUMBLER = Profile(
    heights_m=(0.0, 0.002, 0.005, 0.03, 0.06, 0.095), radii_m=(0.027, 0.0295, 0.0305, 0.032, 0.0335, 0.035)
)  # fmt: skip
BALL_SKIN = SKIN["chrome"].skin


def _panel(key: str, x: float, y: float, z: float, turn: float, width: float, height: float, power: float) -> Panel:
    stance = Stance(place=Point(x_m=x, y_m=y, z_m=z), turn_rad=math.radians(turn), tilt_rad=0.0)
    return Panel(
        key=key, name=key, stance=stance, width_m=width, height_m=height, gradient="core", gradient_stops=1.5,
        emission=Emission(
            calibration=GuideNumber(metres=22), power_stops=power, power_range=PowerRange(lowest_stops=9, steps_per_stop=10)
        ),
    )  # fmt: skip


FRONT = (_panel("left", -0.38, 0.12, 0.16, 110, 0.12, 0.4, -5), _panel("right", 0.4, 0.14, 0.02, -95, 0.25, 0.4, -6))
RAKING = (_panel("left", -0.42, 0.06, 0.055, 97, 0.05, 0.05, -4.8),)
BEHIND = (_panel("back", 0.0, 0.12, -0.3, 0, 0.2, 0.26, -7.5), _panel("left", -0.35, 0.12, 0.1, 105, 0.1, 0.4, -5.5))


def swatch_plan(kind: str, name: str) -> Plan:
    """The set for a material. Raises DomainError for a name that is not in the catalogue."""
    known: dict[str, list[str]] = {"skin": [*SKIN], "table": [*TABLE_SKIN], "glass": [*GLASS], "liquid": [*LIQUID]}
    if name not in known.get(kind, []):
        raise DomainError(f"there is no material {name[:40]!r} of the kind {kind[:10]!r}.")
    if kind == "skin":
        return _skin(SKIN[name].skin)
    if kind == "table":
        return _table(name)
    glass = GLASS[name].medium if kind == "glass" else GLASS["clear glass"].medium
    liquid = LIQUID[name].medium if kind == "liquid" else None
    vessel = Vessel(glass=glass, wall_m=0.002, floor_m=0.011, liquid=liquid, level_m=0.06)
    product = Product(
        name="Tumbler", shape=Turned(profile=TUMBLER), body=Skin(reflectance=Reflectance.grey(0)), vessel=vessel
    )
    return _plan(product, DARK, BEHIND, height=0.085, aim=0.047)


def _skin(skin: Skin) -> Plan:
    relief = KINDS[skin.relief.kind] if skin.relief else 0
    if skin.relief and not skin.metal and not skin.coat_index:
        zone = Zone(low_m=0.015, high_m=0.065, face="front", width_m=0.05, skin=skin, ellipse=relief == EMBOSS)
        if relief == EMBOSS:
            wide = replace(skin.relief, period_m=0.004, depth_m=math.copysign(0.0012, skin.relief.depth_m))
            zone = replace(zone, skin=replace(skin, relief=wide))
        else:
            wide = replace(skin.relief, period_m=skin.relief.period_m * 4, depth_m=skin.relief.depth_m * 4)
            zone = replace(zone, skin=replace(skin, relief=wide), width_m=0.079, low_m=0.0005, high_m=0.0795)
        card = Box(width_m=0.08, height_m=0.08, depth_m=0.004, edge_m=0.0003)
        plain = replace(skin, relief=None)
        return _plan(Product(name="Card", shape=card, body=plain, bands=(zone,)), DARK, RAKING, height=0.055, aim=0.04)
    if skin.through > LEAST_GLOW:
        dull = Table(skin=TABLE_SKIN["black matte"].skin, width_m=0.5, depth_m=0.4)
        ball = Product(name="Ball", shape=Sphere(diameter_m=0.03), body=Skin(reflectance=Reflectance.grey(0.02)))
        sheet = Background(distance_m=0.08, width_m=0.2, height_m=0.16, centre_height_m=0.075, skin=skin)
        lamp = _panel("back", 0.01, 0.07, -0.16, 0, 0.05, 0.05, -7.5)
        return replace(_plan(ball, dull, (lamp,), height=0.06, aim=0.045), background=sheet)
    return _plan(Product(name="Ball", shape=Sphere(diameter_m=0.08), body=skin), DARK, FRONT, height=0.075, aim=0.04)


def _table(name: str) -> Plan:
    rear = name == "rear-painted glass"
    table = Table(
        skin=TABLE_SKIN[name].skin, width_m=0.5, depth_m=0.4, rear_m=0.006 if rear else 0.0,
        medium=REAR_GLASS if rear else None,
    )  # fmt: skip
    ball = Product(name="Ball", shape=Sphere(diameter_m=0.05), body=BALL_SKIN)
    lights = (*FRONT, _panel("back", 0.0, 0.2, -0.34, 0, 0.3, 0.14, -7))
    return _plan(ball, table, lights, height=0.15, aim=0.018)


def _plan(product: Product, table: Table, lights: tuple[Panel, ...], *, height: float, aim: float) -> Plan:
    camera = Camera(
        place=Point(x_m=0, y_m=height, z_m=0.75), aim=Point(x_m=0, y_m=aim, z_m=0), focal_length_m=0.15, sensor_width_m=0.036,
        sensor_height_m=0.024, crop_width=1, crop_height=1,
    )  # fmt: skip
    exposure = Exposure(iso=100, shutter_s=2.0**-7, f_number=8.0)
    return Plan(
        product=product, table=table, riser=None, background=None, camera=camera, exposure=exposure, lights=lights, cards=()
    )
