"""What a new shot begins with: what stands before the lens, at its measured size, framed, and lit in a manner that was chosen."""

from __future__ import annotations

import copy
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from fotaxis.core.errors import FormatError
from fotaxis.core.placement.framing import reframed
from fotaxis.core.scene.products.turned import BOTTLE_CM, points
from fotaxis.services.framing import USUAL_FILL, camera_values
from fotaxis.services.lighting_setups import SETUPS, apply_setup
from fotaxis.services.ports import Document, ShotCodec
from fotaxis.services.presets import GOBLET, JAR, TUMBLER, start_document

Outline = tuple[tuple[float, float], ...]
Part = dict[str, Any]

BURGUNDY: Outline = (
    (0, 7.0), (0.4, 8.0), (1.4, 8.4), (6, 8.4), (11, 8.4), (14, 8.0), (16.5, 7.0), (19, 5.6), (21.5, 4.3), (24, 3.4), (26.5, 3.0),
    (28.2, 2.9), (28.4, 3.2), (29.4, 3.2), (29.6, 2.7),
)  # fmt: skip
BEER: Outline = (
    (0, 5.4), (0.3, 6.0), (1, 6.1), (6, 6.1), (12, 6.1), (14, 5.8), (15.5, 5.0), (17, 4.0), (18.5, 3.2), (20, 2.8), (22, 2.6),
    (22.2, 2.9), (23, 2.9), (23.2, 2.5),
)  # fmt: skip
ROUND_FLACON: Outline = (
    (0, 4.0), (0.2, 4.6), (1.0, 6.4), (2.2, 7.8), (3.6, 8.4), (5.0, 8.2), (6.4, 7.0), (7.4, 5.2), (7.9, 3.4), (8.1, 2.4), (8.9, 2.4),
    (9.0, 2.8), (10.6, 2.8), (10.8, 2.6),
)  # fmt: skip
COMPACT: Outline = ((0, 7.6), (0.1, 7.9), (0.3, 8.0), (0.8, 8.0), (1.3, 8.0), (1.5, 7.9), (1.6, 7.5))
"""Outlines as measured, cm: heights above the foot and diameters there."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Beginning:
    """A thing that may stand before the lens: what it is called, its usual height and width (cm), how it is made at a size, and the
    manner of lighting that suits it."""

    key: str
    name: str
    height: float
    width: float
    make: Callable[[float, float], Part]
    look: str


def _turned(outline: Outline, **more: Any) -> Callable[[float, float], Part]:
    """A turned product with an outline scaled to a height and a greatest width."""

    def make(height: float, width: float) -> Part:
        up, across = height / outline[-1][0], width / max(d for _, d in outline)
        scaled = points(tuple((round(h * up, 3), round(d * across, 3)) for h, d in outline))
        part = {
            "kind": "turned",
            "profile": scaled,
            "body": {"reflectance": [0, 0, 0], "coat_index": 1.5},
            **copy.deepcopy(more),
        }
        return _with_heights(part, height)

    return make


def _with_heights(part: Part, height: float) -> Part:
    """Zones and levels given as parts of the height, in centimetres."""
    for band in part.get("bands", []):
        band["low_cm"], band["high_cm"] = (round(height * band[name], 2) for name in ("low_cm", "high_cm"))
    if part.get("liquid"):
        part["liquid"]["level_cm"] = round(height * part["liquid"]["level_cm"], 2)
    if part.get("glass"):
        part["glass"]["floor_cm"] = round(height * part["glass"]["floor_cm"], 2)
    return part


def _label(low: float, high: float, around: float = 150) -> Part:
    paper = {"reflectance": [0.75, 0.73, 0.68]}
    return {"name": "Label", "low_cm": low, "high_cm": high, "azimuth_deg": 0, "width_deg": around, "skin": paper}


def _cap(low: float) -> Part:
    return {
        "name": "Capsule",
        "low_cm": low,
        "high_cm": 1.01,
        "azimuth_deg": 0,
        "width_deg": 360,
        "skin": {"material": "black plastic"},
    }


def _front(height: float, width: float, share: float = 0.5) -> Part:
    return {
        "name": "Logo", "face": "front", "low_cm": round(0.45 * height, 2), "high_cm": round(0.6 * height, 2),
        "width_cm": round(share * width, 2), "centre_cm": 0, "skin": {"material": "gold foil"},
    }  # fmt: skip


def _box(material: str, depth: float, edge: float, *, logo: bool = False) -> Callable[[float, float], Part]:
    """A box; depth and edge as parts of the width."""

    def make(height: float, width: float) -> Part:
        bands = [_front(height, width)] if logo else []
        return {
            "kind": "box", "width_cm": width, "height_cm": height, "depth_cm": round(depth * width, 2),
            "edge_mm": round(10 * edge * width, 2), "body": {"material": material}, "bands": bands, "turn_deg": TURNED_DEG,
        }  # fmt: skip

    return make


def _trainer(height: float, width: float) -> Part:
    """A shoe from its side, on a pale sole."""
    sole = {"name": "Sole", "low_cm": 0, "high_cm": round(0.21 * height, 2), "azimuth_deg": 0, "width_deg": 360}
    return {
        "kind": "trainer", "length_cm": width, "width_cm": round(0.36 * width, 2), "height_cm": height,
        "body": {"material": "felt board", "reflectance": [0.32, 0.34, 0.36]},
        "bands": [{**sole, "skin": {"reflectance": [0.7, 0.7, 0.68]}}], "turn_deg": 12,
    }  # fmt: skip


def _block(height: float, width: float) -> Part:
    """A block of clear glass with a thick base, filled."""
    part = _box("black gloss", 0.45, 0.04, logo=True)(height, width)
    wall = min(6.0, 1.2 * width)
    return part | {
        "glass": {"glass": "clear glass", "wall_mm": round(wall, 1), "floor_cm": round(0.18 * height, 2)},
        "liquid": {"liquid": "white wine", "level_cm": round(0.82 * height, 2)},
    }  # fmt: skip


TURNED_DEG = -28
"""A box shows two of its sides."""

CLEAR = {"glass": "clear glass", "wall_mm": 1.4}


def _wine(level: float) -> Part:
    return {"liquid": "white wine", "level_cm": level}


BEGINNINGS = {
    one.key: one for one in (
        Beginning(key="bordeaux", name="Straight-shouldered bottle", height=30.8, width=7.4, look="double-diffusion",
                  make=_turned(BOTTLE_CM, bands=[_label(0.13, 0.42), _cap(0.86)])),
        Beginning(key="burgundy", name="Sloping-shouldered bottle", height=29.6, width=8.4, look="acrylic",
                  make=_turned(BURGUNDY, bands=[_label(0.14, 0.42), _cap(0.84)])),
        Beginning(key="beer", name="Small bottle", height=23.2, width=6.1, look="double-diffusion",
                  make=_turned(BEER, bands=[_label(0.15, 0.48, 180)])),
        Beginning(key="flask", name="Flask", height=17.0, width=9.0, look="double-diffusion",
                  make=_box("black gloss", 0.3, 0.12, logo=True)),
        Beginning(key="block", name="Perfume block", height=9.0, width=7.0, look="bright-field",
                  make=_block),
        Beginning(key="round-flacon", name="Round flacon", height=10.8, width=8.4, look="glow",
                  make=_turned(ROUND_FLACON, glass={**CLEAR, "wall_mm": 3.0, "floor_cm": 0.09}, liquid=_wine(0.6))),
        Beginning(key="jar", name="Jar", height=8.5, width=7.8, look="overhead", make=_turned(JAR, bands=[_label(0.18, 0.56)])),
        Beginning(key="tumbler", name="Tumbler", height=9.5, width=7.0, look="bright-field",
                  make=_turned(TUMBLER, glass={**CLEAR, "wall_mm": 2.0, "floor_cm": 0.12}, liquid=_wine(0.6))),
        Beginning(key="stem-glass", name="Stem glass", height=19.5, width=7.4, look="bright-field",
                  make=_turned(GOBLET, glass={**CLEAR, "floor_cm": 0.42}, liquid=_wine(0.62))),
        Beginning(key="can", name="Can", height=11.5, width=6.6, look="overhead",
                  make=lambda h, w: {"kind": "can", "diameter_cm": w, "height_cm": h, "body": {"material": "brushed aluminium"}}),
        Beginning(key="tube", name="Tube", height=13.0, width=5.5, look="double-diffusion",
                  make=lambda h, w: {"kind": "tube", "diameter_cm": round(2 * w / math.pi, 2), "length_cm": h,
                                     "body": {"material": "satin lacquer"}}),
        Beginning(key="carton", name="Carton", height=12.0, width=8.0, look="raking", make=_box("coated paper", 0.6, 0.02, logo=True)),
        Beginning(key="compact", name="Compact", height=1.6, width=8.0, look="one-light", make=_turned(COMPACT)),
        Beginning(key="trainer", name="Trainer", height=12.0, width=29.0, look="overhead", make=_trainer),
        Beginning(key="ball", name="Ball", height=8.0, width=8.0, look="overhead",
                  make=lambda h, w: {"kind": "ball", "diameter_cm": max(h, w), "body": {"material": "black gloss"}}),
    )
}  # fmt: skip
"""What may stand before the lens, by key, in the order it is offered."""


NO_LIGHTS = "none"
BY_ITSELF = ("trainer",)
"""What stands on the table without a riser."""

USUAL_BODY = {"reflectance": [0, 0, 0], "coat_index": 1.5}


def _own_shape(part: Part, outline: Sequence[tuple[float, float]], model: Part | None) -> Part:
    """A thing with an outline or model of one's own in place of its kind's."""
    if model is not None:
        return {**model, "body": {"material": "satin lacquer"}}
    if not outline:
        return part
    profile = points(tuple((h, d) for h, d in outline))
    if part["kind"] == "turned":
        return {**part, "profile": profile}
    return {"kind": "turned", "profile": profile, "body": part.get("body", USUAL_BODY)}


def begun(
    key: str,
    codec: ShotCodec,
    *,
    name: str = "",
    height_cm: float = 0.0,
    width_cm: float = 0.0,
    look: str = "",
    fills: float = USUAL_FILL,
    outline: Sequence[tuple[float, float]] = (),
    model: Part | None = None,
    height_of_model_cm: float = 0.0,
) -> Document:
    """A shot with a thing before the lens, framed and lit. height_cm, width_cm: 0 for the usual size; look: a lighting set-up, '' for
    the one that suits it, NO_LIGHTS for none; outline: heights and diameters (cm) as measured, which the thing then has with the
    material and zones of its kind; model: a shape of one's own. Raises FormatError for an unknown one or a size that cannot be."""
    one = BEGINNINGS.get(key)
    if one is None:
        raise FormatError(f"there is no shape called {key[:20]!r}; choose one of the pictures.", place="shape")
    if look and look != NO_LIGHTS and look not in SETUPS:
        raise FormatError(f"there is no lighting set-up called {look[:20]!r}; choose one of the pictures.", place="look")
    height, width = height_cm or one.height, width_cm or one.width
    if outline:
        height, width = max(h for h, _ in outline), max(d for _, d in outline)
    if model is not None:
        height = height_of_model_cm or height
    document = start_document("empty")
    subject = {"name": name or one.name, **_own_shape(one.make(height, width), outline, model)}
    riser = (
        key not in BY_ITSELF
        and document["riser"]
        and {
            **document["riser"],
            "diameter_cm": round(0.9 * width, 1),
            "height_cm": round(min(4.0, 0.3 * height), 1),
        }
    )
    document = codec.check(
        {**document, "name": name or one.name, "subject": subject, "riser": riser or None, "lights": [], "cards": []}
    )
    steep = key == "compact"
    if steep:
        document["camera"] = {**document["camera"], "height_cm": document["camera"]["distance_cm"] * 0.8}
    framing = reframed(codec.plan(document), fills=fills)
    document = codec.check({**document, "camera": {**document["camera"], **camera_values(framing)}})
    chosen = look or one.look
    return document if chosen == NO_LIGHTS else apply_setup(document, chosen, codec)
