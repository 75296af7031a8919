"""Where on a product's own surface a place of the set lies: what a zone is moved to when it is dragged over the frame."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from fotaxis.core.render.mirrored import OnSet
from fotaxis.core.scene.plan import Plan
from fotaxis.core.scene.product import FACES, Product, stands


@dataclass(frozen=True, slots=True, kw_only=True)
class BodyPlace:
    """A place on a product. azimuth_rad 0 faces its front, height_m counts from its foot; face: the side it lies on (right, left,
    top, bottom, front, back), across_m right of that side's middle and up_m as a zone there counts them."""

    azimuth_rad: float
    height_m: float
    face: str
    across_m: float
    up_m: float


def on_body(plan: Plan, product: Product, lies: OnSet) -> BodyPlace:
    """A place and normal on the set, metres, in the product's own frame."""
    origin, axes = stands(product, plan.ground_m(product))
    x, y, z = (float(v) for v in axes @ (lies.place - origin))
    normal = axes @ lies.normal
    axis = int(np.argmax(np.abs(normal)))
    number = 2 * axis + (0 if normal[axis] > 0 else 1)
    face = next(name for name, which in FACES.items() if which == number)
    across, up = ((z, y), (x, z), (x, y))[axis]
    return BodyPlace(azimuth_rad=math.atan2(x, z), height_m=y, face=face, across_m=across, up_m=up)
