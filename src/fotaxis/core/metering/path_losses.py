"""What a light's way to the product passes, and how many stops each thing on it takes."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from fotaxis.core.camera.exposure import Exposure, incident_f_number
from fotaxis.core.geometry import orientation
from fotaxis.core.lights.colour import stops_lost
from fotaxis.core.lights.fixtures import Card, Lamp, Light, at_full_power
from fotaxis.core.render.arrays.emitters import MANY_SAMPLES
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.render.lighting import DRAFT, lighting
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array

FINELY = replace(DRAFT, light=55, behind_frost=89, sheet=(55, 40, 55), rays=(8, 21, 8, MANY_SAMPLES))
"""Detail of the meter's reading behind one light and what stands before it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Loss:
    """One thing on a light's way: its key ('' for what belongs to the head), its name, and the stops it takes at the product."""

    key: str
    name: str
    stops: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PathLosses:
    """A light's way to the product. full_lux_s: what a meter there, turned to the light, gets at full power (lux for continuous);
    full_f_number: the aperture that asks for at the planned ISO and shutter."""

    losses: tuple[Loss, ...]
    full_lux_s: float
    full_f_number: float


def path_losses(plan: Plan, light: Light) -> PathLosses:
    """What stands between a light and the product's middle, nearest to the light first, each with its loss there."""
    place, normal = _meter(plan, light)
    cards = tuple(card for _, card in sorted(_on_the_way(plan, light, place), key=lambda pair: pair[0]))
    whole = _lux(plan, light, cards, place, normal)
    losses = []
    bare: Light = light
    if light.emission.gels:
        names = " + ".join(gel.name for gel in light.emission.gels)
        losses.append(Loss(key="", name=names, stops=stops_lost(light.emission.gels)))
    if light.grid_angle_rad:
        bare = replace(light, grid_angle_rad=0.0)
        lost = _stops(_lux(plan, bare, (), place, normal), _lux(plan, light, (), place, normal))
        losses.append(Loss(key="", name=f"{math.degrees(light.grid_angle_rad):g}° grid", stops=lost))
    if isinstance(light, Lamp) and light.doors is not None:
        lost = _stops(_lux(plan, replace(light, doors=None), (), place, normal), _lux(plan, light, (), place, normal))
        losses.append(Loss(key="", name="barn doors", stops=lost))
    for i, card in enumerate(cards):
        lost = _stops(_lux(plan, light, cards[:i], place, normal), _lux(plan, light, cards[: i + 1], place, normal))
        losses.append(Loss(key=card.key, name=card.finish.name, stops=lost))
    e = plan.exposure
    seen = whole * e.counted_s(continuous=light.emission.continuous)
    full = incident_f_number(exposure_lux_s=seen, iso=e.iso) if seen > 0 else 0.0
    return PathLosses(losses=tuple(losses), full_lux_s=whole, full_f_number=full)


def weakest(plan: Plan, chains: dict[str, PathLosses]) -> str:
    """Key of the light that gives the least at full power, of those that are on: every other one must come down to it.

    '' where fewer than two are on.
    """
    on = [light.key for light in plan.lights if light.emission.on]
    return min(on, key=lambda key: chains[key].full_f_number) if len(on) > 1 else ""


def _stops(before: float, after: float) -> float:
    return math.log2(before / after) if before > 0 and after > 0 else 0.0


def _meter(plan: Plan, light: Light) -> tuple[Array, Array]:
    """A flat receptor just before the product's middle, turned to the light."""
    profile = plan.product.profile
    middle = np.array([0.0, plan.lift_m + (profile.top_m - profile.foot_m) / 2, 0.0])
    way = light.stance.place.array() - middle
    normal = way / max(float(np.linalg.norm(way)), 1e-6)
    return middle + normal * (profile.widest_m + 0.005), normal


def _on_the_way(plan: Plan, light: Light, place: Array) -> list[tuple[float, Card]]:
    """Sheets and nets that the straight way from the light to a place passes, with how far along it they stand, 0..1."""
    start = light.stance.place.array()
    found = []
    for card in plan.cards:
        if card.finish.group not in ("sheet", "net"):
            continue
        across, up, front = orientation.axes(turn_rad=card.stance.turn_rad, tilt_rad=card.stance.tilt_rad)
        centre, way = card.stance.place.array(), place - start
        along = float(way @ front)
        if abs(along) < 1e-9:
            continue
        part = float((centre - start) @ front) / along
        at = start + part * way - centre
        if 0 < part < 1 and abs(at @ across) <= card.width_m / 2 and abs(at @ up) <= card.height_m / 2:
            found.append((part, card))
    return found


def _lux(plan: Plan, light: Light, cards: tuple[Card, ...], place: Array, normal: Array) -> float:
    """Light at a place from one light by way of some sheets and nets alone, at full power."""
    return _metered(at_full_power(light), cards, tuple(place), tuple(normal), _bare(plan))


@lru_cache(maxsize=8)
def _bare(plan: Plan) -> Plan:
    return replace(
        plan, others=(), table=None, riser=None, background=None, lights=(), cards=(), haze=None, room_lux=0.0,
        exposure=Exposure(shutter_s=1.0, f_number=1.0, iso=100),
    )  # fmt: skip


@lru_cache(maxsize=512)
def _metered(
    light: Light, cards: tuple[Card, ...], place: tuple[float, ...], normal: tuple[float, ...], bare: Plan
) -> float:
    plan = replace(bare, lights=(light,), cards=cards)
    lit = lighting(plan, pack_static_scene(plan), FINELY)
    spot = np.array([[*place, *normal, 0.0, 1.0]], np.float32)
    return float(lit.direct(spot)[0, 0, 1])
