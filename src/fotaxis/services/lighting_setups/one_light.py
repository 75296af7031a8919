"""One panel and a white card."""

from __future__ import annotations

from fotaxis.services.lighting_setups.setup import EDGE_STOPS, LightingSetup, Sizes, edge_for, on_edge
from fotaxis.services.mirror_pairs import mirrored
from fotaxis.services.ports import Document


def make(s: Sizes) -> Document:
    panel = edge_for(s)
    right = on_edge("panel", panel, key="key", name="Key panel", gradient="core", gradient_stops=1.0)
    light = {**mirrored(right)}
    card = on_edge("white card", edge_for(s, inner=0.82, outer=0.96), key="opposite", name="White card")
    return {"lights": [light], "cards": [card]}


SETUP = LightingSetup(
    key="one-light", name="One light and a card", make=make,
    words="One panel, led from the left, and a white card opposite for the second, weaker line.",
    targets={"key": EDGE_STOPS},
)  # fmt: skip
