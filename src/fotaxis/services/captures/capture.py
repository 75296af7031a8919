"""One capture of a shot: made from the present state, the shot as it takes it, and how it is set up again on the bench."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fotaxis.core.errors import FormatError
from fotaxis.core.keys import BACKGROUND_KEY, PRODUCT_KEY, RISER_KEY, TABLE_KEY
from fotaxis.services.changes import Change
from fotaxis.services.ports import Document

THINGS = ("lights", "cards", "others")
ONCE = {PRODUCT_KEY: "subject", RISER_KEY: "riser", TABLE_KEY: "table", BACKGROUND_KEY: "background"}
"""What a set has only once and may be lifted away, by key, with its part of the document."""


def capture_of(document: Document, *, name: str = "") -> Document:
    """The present state as a capture, under a free key."""
    captures = document.get("captures", [])
    taken = {one["key"] for one in captures}
    number = len(captures) + 1
    while f"capture-{number}" in taken:
        number += 1
    return {"key": f"capture-{number}", "name": name or f"Capture {number}", **state_of(document)}


def state_of(document: Document) -> Document:
    """What a capture holds of the present state: lights that are on and their powers, exposure, focus, polariser."""
    exposure, lens = document["exposure"], document["lens"]
    polariser = lens.get("polariser")
    return {
        "lights": {light["key"]: light["power_stops"] for light in document["lights"] if light.get("on", True)},
        "iso": exposure.get("iso", 100.0), "shutter_s": exposure["shutter_s"], "f_number": exposure["f_number"],
        "focus": lens.get("focus", "aim"), "focus_cm": lens.get("focus_cm"),
        "polariser_deg": polariser["turn_deg"] if polariser else None,
    }  # fmt: skip


def found(document: Document, key: str) -> Document:
    """The capture of a key. Raises FormatError where it was removed."""
    for one in document.get("captures", []):
        if one["key"] == key:
            capture: Document = one
            return capture
    raise FormatError("this capture was removed; reload to see the shot as it is.", place="capture")


def captured(document: Document, capture: Mapping[str, Any]) -> Document:
    """The shot as a capture takes it: its lights and powers, its exposure and focus, without what is lifted away.

    A light that was removed from the set since is left out; what it needs otherwise stays as the shot has it.
    """
    away = set(capture.get("away", []))
    made: Document = {**document, "captures": []}
    for name in THINGS:
        made[name] = [_parted(one, away) for one in document.get(name, []) if one["key"] not in away]
    powers = capture["lights"]
    made["lights"] = [
        {**light, "on": light["key"] in powers, "power_stops": _within(light, powers.get(light["key"]))}
        for light in made["lights"]
    ]
    if not capture.get("poured", True):
        made["subject"] = _empty(made["subject"])
        made["others"] = [_empty(one) for one in made["others"]]
    for key, part in ONCE.items():
        if key in away and key != PRODUCT_KEY:
            made[part] = None
    if PRODUCT_KEY in away:
        subject = document["subject"]
        kept = {part: subject[part] for part in ("name", "body")}
        made["subject"] = {**kept, "kind": "nothing", "height_cm": _height_cm(subject)}
    made["exposure"] = {**document["exposure"], **{name: capture[name] for name in ("iso", "shutter_s", "f_number")}}
    made["lens"] = _lens(document["lens"], capture)
    framing = capture.get("framing")
    if framing:
        framed = [one["camera"] for one in document.get("cameras", []) if one["name"] == framing]
        made["camera"] = framed[0] if framed else document["camera"]
    return made


def set_up(document: Document, capture: Mapping[str, Any]) -> list[Change]:
    """Changes that bring the bench to a capture's lights, exposure and focus; where things stand is not touched."""
    as_taken = captured({**document, "captures": []}, {**capture, "away": [], "poured": True})
    changes = [
        Change(kind="set", path=("lights", light["key"], field), value=light[field])
        for light in as_taken["lights"] for field in ("on", "power_stops")
    ]  # fmt: skip
    changes += [Change(kind="set", path=(part,), value=as_taken[part]) for part in ("exposure", "lens", "camera")]
    return changes


def _lens(lens: Document, capture: Mapping[str, Any]) -> Document:
    turn = capture.get("polariser_deg")
    before = lens.get("polariser") or {}
    polariser = None if turn is None else {**before, "turn_deg": turn}
    return {**lens, "focus": capture["focus"], "focus_cm": capture.get("focus_cm"), "polariser": polariser}


def _within(light: Document, stops: float | None) -> float:
    """A power as kept, held within what the head gives now."""
    lowest = float(light.get("lowest_stops", 8))
    return float(light["power_stops"]) if stops is None else max(-lowest, min(0.0, stops))


def _parted(thing: Document, away: set[str]) -> Document:
    """A thing without its ties to what is lifted away."""
    aim = thing.get("aim")
    ties = [name for name in ("pair",) if thing.get(name) in away]
    if isinstance(aim, dict) and (aim.get("at") in away or aim.get("source") in away):
        ties.append("aim")
    return {**thing, **dict.fromkeys(ties)} if ties else thing


def _empty(subject: Document) -> Document:
    return {**subject, "liquid": None} if subject.get("liquid") else subject


def _height_cm(subject: Document) -> float:
    if subject.get("profile"):
        return max(float(point["height_cm"]) for point in subject["profile"])
    return float(subject.get("height_cm") or subject.get("length_cm") or subject.get("diameter_cm") or 20.0)
