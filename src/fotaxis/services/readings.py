"""What is read on the set in words: spots, lines, how dark the background is, how well a relief shows."""

from __future__ import annotations

import math

import numpy as np

from fotaxis.core.camera.exposure import encode_srgb, stops_from_grey
from fotaxis.core.constants import DEEPEST_BLACK_STOPS, MIDDLE_GREY
from fotaxis.core.errors import DomainError
from fotaxis.core.frames.readings import EdgeLine, LineValue, NamedReading, SpotValue
from fotaxis.core.metering import incident
from fotaxis.core.metering.relief_contrast import relief_contrast
from fotaxis.core.render.layers import layer_gains
from fotaxis.core.scene.plan import Plan
from fotaxis.core.scene.product import Product
from fotaxis.core.stops import stops_name

CRISP = 0.05
"""An edge narrower than this part of the product's half width reads as crisp."""

EQUAL_STOPS = 0.05
NOT_SEEN = "not seen in this frame"
BLACK_BELOW_STOPS = -6.0
"""A background this far under middle grey reads as black. Common practice."""


def signed(stops: float) -> str:
    """Stops to a tenth with their sign."""
    return f"{'+' if stops >= 0 else '−'}{abs(stops):.1f}"


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
    words = f"Background behind the product: {signed(stops)} stops from grey"
    if stops >= math.log2(1 / MIDDLE_GREY):
        return f"{words}: white, clipped."
    if stops > BLACK_BELOW_STOPS:
        return f"{words}. For black: further away, flags between it and the lights, or darker cloth ({BLACK_BELOW_STOPS:g} is black)."
    return f"{words}: black."


def described(product: Product) -> str:
    """Name, size, fill and turn of a product in words."""
    words = f"{product.name}, {product.height_m * 100:.1f} cm high, Ø {product.profile.widest_m * 200:.1f} cm"
    if product.vessel:
        words += f", glass, wall {product.vessel.wall_m * 1000:g} mm"
        words += f", filled to {product.vessel.level_m * 100:g} cm" if product.vessel.liquid else ", empty"
    if product.turn_rad:
        words += f", turned {math.degrees(product.turn_rad):.0f}°"
    return words + (", lying" if product.lying else "")


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


def stops_of(level: float) -> float:
    """Stops from middle grey of a linear level, held at what reads as nothing."""
    return float(stops_from_grey(np.array(level)))


def code_of(level: float) -> int:
    """Output value 0..255 of a linear level."""
    return int(encode_srgb(np.array([[[level] * 3]], np.float32)).ravel()[0])


def level_words(level: float) -> str:
    """A level in stops from grey and in output values."""
    stops = stops_of(level)
    return f"{signed(stops)} stops · {code_of(level)}" if stops > DEEPEST_BLACK_STOPS else "black · 0"


def line_words(value: LineValue) -> tuple[str, str]:
    """An edge line in short, and in full: place, width, brightness, softness, evenness over its height."""
    softness = {
        (True, True): "crisp both sides", (True, False): "crisp inside, soft outside", (False, True): "soft inside, crisp outside",
        (False, False): "soft both sides",
    }[value.inner <= CRISP, value.outer <= CRISP]  # fmt: skip
    even = (
        "even from end to end"
        if value.uneven_stops < EQUAL_STOPS
        else f"even within {stops_name(value.uneven_stops).lstrip('+')} stops"
    )
    gaps = "" if value.found > 0.95 else f", seen over {value.found:.0%} of its height".replace("%", " %")
    short = f"{signed(value.peak_stops)} stops · {code_of(MIDDLE_GREY * 2.0**value.peak_stops)}"
    place = f"at {abs(value.place):.0%}, {value.width / 2:.0%} wide".replace("%", " %")
    return short, f"{place}, {short}, {softness}, {even}{gaps}"


def reading_words(value: SpotValue | LineValue | None) -> str:
    """What a named reading reads."""
    if value is None:
        return NOT_SEEN
    return line_words(value)[1] if isinstance(value, LineValue) else level_words(value.level)


def sides_words(readings: tuple[NamedReading, ...], values: dict[str, SpotValue | LineValue | None]) -> str:
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
