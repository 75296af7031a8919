"""What the set's surfaces come to in words: how dark the background is, how well a relief shows."""

from __future__ import annotations

import math

import numpy as np

from fotaxis.core.constants import DEEPEST_BLACK_STOPS, MIDDLE_GREY
from fotaxis.core.errors import DomainError
from fotaxis.core.prediction import meter
from fotaxis.core.prediction.layers import layer_gains
from fotaxis.core.prediction.plan import Plan
from fotaxis.core.prediction.subject import Subject
from fotaxis.core.prediction.texture import relief_contrast

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
            lux = meter.arriving_lux_s(plan, place=place + np.array([0, 0, side * 1e-4]), normal=np.array([0.0, 0, side]))
            level += share / math.pi * float(gains[1:] @ lux + gains[0])
    stops = max(math.log2(level / MIDDLE_GREY), DEEPEST_BLACK_STOPS) if level > 0 else DEEPEST_BLACK_STOPS
    words = f"Background behind the product: {signed(stops)} stops from grey"
    if stops >= math.log2(1 / MIDDLE_GREY):
        return f"{words}: white, clipped."
    if stops > BLACK_BELOW_STOPS:
        return f"{words}. For black: further away, flags between it and the lights, or darker cloth ({BLACK_BELOW_STOPS:g} is black)."
    return f"{words}: black."


def described(subject: Subject) -> str:
    """Name, size, fill and turn of a product in words."""
    words = f"{subject.name}, {subject.height_m * 100:.1f} cm high, Ø {subject.profile.widest_m * 200:.1f} cm"
    if subject.vessel:
        words += f", glass, wall {subject.vessel.wall_m * 1000:g} mm"
        words += f", filled to {subject.vessel.level_m * 100:g} cm" if subject.vessel.liquid else ", empty"
    if subject.turn_rad:
        words += f", turned {math.degrees(subject.turn_rad):.0f}°"
    return words + (", lying" if subject.lying else "")


def relief_words(plan: Plan, subject: Subject) -> dict[str, str]:
    """How well each zone's relief shows, by the zone's name."""
    found = {}
    for band in subject.bands:
        if band.skin.relief is None:
            continue
        contrast = relief_contrast(plan, subject, band)
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
