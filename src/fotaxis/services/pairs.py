"""Things that stand on both sides of the product as each other's mirror image."""

from __future__ import annotations

import copy
from typing import Any

from fotaxis.services.ports import Document

LINKED = {
    "place", "turn_deg", "tilt_deg", "width_cm", "height_cm", "gradient", "gradient_stops", "grid_angle_deg", "octagon",
    "wrinkles", "dish_diameter_cm", "doors_deg", "material", "hole_cm", "bend_deg", "like_product", "kind", "head",
}  # fmt: skip
"""What a pair shares; powers, switches, gels and names stay each its own."""

LISTS = ("lights", "cards")
LEFT_RIGHT = (("Left", "Right"), ("left", "right"))


def mirrored(thing: Document) -> Document:
    """A copy on the other side of the product's axis: x and turn change their sign, left and right doors their place."""
    other = copy.deepcopy(thing)
    other["place"]["x_cm"] = -other["place"]["x_cm"] or 0.0
    other["turn_deg"] = -other["turn_deg"] or 0.0
    if other.get("doors_deg"):
        left, right, top, bottom = other["doors_deg"]
        other["doors_deg"] = [right, left, top, bottom]
    return other


def other_side_name(name: str) -> str:
    """'Left panel' becomes 'Right panel', anything else 'Panel, other side'."""
    for left, right in LEFT_RIGHT:
        if left in name:
            return name.replace(left, right)
        if right in name:
            return name.replace(right, left)
    return f"{name[:68]}, other side"


def follow_pairs(document: Document, touched: set[tuple[str, str, str]]) -> None:
    """Let the other thing of each pair follow, in place. touched: (list, key, field) that were set."""
    for name in LISTS:
        things = document.get(name) or []
        by_key = {thing.get("key"): thing for thing in things if isinstance(thing, dict)}
        for thing in list(by_key.values()):
            other = by_key.get(thing.get("pair"))
            if thing.get("pair") and (other is None or other.get("pair") != thing.get("key")):
                thing["pair"] = None
                continue
            fields = {field for list_name, key, field in touched if list_name == name and key == thing.get("key")}
            if other is not None and fields & LINKED:
                _copy(thing, other)


def _copy(thing: Document, other: Document) -> None:
    try:
        image: dict[str, Any] = mirrored(thing)
    except (KeyError, TypeError, ValueError):
        return  # a value that makes no sense is refused when the document is checked
    for field in LINKED & image.keys():
        other[field] = image[field]
