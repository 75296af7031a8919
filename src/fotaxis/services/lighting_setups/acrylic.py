"""Bare heads behind opal acrylic."""

from __future__ import annotations

import math

from fotaxis.services.lighting_setups.setup import (
    EDGE_STOPS,
    LightingSetup,
    Sizes,
    as_pair,
    behind,
    cm,
    edge_for,
    on_edge,
    thing,
)
from fotaxis.services.ports import Document


def make(s: Sizes) -> Document:
    panel = edge_for(s)
    sheet = on_edge("opal acrylic", panel, key="sheet-right", name="Right acrylic")
    x, z = behind(panel, max(30.0, 0.7 * cm(panel.height_m)))
    head = thing(
        "dish 65°", "right", "Right head", x=x, y=cm(panel.y_m), z=z, turn=math.degrees(panel.turn_rad), group="edges"
    )
    return {"lights": as_pair(head, "left", "Left head"), "cards": as_pair(sheet, "sheet-left", "Left acrylic")}


SETUP = LightingSetup(
    key="acrylic", name="Two acrylic sheets", make=make, words="A bare head behind clean opal acrylic on either side.",
    targets={"left": EDGE_STOPS, "right": EDGE_STOPS},
)  # fmt: skip
