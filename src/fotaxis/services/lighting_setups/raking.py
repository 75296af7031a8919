"""A hard head along the surface."""

from __future__ import annotations

import math

import numpy as np

from fotaxis.services.lighting_setups.setup import LABEL_STOPS, LightingSetup, MirrorZone, Sizes, aimed, thing
from fotaxis.services.ports import Document

OFF_VIEW_DEG = 25.0
"""A foil that mirrors less than this off the camera shows the camera: no card can stand there."""

NEAREST_CM, FARTHEST_CM, STEP_CM, TABLE_CM = 8.0, 90.0, 1.0, 1.0
SLACK = 1.5


def make(s: Sizes) -> Document:
    reach = max(60.0, 3 * s.width)
    x, y, z = -reach, s.middle + 0.2 * s.height, 0.16 * reach
    rake = thing("dish 65°", "rake", "Raking head", **aimed(x, y, z, s.middle))
    card = s.logo and _in_the_mirror(s, s.logo, (x, y, z))
    beside = thing(
        "silver card", "logo", "Silver card for the logo", **aimed(1.2 * s.width + 14, s.middle, s.width + 22, s.label),
        width_cm=max(12.0, 0.9 * s.width), height_cm=max(16.0, 0.8 * s.height),
    )  # fmt: skip
    return {"lights": [rake], "cards": [card or beside]}


def _in_the_mirror(s: Sizes, logo: MirrorZone, head: tuple[float, float, float]) -> Document | None:
    """A silver card where the foil looks, just out of the frame, turned half-way between the head and the foil; None where the foil
    shows the camera, or looks nowhere that a card could stand."""
    eye = np.array([s.camera_side, s.camera_height, s.camera_distance])
    middle, looks = np.array(logo.middle), np.array(logo.looks)
    back = (eye - middle) / np.linalg.norm(eye - middle)
    if float(back @ looks) > math.cos(math.radians(OFF_VIEW_DEG)):
        return None
    away = float(np.linalg.norm(eye - middle))
    for far in np.arange(NEAREST_CM, FARTHEST_CM, STEP_CM):
        at = middle + far * looks
        wide, high = (SLACK * 2 * half * (1 + far / away) + 2.0 for half in logo.half)
        if at[1] < TABLE_CM + high / 4:
            return None
        if _out_of_frame(s, at, max(wide, high) / 2):
            toward = (middle - at) / far + (np.array(head) - at) / np.linalg.norm(np.array(head) - at)
            toward /= np.linalg.norm(toward)
            turn, tilt = math.degrees(math.atan2(toward[0], toward[2])), math.degrees(math.asin(toward[1]))
            cx, cy, cz = (float(v) for v in at)
            return thing(
                "silver card", "logo", "Silver card for the logo", x=cx, y=cy, z=cz, turn=turn, tilt=tilt, width_cm=float(wide),
                height_cm=float(high),
            )  # fmt: skip
    return None


def _out_of_frame(s: Sizes, at: np.ndarray, half: float) -> bool:
    """Does something of that half size at a place show nothing in the frame?"""
    eye = np.array([s.camera_side, s.camera_height, s.camera_distance])
    ahead = np.array([s.aim_side, s.aim_height, 0.0]) - eye
    ahead /= np.linalg.norm(ahead)
    right = np.cross(ahead, [0.0, 1.0, 0.0])
    right /= np.linalg.norm(right)
    up = np.cross(right, ahead)
    way = at - eye
    depth = float(way @ ahead)
    if depth <= 0:
        return True
    across, rise = (float(way @ axis) - part * depth for axis, part in zip((right, up), s.middle_field, strict=True))
    return abs(across) - half > s.half_field[0] * depth or abs(rise) - half > s.half_field[1] * depth


SETUP = LightingSetup(
    key="raking", name="Raking light, card for the logo", make=make,
    words="A hard head along the surface for texture, a silver card that throws it onto the logo.",
    targets={"rake": LABEL_STOPS},
)  # fmt: skip
