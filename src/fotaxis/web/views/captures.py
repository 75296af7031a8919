"""A shot's captures as their page shows them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any
from uuid import UUID

from fotaxis.core.camera.nominal_scales import f_number_name, shutter_choices, shutter_name
from fotaxis.core.captures.areas import AREA_WORDS, ZONE
from fotaxis.core.captures.composite import BLEND_WORDS
from fotaxis.core.stops import power_name
from fotaxis.services.briefs import Brief, Deliverable
from fotaxis.services.captures.capture import ONCE
from fotaxis.services.captures.composite import crops
from fotaxis.services.captures.merges import ALSO, MEDIA
from fotaxis.services.captures.words import (
    ONCE_WORDS,
    each_in_words,
    focus_words,
    joining_words,
    names_in,
    painted_words,
)
from fotaxis.services.ports import Document, FinalState, Frame, Merge
from fotaxis.services.shots import Opened
from fotaxis.services.wishes import JudgedWish
from fotaxis.web import links

RETOUCH_WORDS = {
    "dust": "Dust", "print": "Fingerprint", "seam": "Seam", "card seen": "A card seen", "join": "Join of two parts", "other": "Other",
}  # fmt: skip


def retouch_words(one: Document) -> str:
    """A place to retouch: 'Dust at 42 % across, 10 % down: on the label'."""
    note = f": {one['note']}" if one["note"] else ""
    return f"{RETOUCH_WORDS[one['what']]} at {100 * one['x']:.0f} % across, {100 * one['y']:.0f} % down{note}"


SHOP_CROPS = (("Shop square", 1, 1), ("Upright", 4, 5), ("Wide", 16, 9))


def captures_state(opened: Opened, brief: Brief, frames: Sequence[Frame]) -> dict[str, Any]:
    """Everything the page needs to draw itself."""
    document, shot = opened.document, opened.shot
    captures = document["captures"]
    words = each_in_words(document, captures)
    return {
        "revision": shot.revision, "name": shot.name, "undo": opened.undo_label, "redo": opened.redo_label,
        "captures": [_capture(document, one, said, shot.id, shot.revision, frames) for one, said in zip(captures, words, strict=True)],
        "lights": [{"key": light["key"], "name": light["name"]} for light in document["lights"]],
        "things": _things(document), "areas": _areas(document), "zones": _zones(document),
        "readings": len(document["readings"]),
        "finish": document["finish"], "shooting": document["shooting"], "retouch": document["retouch"],
        "retouch_words": RETOUCH_WORDS, "crops": crops(document, brief.deliverables) or _usual_crops(document),
        "framings": [one["name"] for one in document.get("cameras", [])],
        "composite": f"{links.shot_part(shot.id, 'composite.jpg')}?v={shot.revision}",
    }  # fmt: skip


def _capture(
    document: Document, capture: Document, words: str, shot_id: UUID, revision: int, frames: Sequence[Frame]
) -> dict[str, Any]:  # fmt: skip
    lights = {light["key"]: light for light in document["lights"]}
    names = names_in(document)
    on = [
        {"key": key, "name": names[key], "power": _power(lights[key], stops), "stops": stops}
        for key, stops in capture["lights"].items() if key in lights
    ]  # fmt: skip
    own = [frame for frame in frames if frame.capture == capture["key"]]
    return {
        **capture, "words": words, "joined": joining_words(capture), "on": on, "painted": painted_words(document, capture),
        "exposure": f"{f_number_name(capture['f_number'])} · {shutter_name(capture['shutter_s'])} · ISO {capture['iso']:.0f}",
        "focused": focus_words(capture),
        "picture": f"{links.shot_part(shot_id, 'captures')}/{capture['key']}/picture.jpg?v={revision}",
        "frame": {"name": own[0].file_name, "address": links.frame(own[0].id)} if own else None,
    }  # fmt: skip


def _power(light: Document, stops: float) -> str:
    return power_name(stops, steps_per_stop=light.get("steps_per_stop", 3))


def _things(document: Document) -> list[dict[str, str]]:
    """What may be lifted away."""
    found = [
        {"key": one["key"], "name": one.get("name") or one["key"].replace("-", " ").capitalize()}
        for part in ("others", "cards") for one in document.get(part, [])
    ]  # fmt: skip
    once = [key for key, part in ONCE.items() if document.get(part)]
    return found + [{"key": key, "name": ONCE_WORDS[key].capitalize()} for key in once if key != "table"]


def _areas(document: Document) -> list[dict[str, str]]:
    areas = [{"key": key, "words": words} for key, words in AREA_WORDS.items() if key != ZONE]
    others = [{"key": one["key"], "words": one["key"].replace("-", " ")} for one in document.get("others", [])]
    return areas + others


def _zones(document: Document) -> list[str]:
    found = []
    for band in document["subject"].get("bands", []):
        parts = [part for part in ("foil", "varnish") if (band.get("artwork") or {}).get(part)]
        found += [band["name"], *(f"{band['name']}, {part}" for part in parts)] if band.get("name") else []
    return found


def _usual_crops(document: Document) -> list[dict[str, Any]]:
    return crops(document, [Deliverable(name=name, wide=wide, high=high) for name, wide, high in SHOP_CROPS])


def read_state(
    values: dict[str, Any], judged: Sequence[JudgedWish], line: Sequence[str], names: dict[str, str]
) -> dict[str, Any]:
    """What the composite reads, in words."""
    return {
        "readings": [{"name": names[key], "words": value.words if value is not None else "not seen"} for key, value in values.items()],
        "wishes": [
            {"state": one.judged.state, "words": f"{one.about} {one.wish.wish.words}", "now": one.judged.words} for one in judged
        ],
        "line": list(line),
    }  # fmt: skip


CHOICES = {
    "blends": BLEND_WORDS, "shutters": [{"name": name, "s": seconds} for name, seconds in shutter_choices()],
    "also": ALSO, "kinds": [*MEDIA],
}  # fmt: skip


# ---- merges


def merge_rows(merges: Sequence[Merge]) -> list[dict[str, Any]]:
    """Merges as the list shows them."""
    return [_merge_row(one) for one in merges]


def _merge_row(one: Merge) -> dict[str, Any]:
    files = [
        {"kind": kind, "address": links.merge_part(one.id, f"file.{kind}"), "mb": size / 1e6} for kind, size in one.files.items()
    ]  # fmt: skip
    return {
        "key": str(one.id), "state": one.state.value, "open": one.open, "percent": round(100 * one.done), "words": one.words,
        "problem": one.problem, "done": one.state is FinalState.DONE, "files": files,
        "title": f"{len(one.frames)} frames, {one.created_at:%H:%M} UTC", "png": links.merge_part(one.id, "file.png"),
        "picture": links.merge_part(one.id, "picture.jpg"), "cancel": links.merge_part(one.id, "cancel"),
        "remove": links.merge_part(one.id, "remove"),
    }  # fmt: skip
