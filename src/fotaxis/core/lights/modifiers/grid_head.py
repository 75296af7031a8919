"""An even dish behind a honeycomb grid."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from fotaxis.core.lights.fixtures import Emission, Lamp
from fotaxis.core.lights.modifiers.kind import LIGHTS, ModifierKind, Placed, grid_angle
from fotaxis.core.measures import metres, size


def make(at: Placed, emission: Emission, v: Mapping[str, Any]) -> Lamp:
    return Lamp(
        key=at.key, name=at.name, stance=at.stance, diameter_m=metres(v, "dish_diameter_cm"),
        grid_angle_rad=math.radians(v["grid_angle_deg"]), emission=emission,
    )  # fmt: skip


KIND = ModifierKind(
    key="grid head", group=LIGHTS, make_light=make,
    about="An even dish behind a honeycomb grid of a full beam angle in degrees.",
    measures=(size("dish_diameter_cm", "Dish", least=1), grid_angle(usual=None)),
)  # fmt: skip
