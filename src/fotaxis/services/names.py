"""Names that say what is set: they follow when that is set otherwise."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from fotaxis.services.ports import Document


def _grid(degrees: Any) -> str:
    return f"{degrees:g}° grid" if isinstance(degrees, int | float) and degrees > 0 else ""


def _kind(value: Any) -> str:
    return value if isinstance(value, str) else ""


WORDS_OF: dict[str, Callable[[Any], str]] = {"grid_angle_deg": _grid, "kind": _kind, "head": _kind}
"""What a field of a light or card is called in its name."""


def following(thing: Document, field: str, before: Any, after: Any) -> Document:
    """A thing whose name tells a field's value, with its name for the new value; the thing itself where the name tells nothing of it.

    'Hard head, 20° grid' becomes 'Hard head, 8° grid', and without a grid 'Hard head'.
    """
    name, words = thing.get("name"), WORDS_OF.get(field)
    if words is None or not isinstance(name, str) or before == after:
        return thing
    old, new = words(before), words(after)
    if not old:
        return thing
    found = re.search(rf"(?<!\w){re.escape(old)}(?!\w)", name, re.IGNORECASE)
    if found is None:
        return thing
    if not new:
        shorter = re.sub(r",?\s*(with\s+)?$", "", name[: found.start()]) + name[found.end() :]
        return {**thing, "name": shorter.strip(" ,")} if shorter.strip(" ,") else thing
    if found[0][:1].isupper():
        new = new[:1].upper() + new[1:]
    return {**thing, "name": name[: found.start()] + new + name[found.end() :]}
