"""A tape between two things on the set."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from fotaxis.core.keys import CAMERA_KEY, PRODUCT_KEY
from fotaxis.core.scene.plan import Plan


@dataclass(frozen=True, slots=True, kw_only=True)
class Tape:
    """Between the middles of two things: start and end in metres; lengths in centimetres, straight, on the floor, in height."""

    start: tuple[float, float, float]
    end: tuple[float, float, float]
    straight_cm: float
    level_cm: float
    rise_cm: float
    names: tuple[str, str]


def tape_between(plan: Plan, one: str, other: str) -> Tape | None:
    """A tape between two things by their keys, the camera's lens and the product among them; None where one is not there."""
    places = {t.key: (t.stance.place.array(), t.name) for t in (*plan.lights, *plan.cards)}
    for product in plan.products:
        key = PRODUCT_KEY if product is plan.product else product.key
        middle = np.array([product.x_m, plan.ground_m(product) + product.height_m / 2, product.z_m])
        places[key] = (middle, product.name)
    places[CAMERA_KEY] = (plan.camera.place.array(), "lens")
    if one == other or one not in places or other not in places:
        return None
    (a, first), (b, second) = places[one], places[other]
    way = b - a
    return Tape(
        start=(float(a[0]), float(a[1]), float(a[2])), end=(float(b[0]), float(b[1]), float(b[2])),
        straight_cm=float(np.linalg.norm(way)) * 100, level_cm=math.hypot(way[0], way[2]) * 100, rise_cm=float(way[1]) * 100,
        names=(first, second),
    )  # fmt: skip
