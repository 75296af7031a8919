"""Two strips behind sheets."""

from __future__ import annotations

from fotaxis.services.lighting_setups.setup import EDGE_STOPS, LightingSetup, Sizes, as_pair, edge_for, on_edge, thing
from fotaxis.services.ports import Document

BOX_BEHIND_SHEET_CM = 25.0


def make(s: Sizes) -> Document:
    panel = edge_for(s)
    sheet = on_edge("full grid cloth", panel, key="sheet-right", name="Right sheet")
    x, y, z = panel.behind(BOX_BEHIND_SHEET_CM)
    strip = thing(
        "strip box", "right", "Right strip", x=x, y=y, z=z, turn=panel.turn, tilt=panel.tilt, width_cm=panel.width,
        height_cm=panel.height, group="edges",
    )  # fmt: skip
    return {"lights": as_pair(strip, "left", "Left strip"), "cards": as_pair(sheet, "sheet-left", "Left sheet")}


SETUP = LightingSetup(
    key="double-diffusion", name="Two strips, double diffusion", make=make,
    words="A strip box behind a sheet on either side: soft lines down both edges.",
    targets={"left": EDGE_STOPS, "right": EDGE_STOPS},
)  # fmt: skip
