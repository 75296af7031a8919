"""How well a fine relief shows under the light that falls on it."""

from __future__ import annotations

import numpy as np

from fotaxis.core.geometry import orientation
from fotaxis.core.materials.bump import EMBOSS, KINDS, rim_slopes, slopes
from fotaxis.core.materials.material import Skin
from fotaxis.core.render.lighting import fine_lighting
from fotaxis.core.scene.plan import Plan
from fotaxis.core.scene.product import Product, Zone, stands
from fotaxis.core.values import Array, lattice

PLACES = 233


def slopes_of(skin: Skin, u: Array, v: Array, *, half: tuple[float, float], ellipse: bool) -> tuple[Array, Array]:
    """Slopes of a skin's relief at places (n,) from the middle of a zone of half sizes `half`, metres."""
    relief = skin.relief
    if relief is None or relief.kind == "none":
        return np.zeros_like(u), np.zeros_like(v)
    kind = KINDS[relief.kind]
    if kind == EMBOSS:
        pairs = [rim_slopes(relief.period_m, relief.depth_m, a, b, *half, ellipse) for a, b in zip(u, v, strict=True)]
    else:
        pairs = [slopes(kind, relief.period_m, relief.depth_m, a, b) for a, b in zip(u, v, strict=True)]
    found = np.array(pairs).reshape(-1, 2)
    return found[:, 0], found[:, 1]


def relief_contrast(plan: Plan, product: Product, band: Zone) -> float | None:
    """Contrast of a relief in a zone as lit now, (bright - dark) / (bright + dark) of the 95th and 5th hundredth; None unlit.

    Light of all lights that are on at their powers, on normals tilted by the relief at 233 places about the zone's middle,
    one period or one zone wide. About 0.02 is where the eye begins to see it; 0.2 reads as texture (common practice).
    """
    centre, across, up, normal, half = zone_patch(plan, product, band)
    skin = band.skin
    relief = skin.relief
    if relief is None:
        return None
    x, y = lattice(PLACES)
    reach = half if KINDS[relief.kind] == EMBOSS else (min(half[0], 4 * relief.period_m), min(half[1], 4 * relief.period_m))
    u, v = (2 * x - 1) * reach[0], (2 * y - 1) * reach[1]
    du, dv = slopes_of(skin, u, v, half=half, ellipse=band.ellipse)
    tilted = normal - du[:, None] * across - dv[:, None] * up
    tilted /= np.linalg.norm(tilted, axis=1, keepdims=True)
    places = centre + u[:, None] * across + v[:, None] * up + 2e-5 * normal
    rows = np.concatenate([places, tilted, np.tile([0.0, 1.0], (len(u), 1))], axis=1).astype(np.float32)
    arriving = fine_lighting(plan).direct(rows)[..., 1]
    light = arriving @ np.array([plan.counted(one.emission) for one in plan.lights], np.float32).reshape(-1)
    light = light + plan.room_lux * plan.exposure.shutter_s
    bright, dark = (float(q) for q in np.quantile(light, [0.95, 0.05]))
    return (bright - dark) / (bright + dark) if bright + dark > 0 else None


def zone_patch(plan: Plan, product: Product, band: Zone) -> tuple[Array, Array, Array, Array, tuple[float, float]]:
    """Middle, axes, normal and half sizes of a zone, in the world."""
    origin, axes = stands(product, plan.ground_m(product))
    middle, half_up = (band.low_m + band.high_m) / 2, (band.high_m - band.low_m) / 2
    shape = product.shape
    if band.face:
        w, half_height, d = shape.half_sizes_m
        h = 2 * half_height
        faces: dict[str, tuple[list[float], list[int], list[int], list[int]]] = {
            "right": ([w, middle, band.centre_m], [0, 0, 1], [0, 1, 0], [1, 0, 0]),
            "left": ([-w, middle, band.centre_m], [0, 0, 1], [0, 1, 0], [-1, 0, 0]),
            "top": ([band.centre_m, h, middle], [1, 0, 0], [0, 0, 1], [0, 1, 0]),
            "bottom": ([band.centre_m, 0, middle], [1, 0, 0], [0, 0, 1], [0, -1, 0]),
            "front": ([band.centre_m, middle, d], [1, 0, 0], [0, 1, 0], [0, 0, 1]),
            "back": ([band.centre_m, middle, -d], [1, 0, 0], [0, 1, 0], [0, 0, -1]),
        }
        at, across, up, normal = (np.array(part, np.float64) for part in faces[band.face])
        half = band.width_m / 2, half_up
    else:
        radius = max(product.profile.radius_at(middle), 1e-3)
        _, _, normal = orientation.axes(turn_rad=band.azimuth_rad, tilt_rad=0)
        across, up = np.array([normal[2], 0, -normal[0]]), np.array([0.0, 1.0, 0.0])
        at = radius * normal + np.array([0, middle, 0])
        half = radius * min(band.width_rad / 2, 0.5), half_up
    world = [part @ axes for part in (at, across, up, normal)]
    return world[0] + origin, world[1], world[2], world[3], half
