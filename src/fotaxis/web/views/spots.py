"""A spot of the frame in words and ways, and outlines of mirror images over the frame."""

from __future__ import annotations

from typing import Any

import numpy as np
from contourpy import contour_generator

from fotaxis.core.frames.levels import level_words
from fotaxis.core.keys import BACKGROUND_KEY, PRODUCT_KEY, RISER_KEY, ROOM_KEY, TABLE_KEY
from fotaxis.core.render.mirrored import OnSet
from fotaxis.core.render.probe import Contribution, SeenThing
from fotaxis.core.scene.plan import Plan
from fotaxis.services.sheet import rows

MOST_PARTS = 3
OUTLINE_UNITS = 1000
"""Outlines are given in thousandths of the frame's width and height."""

LEAST_OUTLINE = 4
"""An image whose outline has fewer corners is smaller than a pixel."""


def names_of(plan: Plan) -> dict[str, str]:
    """What everything on the set is called, by key."""
    names = {row.key: f"{row.number} {row.name}" for row in rows(plan)}
    names |= {other.key: other.name for other in plan.others}
    return names | {
        PRODUCT_KEY: plan.product.name, TABLE_KEY: "table", RISER_KEY: "riser", BACKGROUND_KEY: "background", ROOM_KEY: "dark room",
    }  # fmt: skip


def spot(plan: Plan, seen: SeenThing) -> dict[str, Any]:
    """What a spot shows, for the page: words, keys, and ways in centimetres (x right, y up, z to the camera)."""
    names = names_of(plan)
    clear = {s.key if s is not plan.product else PRODUCT_KEY for s in plan.products if s.vessel}
    parts = seen.parts[:MOST_PARTS]
    return {
        "here": ", ".join(name for name in (names.get(seen.here, "nothing"), seen.zone) if name),
        "level": level_words(seen.level),
        "parts": [
            {
                "key": part.key,
                "words": _words(part, names, clear),
                "share": f"{100 * part.level / seen.level:.0f} %" if seen.level > 0 else "",
                "way": np.round(100 * part.way, 2).tolist(),
            }
            for part in parts
        ],
    }


def on_set(plan: Plan, lies: OnSet) -> dict[str, Any]:
    """A place on the set as the shot file keeps a meter: centimetres, normal, and what it lies on."""
    x, y, z = (round(100 * float(v), 2) for v in lies.place)
    name = lies.zone or names_of(plan).get(lies.owner, "the set")
    return {
        "place": {"x_cm": x, "y_cm": y, "z_cm": z}, "normal": [round(float(v), 4) for v in lies.normal], "on": name[:80],
    }  # fmt: skip


def _words(part: Contribution, names: dict[str, str], clear: set[str]) -> str:
    """'1 Left panel, mirrored in Bottle', 'background, through Bottle, mirrored in table: 2 reflections'."""
    name = names.get(part.key, part.key)
    if not part.by:
        return f"{name}, seen itself"
    steps = [f"{'by way of' if key in clear else 'mirrored in'} {names.get(key, key)}" for key in part.by]
    count = f", {len(part.by)} reflections" if len(part.by) > 1 else ""
    return f"{name}, {', then '.join(steps)}{count}"


def outline(mask: np.ndarray) -> str:
    """SVG path around where a mask (height, width) bool is set, in OUTLINE_UNITS of its width and height; '' for none."""
    height, width = mask.shape
    framed = np.pad(mask, 1).astype(np.float32)
    lines = contour_generator(z=framed).lines(0.5)
    scale = np.array([OUTLINE_UNITS / width, OUTLINE_UNITS / height])
    parts = []
    for line in lines:
        if len(line) <= LEAST_OUTLINE:
            continue
        points = np.round((np.asarray(line) - 0.5) * scale, 1)
        parts.append("M" + "L".join(f"{x:g} {y:g}" for x, y in points) + "Z")
    return "".join(parts)
