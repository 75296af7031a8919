"""Things that stay aimed: at a place, the lens or another thing; cards that throw a light there."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from fotaxis.core.errors import DomainError
from fotaxis.core.geometry import orientation
from fotaxis.core.keys import CAMERA_KEY
from fotaxis.core.values import Array
from fotaxis.services.ports import Document

LISTS = ("lights", "cards")
TURNED = {"turn_deg", "tilt_deg"}
PLACE = "place"
STEP_DEG = 0.01


Touched = set[tuple[str, str, str]]
"""Fields that were set: list, key, field."""


def following_aims(document: Document, touched: Touched) -> tuple[Document, Touched]:
    """The document with everything that is aimed turned to where its aim is now, and what was touched, that included.

    What was turned by hand is aimed no more, nor what was aimed at a thing that is gone. Things are taken in the order of their lists,
    once: a card that is aimed by another that turns now follows at the next change.
    """
    places, turned = _places(document), touched
    for name in LISTS:
        things = document.get(name) or []
        new = [_following(thing, name, places, touched) if isinstance(thing, dict) else thing for thing in things]
        changed = [one for one, other in zip(new, things, strict=True) if one is not other]
        if changed:
            document = {**document, name: new}
            turned = turned | {(name, one.get("key", ""), "turn_deg") for one in changed if one["aim"]}
    return document, turned


def _following(thing: Document, name: str, places: dict[str, Array], touched: Touched) -> Document:
    aim = thing.get("aim")
    if not isinstance(aim, dict):
        return thing
    own = places.get(thing.get("key", ""))
    if (
        any((name, thing.get("key"), field) in touched for field in TURNED)
        and (name, thing.get("key"), "aim") not in touched
    ):
        return {**thing, "aim": None}
    target, source = _target(aim, places), places.get(aim.get("source") or "")
    if own is None or target is None or (aim.get("source") and source is None):
        return {**thing, "aim": None}
    try:
        turn, tilt = aimed(own, target, source)
    except DomainError:
        return thing
    values = {"turn_deg": _rounded(turn), "tilt_deg": _rounded(tilt)}
    return thing if all(thing.get(field) == value for field, value in values.items()) else {**thing, **values}


def aimed(own: Array, target: Array, source: Array | None = None) -> tuple[float, float]:
    """Turn and tilt in radians of a thing at a place (3,) that looks at another, or of a card that mirrors a source there: its
    front halves the angle between both.   Source: law of reflection."""
    if source is None:
        return orientation.aim(place=own, target=target)
    ways = [(to - own) / max(float(np.linalg.norm(to - own)), 1e-12) for to in (target, source)]
    return orientation.aim(place=own, target=own + ways[0] + ways[1])


def _rounded(angle_rad: float) -> float:
    return round(math.degrees(angle_rad), 2) or 0.0


def _target(aim: Document, places: dict[str, Array]) -> Array | None:
    if aim.get("at") == PLACE:
        return _place(aim)
    return places.get(aim.get("at") or "")


def _place(at: Any) -> Array | None:
    """A place of a document in centimetres, (3,); None where it is none."""
    try:
        return np.array([float(at["x_cm"]), float(at["y_cm"]), float(at["z_cm"])])
    except (KeyError, TypeError, ValueError):
        return None


def _places(document: Document) -> dict[str, Array]:
    """Where things that can be moved stand, and the lens, by key; centimetres."""
    found = {}
    for name in LISTS:
        for thing in document.get(name) or []:
            place = _place(thing.get("place")) if isinstance(thing, dict) else None
            if place is not None:
                found[thing.get("key", "")] = place
    camera = document.get("camera") or {}
    lens = _place({"x_cm": camera.get("side_cm", 0.0), "y_cm": camera.get("height_cm"), "z_cm": camera.get("distance_cm")})
    if lens is not None:
        found[CAMERA_KEY] = lens
    return found
