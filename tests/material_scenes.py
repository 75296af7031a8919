"""Scenes that span the materials, for the comparison with Mitsuba 3 and for the benchmarks."""

from __future__ import annotations

import math
from dataclasses import replace

from fotaxis.core.materials.catalogue import GLASS, LIQUID, REAR_GLASS, SKIN, TABLE_SKIN
from fotaxis.core.materials.material import Medium, Relief
from fotaxis.core.scene.plan import Plan, Table
from fotaxis.core.scene.product import Product, Vessel, Zone
from fotaxis.core.scene.products.box import Box
from fotaxis.core.scene.products.can import Can
from fotaxis.core.scene.products.turned import Turned
from fotaxis.core.values import Reflectance
from tests import scenes

GLASS_CM = (
    (0, 6.2), (0.15, 6.4), (0.4, 6.4), (0.55, 4.0), (0.8, 1.4), (1.4, 0.9), (4, 0.8), (7.2, 0.9), (7.8, 1.6), (8.6, 3.8),
    (10, 6.0), (12, 7.2), (14, 7.4), (17, 6.8), (19.5, 6.2),
)  # fmt: skip
CLEAR = Medium(index=1.52)
PLAIN_WATER = Medium(index=1.333)
BACK = scenes.panel("back", x=0, y=0.2, z=-0.6, turn=0, width=0.5, height=0.6, power=-6)
SIDES = (scenes.panel("left", x=-0.4, z=0.1, turn=100, width=0.1), scenes.panel("right", x=0.45, z=-0.2, turn=-60.0))


def turned(points, *, glass=CLEAR, liquid=PLAIN_WATER, level=0.15, wall=0.003, floor=0.008, bands=(), **more) -> Product:
    vessel = Vessel(glass=glass, wall_m=wall, floor_m=floor, liquid=liquid, level_m=level)
    return Product(
        name="Vessel",
        shape=Turned(profile=scenes.profile(points)),
        body=scenes.BLACK_GLASS,
        vessel=vessel,
        bands=bands,
        **more,
    )


def in_the_dark(product: Product, *, lights=(BACK, *SIDES), table: Table | None = None, cam=None, others=()) -> Plan:
    return scenes.plan(
        product=product, others=others, riser=None, table=table, background=None, lights=lights,
        camera=cam or scenes.camera(height=0.17, aim=0.15),
    )  # fmt: skip


def filled_bottle(*, label: bool = False, coloured: bool = False) -> Plan:
    """A bottle filled to the shoulder before a lit panel."""
    bands = (Zone(low_m=0.05, high_m=0.12, width_rad=math.radians(90), azimuth_rad=math.pi, skin=scenes.PAPER),)
    glass, liquid = (GLASS["green glass"].medium, LIQUID["white wine"].medium) if coloured else (CLEAR, PLAIN_WATER)
    return in_the_dark(turned(scenes.BOTTLE_CM, glass=glass, liquid=liquid, bands=bands if label else ()))


def half_filled_bottle(*, label: bool = False) -> Plan:
    """The same, filled to half its body."""
    plan = filled_bottle(label=label)
    return replace(plan, product=replace(plan.product, vessel=replace(plan.product.vessel, level_m=0.085)))


def stemware() -> Plan:
    glass = turned(GLASS_CM, wall=0.0012, floor=0.082, level=0.12)
    return in_the_dark(glass, cam=scenes.camera(height=0.12, aim=0.1, distance=1.2))


def brushed_can() -> Plan:
    can = Product(name="Can", shape=Can(diameter_m=0.066, height_m=0.115), body=SKIN["brushed aluminium"].skin)
    return in_the_dark(can, lights=SIDES, cam=scenes.camera(height=0.09, aim=0.057, distance=0.9))


def foil_on_carton() -> Plan:
    """A coated carton with a sharp gold foil, a panel mirrored in part of the foil."""
    foil = replace(SKIN["gold foil"].skin, roughness=0.0)
    box = Product(
        name="Carton", shape=Box(width_m=0.08, height_m=0.12, depth_m=0.05, edge_m=0.002),
        body=replace(SKIN["coated paper"].skin, roughness=0.0), turn_rad=math.radians(-25),
        bands=(Zone(low_m=0.05, high_m=0.09, face="front", width_m=0.05, skin=foil),),
    )  # fmt: skip
    lights = (
        scenes.panel("a", x=-0.68, y=0.08, z=0.5, turn=125, width=0.3, height=0.075),
        scenes.panel("b", x=0.5, y=0.5, z=0.6, turn=-140, tilt=-30, width=0.2, height=0.3),
    )
    return in_the_dark(box, lights=lights, cam=scenes.camera(height=0.12, aim=0.06, distance=0.9))


LINEN = Relief(kind="linen", period_m=0.006, depth_m=0.0004)


def linen_card() -> Plan:
    """A card with a coarse weave lying flat under a raking light, seen from above."""
    skin = replace(scenes.PAPER, relief=LINEN)
    table = Table(skin=skin, width_m=0.16, depth_m=0.16)
    ball = Product(
        name="Ball",
        shape=Turned(profile=scenes.profile(((0, 0.1), (0.2, 0.2), (0.4, 0.1)))),
        body=scenes.PAPER,
    )
    light = scenes.panel("rake", x=-0.5, y=0.18, z=0.02, turn=90, tilt=-18, width=0.08, height=0.08, power=0)
    return in_the_dark(ball, lights=(light,), table=table, cam=scenes.camera(height=0.6, aim=0.0, distance=0.25, focal=0.15))


def rear_painted() -> Plan:
    """A black bottle on 8 mm of glass painted underneath; a card-thin lit strip shows twice."""
    table = Table(
        skin=replace(TABLE_SKIN["rear-painted glass"].skin, reflectance=Reflectance.grey(0.0)), width_m=0.6, depth_m=0.5,
        rear_m=0.008, medium=Medium(index=REAR_GLASS.index),
    )  # fmt: skip
    bottle = Product(name="Bottle", shape=Turned(profile=scenes.profile()), body=scenes.BLACK_GLASS)
    lights = (scenes.panel("strip", x=0.12, y=0.1, z=-0.1, turn=-20, width=0.04, height=0.1, power=-6),)
    return in_the_dark(bottle, lights=lights, table=table, cam=scenes.camera(height=0.5, aim=0.02, distance=1.1))


RIPPLE = Relief(kind="ripple", period_m=0.03, depth_m=0.00012)


def water_film() -> Plan:
    """Rippled water over black, mirroring a panel behind."""
    skin = replace(TABLE_SKIN["water film"].skin, reflectance=Reflectance.grey(0.0), relief=RIPPLE)
    table = Table(skin=skin, width_m=0.5, depth_m=0.4)
    bottle = Product(name="Ball", shape=Turned(profile=scenes.profile(((0, 2), (2, 3), (4, 2)))), body=scenes.BLACK_GLASS)
    lights = (scenes.panel("back", x=0.05, y=0.3, z=-0.5, turn=0, width=0.25, height=0.3, power=-5),)
    return in_the_dark(bottle, lights=lights, table=table, cam=scenes.camera(height=0.35, aim=0.0, distance=0.8, focal=0.08))
