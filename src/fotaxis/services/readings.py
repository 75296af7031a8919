"""What is read on the set in words: spots, lines, how dark the background is, how well a relief shows."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np

from fotaxis.core.constants import MIDDLE_GREY
from fotaxis.core.errors import DomainError
from fotaxis.core.frames.levels import stops_of
from fotaxis.core.frames.line_reading import EQUAL_STOPS
from fotaxis.core.frames.readings import NamedReading
from fotaxis.core.frames.readings.edge import EdgeLine, LineValue
from fotaxis.core.frames.readings.reading import Value
from fotaxis.core.metering import incident
from fotaxis.core.metering.relief_contrast import relief_contrast
from fotaxis.core.render.layers import layer_gains
from fotaxis.core.scene.plan import Plan
from fotaxis.core.scene.product import Product
from fotaxis.core.stops import signed_stops, stops_name

NOT_SEEN = "not seen in this frame"
BLACK_BELOW_STOPS = -6.0
"""A background this far under middle grey reads as black. Common practice."""


def background_words(plan: Plan) -> str:
    """The background's middle in stops from grey, and whether that is black or white; '' without one."""
    b = plan.background
    if b is None:
        return ""
    place = np.array([0.0, b.centre_height_m, -b.distance_m])
    try:
        gains = layer_gains(plan)
    except DomainError as error:
        return str(error)
    level = 0.0
    for side, share in ((1.0, b.skin.reflectance.green), (-1.0, b.skin.through)):
        if share > 0:
            lux = incident.arriving_lux_s(plan, place=place + np.array([0, 0, side * 1e-4]), normal=np.array([0.0, 0, side]))
            level += share / math.pi * float(gains[1:] @ lux + gains[0])
    stops = stops_of(level)
    words = f"Background behind the product: {signed_stops(stops)} stops from grey"
    if stops >= math.log2(1 / MIDDLE_GREY):
        return f"{words}: white, clipped."
    if stops > BLACK_BELOW_STOPS:
        return f"{words}. For black: further away, flags between it and the lights, or darker cloth ({BLACK_BELOW_STOPS:g} is black)."
    return f"{words}: black."


def relief_words(plan: Plan, product: Product) -> dict[str, str]:
    """How well each zone's relief shows, by the zone's name."""
    found = {}
    for band in product.bands:
        if band.skin.relief is None:
            continue
        contrast = relief_contrast(plan, product, band)
        if contrast is None:
            found[band.name] = "no light on it"
            continue
        verdict = (
            "shows clearly"
            if contrast > 0.2
            else "shows a little"
            if contrast > 0.05
            else "is wiped out: rake a hard light along it"
        )
        found[band.name] = f"relief contrast {contrast:.0%}, {verdict}".replace("%", " %")
    return found


def sides_words(readings: tuple[NamedReading, ...], values: Mapping[str, Value | None]) -> str:
    """The first left line against the first right one, '' without both."""
    sides: dict[bool, LineValue] = {}
    for reading in readings:
        value = values.get(reading.key)
        if isinstance(reading.at, EdgeLine) and isinstance(value, LineValue):
            sides.setdefault(reading.at.left, value)
    if len(sides) < 2:
        return ""
    stops = sides[True].peak_stops - sides[False].peak_stops
    place = abs(sides[True].place) - abs(sides[False].place)
    words = "Sides equal in brightness" if abs(stops) < EQUAL_STOPS else f"Left − right {stops_name(stops)} stops"
    apart = "at equal distance from the edges" if abs(place) < 0.01 else f"{100 * abs(place):.0f} % apart in place"
    return f"{words}, {apart}."


def reading_words(value: Value | None) -> str:
    """What a named reading reads."""
    return NOT_SEEN if value is None else value.words
