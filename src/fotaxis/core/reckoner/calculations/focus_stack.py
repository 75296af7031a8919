"""A focus stack: how many frames, how far from one to the next."""

from __future__ import annotations

import math

from fotaxis.core.camera.lens import airy_diameter_m, magnification
from fotaxis.core.errors import DomainError
from fotaxis.core.reckoner.calculation import LENS, Calculation, Given
from fotaxis.core.reckoner.circle import CIRCLE
from fotaxis.core.reckoner.pictures import Drawn, line, shape, view
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import CM, COUNT, F_NUMBER, MM, PERCENT


def _slice(v: Given, f_number: float) -> float:
    """Depth that one frame keeps sharp, close up:  2 N c (m + 1) / m², metres."""
    m = _scale(v)
    return 2 * f_number * v.circle * (m + 1) / m**2


def _scale(v: Given) -> float:
    if v.focal >= v.distance:
        raise DomainError(
            f"a {MM.write(v.focal)} lens cannot focus at {CM.write(v.distance)}; the distance must be more than its focal "
            "length"
        )
    return magnification(focal_length_m=v.focal, subject_distance_m=v.distance)


def _frames(v: Given) -> float:
    one = _slice(v, v.f_number)
    if v.depth <= one:
        return 1.0
    return float(math.ceil((v.depth - one) / (one * (1 - v.overlap)) - 1e-9) + 1)


def _covered(v: Given) -> float:
    one = _slice(v, v.f_number)
    return one * (1 + (v.frames - 1) * (1 - v.overlap))


def _f_number(v: Given) -> float:
    return float(v.depth / (1 + (v.frames - 1) * (1 - v.overlap)) / _slice(v, 1.0))


def _beside(v: Given) -> dict[str, float]:
    one = _slice(v, v.f_number)
    m = _scale(v)
    step = one * (1 - v.overlap)
    return {
        "step": step, "travel": step * (v.frames - 1), "one": one,
        "airy": airy_diameter_m(f_number=v.f_number * (1 + m)),
    }  # fmt: skip


def _says(v: Given) -> list[str]:
    if v.airy > v.circle:
        return [
            f"At {F_NUMBER.write(v.f_number)} diffraction blurs more than the circle of confusion: open up, and take more "
            "frames."
        ]
    return []


def _picture(v: Given) -> Drawn:
    parts, n = [], int(min(v.frames, 40))
    for i in range(n):
        at = i * v.step
        parts.append(shape([(at, 0), (at + v.one, 0), (at + v.one, v.depth / 3), (at, v.depth / 3)], style="area"))
    parts.append(line(0, -v.depth / 20, v.depth, -v.depth / 20, style="measure", words=f"to be sharp: {CM.write(v.depth)}"))
    return view("Slices that are sharp, camera on the left", parts)


CALCULATION = Calculation(
    key="focus-stack", name="Focus stack", group=LENS,
    words="How many frames for a depth that one aperture does not give, and the step from frame to frame.",
    also="stacking slices macro rail steps frames bracketing",
    asks=(
        Quantity(name="depth", words="Depth to be sharp", unit=CM, usual="6 cm", low=0, above=True, high=10,
            shot="product.depth"),
        Quantity(name="focal", words="Focal length", unit=MM, usual="100 mm", low=0.002, high=2, shot="camera.focal"),
        Quantity(name="distance", words="Lens to product", unit=CM, usual="50 cm", low=0, above=True, high=100,
            shot="camera.focus"),
        Quantity(name="f_number", words="Aperture", unit=F_NUMBER, usual="f/8", low=0.5, high=128, shot="exposure.f_number"),
        CIRCLE,
        Quantity(name="overlap", words="Overlap", unit=PERCENT, usual="25 %", low=0, high=0.9),
        Quantity(name="frames", words="Frames", unit=COUNT, usual="8", low=1, high=1000),
    ),
    unknowns={"frames": _frames, "depth": _covered, "f_number": _f_number},
    gives=(
        Quantity(name="step", words="Rail: step", unit=MM), Quantity(name="travel", words="Rail: travel", unit=MM),
        Quantity(name="one", words="One frame is sharp for", unit=MM),
    ),
    beside=_beside, says=_says, picture=_picture,
    formula="one frame = 2 N c (m + 1) / m²; frames = 1 + (depth − one) / (one · (1 − overlap))",
    limits="Close up, far under the hyperfocal distance. On a rail the camera moves; with the focus ring the picture grows "
    "a little from "
    "frame to frame.",
    source="thin-lens depth of field at magnification m (textbook)",
)  # fmt: skip
