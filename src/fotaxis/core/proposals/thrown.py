"""Where a head behind glass throws its refraction: on the table, in the frame or out of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import ConvexHull, QhullError

from fotaxis.core.lights.fixtures import Light
from fotaxis.core.placement.framing import outline_places
from fotaxis.core.scene.plan import Plan
from fotaxis.core.scene.product import Product
from fotaxis.core.values import Array

LEAST_CORNERS = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Thrown:
    """A product's shadow and refraction on the table by one light: outline (n, 3) metres; in_frame: the part of it that the frame
    shows."""

    product: str
    outline: Array
    in_frame: float


def thrown_by(plan: Plan, light: Light) -> list[Thrown]:
    """Where a light behind glass products throws their refraction: between the straight ways past their outlines, in which the bent
    ones lie for what stands on the table.

    Source:     projection of the outline from the light onto the top; what glass bends stays within its own shadow's outline until
                beyond its focus.
    """
    found = []
    for product in plan.products:
        if product.vessel is None:
            continue
        outline = _outline(plan, product, light.stance.place.array())
        if len(outline) >= LEAST_CORNERS:
            found.append(Thrown(product=product.name, outline=outline, in_frame=_shown(plan, outline)))
    return found


def _outline(plan: Plan, product: Product, place: Array) -> Array:
    """The product's outline thrown onto the table from a place, (n, 3); (0, 3) where the light is lower than all of it."""
    table = plan.table
    if table is None or place[1] <= 0:
        return np.empty((0, 3))
    body = outline_places(plan, product)
    body = body[body[:, 1] < place[1] - 1e-3]
    if not len(body):
        return np.empty((0, 3))
    part = place[1] / (place[1] - body[:, 1])
    met = place + part[:, None] * (body - place)
    half_w, half_d = table.width_m / 2, table.depth_m / 2
    met[:, 0] = np.clip(met[:, 0], table.x_m - half_w, table.x_m + half_w)
    met[:, 2] = np.clip(met[:, 2], table.z_m - half_d, table.z_m + half_d)
    try:
        corners: Array = met[ConvexHull(met[:, [0, 2]]).vertices]
        return corners
    except QhullError:
        return np.empty((0, 3))


def _shown(plan: Plan, outline: Array) -> float:
    """The part of an area on the table that the frame shows, by points spread over it."""
    camera = plan.camera
    eye, (right, up, ahead) = camera.place.array(), camera.from_frame()
    half_w, half_h = camera.half_field
    middle = outline.mean(axis=0)
    part = np.sqrt(np.linspace(0.02, 1, 12))[:, None, None]
    places = (middle + part * (outline - middle)).reshape(-1, 3)
    way = places - eye
    depth = way @ ahead
    seen = (depth > 0) & (np.abs(way @ right) < half_w * depth) & (np.abs(way @ up) < half_h * depth)
    return float(seen.mean())
