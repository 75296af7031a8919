"""A sheet with a strip behind it, for a line that is to be soft on a side."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from fotaxis.core.errors import NoSolution
from fotaxis.core.proposals.panel import Face, nearest_clear, stands_clear
from fotaxis.core.proposals.soft_sheet import SoftSheet, soft_sheet
from fotaxis.core.values import Point
from fotaxis.core.wishes.place import SOFT_SIDE, Place
from fotaxis.services.changes import Change, fresh_key
from fotaxis.services.presets import new_thing
from fotaxis.services.proposals.highlight import USUAL_HEIGHT_M, Highlight, judged, side_of
from fotaxis.services.proposals.maker import maker_of
from fotaxis.services.proposals.proposal import Proposal, size_words, stood

STRIPS_M = (0.3, 0.15, 0.1, 0.06, 0.035)
"""Widths of the strip behind a sheet, tried in turn: a strip box, one masked, a tube."""

TUBE_M = 0.04
AWAY_M = (0.0, 0.6, 0.9, 1.2)
CRISP_ENOUGH = 0.9
"""An edge as bright as this part of the brightest reads as crisp: the sheet stands further away until it is."""


def soft(highlight: Highlight) -> Iterator[Proposal]:
    """A sheet with a strip behind it, for a line that is to be soft on a side."""
    wish = highlight.asked.wish.wish
    if not isinstance(wish, Place) or SOFT_SIDE not in (wish.inside, wish.outside):
        return
    best: tuple[float, Face, SoftSheet] | None = None
    for least in AWAY_M:
        face = nearest_clear(highlight.plan, highlight.mirrored, least_m=least)
        across, _, front = face.axes
        for strip_m in STRIPS_M:
            try:
                sheet = soft_sheet(
                    wide=face.width_m, soft_inside=wish.inside == SOFT_SIDE, soft_outside=wish.outside == SOFT_SIDE, strip_m=strip_m,
                    mirrored=tuple(highlight.mirrored.gloss), slants=highlight.mirrored.slants(across, front),
                )  # fmt: skip
            except NoSolution:
                continue
            if best is None or sheet.crisp > best[0]:
                best = sheet.crisp, face, sheet
            if sheet.crisp >= CRISP_ENOUGH or wish.inside == wish.outside:
                break
        if best is not None and (best[0] >= CRISP_ENOUGH or wish.inside == wish.outside):
            break
    if best is not None and (made := _sheet_and_strip(highlight, best[1], best[2])) is not None:
        yield made


def _sheet_and_strip(highlight: Highlight, face: Face, sheet: SoftSheet) -> Proposal | None:
    asked, strip_m = highlight.asked, sheet.strip_m
    across, up, front = face.axes
    outward = highlight.mirrored.outward(across, front)
    middle = face.place.array()

    def at(value: float) -> np.ndarray:
        placed_at: np.ndarray = middle + outward * (value - face.width_m / 2) * across
        return placed_at

    tall = max(face.height_m, USUAL_HEIGHT_M)
    lift = (tall - face.height_m) / 2 * up
    centre = at((sheet.begin + sheet.end) / 2) + lift
    wide = replace(face, place=_point(centre), width_m=sheet.end - sheet.begin, height_m=tall)
    strip = replace(
        face, place=_point(at(sheet.strip_at) + lift - sheet.depth_m * front), width_m=strip_m, height_m=tall, below_m=0.0
    )
    if not stands_clear(highlight.plan, wide) or not stands_clear(highlight.plan, strip):
        return None
    side = side_of(face)
    document = asked.document
    sheet_key = fresh_key(document, f"{side.lower()}-sheet")
    strip_key = fresh_key(document, f"{side.lower()}-strip")
    kind = "LED tube" if strip_m <= TUBE_M else "strip box"
    changes = [
        Change(
            kind="add", path=("cards",),
            value={**new_thing("opal acrylic"), "name": f"{side} acrylic", **stood(wide), "key": sheet_key},
        ),
        Change(
            kind="add", path=("lights",),
            value={**new_thing(kind), "name": f"{side} strip", "gradient": "even", "gradient_stops": 0.0, **stood(strip),
                   "key": strip_key},
        ),
    ]  # fmt: skip
    maker = maker_of(highlight)
    moved: frozenset[str] = frozenset()
    if maker is not None:
        changes = [*maker.taken_away(), *changes]
        moved = maker.keys
    masked = ", masked from a wider one" if TUBE_M < strip_m < STRIPS_M[0] else ""
    title = f"Opal acrylic {size_words(wide)}, strip {100 * sheet.depth_m:.0f} cm behind"
    more = (
        f"The strip, {100 * strip_m:.0f} cm wide{masked}, stands {100 * sheet.depth_m:.0f} cm behind the sheet, its middle "
        f"{_aside_words(sheet.strip_at, sheet.begin, sheet.end)}: its light falls to half where the line is to end.",
    )
    return judged(highlight, title, changes, wide, moved=moved, reasons=more, things=2)


def _aside_words(strip_at: float, begin: float, end: float) -> str:
    if strip_at > end:
        return f"{100 * (strip_at - end):.0f} cm beyond its outer edge"
    if strip_at < begin:
        return f"{100 * (begin - strip_at):.0f} cm beyond its inner edge"
    return f"{100 * (end - strip_at):.0f} cm in from its outer edge"


def _point(place: np.ndarray) -> Point:
    x, y, z = (float(v) for v in place)
    return Point(x_m=x, y_m=y, z_m=z)
