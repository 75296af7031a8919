"""Artwork on a product's zones: put on from a file, taken off, and a zone of the right size made for it where there is none."""

from __future__ import annotations

import math
from typing import Any, Protocol

from fotaxis.core.errors import FormatError
from fotaxis.core.materials.artwork import Bytes
from fotaxis.core.scene.product import Product
from fotaxis.services.changes import Change

PARTS = {"picture": "Artwork", "foil": "Foil mask", "varnish": "Varnish mask", "emboss": "Emboss mask"}
PAPER = {"material": "coated paper"}
USUAL_SHARE = 0.45
"""A label whose printed size nobody tells takes so much of the product's height at most, common practice."""

MOST_AROUND_DEG = 160.0


class ReadArtwork(Protocol):
    """A picture as its file was read: (height, width, 4) sRGB with cover, its printed width (mm) where the file tells it."""

    @property
    def picture(self) -> Bytes: ...
    @property
    def width_mm(self) -> float | None: ...
    def text(self) -> str:
        """As a shot file holds a picture."""

    def mask(self) -> str:
        """As a shot file holds a mask."""


def put_on(
    path: tuple[str, ...], subject: dict[str, Any], product: Product, band: int, part: str, read: ReadArtwork | None
) -> tuple[list[Change], str]:
    """Changes that put a picture or mask on a zone of a product, or take it off (read None), and what to call them.

    path: where the product is in the document; band: number of the zone, -1 for the blank label, or a new one, sized to the picture.
    Raises FormatError.
    """
    if part not in PARTS:
        raise FormatError(f"there is no {part[:20]!r} of an artwork; it is one of {', '.join(PARTS)}.")
    bands = subject.get("bands", [])
    if band < 0:
        if read is None or part != "picture":
            raise FormatError("choose the label's picture first; its masks belong to a zone that has one.")
        zone = {**new_zone(product, read), "artwork": {"picture": read.text()}}
        blank = [i for i, one in enumerate(bands) if one["name"] == zone["name"] and not one.get("artwork")]
        if blank:  # the label that is there already gets its print, and its size
            kept = {**bands[blank[0]], **zone, "skin": bands[blank[0]]["skin"]}
            return [Change(kind="set", path=(*path, "bands", str(blank[0])), value=kept)], "Artwork of Label"
        return [Change(kind="add", path=(*path, "bands"), value=zone)], "Label with its artwork"
    if band >= len(bands):
        raise FormatError("this zone is not there any more; it may have been removed in another window.")
    at, name = (*path, "bands", str(band), "artwork"), bands[band]["name"]
    before = bands[band].get("artwork")
    if read is None:
        off = (
            Change(kind="set", path=at, value=None) if part == "picture" else Change(kind="set", path=(*at, part), value="")
        )
        return [off], f"{PARTS[part]} of {name} off"
    if part == "picture":
        return [Change(kind="set", path=at, value={**(before or {}), "picture": read.text()})], f"Artwork of {name}"
    if not before:
        raise FormatError(f"{name} has no artwork yet; choose its picture first, then its masks.")
    return [Change(kind="set", path=(*at, part), value=read.mask())], f"{PARTS[part]} of {name}"


def new_zone(product: Product, read: ReadArtwork) -> dict[str, Any]:
    """A label of the picture's shape on the front, at its printed size where the file tells it, else as large as suits."""
    height_px, width_px = read.picture.shape[:2]
    ratio = width_px / height_px
    profile = product.profile
    tall = (profile.top_m - profile.foot_m) * 100
    if product.shape.faced:
        half_width, half_height, _ = product.shape.half_sizes_m
        widest, most_high = 200 * half_width, 200 * half_height
    else:
        widest, most_high = 2 * profile.widest_m * 100 * math.radians(MOST_AROUND_DEG) / 2, tall
    width = read.width_mm / 10 if read.width_mm else min(widest * 0.9, most_high * USUAL_SHARE * ratio)
    width = min(width, widest, most_high * 0.95 * ratio)
    high = width / ratio
    low = max(0.02 * tall, min(0.14 * tall, tall - high))
    zone: dict[str, Any] = {"name": "Label", "low_cm": round(low, 2), "high_cm": round(low + high, 2), "skin": PAPER}
    if product.shape.faced:
        low = (most_high - high) / 2
        return zone | {
            "face": "front", "width_cm": round(width, 2), "centre_cm": 0.0, "low_cm": round(low, 2), "high_cm": round(low + high, 2),
        }  # fmt: skip
    radius = radius_cm(product, low + high / 2)
    return zone | {"azimuth_deg": 0.0, "width_deg": round(min(360.0, math.degrees(width / radius)), 2)}


def radius_cm(product: Product, height_cm: float) -> float:
    """A round product's radius at a height above its foot."""
    profile = product.profile
    if product.shape.turned is None:
        return profile.widest_m * 100
    return max(profile.radius_at(profile.foot_m + height_cm / 100) * 100, 0.1)
