"""The product form: one product of a shot, what it may be made of, what it comes to."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from fotaxis.core.errors import FormatError
from fotaxis.core.keys import PRODUCT_KEY
from fotaxis.core.materials.bump import KINDS
from fotaxis.core.materials.catalogue import GLASSES, LIQUIDS, SKINS
from fotaxis.core.materials.material import Skin
from fotaxis.core.measures import AnyMeasure
from fotaxis.core.scene.plan import Plan
from fotaxis.core.scene.products import SHAPES
from fotaxis.formats import profile_csv
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
    faced: bool
    others: list[dict[str, Any]]
    outline: str
    reliefs: dict[str, str]


def product_form_model(document: Document, plan: Plan, key: str) -> ProductForm:
    """Raises FormatError when there is no such product."""
    subject = find(document, key)
    chosen = plan.product if key == PRODUCT_KEY else next(s for s in plan.others if s.key == key)
    kind = SHAPES[subject["kind"]]
    outline = ""
    if subject["kind"] == "turned":
        outline = profile_csv.text([(p["height_cm"], p["diameter_cm"]) for p in subject["profile"]])
    return ProductForm(
        key=key, path="subject" if key == PRODUCT_KEY else f"others.{key}", subject=subject, measures=kind.measures,
        holds_liquid=kind.shape.holds_liquid, faced=kind.shape.faced, others=document.get("others", []),
        outline=outline, reliefs=relief_words(plan, chosen),
    )  # fmt: skip


def find(document: Document, key: str) -> dict[str, Any]:
    """A product's part of a document by its key. Raises FormatError when there is none."""
    if key == PRODUCT_KEY:
        return dict(document["subject"])
    for other in document.get("others", []):
        if other["key"] == key:
            return dict(other)
    raise FormatError("this product does not stand on the set; it may have been removed in another window.", place=key[:40])


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
