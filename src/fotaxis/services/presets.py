"""What a new shot begins with: a plain product on a table, a camera, and no light yet, or a first pair of panels."""

from __future__ import annotations

import copy
import math
from typing import Any

from fotaxis.core.camera.filters import CLEAN_LENS_GLARE
from fotaxis.core.errors import FormatError
from fotaxis.core.lights.card_finishes import CARDS, FINISH, NETS, SHEETS, Finish
from fotaxis.core.lights.heads import HEAD, HEADS, Head
from fotaxis.core.lights.modifiers import MODIFIERS
from fotaxis.core.scene.plan import Plan
from fotaxis.core.scene.products import SHAPES
from fotaxis.core.scene.products.turned import BOTTLE_CM, points

STARTS = {
    "bottle": "Dark bottle, two edge panels",
    "jar": "Squat jar, one panel",
    "empty": "Bottle, no lights yet",
}

JAR = ((0, 6.6), (0.4, 7.4), (1.2, 7.8), (3, 7.8), (5, 7.8), (5.8, 7.4), (6.3, 6.8), (6.4, 7.2), (8.2, 7.2), (8.5, 6.9))


def start_document(start: str) -> dict[str, Any]:
    """A shot document to begin with. Raises FormatError for an unknown start."""
    if start not in STARTS:
        raise FormatError(f"there is no start called {start[:20]!r}; choose one from the list.", place="start")
    jar = start == "jar"
    measured = JAR if jar else BOTTLE_CM
    top = measured[-1][0]
    document: dict[str, Any] = {
        "format": "fotaxis-shot",
        "version": 2,
        "name": STARTS[start],
        "subject": {
            "kind": "turned",
            "name": "Jar" if jar else "Bottle",
            "profile": points(measured),
            "body": {"reflectance": [0, 0, 0], "coat_index": 1.5},
            "bands": [_label(1.6, 4.8) if jar else _label(4, 13)],
        },
        "table": {"surface": "black gloss", "width_cm": 60, "depth_cm": 50},
        "riser": {"height_cm": 4, "diameter_cm": measured[0][1]},
        "background": {
            "distance_cm": 150, "width_cm": 300, "height_cm": 300, "centre_height_cm": 60,
            "skin": {"reflectance": [0.04, 0.04, 0.04]},
        },
        "camera": {
            "distance_cm": 75 if jar else 150, "height_cm": top / 2 + 4, "aim_height_cm": top / 2 + 4,
            "focal_length_mm": 100,
        },
        "lens": {"glare_percent": 100 * CLEAN_LENS_GLARE},
        "exposure": {"iso": 100, "shutter_s": 2.0**-7, "f_number": 8.0},
        "lights": [],
    }  # fmt: skip
    if start == "bottle":
        document["lights"] = [_panel("left", "Left panel", -42, 50), _panel("right", "Right panel", 42, -50)]
    if jar:
        document["lights"] = [_panel("left", "Left panel", -42, 50)]
    return document


def _label(low: float, high: float) -> dict[str, Any]:
    return {
        "name": "Label", "low_cm": low, "high_cm": high, "azimuth_deg": 0, "width_deg": 150,
        "skin": {"reflectance": [0.75, 0.73, 0.68]},
    }  # fmt: skip


def _panel(key: str, name: str, x: float, turn: float) -> dict[str, Any]:
    return {
        **new_thing("panel"), "key": key, "name": name, "place": {"x_cm": x, "y_cm": 22, "z_cm": -35}, "turn_deg": turn,
    }  # fmt: skip


GOBLET = (
    (0, 6.2), (0.15, 6.4), (0.4, 6.4), (0.55, 4.0), (0.8, 1.4), (1.4, 0.9), (4, 0.8), (7.2, 0.9), (7.8, 1.6), (8.6, 3.8),
    (10, 6.0), (12, 7.2), (14, 7.4), (17, 6.8), (19.5, 6.2),
)  # fmt: skip
TUMBLER = ((0, 5.4), (0.2, 5.9), (0.5, 6.1), (3, 6.4), (6, 6.7), (9.5, 7.0))
GLASSES = {"goblet": ("Stem glass", GOBLET, 1.2, 8.2, 12), "tumbler": ("Tumbler", TUMBLER, 2, 1.1, 6)}
"""Glasses with wine beside the product: name, outline, wall (mm), where the inside begins and the level (cm)."""

BESIDE = {kind.beside[0]: kind for kind in SHAPES.values() if kind.beside}
OTHERS = {key: glass[0] for key, glass in GLASSES.items()} | {
    key: kind.beside[1] for key, kind in BESIDE.items() if kind.beside
}
"""What can be put beside the product, by key, with its name."""


def new_shape(kind: str) -> dict[str, Any]:
    """The parts of a shape as it begins. Raises FormatError for an unknown one, or one that needs a file."""
    shape = SHAPES.get(kind)
    if shape is None or not shape.begins:
        raise FormatError(f"there is no shape called {kind[:20]!r}; choose one from the list.", place="kind")
    return {"kind": kind, **copy.deepcopy(dict(shape.begins))}


def _other(key: str) -> dict[str, Any]:
    """A product to stand beside the main one."""
    place = {"name": OTHERS[key], "x_cm": 13, "z_cm": 4}
    if key in GLASSES:
        _, measured, wall, floor, level = GLASSES[key]
        return {
            **place, "kind": "turned", "profile": points(measured), "body": {"material": "black gloss"},
            "glass": {"glass": "clear glass", "wall_mm": wall, "floor_cm": floor},
            "liquid": {"liquid": "white wine", "level_cm": level},
        }  # fmt: skip
    kind = BESIDE[key]
    assert kind.beside is not None
    return {**place, **new_shape(kind.key), "body": {"material": kind.beside[2]}}


FLASH = {"power_stops": -4, "lowest_stops": 8, "steps_per_stop": 3}
BURNING = {"power_stops": 0, "lowest_stops": 7, "steps_per_stop": 3}
HEAD_KINDS = [head.name for head in HEADS]
BOXES: dict[str, dict[str, Any]] = {
    "octabox": {"width_cm": 95, "height_cm": 95, "gradient": "core", "gradient_stops": 1.2, "octagon": True, "metres": 24},
    "strip box": {"width_cm": 30, "height_cm": 120, "gradient": "core", "gradient_stops": 1.0, "metres": 22},
    "square box": {"width_cm": 60, "height_cm": 60, "gradient": "core", "gradient_stops": 1.0, "metres": 26},
    "box with an inner baffle": {"width_cm": 60, "height_cm": 90, "gradient": "core", "gradient_stops": 0.3, "metres": 20},
    "LED panel": {"width_cm": 30, "height_cm": 60, "candela": 900},
    "LED tube": {"width_cm": 3.5, "height_cm": 60, "candela": 160},
    "window, open sky": {"width_cm": 120, "height_cm": 150, "candela": 3600, "colour_k": 6500},
}
"""Luminous faces a set often has, as panels; sizes and brightness common practice."""
SHAPED: dict[str, dict[str, Any]] = {
    "lens-hole card": {
        "of": "white card", "hole_cm": 9, "place": {"x_cm": 0, "y_cm": 20, "z_cm": 60}, "turn_deg": 180, "width_cm": 60,
        "height_cm": 60,
    },
    "card behind the bottle": {
        "of": "silver card", "like_product": True, "place": {"x_cm": 0, "y_cm": 19, "z_cm": -7}, "turn_deg": 0, "tilt_deg": 12,
        "width_cm": 6.4, "height_cm": 26,
    },
    "curved reflector": {"of": "silver card", "bend_deg": 60, "width_cm": 24, "height_cm": 24},
}  # fmt: skip
"""Cards cut or bent for a purpose."""
BEFORE_LENS_CM = 12
CORRIDOR_KIND = "corridor of black cards"
CORRIDOR: list[dict[str, Any]] = [
    {
        "kind": "black card", "name": f"Corridor, {side}", "place": {"x_cm": x, "y_cm": 25, "z_cm": z}, "turn_deg": turn,
        "tilt_deg": 0, "width_cm": 30, "height_cm": 70,
    }
    for side, x, z, turn in (("front", -27.5, 13, 10), ("back", -30, -0.8, -170))
]  # fmt: skip
"""Two cards along the beam of a box where boxes are put first: its light as a slit."""
CARD_KINDS = [finish.name for finish in CARDS]
SHEET_KINDS = [finish.name for finish in (*SHEETS, *NETS)] + [
    kind.key for kind in MODIFIERS.values() if kind.menu == "sheets"
]


QUICK = {
    "panel": ("p", "Panel", ("shape", "square box")),
    "strip box": ("s", "Strip", ("shape", "strip box")),
    "scrim and head": ("c", "Scrim and head", ("finish", "full grid cloth")),
    "white card": ("k", "Card", ("finish", "white card")),
    "black card": ("f", "Flag", ("finish", "black card")),
    "grid head": ("g", "Grid head", ("shape", "grid 20°")),
    "snoot": ("n", "Snoot", ("head", "snoot")),
    "background head": ("b", "Background head", ("head", "dish 65°")),
}
"""What is added by one key: the key, what it is called, and whose picture on the light page shows it."""


def new_things(kind: str, document: dict[str, Any]) -> list[dict[str, Any]]:
    """What is added to a set under one name, fitted to it. Raises FormatError for an unknown kind."""
    if kind == CORRIDOR_KIND:
        return CORRIDOR
    if kind == "scrim and head":
        return _scrim_and_head()
    if kind == "background head":
        return [_background_head(document)]
    return [fitted(kind, new_thing(kind), document)]


def _scrim_and_head() -> list[dict[str, Any]]:
    """A sheet beside the product and a head that lights it from behind."""
    sheet = new_thing("full grid cloth")
    head = {**new_thing("dish 65°"), "name": "Head behind the scrim"}
    turn = math.radians(sheet["turn_deg"])
    away = BEHIND_SCRIM_CM
    place = sheet["place"]
    head["place"] = {
        "x_cm": round(place["x_cm"] - away * math.sin(turn), 1), "y_cm": place["y_cm"],
        "z_cm": round(place["z_cm"] - away * math.cos(turn), 1),
    }  # fmt: skip
    return [sheet, {**head, "turn_deg": sheet["turn_deg"]}]


def _background_head(document: dict[str, Any]) -> dict[str, Any]:
    """A head behind the product that lights the background, or the wall that would be there."""
    background = document.get("background") or {"distance_cm": 150, "centre_height_cm": 60}
    stands = min(60.0, 0.5 * background["distance_cm"])
    height = document["camera"]["aim_height_cm"]
    return {
        **new_thing("dish 65°"), "name": "Background head", "turn_deg": 180, "tilt_deg": 5,
        "place": {"x_cm": 0, "y_cm": round(height - 10, 1), "z_cm": -round(stands, 1)},
    }  # fmt: skip


BEHIND_SCRIM_CM = 40.0


def new_thing(kind: str) -> dict[str, Any]:
    """A light, card, sheet, net or product as it is added: in reach, aimed at the product.

    Raises FormatError for an unknown kind.
    """
    if kind in OTHERS:
        return _other(kind)
    if kind in HEAD:
        return _head(HEAD[kind])
    if kind in BOXES:
        return _box(kind, **BOXES[kind])
    if kind in FINISH:
        return _flat(FINISH[kind])
    if kind in MODIFIERS and MODIFIERS[kind].begins:
        return copy.deepcopy(dict(MODIFIERS[kind].begins))
    if kind in SHAPED:
        flat = SHAPED[kind]
        return {
            **_flat(FINISH[flat["of"]]),
            "name": _title(kind),
            **{name: value for name, value in flat.items() if name != "of"},
        }
    if kind == "panel":
        return _box(kind, width_cm=30, height_cm=120, gradient="core", gradient_stops=1.5, metres=22)
    if kind == "grid head":
        return {
            "kind": "grid head", "name": "Label light", "place": {"x_cm": 25, "y_cm": 80, "z_cm": 90}, "turn_deg": -164,
            "tilt_deg": -37, "dish_diameter_cm": 18, "grid_angle_deg": 20,
            "calibration": {"kind": "guide number", "metres": 45}, **FLASH, "power_stops": -5,
        }  # fmt: skip
    raise FormatError(f"there is nothing called {kind[:20]!r} to add.", place="kind")


def fitted(kind: str, thing: dict[str, Any], document: dict[str, Any]) -> dict[str, Any]:
    """A new thing where it belongs on this set: a lens-hole card before the lens, a cut card as large as the product."""
    if kind == "lens-hole card":
        camera = document["camera"]
        return {
            **thing,
            "place": {
                "x_cm": camera["side_cm"],
                "y_cm": camera["height_cm"],
                "z_cm": camera["distance_cm"] - BEFORE_LENS_CM,
            },
        }
    if kind == "card behind the bottle" and document["subject"]["kind"] == "turned":
        profile = document["subject"]["profile"]
        low, high = profile[0]["height_cm"], profile[-1]["height_cm"]
        lift = document["riser"]["height_cm"] if document.get("riser") else 0
        widest = max(point["diameter_cm"] for point in profile)
        height = round(0.85 * (high - low), 1)
        place = {"x_cm": 0, "y_cm": round(lift + 0.5 * (high - low), 1), "z_cm": round(-0.5 * widest - 4, 1)}
        return {**thing, "place": place, "width_cm": round(0.85 * widest, 1), "height_cm": height}
    return thing


def usual_readings(document: dict[str, Any]) -> list[dict[str, Any]]:
    """Readings most sets want that a shot does not have yet: both edge lines, label, glow of the liquid, background."""
    subject = document["subject"]
    profile = subject.get("profile") or []
    low, high = (profile[0]["height_cm"], profile[-1]["height_cm"]) if profile else (0.0, 0.0)

    def part(height_cm: float) -> float:
        return round(min(1.0, max(0.0, (height_cm - low) / (high - low))), 3) if high > low else 0.5

    label = next((band for band in subject.get("bands", []) if band.get("name") == "Label"), None)
    middle = part((label["low_cm"] + label["high_cm"]) / 2) if label else 0.3
    usual: list[dict[str, Any]] = [
        {"kind": "edge", "key": "left-line", "name": "Left line", "side": "left", "low": 0.08, "high": 0.6},
        {"kind": "edge", "key": "right-line", "name": "Right line", "side": "right", "low": 0.08, "high": 0.6},
        {"kind": "spot", "key": "label-centre", "name": "Label centre", "across": 0, "height": middle},
    ]
    liquid = subject.get("liquid")
    if liquid:
        above = part(label["high_cm"]) if label else 0.1
        level = part(low + liquid["level_cm"])
        glow = (above + level) / 2 if level > above + 0.04 else 0.5 * (part(label["low_cm"]) if label else level)
        usual.append({"kind": "spot", "key": "glow", "name": "Glow", "across": 0, "height": round(glow, 3)})
    usual.append({"kind": "frame", "key": "background", "name": "Background", "x": 0.08, "y": 0.12})
    there = {reading["key"] for reading in document.get("readings", [])}
    return [reading for reading in usual if reading["key"] not in there]


MASK_BEFORE_CM = 40.0
MASK_SLACK = 1.1


def usual_mask(plan: Plan) -> dict[str, float]:
    """A window mask that just clears the frame: what the frame takes in where it stands and the lens's opening, a tenth more."""
    camera = plan.camera
    pupil_m = camera.focal_length_m / plan.exposure.f_number
    seen_m = (MASK_BEFORE_CM / 100 * size / camera.focal_length_m + pupil_m for size in camera.used_sensor_m)
    width, height = (math.ceil(2 * MASK_SLACK * 100 * size) / 2 for size in seen_m)
    return {"before_cm": MASK_BEFORE_CM, "width_cm": width, "height_cm": height}


def list_of(thing: dict[str, Any]) -> str:
    """The list of a shot that a new thing belongs to."""
    if "power_stops" in thing:
        return "lights"
    return "cards" if "turn_deg" in thing else "others"


def _box(name: str, *, metres: float = 0.0, candela: float = 0.0, **size: Any) -> dict[str, Any]:
    by = {"kind": "candela", "candela": candela} if candela else {"kind": "guide number", "metres": metres}
    burns = {**BURNING, "continuous": True} if candela else FLASH
    return {
        "kind": "panel", "name": _title(name), "place": {"x_cm": -50, "y_cm": 25, "z_cm": 10}, "turn_deg": 100, "tilt_deg": 0,
        "calibration": by, **burns, **size,
    }  # fmt: skip


def _head(head: Head) -> dict[str, Any]:
    light = BURNING if head.continuous else FLASH
    return {
        "kind": "head", "head": head.name, "name": _title(head.name), "place": {"x_cm": -70, "y_cm": 35, "z_cm": -60},
        "turn_deg": 50, "tilt_deg": 0, **light,
    }  # fmt: skip


def _flat(finish: Finish) -> dict[str, Any]:
    places = {
        "black card": ((14, 20, -6), -80, (6, 40)), "sheet": ((-42, 25, -32), 53, (40, 70)), "net": ((20, 65, 65), -163, (30, 30)),
    }  # fmt: skip
    (x, y, z), turn, (width, height) = places.get(finish.name, places.get(finish.group, ((35, 20, 25), -125, (20, 40))))
    named = {"kind": finish.name} if finish.group == "card" else {"kind": finish.group, "material": finish.name}
    return {
        **named, "name": _title(finish.name), "place": {"x_cm": x, "y_cm": y, "z_cm": z}, "turn_deg": turn, "tilt_deg": 0,
        "width_cm": width, "height_cm": height,
    }  # fmt: skip


def _title(name: str) -> str:
    return name[0].upper() + name[1:]
