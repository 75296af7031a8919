"""A virtual incident meter held somewhere on the set, and what each light gives at the product."""

from __future__ import annotations

import math

import numpy as np

from fotaxis.core.camera.exposure import incident_f_number
from fotaxis.core.lights.fixtures import Light
from fotaxis.core.render.lighting import fine_lighting
from fotaxis.core.scene.meter import CAMERA, Meter
from fotaxis.core.scene.plan import Plan
from fotaxis.core.scene.product import Zone
from fotaxis.core.values import Array, Point, lattice


def arriving_lux_s(plan: Plan, *, place: Array, normal: Array) -> Array:
    """Light on a flat receptor from every light at full power, (lights,) float64; lux s flash, lux continuous.

    place (3,) metres, normal (3,) unit vector the receptor faces along.
    """
    found: Array = arriving_at_lux_s(plan, place[None], normal[None])[0]
    return found


def arriving_at_lux_s(plan: Plan, places: Array, normals: Array) -> Array:
    """As arriving_lux_s for many receptors, (n, 3) each to (n, lights)."""
    rows = np.column_stack([places, normals, np.zeros(len(places)), np.ones(len(places))]).astype(np.float32)
    lit = fine_lighting(plan)
    return (lit.direct(rows) + lit.from_table(rows))[..., 1].astype(np.float64)


OFF_SURFACE_M = 5e-3
"""A receptor is held so far before what it lies on."""

DOME_NORMALS = 89
"""A dome is read by so many flat receptors spread over it."""


def front_of_product(plan: Plan, *, height_m: float) -> tuple[Array, Array]:
    """Place and facing of a meter held just before the product at a height, turned to the camera."""
    profile = plan.product.profile
    radius = profile.radius_at(height_m - plan.lift_m + profile.foot_m)
    return np.array([0.0, height_m, radius + OFF_SURFACE_M]), np.array([0.0, 0.0, 1.0])


def _metered_zone(plan: Plan) -> Zone | None:
    """The product's first light, matte zone: its label, as a rule."""
    matte = [b for b in plan.product.bands if b.skin.reflectance.green > 0.2 and not b.skin.metal and b.face != "top"]
    return matte[0] if matte else None


def usual_height_m(plan: Plan) -> float:
    """Height above the table at which a product is metered: the middle of its label, else of itself."""
    zone, profile = _metered_zone(plan), plan.product.profile
    middle = (zone.low_m + zone.high_m) / 2 if zone else (profile.foot_m + profile.top_m) / 2
    return plan.lift_m + middle - profile.foot_m


def meter_of(plan: Plan) -> Meter:
    """The meter where it was set down, else before the product's label or middle, flat and facing the camera."""
    if plan.meter:
        return plan.meter
    place, _ = front_of_product(plan, height_m=usual_height_m(plan))
    zone = _metered_zone(plan)
    x, y, z = (float(v) for v in place)
    return Meter(
        place=Point(x_m=x, y_m=y, z_m=z - OFF_SURFACE_M), normal=(0.0, 0.0, 1.0), on=(zone.name if zone else "") or plan.product.name
    )  # fmt: skip


def facing(plan: Plan, meter: Meter) -> Array:
    """Unit vector that the receptor looks along."""
    to = plan.camera.place if meter.faces == CAMERA else None
    light = next((one for one in plan.lights if one.key == meter.faces), None)
    if light is not None:
        to = light.stance.place
    if to is None:
        return np.array(meter.normal)
    way = to.array() - meter.place.array()
    unit: Array = way / max(float(np.linalg.norm(way)), 1e-9)
    return unit


def at_meter_lux_s(plan: Plan, meter: Meter) -> Array:
    """Light on a meter from every light at full power, (lights,); a dome counts what comes from the side by half.

        E = integral of L (1 + cos) / 2, as the mean of flat receptors over the half ball, times 2
    Source: the shadow of a half ball; ISO 2720 leaves the receptor's shape to the maker.
    """
    place = meter.place.array() + OFF_SURFACE_M * np.array(meter.normal)
    ahead = facing(plan, meter)
    if not meter.dome:
        return arriving_lux_s(plan, place=place, normal=ahead)
    u, v = lattice(DOME_NORMALS)
    up = np.array([0.0, 1.0, 0.0]) if abs(ahead[1]) < 0.9 else np.array([1.0, 0.0, 0.0])
    across = np.cross(up, ahead)
    across /= np.linalg.norm(across)
    rise = np.cross(ahead, across)
    out, turn = np.sqrt(1 - v**2), 2 * math.pi * u
    normals = v[:, None] * ahead + (out * np.cos(turn))[:, None] * across + (out * np.sin(turn))[:, None] * rise
    found: Array = 2 * arriving_at_lux_s(plan, np.broadcast_to(place, normals.shape), normals).mean(axis=0)
    return found


def facing_lights_lux_s(plan: Plan) -> Array:
    """Light at the product from each light at full power, (lights,): flat, held on the product's side towards that light."""
    if not plan.lights:
        return np.empty(0)
    places, normals = (np.array(part) for part in zip(*(towards(plan, one) for one in plan.lights), strict=True))
    found: Array = np.diagonal(arriving_at_lux_s(plan, places, normals)).copy()
    return found


def towards(plan: Plan, light: Light) -> tuple[Array, Array]:
    """Place and facing of a flat receptor just before the product's middle, turned to a light."""
    profile, product = plan.product.profile, plan.product
    middle = np.array([product.x_m, plan.lift_m + (profile.top_m - profile.foot_m) / 2, product.z_m])
    way = light.stance.place.array() - middle
    normal: Array = way / max(float(np.linalg.norm(way)), 1e-6)
    foot, top = plan.lift_m, plan.lift_m + product.height_m
    for away in np.arange(OFF_SURFACE_M, 2 * (product.reach_m + product.height_m), OFF_SURFACE_M):
        place: Array = middle + away * normal
        beside = math.hypot(place[0] - product.x_m, place[2] - product.z_m)
        inside = product.reach_m if product.lying else profile.radius_at(float(place[1] - foot + profile.foot_m))
        if not foot <= place[1] <= top or beside > inside:
            break
    return place + OFF_SURFACE_M * normal, normal


def planned_lux_s(plan: Plan, arriving: Array) -> float:
    """Sum over the lights that are on at their powers; continuous light and the room times the shutter."""
    total = plan.room_lux * plan.exposure.shutter_s
    for light, full in zip(plan.lights, arriving, strict=True):
        total += full * plan.counted(light.emission)
    return float(total)


def suggested_f_number(plan: Plan, meter: Meter) -> float | None:
    """Aperture that an incident meter asks for; None in the dark.

    N = sqrt(H_i S / C)          Source: ISO 2720, C = 250 flat, 330 dome
    """
    light = planned_lux_s(plan, at_meter_lux_s(plan, meter))
    if light <= 0:
        return None
    return incident_f_number(exposure_lux_s=light, iso=plan.exposure.iso, dome=meter.dome)


def light_f_numbers(plan: Plan) -> list[float]:
    """The aperture that each light asks for at its present power, as if it were on, metered towards it; 0 in the dark."""
    e = plan.exposure
    seen = [
        full * 2.0**one.emission.power_stops * e.counted_s(continuous=one.emission.continuous)
        for one, full in zip(plan.lights, facing_lights_lux_s(plan), strict=True)
    ]
    return [incident_f_number(exposure_lux_s=float(lux), iso=e.iso) if lux > 0 else 0.0 for lux in seen]
