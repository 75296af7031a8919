"""Where the camera must stand so that a product fills a stated part of the frame."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from fotaxis.core.camera.camera import Camera
from fotaxis.core.errors import DomainError
from fotaxis.core.scene.plan import Plan
from fotaxis.core.scene.product import Product
from fotaxis.core.values import Array, Point

AROUND = 24
"""A product's outline is looked at in so many directions."""

LEAST_AWAY_M, MOST_AWAY_M = 0.05, 20.0
CLEARS = 1.15
"""The lens stays so many times the product's reach away from its axis at least."""

STEPS = 50


@dataclass(frozen=True, slots=True, kw_only=True)
class Framing:
    """A camera that frames a product, and what part of the frame's height or width, whichever is more, the product takes."""

    camera: Camera
    fills: float


def outline_places(plan: Plan, product: Product) -> Array:
    """Places about a product as it stands, (n, 3) metres: rings at the heights where its outline has corners."""
    profile, ground = product.profile, plan.ground_m(product)
    around = np.linspace(0, 2 * math.pi, AROUND, endpoint=False)
    middle = np.array([product.x_m, ground, product.z_m])
    if product.lying or product.shape.turned is None:
        half = product.reach_m
        rings = [(0.0, half), (product.height_m, half)]
        if product.shape.faced and not product.lying:
            w, _, d = product.shape.half_sizes_m
            corners = np.array([[x, y, z] for x in (-w, w) for y in (0.0, product.height_m) for z in (-d, d)])
            turn = product.turn_rad
            across, front = np.array([math.cos(turn), 0, -math.sin(turn)]), np.array([math.sin(turn), 0, math.cos(turn)])
            placed: Array = (
                middle + corners[:, :1] * across + corners[:, 1:2] * np.array([0.0, 1.0, 0.0]) + corners[:, 2:] * front
            )
            return placed
    else:
        rings = [(h - profile.foot_m, r) for h, r in zip(profile.heights_m, profile.radii_m, strict=True)]
    return np.concatenate([
        middle + np.column_stack([radius * np.cos(around), np.full(AROUND, height), radius * np.sin(around)])
        for height, radius in rings
    ])  # fmt: skip


def filled(plan: Plan, camera: Camera) -> float:
    """What part of the frame's height or width, whichever is more, all products take; inf where one lies behind the lens."""
    places = np.concatenate([outline_places(plan, product) for product in plan.products])
    right, up, ahead = camera.from_frame()
    way = places - camera.place.array()
    depth = way @ ahead
    if depth.min() <= 1e-3:
        return math.inf
    half_w, half_h = camera.half_field
    x, y = way @ right / depth / half_w, way @ up / depth / half_h
    return max(float(np.ptp(x)), float(np.ptp(y))) / 2


def reframed(plan: Plan, *, fills: float, focal_length_m: float | None = None) -> Framing:
    """The camera of a plan moved along the way it looks, and aimed at the middle of the products, so that they fill a part of the
    frame: the same view, larger or smaller.

    fills: 0 to 1, of the frame's height or width. Holds for: something to frame. Else DomainError.
    """
    if not 0.02 <= fills <= 1.0:
        raise DomainError(f"the product cannot fill {100 * fills:.0f} % of the frame; give 2 to 100 %.")
    places = np.concatenate([outline_places(plan, product) for product in plan.products])
    low, high = places.min(axis=0), places.max(axis=0)
    aim = np.array([(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, 0.0])
    before = plan.camera
    way = before.place.array() - before.aim.array()
    way /= np.linalg.norm(way)
    lens = before if focal_length_m is None else replace(before, focal_length_m=focal_length_m)
    least = max(LEAST_AWAY_M, CLEARS * float(np.linalg.norm((high - low)[[0, 2]])) / 2 + 1.2 * lens.focal_length_m)

    def standing(away: float) -> Camera:
        x, y, z = (float(v) for v in aim + away * way)
        ax, ay, az = (float(v) for v in aim)
        return _shown_in_the_middle(replace(lens, place=Point(x_m=x, y_m=y, z_m=z), aim=Point(x_m=ax, y_m=ay, z_m=az)))

    near, far = least, MOST_AWAY_M
    if filled(plan, standing(near)) < fills:
        camera = standing(near)
        return Framing(camera=camera, fills=filled(plan, camera))
    for _ in range(STEPS):
        away = (near + far) / 2
        near, far = (away, far) if filled(plan, standing(away)) > fills else (near, away)
    camera = standing(far)
    return Framing(camera=camera, fills=filled(plan, camera))


def _shown_in_the_middle(camera: Camera) -> Camera:
    """A camera moved aside so that its frame's middle, not its axis, shows what it aims at; its aim stays on the product's plane."""
    right, up, ahead = camera.basis()
    x, y = camera.middle
    if x == y == 0:
        return camera
    place = camera.place.array() - camera.aim_distance_m * (x * right + y * up)
    px, py, pz = (float(v) for v in place)
    ax, ay, _ = (float(v) for v in place - place[2] / ahead[2] * ahead)
    return replace(camera, place=Point(x_m=px, y_m=py, z_m=pz), aim=Point(x_m=ax, y_m=ay, z_m=0.0))
