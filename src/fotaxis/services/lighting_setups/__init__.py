"""Lighting set-ups of the main schools, one file each, fitted to the product, the table and the camera by computation.

setup: what each says of itself, and the tools they build with; a new one is written like acrylic.py and listed here.
SETUPS: all of them by key, in the order pages list them; apply_setup: a shot with one of them in place of its own lights.
"""

from __future__ import annotations

import math

from fotaxis.core.errors import FormatError
from fotaxis.core.lights.gels import GELS, Gel, stops_lost
from fotaxis.core.lights.heads import HEAD, Head
from fotaxis.services.levels import wanted_powers
from fotaxis.services.lighting_setups import (
    acrylic,
    bright_field,
    dark_field,
    double_diffusion,
    glow,
    one_light,
    overhead,
    raking,
)
from fotaxis.services.lighting_setups.setup import LightingSetup, sizes_of
from fotaxis.services.lighting_setups.tidy import tidied
from fotaxis.services.ports import Document, ShotCodec
from fotaxis.services.presets import usual_mask

SETUPS: dict[str, LightingSetup] = {
    module.SETUP.key: module.SETUP
    for module in (double_diffusion, acrylic, one_light, dark_field, bright_field, raking, overhead, glow)
}


def apply_setup(document: Document, key: str, codec: ShotCodec) -> Document:
    """A shot's document with the lights and cards of a set-up in place of its own, powers set so that each light's brightest
    reaches what is usual. Raises FormatError for an unknown one, or where the set cannot be built."""
    if key not in SETUPS:
        raise FormatError(f"there is no start called {key[:20]!r}; choose one from the list.", place="school")
    setup = SETUPS[key]
    before = codec.plan(document)
    made = setup.make(sizes_of(before))
    lens = {**document["lens"]}
    if setup.windowed and not lens.get("mask"):
        lens["mask"] = usual_mask(before)
    result = tidied(codec.check({**document, "lens": lens, **made}), codec)
    wanted = wanted_powers(codec.plan(result), setup.targets, in_frame=setup.in_frame)
    lacks = math.ceil(max([stops - STRONGER for stops in wanted.values()], default=0.0) - 1e-6)
    if lacks > 0:
        faster = min(lacks, max(0, math.floor(math.log2(MOST_ISO / result["exposure"]["iso"]))))
        result["exposure"] = {**result["exposure"], "iso": result["exposure"]["iso"] * 2.0**faster}
        wanted = {key: stops - faster for key, stops in wanted.items()}
    result["lights"] = [strong_enough(light, wanted) for light in result["lights"]]
    return codec.check(result)


WEAKER, STRONGER, MOST_ISO = -2.0, 2.0, 3200.0
"""A head may be taken so many stops weaker or stronger than the usual one of its kind, where the set wants it; what lacks then the
ISO gives."""

ROOM_LEFT = 1.0
"""A head is chosen so that its power has about this many stops left to full."""


def strong_enough(light: Document, wanted: dict[str, float]) -> Document:
    """A light at the power that is wanted, stops from full; where its own range does not reach, a weaker or stronger head, else nets'
    worth of grey gel before it."""
    stops = wanted.get(light["key"])
    if stops is None:
        return light
    steps, lowest = light["steps_per_stop"], light["lowest_stops"]
    by = light.get("calibration") or {}
    given = 0.0
    if stops > 0:
        given = min(stops + ROOM_LEFT, STRONGER)
    elif stops < -lowest:
        given = max(stops + lowest - ROOM_LEFT, WEAKER)
    if given and by.get("kind") == "guide number":
        # A guide number goes with the root of the light.   Source: its definition, N times distance.
        light = {**light, "calibration": {**by, "metres": round(by["metres"] * 2.0 ** (given / 2), 1)}}
        stops -= given
    elif given and light.get("head"):
        light = {**light, "calibration": _scaled(HEAD[light["head"]], given)}
        stops -= given
    if stops < -lowest:
        gels = grey_gels(-lowest - stops)
        light = {**light, "gels": [gel.name for gel in gels]}
        stops += stops_lost(gels)
    return {**light, "power_stops": max(-float(lowest), min(0.0, round(stops * steps) / steps))}


def _scaled(head: Head, stops: float) -> Document:
    """The calibration of a head so many stops stronger than the usual one of its kind."""
    if not head.continuous:
        return {"kind": "guide number", "metres": round(head.guide_number_m * 2.0 ** (stops / 2), 1)}
    return {"kind": "candela", "candela": round(head.candela * 2.0**stops, 1)}


def grey_gels(stops: float) -> tuple[Gel, ...]:
    """One or two grey gels that together take so many stops or a little more; the strongest two where none do."""
    greys = [gel for gel in GELS if gel.name.startswith("ND")]
    choices = [*((one,) for one in greys), *((a, b) for a in greys for b in greys)]
    enough = [some for some in choices if stops_lost(some) >= stops - 1e-6]
    return min(enough, key=lambda some: (stops_lost(some), len(some))) if enough else choices[-1]
