"""The product form: one product of a shot, what it may be made of, what it comes to."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np

from fotaxis.core.errors import FormatError
from fotaxis.core.frames.on_body import BodyPlace
from fotaxis.core.keys import PRODUCT_KEY
from fotaxis.core.materials.bump import KINDS
from fotaxis.core.materials.catalogue import GLASSES, LIQUIDS, SKINS
from fotaxis.core.materials.material import Skin
from fotaxis.core.measures import AnyMeasure
from fotaxis.core.scene.plan import Plan
from fotaxis.core.scene.product import Product
from fotaxis.core.scene.products import SHAPES
from fotaxis.formats import profile_csv
from fotaxis.services import artworks
from fotaxis.services.materials import groups
from fotaxis.services.ports import Document
from fotaxis.services.readings import relief_words


@dataclass(frozen=True, slots=True, kw_only=True)
class ProductForm:
    """What the form shows. path: where the product is in the document, for the fields' addresses."""

    key: str
    path: str
    subject: dict[str, Any]
    measures: tuple[AnyMeasure, ...]
    holds_liquid: bool
    solid: bool
    faced: bool
    others: list[dict[str, Any]]
    outline: str
    reliefs: dict[str, str]
    surface: dict[str, Any]
    artwork_parts: dict[str, str]


def product_form_model(document: Document, plan: Plan, key: str) -> ProductForm:
    """Raises FormatError when there is no such product."""
    subject = find(document, key)
    chosen = standing(plan, key)
    kind = SHAPES[subject["kind"]]
    outline = ""
    if subject["kind"] == "turned":
        outline = profile_csv.text([(p["height_cm"], p["diameter_cm"]) for p in subject["profile"]])
    return ProductForm(
        key=key, path="subject" if key == PRODUCT_KEY else f"others.{key}", subject=subject, measures=kind.measures,
        solid=kind.shape.solid,
        holds_liquid=kind.shape.holds_liquid or kind.shape.solid, faced=kind.shape.faced, others=document.get("others", []),
        outline=outline, reliefs=relief_words(plan, chosen), surface=surface(chosen),
        artwork_parts=artworks.PARTS,
    )  # fmt: skip


def find(document: Document, key: str) -> dict[str, Any]:
    """A product's part of a document by its key. Raises FormatError when there is none."""
    if key == PRODUCT_KEY:
        return dict(document["subject"])
    for other in document.get("others", []):
        if other["key"] == key:
            return dict(other)
    raise FormatError("this product does not stand on the set; it may have been removed in another window.", place=key[:40])


def standing(plan: Plan, key: str) -> Product:
    """A product of a plan by its key. Raises FormatError when there is none."""
    for one in plan.products:
        if (PRODUCT_KEY if one is plan.product else one.key) == key:
            return one
    raise FormatError("this product does not stand on the set; it may have been removed in another window.", place=key[:40])


def body_place(at: BodyPlace) -> dict[str, Any]:
    """A place on a product as zones count it: degrees and centimetres."""
    return {
        "azimuth_deg": round(math.degrees(at.azimuth_rad), 3), "height_cm": round(100 * at.height_m, 3), "face": at.face,
        "across_cm": round(100 * at.across_m, 3), "up_cm": round(100 * at.up_m, 3),
    }  # fmt: skip


def surface(product: Product) -> dict[str, Any]:
    """What zones are laid out on, for the page: of a box its sides (cm), of what is round its smooth outline and the inside."""
    if product.shape.faced:
        width, height, depth = (round(200 * half, 3) for half in product.shape.half_sizes_m)
        return {"kind": "box", "width": width, "height": height, "depth": depth}
    profile, turned = product.profile, product.shape.turned
    outline = turned.points if turned is not None else np.column_stack([profile.heights_m, profile.radii_m])
    walls = product.walls() if product.vessel else None
    inside = [part.points for part in (walls.dry, walls.wet, walls.level) if part is not None] if walls else []
    return {
        "kind": "turned" if product.shape.turned is not None else "model", "widest": round(100 * profile.widest_m, 3),
        "foot": round(100 * profile.foot_m, 3), "top": round(100 * profile.top_m, 3), "outline": np.round(100 * outline, 3).tolist(),
        "inside": [np.round(100 * part, 3).tolist() for part in inside],
    }  # fmt: skip


def _own_colour(skin: Skin) -> list[float]:
    """What a material's colour field shows before it is changed: its matte part, or its metal's tint."""
    return list(skin.metal.tint) if skin.metal else [float(v) for v in skin.reflectance.array()]


CHOICES = {
    "colours": {material.name: _own_colour(material.skin) for material in SKINS},
    "materials": {group: names for group, entries in groups() if (names := [e.name for e in entries if e.kind == "skin"])},
    "glasses": [g.name for g in GLASSES],
    "liquids": [liquid.name for liquid in LIQUIDS],
    "reliefs": list(KINDS),
    "shapes": {kind.key: kind.words for kind in SHAPES.values()},
    "foils": [m.name for m in SKINS if m.skin.metal],
    "faces": ["front", "back", "left", "right", "top", "bottom"],
}


def band_choices(subject: dict[str, Any]) -> dict[str, dict[str, Any]]:
    """Zones that can be put on a product, sized to it."""
    top = height_cm(subject)
    materials = {
        "Label": "paper matte", "Back label": "paper matte", "Cap": "black plastic", "Foil": "gold foil", "Varnish": "varnish spot",
        "Emboss": "embossed field", "Tax band": "tax band", "Film": "transparent film",
    }  # fmt: skip
    spans = {
        "Label": (0.15, 0.42), "Back label": (0.15, 0.42), "Cap": (0.87, 1.01), "Foil": (0.25, 0.32), "Varnish": (0.3, 0.4),
        "Emboss": (0.2, 0.3), "Tax band": (0.7, 0.9), "Film": (0.05, 0.6),
    }  # fmt: skip
    found = {}
    for name, material in materials.items():
        low, high = (round(share * top, 1) for share in spans[name])
        band: dict[str, Any] = {"name": name, "low_cm": low, "high_cm": max(high, low + 0.1), "skin": {"material": material}}
        if SHAPES[subject["kind"]].shape.faced:
            band |= {"face": "back" if name == "Back label" else "front", "width_cm": round(0.6 * subject["width_cm"], 1)}
        else:
            around = {"Cap": 360, "Film": 360, "Tax band": 30, "Foil": 110, "Varnish": 60, "Emboss": 40}
            band |= {"azimuth_deg": 180 if name == "Back label" else 0, "width_deg": around.get(name, 140)}
        band["ellipse"] = name == "Emboss"
        found[name] = band
    return found


def height_cm(subject: dict[str, Any]) -> float:
    """How high a product of a document is."""
    if subject["kind"] == "turned":
        return float(max(p["height_cm"] for p in subject["profile"]))
    return float(subject.get("height_cm") or subject.get("length_cm") or subject.get("diameter_cm") or 10.0)
