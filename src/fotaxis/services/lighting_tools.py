"""Heads, sheets, nets, cards and gels for people: groups, words, figures, and a small picture of each."""

from __future__ import annotations

import math
from dataclasses import replace
from functools import lru_cache

import numpy as np

from fotaxis.core.errors import DomainError
from fotaxis.core.geometry import orientation
from fotaxis.core.lights.beam_patterns import LAMBERT
from fotaxis.core.lights.card_finishes import CARDS, FINISH, NETS, SHEETS
from fotaxis.core.lights.fixtures import Card, Lamp, Light
from fotaxis.core.lights.gels import GELS, Gel
from fotaxis.core.lights.heads import HEAD, HEADS, Head
from fotaxis.core.metering import incident
from fotaxis.core.metering.sheet_loss import loss_from_readings
from fotaxis.core.render.final.final_render import predict
from fotaxis.core.render.final.quality import SCREEN
from fotaxis.core.render.layers import develop
from fotaxis.core.scene.catalogue_sets.light_entries import SHAPES, Shape
from fotaxis.core.scene.catalogue_sets.lights import light_plan
from fotaxis.core.scene.plan import Plan
from fotaxis.core.stops import stops_name
from fotaxis.services.materials import SWATCH_SIDE, Entry
from fotaxis.services.ports import NotFound

SHOWN_LEVEL = 0.5
"""The bright part of the wall is shown at this level, whatever the light's power."""


def groups() -> list[tuple[str, list[Entry]]]:
    """All of them by group, in the catalogue's order."""
    finishes = (("Sheets lit from behind", SHEETS), ("Nets", NETS), ("Cards", CARDS))
    shapes = {shape.group: [s for s in SHAPES if s.group == shape.group] for shape in SHAPES}
    return [
        ("Heads", [Entry(kind="head", name=head.name, words=head.words, figures=_figures(head)) for head in HEADS]),
        *(
            (title, [Entry(kind="shape", name=s.name, words=s.words, figures=_shaped(s)) for s in some])
            for title, some in shapes.items()
        ),
        *(
            (title, [Entry(kind="finish", name=f.name, words=f.words, figures=_loss(f.stops)) for f in some])
            for title, some in finishes
        ),
        ("Gels", [Entry(kind="gel", name=g.name, words=g.words, figures=_gel(g)) for g in GELS]),
    ]


@lru_cache(maxsize=64)
def _shaped(shape: Shape) -> str:
    """A shape's figures, and what a grid takes from its light as metered on the axis a metre away."""
    light = shape.lights[0]
    if not light.grid_angle_rad:
        return shape.figures
    lost = math.log2(_metered(light) / _metered(replace(light, grid_angle_rad=0.0)))
    return " · ".join(part for part in (shape.figures, f"{stops_name(lost)} stops at 1 m") if part)


def _metered(light: Light) -> float:
    """Light on a flat receptor a metre before a light, on its axis."""
    plan = replace(light_plan("shape", SHAPES[0].name), lights=(light,), cards=(), background=None)
    _, _, front = orientation.axes(turn_rad=light.stance.turn_rad, tilt_rad=light.stance.tilt_rad)
    return float(incident.arriving_lux_s(plan, place=light.stance.place.array() + front, normal=-front)[0])


def _gel(gel: Gel) -> str:
    return _loss(gel.stops) + (f" · {gel.mired:+.0f} mired".replace("-", "−") if gel.mired else "")


def _figures(head: Head) -> str:
    size = f"{head.diameter_m * 100:g} cm"
    bright = f"{head.candela:g} cd" if head.continuous else f"guide number {head.guide_number_m:g} m"
    if head.ball:
        return f"Ø\u00a0{size} · all round · {bright} · {head.colour_k:.0f}\u00a0K"
    beam = "" if head.pattern.kind == LAMBERT else f" · beam {math.degrees(2 * head.pattern.half_rad):.0f}°"
    return f"Ø\u00a0{size}{beam} · {bright} · {head.colour_k:.0f}\u00a0K"


def _loss(stops: float) -> str:
    return f"{stops_name(-stops)} stops" if stops else ""


@lru_cache(maxsize=256)
def swatch(kind: str, name: str) -> np.ndarray:
    """A square picture of what a tool does, (190, 190, 3) uint8. Raises NotFound for an unknown one."""
    try:
        plan = light_plan(kind, name)
    except DomainError as error:
        raise NotFound(str(error)) from error
    layers = predict(plan, long_side=SWATCH_SIDE, quality=SCREEN)
    wall = layers.pictures[1].max(axis=2)[:, SWATCH_SIDE // 2 :]
    return develop(layers, np.array([0.0, SHOWN_LEVEL / max(float(np.quantile(wall, 0.98)), 1e-12)]))


USUAL_BEHIND_SHEET = "dish 110°"
"""The head that readings with and without a sheet are taken with, where none stands behind it on the set."""


def measured_loss(plan: Plan, key: str, *, without_f: float, with_f: float, head_m: float, meter_m: float) -> float:
    """What the sheet `key` of a plan takes of an even light, by a pair of meter readings with and without it. Raises NotFound, and
    DomainError where readings and distances cannot be."""
    card = next((one for one in plan.cards if one.key == key and one.finish.group == "sheet"), None)
    if card is None:
        raise NotFound
    if not without_f > with_f > 0:
        raise DomainError("without the sheet the meter must ask for a smaller aperture (a larger f-number) than with it.")
    behind = [one for one in plan.lights if isinstance(one, Lamp) and not one.head.ball and _stands_behind(card, one)]
    near = min(behind, key=lambda one: _apart(one, card), default=None)
    head = near.head if near else HEAD[USUAL_BEHIND_SHEET]
    return loss_from_readings(
        FINISH.get(card.finish.name, card.finish), head, head_m=head_m, meter_m=meter_m, size_m=(card.width_m, card.height_m),
        stops=2 * math.log2(without_f / with_f),
    )  # fmt: skip


def _apart(light: Light, card: Card) -> float:
    return float(np.linalg.norm(light.stance.place.array() - card.stance.place.array()))


def _stands_behind(card: Card, light: Light) -> bool:
    """Does a light stand on the far side of a sheet and look at it?"""
    way = card.stance.place.array() - light.stance.place.array()
    ahead = orientation.axes(turn_rad=light.stance.turn_rad, tilt_rad=light.stance.tilt_rad)[2]
    return float(way @ ahead) > 0.7 * float(np.linalg.norm(way))
