"""Things that stand where something else already is: possible on a screen, not on a set."""

from __future__ import annotations

import numpy as np

from fotaxis.core.geometry import facing
from fotaxis.core.prediction.plan import Plan
from fotaxis.core.sources.things import Card, Light, half_size
from fotaxis.core.values import Array

STEPS = 33
SLACK_M = 2e-3
"""A thing may touch what it stands on."""


def collisions(plan: Plan) -> dict[str, str]:
    """What each light or card runs through, by its key: 'the table', 'the product' or 'the riser'; most have no entry.

    A face is looked at in 33 places across and up; a table is its top, a product its greatest radius at each height.
    """
    found = {}
    for thing in (*plan.lights, *plan.cards):
        places = _face(thing)
        if _through_table(plan, places):
            found[thing.key] = "the table"
        elif _in_product(plan, places):
            found[thing.key] = "the product"
        elif plan.riser and _in_drum(places, 0.0, plan.riser.height_m, plan.riser.diameter_m / 2):
            found[thing.key] = "the riser"
    return found


def _face(thing: Light | Card) -> Array:
    """Places on a face, (up, across, 3) metres."""
    half_w, half_h = half_size(thing)
    across, up, _ = facing.axes(turn_rad=thing.stance.turn_rad, tilt_rad=thing.stance.tilt_rad)
    part = np.linspace(-1, 1, STEPS)
    return thing.stance.place.array() + part[:, None, None] * half_h * up + part[None, :, None] * half_w * across


def _through_table(plan: Plan, places: Array) -> bool:
    if not plan.table:
        return False
    low, high = places[0], places[-1]
    crosses = (np.minimum(low[:, 1], high[:, 1]) < -SLACK_M) & (np.maximum(low[:, 1], high[:, 1]) > SLACK_M)
    if not crosses.any():
        return False
    low, high = low[crosses], high[crosses]
    at = low + (high - low) * (-low[:, 1] / (high[:, 1] - low[:, 1]))[:, None]
    inside = (np.abs(at[:, 0]) < plan.table.width_m / 2) & (np.abs(at[:, 2]) < plan.table.depth_m / 2)
    return bool(inside.any())


def _in_product(plan: Plan, places: Array) -> bool:
    profile = plan.subject.profile
    foot = plan.lift_m - profile.foot_m
    if not _in_drum(places, foot + profile.foot_m, foot + profile.top_m, profile.widest_m):
        return False
    flat = places.reshape(-1, 3)
    near = flat[np.hypot(flat[:, 0], flat[:, 2]) < profile.widest_m]
    return any(np.hypot(x, z) < profile.radius_at(float(y - foot)) for x, y, z in near)


def _in_drum(places: Array, low: float, high: float, radius: float) -> bool:
    y = places[..., 1]
    inside = (y > low + SLACK_M) & (y < high - SLACK_M) & (np.hypot(places[..., 0], places[..., 2]) < radius - SLACK_M)
    return bool(inside.any())
