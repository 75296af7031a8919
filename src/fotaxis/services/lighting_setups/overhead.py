"""A soft ceiling and a kicker, for metal."""

from __future__ import annotations

from fotaxis.services.lighting_setups.setup import ACCENT_STOPS, LightingSetup, Sizes, aimed, thing
from fotaxis.services.ports import Document

KICKER_CLEAR_CM = 32.0


def make(s: Sizes) -> Document:
    over = max(30.0, 1.2 * s.height, 2 * s.width)
    side = max(60.0, 2.2 * max(s.width, s.height))
    box = thing(
        "square box", "overhead", "Overhead box", **aimed(0.0, s.top + over, -6.0, s.middle), width_cm=side, height_cm=side
    )
    away = max(55.0, 2 * s.height)
    middle, _, half_w, _ = s.field_at(-0.71 * away)
    side_x = max(0.71 * away, middle + half_w + KICKER_CLEAR_CM)
    kicker = thing(
        "dish 65°", "kicker", "Kicker", **aimed(side_x, s.top + 0.5 * s.height, -0.71 * away, s.middle),
        doors_deg=[45.0, 45.0, 45.0, 5.0],
    )  # fmt: skip
    return {"lights": [box, kicker], "cards": []}


SETUP = LightingSetup(
    key="overhead", name="Overhead box with a kicker", make=make,
    words="For metal: a large soft ceiling, and a hard kicker from behind with doors that keep it off the table.",
    targets={"overhead": ACCENT_STOPS, "kicker": ACCENT_STOPS},
)  # fmt: skip
