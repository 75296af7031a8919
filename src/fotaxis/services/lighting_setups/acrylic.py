"""Bare heads behind opal acrylic."""

from __future__ import annotations

from fotaxis.services.lighting_setups.setup import EDGE_STOPS, LightingSetup, Sizes, as_pair, edge_for, on_edge, thing
from fotaxis.services.ports import Document


def make(s: Sizes) -> Document:
    panel = edge_for(s)
    sheet = on_edge("opal acrylic", panel, key="sheet-right", name="Right acrylic")
    x, y, z = panel.behind(max(30.0, 0.7 * panel.height))
    head = thing("dish 65°", "right", "Right head", x=x, y=y, z=z, turn=panel.turn, tilt=panel.tilt, group="edges")
    return {"lights": as_pair(head, "left", "Left head"), "cards": as_pair(sheet, "sheet-left", "Left acrylic")}


SETUP = LightingSetup(
    key="acrylic", name="Two acrylic sheets", make=make, words="A bare head behind clean opal acrylic on either side.",
    targets={"left": EDGE_STOPS, "right": EDGE_STOPS},
)  # fmt: skip
