"""Two strips behind sheets."""

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

BOX_BEHIND_SHEET_CM = 25.0


def make(s: Sizes) -> Document:
    panel = edge_for(s)
    sheet = on_edge("full grid cloth", panel, key="sheet-right", name="Right sheet")
    x, z = behind(panel, BOX_BEHIND_SHEET_CM)
    strip = thing(
        "strip box", "right", "Right strip", x=x, y=cm(panel.y_m), z=z, turn=math.degrees(panel.turn_rad),
        width_cm=cm(panel.width_m), height_cm=cm(panel.height_m), group="edges",
    )  # fmt: skip
    return {"lights": as_pair(strip, "left", "Left strip"), "cards": as_pair(sheet, "sheet-left", "Left sheet")}


SETUP = LightingSetup(
    key="double-diffusion", name="Two strips, double diffusion", make=make,
    words="A strip box behind a sheet on either side: soft lines down both edges.",
    targets={"left": EDGE_STOPS, "right": EDGE_STOPS},
)  # fmt: skip
