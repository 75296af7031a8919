"""What the parts of a shot begin as when the page puts them in: the page asks for these and knows none itself."""

from __future__ import annotations

from typing import Any

from fotaxis.core.scene.plan import Plan
from fotaxis.services.ports import Document
from fotaxis.services.presets import usual_mask

ABOVE_FLOOR_CM = 75
"""The table's top where a shot does not say: the usual height of a table."""

FILLED = 0.45
"""A liquid begins at this part of the room inside."""

FIRST_RISER = {"height_cm": 4, "diameter_cm": 6, "surface": "black matte"}
WHOLE: dict[str, dict[str, Any]] = {
    "table": {"surface": "black gloss", "width_cm": 60, "depth_cm": 50},
    "background": {
        "distance_cm": 150, "width_cm": 300, "height_cm": 300, "centre_height_cm": 60, "skin": {"reflectance": [0.04, 0.04, 0.04]},
    },
}  # fmt: skip
PARTS: dict[str, Any] = {
    "haze": {}, "hue_deg": 30, "doors_deg": [60, 60, 60, 60], "gate": {"blades_percent": [0, 0, 0, 0]}, "hood": {},
}  # fmt: skip
CALIBRATIONS: dict[str, dict[str, Any]] = {
    "meter": {"kind": "meter", "distance_cm": 100, "f_number": 16}, "candela": {"kind": "candela", "candela": 1000},
    "guide number": {"kind": "guide number", "metres": 22},
}  # fmt: skip
GLASS = {"wall_mm": 2.5, "floor_cm": 0.8}
CUSTOM_SKIN = {"material": "custom", "reflectance": [0.5, 0.5, 0.5], "coat_index": 0}
MOVED_UP_CM = 30
"""A lamp that is to be moved during the exposure is first moved up by so much."""


def part_defaults(document: Document, plan: Plan) -> dict[str, Any]:
    """What is put in for a part that is not there yet, by the part's name; plain: what a field shows where the shot says nothing."""
    profile = document["subject"].get("profile") or [{}]
    riser = {**FIRST_RISER, "diameter_cm": profile[0].get("diameter_cm") or FIRST_RISER["diameter_cm"]}
    return {
        "plain": {
            "lit_to_percent": 100, "exposure.black_point": 0, "exposure.white_point": 255,
            "table.above_floor_cm": ABOVE_FLOOR_CM, "riser.height_cm": 0, "calibration.kind": "as usual",
            "meniscus": True, "liquid.meniscus": True,
        },
        "whole": {**WHOLE, "riser": riser}, "parts": {**PARTS, "mask": usual_mask(plan)}, "calibration": CALIBRATIONS,
        "glass": GLASS, "skin": CUSTOM_SKIN, "movedUpCm": MOVED_UP_CM, "levels": _levels(document, plan),
    }  # fmt: skip


def _levels(document: Document, plan: Plan) -> dict[str, float]:
    """Where a liquid begins in each product that may hold one, centimetres above its foot, by key."""
    found = {}
    for part, product in zip([document["subject"], *document.get("others", [])], plan.products, strict=True):
        if product.shape.holds_liquid:
            top = product.profile.top_m * 100
            floor = (part.get("glass") or {}).get("floor_cm", 1.0)
            found[product.key] = round(floor + FILLED * (top - floor), 1)
    return found
