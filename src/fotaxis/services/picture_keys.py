"""Marks of what is in a document: equal marks, equal layers, or an equal setting for lights."""

from __future__ import annotations

import hashlib
import json

from fotaxis.core.keys import ALL_SHARP
from fotaxis.services.ports import Document

OF_NO_LAYER = {
    "name", "power_stops", "on", "lowest_stops", "steps_per_stop", "continuous", "group", "pair", "aim", "own", "own_head", "stand",
}  # fmt: skip
"""What may change of a light without its layer."""


OF_NO_PICTURE = {
    "name", "note", "reading_line", "readings", "wishes", "held", "meter", "key_light", "cameras", "captures", "finish", "retouch",
    "shooting",
}  # fmt: skip
"""Parts of a document that no picture of its present state shows."""


def layers_key(document: Document) -> str:
    """Changes whenever the layers do: with white balance, focus and aperture, not with powers, switches, names, room light, line."""
    free = {*OF_NO_PICTURE, "exposure", "room_lux"}
    kept = {name: value for name, value in document.items() if name not in free}
    kept["white_k"] = document["exposure"].get("white_k")
    lens = document["lens"]
    kept["lens"] = {name: value for name, value in lens.items() if name != "nd_stops"}
    if lens["polariser"]:
        kept["lens"]["polariser"] = lens["polariser"]["turn_deg"]
    if lens["focus"] != ALL_SHARP or lens["mask"] or lens["hood"]:
        kept["f_number"] = document["exposure"]["f_number"]
    kept["lights"] = [{n: v for n, v in light.items() if n not in OF_NO_LAYER} for light in document["lights"]]
    kept["cards"] = [{n: v for n, v in card.items() if n not in ("own", "stand", "aim")} for card in document["cards"]]
    return _hashed(kept)


def setting_key(document: Document) -> str:
    """Changes whenever that does which a school's lights are fitted to: product, table, camera and all else that they leave."""
    replaced = {*OF_NO_PICTURE, "lights", "cards"} - {"cameras"}
    return _hashed({name: value for name, value in document.items() if name not in replaced})


def _hashed(document: Document) -> str:
    return hashlib.sha256(json.dumps(document, sort_keys=True).encode()).hexdigest()[:16]
