"""What a light's way to the product passes, and how many stops each thing on it takes: there, and on the light's own axis."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from fotaxis.core.camera.exposure import Exposure, incident_f_number
from fotaxis.core.camera.tone import PLAIN_TONE
from fotaxis.core.geometry import orientation
from fotaxis.core.keys import RISER_KEY, TABLE_KEY
from fotaxis.core.lights.fixtures import Card, Lamp, Light, at_full_power
from fotaxis.core.lights.gels import stops_lost
from fotaxis.core.metering.incident import towards
from fotaxis.core.render.arrays.emitters import MANY_SAMPLES
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.render.lighting import DRAFT, lighting
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array

FINELY = replace(DRAFT, light=55, behind_frost=89, sheet=(55, 40, 55), rays=(8, 21, 8, MANY_SAMPLES))
"""Detail of the meter's reading behind one light and what stands before it."""

DARK_STOPS = 12.0
"""What takes so much takes everything."""

LEAST_STOPS = 0.05
"""An opaque thing that takes less does not stand in the way."""

SEEN_PARTS = 3
"""Ways are looked at from so many places across and up a light's face."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Loss:
    """One thing on a light's way: its key ('' for what belongs to the head), its name, the stops it takes at the product, and those on
    the light's axis, as far away; None for what does not stand on that. stated: what the catalogue says it takes, None for nothing.
    """

    key: str
    name: str
    stops: float
    axis_stops: float | None = None
    stated: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class PathLosses:
    """A light's way to the product. full_lux_s: what a meter there, turned to the light, gets at full power (lux for continuous);
    full_f_number: the aperture that asks for at the planned ISO and shutter; off_axis_rad: how far its axis passes the product's
    middle by."""

    losses: tuple[Loss, ...]
    full_lux_s: float
    full_f_number: float
    off_axis_rad: float


def path_losses(plan: Plan, light: Light) -> PathLosses:
    """What stands between a light and the product's middle, nearest to the light first, each with its loss there."""
    meter = towards(plan, light)
    axis = _on_axis(light, meter[0])
    cards = [card for _, card in sorted(_on_the_way(plan, light, meter[0]), key=lambda pair: pair[0])]
    way = _Way(plan, light, meter)
    losses = _of_the_head(plan, light, meter, axis)
    for i, card in enumerate(cards):
        before, after = way.lux(tuple(cards[:i])), way.lux(tuple(cards[: i + 1]))
        passes = bool(card.finish.passed)
        lost = _stops(before, after)
        if passes or lost >= LEAST_STOPS:
            stated = card.finish.stops if passes else None
            losses.append(Loss(key=card.key, name=card.finish.name if passes else card.name, stops=lost, stated=stated))
    reached = way.lux(tuple(cards))
    for key, name, standing in (
        (TABLE_KEY, "the table", {"table": plan.table}), (RISER_KEY, "the riser", {"riser": plan.riser}),
        ("", "what stands beside the product", {"others": plan.others}),
    ):  # fmt: skip
        if not next(iter(standing.values())):
            continue
        left = way.lux(tuple(cards), **standing)
        if (lost := _stops(reached, left)) >= LEAST_STOPS:
            losses.append(Loss(key=key, name=name, stops=lost))
        reached = min(reached, left)
    e = plan.exposure
    seen = reached * e.counted_s(continuous=light.emission.continuous)
    full = incident_f_number(exposure_lux_s=seen, iso=e.iso) if seen > 0 else 0.0
    off = math.acos(max(-1.0, min(1.0, float(-meter[1] @ _ahead(light)))))
    return PathLosses(losses=tuple(losses), full_lux_s=reached, full_f_number=full, off_axis_rad=off)


Spot = tuple[Array, Array]
"""A flat receptor: its place and what it faces."""


def _of_the_head(plan: Plan, light: Light, meter: Spot, axis: Spot) -> list[Loss]:
    """What belongs to the head: gels, grid, doors."""
    losses = []
    if light.emission.gels:
        names = " + ".join(gel.name for gel in light.emission.gels)
        lost = stops_lost(light.emission.gels)
        losses.append(Loss(key="", name=names, stops=lost, axis_stops=lost))
    bare: list[tuple[str, Light]] = []
    if light.grid_angle_rad:
        bare.append((f"{math.degrees(light.grid_angle_rad):g}° grid", replace(light, grid_angle_rad=0.0)))
    if isinstance(light, Lamp) and light.doors is not None:
        bare.append(("barn doors", replace(light, doors=None)))
    for name, without in bare:
        here, on_axis = (
            _stops(metered_lux(plan, without, (), spot), metered_lux(plan, light, (), spot)) for spot in (meter, axis)
        )
        losses.append(Loss(key="", name=name, stops=here, axis_stops=on_axis))
    return losses


def _on_axis(light: Light, place: Array) -> Spot:
    """A receptor on a light's axis, turned to it, as far away as a place."""
    start, ahead = light.stance.place.array(), _ahead(light)
    return start + ahead * float(np.linalg.norm(place - start)), -ahead


def _ahead(light: Light) -> Array:
    """Unit vector that a light's axis points along."""
    return orientation.axes(turn_rad=light.stance.turn_rad, tilt_rad=light.stance.tilt_rad)[2]


def weakest(plan: Plan, chains: dict[str, PathLosses]) -> str:
    """Key of the light that gives the least at full power, of those that are on: every other one must come down to it.

    '' where fewer than two are on.
    """
    on = [light.key for light in plan.lights if light.emission.on]
    return min(on, key=lambda key: chains[key].full_f_number) if len(on) > 1 else ""


def _stops(before: float, after: float) -> float:
    if before <= 0:
        return 0.0
    return min(math.log2(before / after), DARK_STOPS) if after > 0 else DARK_STOPS


def _on_the_way(plan: Plan, light: Light, place: Array) -> list[tuple[float, Card]]:
    """Sheets, nets and cards that the ways from a light's face to a place pass, with how far along the middle one they stand, 0..1."""
    half_w, half_h = light.half_size_m
    across, up, _ = orientation.axes(turn_rad=light.stance.turn_rad, tilt_rad=light.stance.tilt_rad)
    part = np.linspace(-0.9, 0.9, SEEN_PARTS)
    middle = light.stance.place.array()
    starts = [middle + u * half_w * across + v * half_h * up for u in part for v in part]
    found = []
    for card in plan.cards:
        passes = card.finish.group in ("sheet", "net")
        met = [at for start in ([middle] if passes else starts) if (at := _meets(card, start, place)) is not None]
        if met:
            found.append((float(np.mean(met)), card))
    return found


def _meets(card: Card, start: Array, place: Array) -> float | None:
    """How far along the straight way between two places a card stands, 0..1; None beside it."""
    across, up, front = orientation.axes(turn_rad=card.stance.turn_rad, tilt_rad=card.stance.tilt_rad)
    centre, way = card.stance.place.array(), place - start
    along = float(way @ front)
    if abs(along) < 1e-9:
        return None
    part = float((centre - start) @ front) / along
    at = start + part * way - centre
    inside = 0 < part < 1 and abs(at @ across) <= card.width_m / 2 and abs(at @ up) <= card.height_m / 2
    return part if inside else None


@dataclass(frozen=True, slots=True)
class _Way:
    """The meter's reading of one light with some things on its way."""

    plan: Plan
    light: Light
    meter: Spot

    def lux(self, cards: tuple[Card, ...], **standing: object) -> float:
        """At full power past some cards and, of what stands still, `standing` alone."""
        bare = replace(_bare(self.plan), **standing)  # type: ignore[arg-type]
        return _metered(at_full_power(self.light), cards, tuple(self.meter[0]), tuple(self.meter[1]), bare)


def metered_lux(plan: Plan, light: Light, cards: tuple[Card, ...], spot: Spot) -> float:
    """Light on a receptor from one light by way of some sheets and nets alone, at full power."""
    return _metered(at_full_power(light), cards, tuple(spot[0]), tuple(spot[1]), _bare(plan))


@lru_cache(maxsize=8)
def _bare(plan: Plan) -> Plan:
    return replace(
        plan, others=(), table=None, riser=None, background=None, lights=(), cards=(), haze=None, room_lux=0.0, meter=None,
        key_light="", tone=PLAIN_TONE, exposure=Exposure(shutter_s=1.0, f_number=1.0, iso=100),
    )  # fmt: skip


@lru_cache(maxsize=1024)
def _metered(
    light: Light, cards: tuple[Card, ...], place: tuple[float, ...], normal: tuple[float, ...], bare: Plan
) -> float:
    plan = replace(bare, lights=(light,), cards=cards)
    lit = lighting(plan, pack_static_scene(plan), FINELY)
    spot = np.array([[*place, *normal, 0.0, 1.0]], np.float32)
    return float(lit.direct(spot)[0, 0, 1])
