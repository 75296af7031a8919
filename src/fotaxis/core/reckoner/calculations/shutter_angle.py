"""Frame rate, shutter angle, slow motion, and the light they ask for."""

from __future__ import annotations

import math

from fotaxis.core.reckoner.calculation import TIME, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, round_, shape, view
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import ANGLE, FRAMES, RATIO, SHUTTER, STOPS

TURN = 2 * math.pi


def _beside(v: Given) -> dict[str, float]:
    usual = 1 / (2 * v.shown)
    return {"slower": v.rate / v.shown, "light": math.log2(usual / v.shutter)}


def _picture(v: Given) -> Drawn:
    steps = max(3, round(v.angle / 0.1))
    open_part = [(0.0, 0.0), *((math.sin(v.angle * i / steps), math.cos(v.angle * i / steps)) for i in range(steps + 1))]
    return view("The part of a frame's time in which the shutter is open", [
        round_(0, 0, 1, style="ghost"), shape(open_part, style="light", words=ANGLE.write(v.angle)),
    ])  # fmt: skip


def _says(v: Given) -> list[str]:
    if abs(v.light) < 0.05:
        return []
    return [f"{v.light:.1f} stops more light than at {FRAMES.write(v.shown)} and 180°: stronger lamps, nearer, or a larger "
            "aperture."
            if v.light > 0 else f"{-v.light:.1f} stops less light than at {FRAMES.write(v.shown)} and 180°."]  # fmt: skip


CALCULATION = Calculation(
    key="shutter-angle", name="Frame rate and shutter angle", group=TIME,
    words="Moving pictures: shutter from frame rate and angle, how slow it will look, and the light it asks for.",
    also="video film fps slow motion 180 degree rule",
    asks=(
        Quantity(name="rate", words="Taken at", unit=FRAMES, usual="100 fps", low=0.1, high=100_000),
        Quantity(name="angle", words="Shutter angle", unit=ANGLE, usual="180°", low=math.radians(1), high=TURN),
        Quantity(name="shutter", words="Shutter", unit=SHUTTER, usual="1/200", low=1e-6, high=10, shot="exposure.shutter"),
        Quantity(name="shown", words="Shown at", unit=FRAMES, usual="25 fps", low=1, high=1000),
    ),
    unknowns={
        "shutter": lambda v: v.angle / TURN / v.rate,
        "angle": lambda v: v.shutter * v.rate * TURN,
        "rate": lambda v: v.angle / TURN / v.shutter,
    },
    gives=(Quantity(name="slower", words="Times slower", unit=RATIO), Quantity(name="light", words="More light than "
        "at 180°", unit=STOPS)),
    beside=_beside, says=_says, picture=_picture,
    cautions=lambda v: ["Strong lamps close to the product: mind heat on glass and liquids, and give diffusion "
                        "a gap."] if v.light > 2 else [],
    formula="t = angle / 360° / rate; light = log₂(1 / (2 · shown · t))",
    limits="Fast rates show the flicker of mains lamps: see Flicker of lamps. Cameras write the nearest time they have.",
    source="definition of the shutter angle (textbook); 60 fps and 180° is 1/120",
)  # fmt: skip
