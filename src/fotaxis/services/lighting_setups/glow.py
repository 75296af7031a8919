"""A round glow through a liquid."""

from __future__ import annotations

from fotaxis.services.lighting_setups.setup import GLOW_STOPS, LightingSetup, Sizes, thing
from fotaxis.services.ports import Document


def make(s: Sizes) -> Document:
    away = max(18.0, s.width + 10, s.table_depth / 2 + 4)
    sheet = thing(
        "opal acrylic", "acrylic", "Acrylic behind", x=0.0, y=s.middle, z=-away, turn=0.0, width_cm=max(60.0, 2.2 * s.height),
        height_cm=max(60.0, 2.2 * s.height),
    )  # fmt: skip
    head = thing(
        "dish 65°", "glow", "Glow head", x=0.0, y=s.lift + 0.45 * s.height, z=-away - max(35.0, 1.2 * s.height), turn=0.0,
        grid_angle_deg=30.0,
    )  # fmt: skip
    return {"lights": [head], "cards": [sheet]}


SETUP = LightingSetup(
    key="glow", name="Gridded glow", make=make, words="A gridded head behind frosted acrylic: a round glow through the liquid.",
    targets={"glow": GLOW_STOPS}, in_frame=frozenset({"glow"}),
)  # fmt: skip
