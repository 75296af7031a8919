"""What a state is called: the thing, the field, and what it was and is. 'Left panel turned 50° → 48°'."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from fotaxis.core.camera.nominal_scales import f_number_name, shutter_name
from fotaxis.core.stops import power_name
from fotaxis.services.changes import LISTS, UNKNOWN, Change, value_at
from fotaxis.services.ports import Document

UNITS = {"cm": "cm", "mm": "mm", "m": "m", "deg": "°", "percent": "%", "k": "K", "stops": "stops", "lux": "lux", "cd": "cd"}
"""Of a field, by the end of its name."""

FIELD_WORDS = {
    "x_cm": "right", "z_cm": "front", "y_cm": "height", "turn_deg": "turned", "tilt_deg": "tilted", "width_cm": "width",
    "height_cm": "height", "grid_angle_deg": "grid", "gradient_stops": "fall-off", "lowest_stops": "lowest power",
}  # fmt: skip
"""What a field of a thing is called after the thing's name; others are called as on the page."""

TOLD = 3
"""So many fields of one change are told."""


def state_label(before: Document, changes: Sequence[Change], said: str) -> str:
    """A label with names and values for changes that set plain values; said: what else they are called, taken where they do not."""
    sets = [change for change in changes if change.kind == "set"]
    if not sets or len(sets) < len(changes):
        return said
    owners = {_owner(change.path) for change in sets}
    if len(owners) > 1:
        return said
    (owner,) = owners
    if not owner and (len(sets) > 1 or any(ch.isdigit() for ch in said)):
        return said
    words = [_field(before, change, owner, said) for change in sets]
    if any(word is None for word in words):
        return said
    told = ", ".join(word for word in words[:TOLD] if word)
    if not told:
        return said
    thing = value_at(before, owner) if owner else UNKNOWN
    name = thing.get("name", "") if isinstance(thing, dict) else ""
    return f"{name} {told}" if name else told[:1].upper() + told[1:]


def _owner(path: tuple[str, ...]) -> tuple[str, ...]:
    """The thing of a list that a path lies in, () for what a shot has once."""
    return path[:2] if path[0] in LISTS else ()


def _field(before: Document, change: Change, owner: tuple[str, ...], said: str) -> str | None:
    """One field in words; '' where nothing changes, None where it cannot be told."""
    name, was, now = change.path[-1], value_at(before, change.path), change.value
    if was == now:
        return ""
    if name == "on" and isinstance(now, bool):
        return "on" if now else "off"
    if name == "name" and isinstance(now, str):
        return f"renamed {now}"
    if not _plain(now) or not (was is UNKNOWN or was is None or _plain(was)):
        return None
    word = FIELD_WORDS.get(name) if owner else None
    word = word or said.split(":")[0][:1].lower() + said.split(":")[0][1:]
    if name == "power_stops":
        steps = value_at(before, (*owner, "steps_per_stop"))
        per_stop = steps if isinstance(steps, int) else 3
        old, new = (power_name(float(v), steps_per_stop=per_stop) if isinstance(v, int | float) else "" for v in (was, now))
        return f"power {old} → {new}"
    old, new = ("none" if v is UNKNOWN or v is None else _shown(name, v) for v in (was, now))
    unit = UNITS.get(name.rsplit("_", 1)[-1], "") if "_" in name and isinstance(now, int | float) else ""
    if unit == "°":
        return f"{word} {old}° → {new}°"
    return f"{word} {old} → {new}{' ' + unit if unit else ''}"


def _plain(value: Any) -> bool:
    return isinstance(value, str | int | float)


def _shown(name: str, value: Any) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, str):
        return value[:30]
    if name == "f_number":
        return f_number_name(float(value))
    if name == "shutter_s":
        return shutter_name(float(value))
    return f"{round(float(value), 2):g}".replace("-", "−")
