"""A hard head along the surface."""

from __future__ import annotations

from fotaxis.services.lighting_setups.setup import LABEL_STOPS, LightingSetup, Sizes, aimed, thing
from fotaxis.services.ports import Document


def make(s: Sizes) -> Document:
    reach = max(60.0, 3 * s.width)
    rake = thing("dish 65°", "rake", "Raking head", **aimed(-reach, s.middle + 0.2 * s.height, 0.16 * reach, s.middle))
    card = thing(
        "silver card", "logo", "Silver card for the logo", **aimed(1.2 * s.width + 14, s.middle, s.width + 22, s.label),
        width_cm=max(12.0, 0.9 * s.width), height_cm=max(16.0, 0.8 * s.height),
    )  # fmt: skip
    return {"lights": [rake], "cards": [card]}


SETUP = LightingSetup(
    key="raking", name="Raking light, card for the logo", make=make,
    words="A hard head along the surface for texture, a silver card that throws it onto the logo.",
    targets={"rake": LABEL_STOPS},
)  # fmt: skip
