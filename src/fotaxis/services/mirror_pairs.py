"""Things that stand on both sides of the product as each other's mirror image."""

from __future__ import annotations

import copy
from typing import Any

from fotaxis.core.lights.modifiers import MODIFIERS
from fotaxis.services.ports import Document

LINKED = {"place", "turn_deg", "tilt_deg", "kind", "dish_diameter_cm", "doors_deg"} | {
    measure.name for kind in MODIFIERS.values() for measure in kind.measures
}
"""What a pair shares: where it stands and its measures; powers, switches, gels and names stay each its own."""

LISTS = ("lights", "cards")
LEFT_RIGHT = (("Left", "Right"), ("left", "right"))


def mirrored(thing: Document) -> Document:
    """A copy on the other side of the product's axis: x and turn change their sign, left and right doors their place."""
    other = copy.deepcopy(thing)
    other["place"]["x_cm"] = -other["place"]["x_cm"] or 0.0
    other["turn_deg"] = -other["turn_deg"] or 0.0
    if other.get("aim") and other["aim"].get("at") == "place":
        other["aim"]["x_cm"] = -other["aim"]["x_cm"] or 0.0
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


def following_pairs(document: Document, touched: set[tuple[str, str, str]]) -> Document:
    """The document with the other thing of each pair following. touched: (list, key, field) that were set.

    A thing whose partner is gone, or has another, is no longer one of a pair.
    """
    for name in LISTS:
        things = document.get(name) or []
        by_key = {thing.get("key"): thing for thing in things if isinstance(thing, dict)}
        new: dict[Any, Document] = {}
        for key, thing in by_key.items():
            other = by_key.get(thing.get("pair"))
            if not thing.get("pair"):
                continue
            if other is None or other.get("pair") != key:
                new[key] = {**thing, "pair": None}
            elif LINKED & {field for list_name, own, field in touched if (list_name, own) == (name, key)}:
                new[other.get("key")] = {**other, **_shared(thing)}
        if new:
            document = {**document, name: [new.get(t.get("key"), t) if isinstance(t, dict) else t for t in things]}
    return document


def _shared(thing: Document) -> Document:
    """What the other of a pair takes over from a thing, mirrored."""
    try:
        image = mirrored(thing)
    except (KeyError, TypeError, ValueError):
        return {}  # a value that makes no sense is refused when the document is checked
    return {field: image[field] for field in LINKED & image.keys()}
