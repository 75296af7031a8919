"""Captures in words: what each is, and what differs from one to the next."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from fotaxis.core.camera.nominal_scales import f_number_name, shutter_name
from fotaxis.core.captures.composite import BLEND_WORDS, SUM
from fotaxis.core.keys import BACKGROUND_KEY, PRODUCT_KEY, RISER_KEY, TABLE_KEY
from fotaxis.core.stops import thirds_name
from fotaxis.services.ports import Document
from fotaxis.services.wishes import listed

ONCE_WORDS = {PRODUCT_KEY: "product", RISER_KEY: "riser", TABLE_KEY: "table", BACKGROUND_KEY: "background"}
SAME = 0.01


def names_in(document: Document) -> dict[str, str]:
    """Names of all that may be on or lifted away, by key."""
    things = {
        one["key"]: one.get("name") or one["key"] for part in ("lights", "cards", "others") for one in document.get(part, [])
    }
    return {**things, **ONCE_WORDS}


def lights_words(document: Document, capture: Mapping[str, Any]) -> str:
    """Which lights are on: 'all lights', 'label light alone', 'left and right strip'."""
    there = [light["key"] for light in document["lights"] if light["key"] not in capture.get("away", [])]
    on = [key for key in there if key in capture["lights"]]
    names = names_in(document)
    if not on:
        return "no light"
    if len(on) == 1:
        return f"{names[on[0]]} alone"
    if len(on) == len(document["lights"]):
        return "all lights"
    if len(on) == len(there) - 1 and len(there) > 3:
        return f"all but {names[next(key for key in there if key not in on)]}"
    return listed([names[key] for key in on])


def capture_words(document: Document, capture: Mapping[str, Any], before: Mapping[str, Any] | None = None) -> str:
    """One capture in a line. before: the one it is told against; the first is told against the set as it stands."""
    parts = [lights_words(document, capture), *_powers(document, capture, before)]
    told = before or {**document["exposure"], **_focus_of(document), "away": [], "poured": True, "wet": False}
    parts += _exposure(capture, told)
    names = names_in(document)
    gone = [names.get(key, key) for key in capture.get("away", [])]
    if gone:
        parts.append(f"{listed(gone)} lifted away")
    back = [names.get(key, key) for key in told.get("away", []) if key not in capture.get("away", [])]
    if back:
        parts.append(f"{listed(back)} back")
    if not capture.get("poured", True):
        parts.append("not poured yet")
    elif not told.get("poured", True):
        parts.append("poured")
    if capture.get("wet") and not told.get("wet"):
        parts.append("wet")
    if capture.get("splash"):
        parts.append("splash")
    if capture.get("framing"):
        parts.append(f"framing {capture['framing']}")
    words = ", ".join(parts)
    return words[:1].upper() + words[1:]


def joining_words(capture: Mapping[str, Any]) -> str:
    """How it goes into the composite: 'adds its light, within its mask, −1 stop'."""
    parts = [BLEND_WORDS[capture.get("blend", SUM)]]
    if capture.get("mask"):
        parts.append("within its mask")
    stops = capture.get("strength_stops", 0.0)
    if abs(stops) > SAME:
        parts.append(f"{thirds_name(stops)} stops")
    if capture.get("good_half"):
        parts.append(f"{capture['good_half']} half mirrored")
    if capture.get("flipped"):
        parts.append("turned over")
    return ", ".join(parts)


def painted_words(document: Document, capture: Mapping[str, Any]) -> str:
    """Which of its lights are moved while the shutter is open, '' for none."""
    moved = [one["name"] for one in document["lights"] if one["key"] in capture["lights"] and one.get("to")]
    return f"painted with {listed(moved)}" if moved else ""


def _powers(document: Document, capture: Mapping[str, Any], before: Mapping[str, Any] | None) -> list[str]:
    """Powers that differ from the capture before, or from the set's own."""
    own = {light["key"]: light["power_stops"] for light in document["lights"]}
    told = {**own, **(before or {}).get("lights", {})}
    names = names_in(document)
    gaps = {key: stops - told[key] for key, stops in capture["lights"].items() if key in told}
    gaps = {key: gap for key, gap in gaps.items() if abs(gap) > SAME}
    if len(capture["lights"]) == 1:
        return [thirds_name(gap) for gap in gaps.values()]
    return [f"{names[key]} {thirds_name(gap)}" for key, gap in gaps.items()]


def _focus_of(document: Document) -> Document:
    lens = document["lens"]
    polariser = lens.get("polariser")
    return {
        "focus": lens.get("focus"), "focus_cm": lens.get("focus_cm"), "polariser_deg": polariser["turn_deg"] if polariser else None,
    }  # fmt: skip


def _exposure(capture: Mapping[str, Any], told: Mapping[str, Any]) -> list[str]:
    parts = []
    if _differs(capture["f_number"], told.get("f_number")):
        parts.append(f_number_name(capture["f_number"]))
    if _differs(capture["shutter_s"], told.get("shutter_s")):
        parts.append(shutter_name(capture["shutter_s"]))
    if _differs(capture["iso"], told.get("iso", 100.0)):
        parts.append(f"ISO {capture['iso']:.0f}")
    if (capture["focus"], capture.get("focus_cm")) != (told.get("focus"), told.get("focus_cm")):
        parts.append(focus_words(capture))
    if capture.get("polariser_deg") != told.get("polariser_deg"):
        turn = capture.get("polariser_deg")
        parts.append("polariser off" if turn is None else f"polariser at {turn:.0f}°")
    return parts


def focus_words(capture: Mapping[str, Any]) -> str:
    """Where it is focused."""
    if capture["focus"] == "distance" and capture.get("focus_cm"):
        return f"focus at {capture['focus_cm']:g} cm"
    return "all sharp" if capture["focus"] == "all sharp" else "focus on the aim"


def _differs(a: float, b: Any) -> bool:
    return b is None or abs(a / b - 1) > SAME


def each_in_words(document: Document, captures: Sequence[Mapping[str, Any]]) -> list[str]:
    """All captures, each against the one before it."""
    return [capture_words(document, one, captures[i - 1] if i else None) for i, one in enumerate(captures)]
