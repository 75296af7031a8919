"""A contact sheet of variants: the set with other sheets, grids or turns of the polariser, each at equal exposure."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from fotaxis.core.camera.exposure import encode_srgb
from fotaxis.core.camera.filters import Polariser
from fotaxis.core.constants import REC709_LUMINANCE
from fotaxis.core.errors import DomainError
from fotaxis.core.lights.card_finishes import SHEETS
from fotaxis.core.render.layers import layer_gains, mixed
from fotaxis.core.scene.plan import Plan
from fotaxis.core.stops import signed_stops
from fotaxis.services.pictures import Pictures

MOST_SHEETS = 10
TURNS_DEG = (0, 45, 90)
GRIDS_DEG = (0, 40, 20, 10)
BRIGHT = 0.99
"""The product is set to the same level at this quantile."""

SIDE = 300


@dataclass(frozen=True, slots=True, kw_only=True)
class Variant:
    """One picture (height, width, 3) uint8 and what it shows; more: stops that the light, or the exposure, must give for it."""

    name: str
    more: float
    picture: np.ndarray

    @property
    def words(self) -> str:
        return self.name if abs(self.more) < 0.05 else f"{self.name}  {signed_stops(self.more)}"


def variants(plan: Plan, what: str, key: str, pictures: Pictures) -> list[Variant]:
    """The plan as it is, then with each variant; what: sheets (of the sheet `key`), grids (of the light `key`) or polariser.

    Raises DomainError for a thing that has none.
    """
    changes = _changes(plan, what, key)
    found: list[Variant] = []
    level = 0.0
    for name, changed in changes:
        gains = layer_gains(changed)
        layers = pictures.draft_layers(changed, long_side=SIDE)
        own = _lit_by(changed, what, key)
        part = layers.pictures[own] * gains[own].astype(np.float32)[:, None, None, None]
        is_product = pictures.product_of(changed, long_side=SIDE)
        now = _level(part.sum(axis=0), is_product)
        level = level or now
        more = math.log2(level / now) if level > 0 and now > 0 else 0.0
        scaled = gains.copy()
        scaled[own] *= 2.0**more
        found.append(Variant(name=name, more=more, picture=encode_srgb(mixed(layers, scaled))))
    return found


def _lit_by(plan: Plan, what: str, key: str) -> np.ndarray:
    """Numbers of the layers that are made equal: the lights behind a sheet, one light, or all."""
    if what == "grids":
        return np.array([1 + i for i, light in enumerate(plan.lights) if light.key == key])
    return np.arange(len(plan.lights) + 1)


def _level(levels: np.ndarray, is_product: np.ndarray) -> float:
    luminance = levels.astype(np.float64) @ np.array(REC709_LUMINANCE)
    there = luminance[is_product] if is_product.any() else luminance
    return float(np.quantile(there, BRIGHT))


def _changes(plan: Plan, what: str, key: str) -> list[tuple[str, Plan]]:
    """Names and plans, the present one first."""
    if what == "polariser":
        own = plan.before_lens.polariser
        begin = f"polariser {math.degrees(own.turn_rad):.0f}°" if own else "no polariser"
        loss = own.loss_stops if own else 1.5

        def turned(degrees: int) -> Plan:
            polariser = Polariser(turn_rad=math.radians(degrees), loss_stops=loss)
            return replace(plan, before_lens=replace(plan.before_lens, polariser=polariser))

        return [(begin, plan), *((f"polariser {turn}°", turned(turn)) for turn in TURNS_DEG)]
    if what == "sheets":
        card = next((one for one in plan.cards if one.key == key and one.finish.group == "sheet"), None)
        if card is None:
            raise DomainError("there is no sheet of that name on the set; choose a sheet first.")
        others = [finish for finish in SHEETS if finish.name != card.finish.name][: MOST_SHEETS - 1]
        return [(card.finish.name, plan), *((one.name, _with(plan, key, finish=one)) for one in others)]
    if what == "grids":
        light = next((one for one in plan.lights if one.key == key and hasattr(one, "grid_angle_rad")), None)
        if light is None:
            raise DomainError("there is no light of that name that takes a grid; choose one first.")
        now = math.degrees(light.grid_angle_rad)
        begin = f"{now:.0f}° grid" if now else "no grid"
        wanted = [angle for angle in GRIDS_DEG if abs(angle - now) > 1]
        return [
            (begin, plan),
            *((f"{angle}° grid" if angle else "no grid", _with(plan, key, grid_angle_rad=math.radians(angle))) for angle in wanted),
        ]  # fmt: skip
    raise DomainError(f"{what[:20]!r} has no variants; choose sheets, grids or polariser.")


def _with(plan: Plan, key: str, **values: Any) -> Plan:
    """The plan with other values of one thing."""
    lights = tuple(replace(one, **values) if one.key == key else one for one in plan.lights)
    cards = tuple(replace(one, **values) if one.key == key else one for one in plan.cards)
    return replace(plan, lights=lights, cards=cards)
