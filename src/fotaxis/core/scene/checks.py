"""Things that stand where something else already is: possible on a screen, not on a set."""

from __future__ import annotations

import numpy as np

from fotaxis.core.geometry import orientation
from fotaxis.core.lights.fixtures import Card, Light, Stance
from fotaxis.core.scene.plan import Plan
from fotaxis.core.scene.product import Product
from fotaxis.core.values import Array

STEPS = 33
SLACK_M = 2e-3
"""A thing may touch what it stands on."""


def collisions(plan: Plan) -> dict[str, str]:
    """What each light, card or thing beside the product runs through, by its key: 'the table', 'the product', 'the riser' or
    the name of a thing; most have no entry.

    A face is looked at in 33 places across and up; a table is its top, a product its greatest radius at each height.
    """
    found = {}
    for thing in (*plan.lights, *plan.cards):
        places = face_places(thing.stance, thing.half_size_m)
        if through_table(plan, places):
            found[thing.key] = "the table"
        elif _in_product(plan, plan.product, places):
            found[thing.key] = "the product"
        elif (other := next((o for o in plan.others if _in_product(plan, o, places)), None)) is not None:
            found[thing.key] = other.name
        elif plan.riser and _in_drum(places, 0.0, plan.riser.height_m, plan.riser.diameter_m / 2):
            found[thing.key] = "the riser"
    return found | _products_that_touch(plan)


HIGHEST_STAND_M = 2.6
"""A usual stand reaches so high over the floor.  Common practice."""


def out_of_reach(plan: Plan) -> dict[str, str]:
    """Lights and cards that no stand can hold where they are, by key: 'too high', 'in the floor', 'behind the background'.

    Without a table the product's own ground is taken as one of usual height; lamps far away are no matter of stands.
    """
    floor = -(plan.table.above_floor_m if plan.table else USUAL_TABLE_M)
    found = {}
    for thing in (*plan.lights, *plan.cards):
        places = face_places(thing.stance, thing.half_size_m)
        if is_far(thing):
            continue
        if places[..., 1].min() < floor - SLACK_M:
            found[thing.key] = "in the floor"
        elif thing.stance.place.y_m - floor > HIGHEST_STAND_M:
            found[thing.key] = "too high"
        elif plan.background and not plan.background.skin.through and places[..., 2].max() < -plan.background.distance_m:
            found[thing.key] = "behind the background"
    return found


BEYOND_SET_M = 15.0
USUAL_TABLE_M = 0.75


def is_far(thing: Light | Card) -> bool:
    """Does a thing stand beyond the set: the sun, a window over there, a lamp across the street?"""
    return float(np.linalg.norm(thing.stance.place.array())) > BEYOND_SET_M


def face_places(stance: Stance, half_size_m: tuple[float, float]) -> Array:
    """Places on a face, (up, across, 3) metres."""
    half_w, half_h = half_size_m
    across, up, _ = orientation.axes(turn_rad=stance.turn_rad, tilt_rad=stance.tilt_rad)
    part = np.linspace(-1, 1, STEPS)
    return stance.place.array() + part[:, None, None] * half_h * up + part[None, :, None] * half_w * across


def through_table(plan: Plan, places: Array) -> bool:
    """Does a face, by its places (up, across, 3), run through the table?"""
    if not plan.table:
        return False
    low, high = places[0], places[-1]
    crosses = (np.minimum(low[:, 1], high[:, 1]) < -SLACK_M) & (np.maximum(low[:, 1], high[:, 1]) > SLACK_M)
    if not crosses.any():
        return False
    low, high = low[crosses], high[crosses]
    at = low + (high - low) * (-low[:, 1] / (high[:, 1] - low[:, 1]))[:, None]
    beside, before = np.abs(at[:, 0] - plan.table.x_m), np.abs(at[:, 2] - plan.table.z_m)
    inside = (beside < plan.table.width_m / 2) & (before < plan.table.depth_m / 2)
    return bool(inside.any())


def _in_product(plan: Plan, product: Product, places: Array) -> bool:
    """Is some place inside a product: a turned one by its radius at each height, others by the cylinder around them?"""
    profile = product.profile
    ground = plan.ground_m(product)
    moved = places - np.array([product.x_m, 0.0, product.z_m])
    if not _in_drum(moved, ground, ground + product.height_m, product.reach_m):
        return False
    if product.lying or product.shape.turned is None:
        return True
    flat = moved.reshape(-1, 3)
    near = flat[np.hypot(flat[:, 0], flat[:, 2]) < profile.widest_m]
    return any(np.hypot(x, z) < profile.radius_at(float(y - ground + profile.foot_m)) for x, y, z in near)


def _products_that_touch(plan: Plan) -> dict[str, str]:
    """Things beside the product that stand where the product or another of them does, seen from above and in height."""
    found = {}
    for i, product in enumerate(plan.products):
        for other in plan.products[max(i + 1, 1) :]:
            apart = np.hypot(product.x_m - other.x_m, product.z_m - other.z_m)
            low, high = plan.ground_m(product), plan.ground_m(product) + product.height_m
            over = plan.ground_m(other) < high and low < plan.ground_m(other) + other.height_m
            if over and apart < product.reach_m + other.reach_m - SLACK_M and not _boxes_clear(product, other):
                found[other.key] = "the product" if product is plan.product else product.name
    return found


def _boxes_clear(a: Product, b: Product) -> bool:
    """Can boxes be parted by a line along a side of one of them, seen from above? Round things are taken as circles."""
    for one, two in ((a, b), (b, a)):
        if not one.shape.faced or one.lying:
            continue
        across = np.array([np.cos(one.turn_rad), -np.sin(one.turn_rad)])
        front = np.array([np.sin(one.turn_rad), np.cos(one.turn_rad)])
        away = np.array([two.x_m - one.x_m, two.z_m - one.z_m])
        half_width, _, half_depth = one.shape.half_sizes_m
        for axis, half in ((across, half_width), (front, half_depth)):
            reach = two.reach_m
            if two.shape.faced and not two.lying:
                c, s = np.cos(two.turn_rad), np.sin(two.turn_rad)
                wide, _, deep = two.shape.half_sizes_m
                reach = abs(float(axis @ [c, -s])) * wide + abs(float(axis @ [s, c])) * deep
            if abs(float(axis @ away)) > half + reach - SLACK_M:
                return True
    return False


def _in_drum(places: Array, low: float, high: float, radius: float) -> bool:
    y = places[..., 1]
    inside = (y > low + SLACK_M) & (y < high - SLACK_M) & (np.hypot(places[..., 0], places[..., 2]) < radius - SLACK_M)
    return bool(inside.any())
