"""A virtual incident meter held somewhere on the set."""

from __future__ import annotations

import numpy as np

from fotaxis.core.camera.exposure import incident_f_number
from fotaxis.core.render.lighting import fine_lighting
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array


def arriving_lux_s(plan: Plan, *, place: Array, normal: Array) -> Array:
    """Light on a flat receptor from every light at full power, (lights,) float64; lux s flash, lux continuous.

    place (3,) metres, normal (3,) unit vector the receptor faces along.
    """
    places = np.concatenate([place, normal, [0.0, 1.0]])[None].astype(np.float32)
    lit = fine_lighting(plan)
    return (lit.direct(places) + lit.from_table(places))[0, :, 1].astype(np.float64)


def front_of_product(plan: Plan, *, height_m: float) -> tuple[Array, Array]:
    """Place and facing of a meter held just before the product at a height, turned to the camera."""
    profile = plan.product.profile
    radius = profile.radius_at(height_m - plan.lift_m + profile.foot_m)
    return np.array([0.0, height_m, radius + 0.005]), np.array([0.0, 0.0, 1.0])


def usual_height_m(plan: Plan) -> float:
    """Height above the table at which a product is metered: the middle of its first light, matte label, else of itself."""
    matte = [b for b in plan.product.bands if b.skin.reflectance.green > 0.2 and not b.skin.metal and b.face != "top"]
    profile = plan.product.profile
    middle = (matte[0].low_m + matte[0].high_m) / 2 if matte else (profile.foot_m + profile.top_m) / 2
    return plan.lift_m + middle - profile.foot_m


def planned_lux_s(plan: Plan, arriving: Array) -> float:
    """Sum over the lights that are on at their powers; continuous light and the room times the shutter."""
    total = plan.room_lux * plan.exposure.shutter_s
    for light, full in zip(plan.lights, arriving, strict=True):
        total += full * plan.counted(light.emission)
    return float(total)


def suggested_f_number(plan: Plan, *, height_m: float) -> float | None:
    """Aperture an incident meter (flat, C = 250) before the product asks for; None in the dark.

    N = sqrt(H_i S / C)          Source: ISO 2720
    """
    place, normal = front_of_product(plan, height_m=height_m)
    light = planned_lux_s(plan, arriving_lux_s(plan, place=place, normal=normal))
    return incident_f_number(exposure_lux_s=light, iso=plan.exposure.iso) if light > 0 else None
