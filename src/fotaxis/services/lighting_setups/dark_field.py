"""Glass drawn by bright edges on black."""

from __future__ import annotations

from fotaxis.services.lighting_setups.setup import (
    BEYOND_FRAME,
    EDGE_STOPS,
    FLAG_BEFORE_CM,
    LightingSetup,
    Sizes,
    box_behind,
    field_behind,
    on_edge,
)
from fotaxis.services.ports import Document


def make(s: Sizes) -> Document:
    box, away = box_behind(s, "behind", "Box behind")
    face = field_behind(s, away - FLAG_BEFORE_CM).grown(BEYOND_FRAME)
    flag = on_edge("black card", face, key="flag", name="Flag before the box")
    return {"lights": [box], "cards": [flag]}


SETUP = LightingSetup(
    key="dark-field", name="Dark field", make=make,
    words="A large box behind, a flag before it: clear glass drawn by bright edges on black. Window mask on the lens.",
    targets={"behind": EDGE_STOPS},  windowed=True,
)  # fmt: skip
