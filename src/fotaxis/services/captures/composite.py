"""The composite of a shot's captures as the set predicts it: live while masks are drawn, fine once workers have made its pictures."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from fotaxis.core.camera.camera import PREVIEW_SIDE
from fotaxis.core.camera.tone import Tone
from fotaxis.core.captures.areas import SceneAreas
from fotaxis.core.captures.composite import Plate, along, composed
from fotaxis.core.captures.masks import Mask, halved, mask_of
from fotaxis.core.errors import DomainError
from fotaxis.core.frames.line_profile import ReadingLine, luminance_along, product_edges
from fotaxis.core.frames.line_reading import LineReading, places_along, read_line
from fotaxis.core.frames.mirrored_at import MirroredAt
from fotaxis.core.frames.readings.reading import LayeredFrame, Value
from fotaxis.core.lights.colour import tint
from fotaxis.core.render.layers import Layers, develop
from fotaxis.core.scene.plan import Plan
from fotaxis.services.briefs import Deliverable
from fotaxis.services.captures.capture import captured
from fotaxis.services.pictures import Pictures
from fotaxis.services.ports import Document, ShotCodec
from fotaxis.services.wishes import JudgedWish, judged_wishes

FINE_AREAS = 480
"""Up to this size masks are drawn at twice of it, for smooth edges; above they are smoothed over a pixel instead."""

ONE_GAIN = np.ones(1)


@dataclass(frozen=True, kw_only=True)
class Joined:
    """A composite: the set as each capture takes it, what each lays down, and all of them together.

    levels (height, width, 3) float32 linear, before it is developed.
    """

    base: Plan
    plans: tuple[Plan, ...]
    plates: tuple[Plate, ...]
    levels: np.ndarray
    tone: Tone
    fine: bool

    def developed(self) -> np.ndarray:
        """As it is delivered, (height, width, 3) uint8 sRGB."""
        return developed(self.levels, self.tone)


def developed(levels: np.ndarray, tone: Tone) -> np.ndarray:
    """Linear levels (height, width, 3) through the output curve, uint8."""
    layers = Layers(keys=("composite",), pictures=np.ascontiguousarray(levels, np.float32)[None], lost_share=0.0)
    return develop(layers, ONE_GAIN, tone)


def shown_captures(document: Document) -> list[Document]:
    """Those that go into the composite, in their order."""
    return [one for one in document.get("captures", []) if one.get("shown", True)]


def base_plan(document: Document, codec: ShotCodec) -> Plan:
    """The set with everything present: what masks and readings lie on."""
    return codec.plan({**document, "captures": []})


def mask_for(plan: Plan, capture: Document, codec: ShotCodec, pictures: Pictures, *, long_side: int) -> Mask | None:
    """A capture's mask in a picture of this size; None for all of it. Raises DomainError for an area that is not there."""
    parts = codec.mask(capture.get("mask", []))
    if not parts:
        return None
    if long_side > FINE_AREAS:
        areas = pictures.areas(plan, long_side=long_side)
        least = 1 / max(areas.mm_px, 1e-6)
        parts = tuple(replace(part, feather_mm=max(part.feather_mm, least)) for part in parts)
        return mask_of(parts, areas)
    mask = mask_of(parts, pictures.areas(plan, long_side=2 * long_side))
    assert mask is not None
    return halved(mask)


def joined(
    document: Document, codec: ShotCodec, pictures: Pictures, *, long_side: int = PREVIEW_SIDE, fine: bool = False
) -> Joined:
    """The composite at once, as a draft; fine: of the kept fine pictures of this size.

    Raises DomainError where there is nothing to join, a fine picture is missing, a mask's area is not there, or a capture's exposure
    contradicts itself.
    """
    captures = shown_captures(document)
    if not captures:
        raise DomainError("there is no capture to join yet; keep the present state as one (X on the bench).")
    base = base_plan(document, codec)
    plans = tuple(codec.plan(captured(document, one)) for one in captures)
    plates = tuple(
        _plate(base, plan, one, codec, pictures, long_side=long_side, fine=fine)
        for plan, one in zip(plans, captures, strict=True)
    )
    height, width = plates[0].picture.shape[:2]
    if any(plate.picture.shape[:2] != (height, width) for plate in plates):
        raise DomainError("two captures have framings of different crops; give them one crop to join them.")
    levels = composed(plates, (width, height)) * white_gain(document, base)
    return Joined(
        base=base, plans=plans, plates=plates, levels=levels, tone=codec.tone(document.get("finish", {})), fine=fine
    )  # fmt: skip


def white_gain(document: Document, plan: Plan) -> np.ndarray:
    """What each channel is multiplied by to show another temperature as white, (3,) float32."""
    white_k = document.get("finish", {}).get("white_k")
    gain = tint(kelvin=plan.white_k, white_k=white_k) if white_k else np.ones(3)
    return gain.astype(np.float32)


def _plate(
    base: Plan, plan: Plan, capture: Document, codec: ShotCodec, pictures: Pictures, *, long_side: int, fine: bool
) -> Plate:  # fmt: skip
    levels = pictures.fine_levels(plan, long_side=long_side) if fine else pictures.levels(plan, long_side=long_side)
    if levels is None:
        raise DomainError(f"the fine picture of {capture['name']} is still being made.")
    mask = mask_for(base, capture, codec, pictures, long_side=long_side)
    shaped = capture.get("good_half") or capture.get("flipped")
    axis, foot = axis_of(pictures.areas(base, long_side=long_side)) if shaped else (0.0, 0.0)
    return plate_of(capture, levels, mask, axis_x=axis, foot_y=foot)


def axis_of(areas: SceneAreas) -> tuple[float, float]:
    """Column of the product's axis and row of its foot."""
    return areas.axis_x, areas.foot_y


def plate_of(capture: Document, picture: np.ndarray, mask: Mask | None, *, axis_x: float, foot_y: float) -> Plate:
    """A capture's picture, real or predicted, as it goes into the composite."""
    return Plate(
        picture=picture, mask=mask, blend=capture.get("blend", "sum"), strength_stops=capture.get("strength_stops", 0.0),
        sided=capture.get("good_half", ""), flipped=capture.get("flipped", False), axis_x=axis_x, foot_y=foot_y,
    )  # fmt: skip


# ---- what the composite reads


def _frame(made: Joined, pictures: Pictures) -> LayeredFrame:
    def look(places: np.ndarray) -> MirroredAt:
        return _look(made, places, pictures)

    long_side = max(made.levels.shape[:2])
    is_product = pictures.product_of(made.base, long_side=long_side)
    return LayeredFrame(pictures=made.levels[None], gains=ONE_GAIN, is_product=is_product, mirror=look)


def _look(made: Joined, places: np.ndarray, pictures: Pictures) -> MirroredAt:
    """What the product mirrors at places of the composite: of each capture by as much as it goes in there."""
    on = pictures.look(made.base, places)
    levels = []
    for plan in made.plans:
        mirrored = pictures.look(plan, places).mirrored
        levels.append(np.zeros(len(places)) if mirrored is None else mirrored)
    return replace(on, mirrored=along(levels, made.plates, places))


def read_composite(
    document: Document, made: Joined, codec: ShotCodec, pictures: Pictures
) -> tuple[dict[str, Value | None], list[JudgedWish]]:
    """What the shot's readings read in the composite, by key, and its wishes about them; wishes about the picture as a whole are
    left out: they are told capture by capture."""
    readings = codec.readings(document)
    frame = _frame(made, pictures)
    values: dict[str, Value | None] = {one.key: one.at.read(frame) for one in readings}
    wishes = [one for one in codec.wishes(document) if not one.wish.whole]
    return values, judged_wishes(made.base, wishes, readings, values, None)


def read_line_in(made: Joined, line: ReadingLine, pictures: Pictures) -> LineReading:
    """What a line across the composite reads."""
    height, width = made.levels.shape[:2]
    frame = _frame(made, pictures)
    places = places_along(line, product_edges(frame.is_product, line), width=width, height=height)
    level = luminance_along(made.levels[None], line)[0]
    on = _look(made, places.in_frame(line), pictures) if places else None
    return read_line(places, on, level=level, pixel=line.pixel(width=width, height=height))


def crops(document: Document, deliverables: Sequence[Deliverable]) -> list[dict[str, Any]]:
    """Crops of the composite that a brief asks for: its name, and the largest rectangle about the middle, left, top, width, height in
    parts of the frame."""
    camera = document["camera"]
    own = camera.get("crop_width", 4.0) / camera.get("crop_height", 5.0)
    found = []
    for one in deliverables:
        ratio = one.wide / one.high
        wide, high = (1.0, own / ratio) if ratio >= own else (ratio / own, 1.0)
        place = {"left": (1 - wide) / 2, "top": (1 - high) / 2, "wide": wide, "high": high}
        found.append({"name": one.name, "ratio": f"{one.wide:g}:{one.high:g}", **place})
    return found
