"""A background so many stops darker: how far away, and which flag keeps which light off it."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from fotaxis.core.geometry import orientation
from fotaxis.core.lights.fixtures import Light
from fotaxis.core.metering import incident
from fotaxis.core.proposals.panel import Face, in_frame, stands_clear
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array, Point

FARTHEST_M = 8.0
STEPS = 40
ALL_OVER = np.array([(x, y) for x in np.linspace(0.05, 0.95, 5) for y in np.linspace(0.05, 0.95, 5)])
"""Spots all over the frame."""

FLAG_PARTS = (0.08, 0.12, 0.16, 0.2, 0.25, 0.3, 0.4, 0.5, 0.6)
"""Where on the way from a light to the background a flag is tried."""

SLACK = 1.25


def background_light(plan: Plan, gains: Array, spots: Array = ALL_OVER) -> Array:
    """Light on the background's front where the frame shows it, as level by light (lights,): reflectance over pi.

    gains (lights,): factor of every light; spots (n, 2): where in the frame, 0..1 from its upper left corner.
    """
    b = plan.background
    if b is None:
        return np.zeros(len(plan.lights))
    normal = np.array([0.0, 0.0, 1.0])
    places = _shown(plan, spots)
    lux = incident.arriving_at_lux_s(plan, places, np.tile(normal, (len(places), 1))).mean(axis=0)
    made: Array = b.skin.reflectance.green / math.pi * lux * gains
    return made


def _shown(plan: Plan, spots: Array = ALL_OVER) -> Array:
    """Places of the background that the frame shows at some spots, (n, 3)."""
    b, camera = plan.background, plan.camera
    assert b is not None, "there is a background"
    eye, (right, up, middle) = camera.place.array(), camera.to_frame()
    half_w, half_h = camera.half_field
    ways = middle + (2 * spots[:, :1] - 1) * half_w * right + (1 - 2 * spots[:, 1:]) * half_h * up
    ahead = ways[:, 2] < -1e-6
    away = (-b.distance_m + 1e-4 - eye[2]) / np.where(ahead, ways[:, 2], -1.0)
    places: Array = (eye + away[:, None] * ways)[ahead]
    on = (np.abs(places[:, 0]) < b.width_m / 2) & (np.abs(places[:, 1] - b.centre_height_m) < b.height_m / 2)
    return places[on] if on.any() else np.array([[0.0, b.centre_height_m, -b.distance_m + 1e-4]])


def darker_at_m(plan: Plan, gains: Array, *, stops: float, spots: Array = ALL_OVER) -> float | None:
    """How far away the background is so many stops darker than where it stands, at some spots of the frame;
    None where no place up to 8 m is.

    Source:     every light's own fall-off to the background, read at each distance; bisection.
    """
    b = plan.background
    if b is None:
        return None
    now = float(background_light(plan, gains, spots).sum())
    if now <= 0:
        return b.distance_m

    def darker(distance: float) -> float:
        moved = replace(plan, background=replace(b, distance_m=distance))
        return math.log2(max(float(background_light(moved, gains, spots).sum()), 1e-12) / now)

    if darker(FARTHEST_M) > -stops:
        return None
    near, far = b.distance_m, FARTHEST_M
    for _ in range(STEPS):
        middle = (near + far) / 2
        near, far = (middle, far) if darker(middle) > -stops else (near, middle)
        if far - near < 5e-3:
            break
    return far


def ground_flag(plan: Plan, light: Light) -> Face | None:
    """A card beside the way from a light to the product that hides the light from all of the background that the frame shows; None
    where none clears the product, the frame and the table.

    Source:     straight lines from the light's corners to the background's shown places.
    """
    if plan.background is None:
        return None
    shown = _shown(plan)
    across, up, _ = orientation.axes(turn_rad=light.stance.turn_rad, tilt_rad=light.stance.tilt_rad)
    half_w, half_h = light.half_size_m
    own = light.stance.place.array()
    corners = np.array([own + u * half_w * across + v * half_h * up for u in (-1, 0, 1) for v in (-1, 0, 1)])
    product = _product_places(plan)
    target = shown.mean(axis=0)
    way = (target - own) / max(float(np.linalg.norm(target - own)), 1e-9)
    turn, tilt = math.atan2(-way[0], -way[2]), math.asin(max(-1.0, min(1.0, -float(way[1]))))
    for part in FLAG_PARTS:
        about = own + part * (target - own)
        a, u, front = orientation.axes(turn_rad=turn, tilt_rad=tilt)
        at = _through(corners, shown, about, front)
        flat = np.column_stack([(at - about) @ a, (at - about) @ u])
        if not np.isfinite(flat).all():
            continue
        low, high = flat.min(axis=0), flat.max(axis=0)
        size = SLACK * (high - low)
        middle = about + (low[0] + high[0]) / 2 * a + (low[1] + high[1]) / 2 * u
        lit = _through(corners, product, about, front)
        on = np.column_stack([(lit - middle) @ a, (lit - middle) @ u])
        if (np.isfinite(on).all(axis=1) & (np.abs(on) < size / 2).all(axis=1)).any():
            continue
        x, y, z = (float(c) for c in middle)
        face = Face(
            place=Point(x_m=x, y_m=y, z_m=z), turn_rad=turn, tilt_rad=tilt, width_m=float(size[0]), height_m=float(size[1]),
            distance_m=0.0, below_m=0.0,
        )  # fmt: skip
        if not in_frame(plan, face) and stands_clear(plan, face):
            return face
    return None


def _through(begins: Array, ends: Array, about: Array, front: Array) -> Array:
    """Where ways from every beginning to every end meet a plane, (n, 3); nan where they do not cross it between both."""
    ways = ends[None] - begins[:, None]
    along = ways @ front
    part = ((about - begins) @ front)[:, None] / np.where(np.abs(along) < 1e-9, 1e-9, along)
    at = begins[:, None] + part[..., None] * ways
    at[(part < 0) | (part > 1)] = np.nan
    return at.reshape(-1, 3)


def _product_places(plan: Plan) -> Array:
    found = []
    for product in plan.products:
        ground, reach = plan.ground_m(product), product.reach_m
        found += [
            (product.x_m + u * reach, ground + v * product.height_m, product.z_m + w * reach)
            for u in (-1, 0, 1) for v in (0, 0.25, 0.5, 0.75, 1) for w in (-1, 0, 1)
        ]  # fmt: skip
    return np.array(found)
