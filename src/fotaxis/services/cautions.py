"""Usual cautions, at the thing and the moment that raise them; local codes, makers' manuals and licensed people come first."""

from __future__ import annotations

import math

from fotaxis.core.geometry import orientation
from fotaxis.core.lights.fixtures import Card, Light
from fotaxis.core.scene.plan import Plan
from fotaxis.services.ports import Document

HIGH_M = 0.6
OVER_M = 0.35
CLOSE_M = 0.25
WATER_M = 1.2
HEAT_M = 0.35
HOT_BELOW_K = 4000.0
"""A lamp that burns warmer in colour glows: halogen and tungsten, common practice."""

FIRST = "Maker's manual and local codes first."


def by_thing(plan: Plan, document: Document) -> dict[str, str]:
    """What to mind about each light and card as it stands now, by key; things without a cause are not in it."""
    wet = (document.get("table") or {}).get("surface") == "water film"
    found = {thing.key: " ".join(_of(plan, thing, wet=wet)) for thing in (*plan.lights, *plan.cards)}
    return {key: f"{words} {FIRST}" for key, words in found.items() if words}


def _of(plan: Plan, thing: Light | Card, *, wet: bool) -> list[str]:
    place = thing.stance.place
    out = math.hypot(place.x_m - plan.product.x_m, place.z_m - plan.product.z_m)
    told = []
    if place.y_m > HIGH_M and out < OVER_M:
        told.append("Over the product: counterweight and sandbag the boom, a safety line, nobody under it.")
    elif place.y_m > HIGH_M:
        told.append("High up: spread and sandbag its stand.")
    if out < CLOSE_M and place.y_m <= HIGH_M:
        told.append(f"{100 * out:.0f} cm from the product: weigh the stand down before working around glass.")
    if isinstance(thing, Card):
        return told
    if thing.emission.continuous and thing.emission.colour_k < HOT_BELOW_K:
        told.append(_hot(plan, thing))
    if wet and math.hypot(place.x_m, place.z_m) < WATER_M:
        told.append(
            "Water on the table: mains heads and cables clear of it, a residual-current breaker; in doubt a licensed person."
        )
    if not thing.emission.continuous and _towards_camera(plan, thing):
        told.append("Flashes towards the camera: nobody's eye at the finder close to it.")
    return told


def _hot(plan: Plan, thing: Light) -> str:
    near = [(math.dist(thing.stance.place.array(), card.stance.place.array()), card.name) for card in plan.cards]
    near = [(far, name) for far, name in near if far < HEAT_M]
    if not near:
        return "Burns hot: let it cool before touching, keep cloth and paper away."
    far, name = min(near)
    return f"Burns hot, {100 * far:.0f} cm from {name}: heat-rated material only, and a gap for air."


def _towards_camera(plan: Plan, thing: Light) -> bool:
    """Does its axis pass within a hand's breadth of the lens, nearer than two metres?"""
    ahead = orientation.axes(turn_rad=thing.stance.turn_rad, tilt_rad=thing.stance.tilt_rad)[2]
    way = plan.camera.place.array() - thing.stance.place.array()
    along = float(way @ ahead)
    return 0 < along < 2.0 and math.dist(way, along * ahead) < 0.1
