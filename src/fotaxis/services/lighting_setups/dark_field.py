"""Glass drawn by bright edges on black."""

from __future__ import annotations

from fotaxis.services.lighting_setups.setup import (
    BEYOND_FRAME,
    EDGE_STOPS,
    FLAG_BEFORE_CM,
    LightingSetup,
    Sizes,
    box_behind,
    thing,
)
from fotaxis.services.ports import Document


def make(s: Sizes) -> Document:
    box, away = box_behind(s, "behind", "Box behind")
    x, y, half_w, half_h = s.field_at(-away + FLAG_BEFORE_CM)
    flag = thing(
        "black card", "flag", "Flag before the box", x=x, y=y, z=-away + FLAG_BEFORE_CM, turn=0.0,
        width_cm=2 * BEYOND_FRAME * half_w, height_cm=2 * BEYOND_FRAME * half_h,
    )  # fmt: skip
    return {"lights": [box], "cards": [flag]}


SETUP = LightingSetup(
    key="dark-field", name="Dark field", make=make,
    words="A large box behind, a flag before it: clear glass drawn by bright edges on black. Window mask on the lens.",
    targets={"behind": EDGE_STOPS},  windowed=True,
)  # fmt: skip
