"""Glass drawn by dark edges on white."""

from __future__ import annotations

import math

from fotaxis.services.lighting_setups.setup import FIELD_STOPS, LightingSetup, Sizes, as_pair, box_behind, thing
from fotaxis.services.ports import Document

OUTLINE_TURN_DEG = 80.0


def make(s: Sizes) -> Document:
    box, _ = box_behind(s, "behind", "Box behind")
    middle, _, half_w, _ = s.field_at(0.0)
    wide = max(6.0, 0.9 * s.width)
    out = (
        half_w + abs(middle) + wide * math.cos(math.radians(OUTLINE_TURN_DEG)) / 2 + 1
    )  # just out of the frame on both sides
    card = thing(
        "black card", "outline-right", "Right outline card", x=out, y=s.middle, z=-0.3 * s.width, turn=-OUTLINE_TURN_DEG,
        width_cm=wide, height_cm=1.3 * s.height,
    )  # fmt: skip
    return {"lights": [box], "cards": as_pair(card, "outline-left", "Left outline card")}


SETUP = LightingSetup(
    key="bright-field", name="Bright field", make=make,
    words="The box behind is the background; black cards draw the outline.",
    targets={"behind": FIELD_STOPS}, in_frame=frozenset({"behind"}),
)  # fmt: skip
