"""What a polariser on the lens would do to a shot, all over the frame and by zone."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from fotaxis.core.camera.camera import PREVIEW_SIDE
from fotaxis.core.camera.filters import Polariser
from fotaxis.core.constants import REC709_LUMINANCE
from fotaxis.core.frames.polariser_map import TURNS_RAD, PolariserMap, ZoneTurn, polariser_map, zone_turn
from fotaxis.core.render.arrays.pack_static_scene import surface_owners
from fotaxis.core.render.arrays.path_records import SKINS_PER_SURFACE
from fotaxis.core.render.layers import layer_gains, mixed
from fotaxis.core.render.mirrored import zone_name
from fotaxis.core.scene.naming import names_of
from fotaxis.core.scene.plan import Plan
from fotaxis.core.stops import measured_stops
from fotaxis.core.values import Array
from fotaxis.services.pictures import Pictures

LEAST_STOPS = 0.15
LEAST_PIXELS = 40
SHOWN_STOPS = 3.0
"""The map is at its strongest where so many stops go."""

TINT = (240, 176, 64)


def mapped(pictures: Pictures, plan: Plan, *, long_side: int = PREVIEW_SIDE) -> tuple[PolariserMap, list[ZoneTurn]]:
    """The map of a plan, and what it comes to by zone, the most first. Raises DomainError when flash and shutter contradict each
    other."""
    before = plan.before_lens.polariser or Polariser()
    luminance = []
    for turn in TURNS_RAD:
        turned = replace(plan, before_lens=replace(plan.before_lens, polariser=replace(before, turn_rad=turn)))
        levels = mixed(pictures.draft_layers(turned, long_side=long_side), layer_gains(turned))
        luminance.append(levels.astype(np.float64) @ np.array(REC709_LUMINANCE))
    found = polariser_map(np.array(luminance))
    return found, _zones(pictures, plan, found, long_side)


def _zones(pictures: Pictures, plan: Plan, found: PolariserMap, long_side: int) -> list[ZoneTurn]:
    stage = pictures.stage(plan, long_side=long_side)
    first = stage.traced.first.reshape(stage.height, stage.width)
    owners, names = surface_owners(plan), names_of(plan)
    there: dict[str, np.ndarray] = {}
    for number in np.unique(first[first >= 0]):
        surface, skin = divmod(int(number), SKINS_PER_SURFACE)
        owner = owners[surface]
        name = zone_name(plan, owner, stage.scene.skins[skin]) or names.get(owner, owner)
        there[name] = there.get(name, np.zeros(first.shape, bool)) | (first == number)
    zones = [zone_turn(name, found, pixels) for name, pixels in there.items() if np.count_nonzero(pixels) >= LEAST_PIXELS]
    return sorted(zones, key=lambda zone: -zone.stops)


def words(zones: list[ZoneTurn]) -> str:
    """What a polariser does, in sentences."""
    helps = [zone for zone in zones if zone.stops >= LEAST_STOPS]
    if not helps:
        return "A polariser changes nothing here: what is mirrored is metal, seen straight on, or dark."
    told = [
        f"{zone.name} by {measured_stops(zone.stops)} stops at {round(math.degrees(zone.turn_rad)) % 180}°"
        for zone in helps[:3]
    ]
    still = [zone.name for zone in zones if zone.stops < LEAST_STOPS][:3]
    rest = f" It leaves {', '.join(still)} alone." if still else ""
    part = (
        " In between, a part of the mirror image stays: full polarisation kills the glow of gloss."
        if helps[0].stops > 1
        else ""
    )
    return f"Turned, it darkens {'; '.join(told)}.{rest}{part}"


def painted(found: PolariserMap) -> Array:
    """The map as a picture with its own transparency, (height, width, 4) uint8: the stronger, the more is taken away."""
    strength = np.clip(found.stops / SHOWN_STOPS, 0.0, 1.0)
    made = np.empty((*strength.shape, 4), np.uint8)
    made[..., :3] = TINT
    made[..., 3] = np.where(found.stops >= LEAST_STOPS, 40 + 170 * strength, 0).astype(np.uint8)
    return made
