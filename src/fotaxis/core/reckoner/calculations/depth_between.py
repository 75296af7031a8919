"""Focus and aperture so that everything from one distance to another is sharp."""

from __future__ import annotations

import math

from fotaxis.core.camera.lens import airy_diameter_m, depth_of_field_m
from fotaxis.core.errors import DomainError
from fotaxis.core.reckoner.calculation import LENS, Calculation, Given
from fotaxis.core.reckoner.circle import CIRCLE
from fotaxis.core.reckoner.pictures import Drawn, line, shape, view
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import CM, F_NUMBER, MM


def _focus(near: float, far: float) -> float:
    """1/near + 1/far = 2/d holds exactly for the thin lens."""
    return 2 * near * far / (near + far)


def _f_number(v: Given) -> float:
    if v.far <= v.near:
        raise DomainError(f"the far limit ({CM.write(v.far)}) must be farther than the near one ({CM.write(v.near)})")
    focus = _focus(v.near, v.far)
    # far = d (H - f) / (H - d)  =>  H = (far d - d f) / (far - d)
    hyperfocal = (v.far * focus - focus * v.focal) / (v.far - focus)
    return v.focal**2 / (v.circle * (hyperfocal - v.focal))


def _far(v: Given) -> float:
    """near = d (H - f) / (H + d - 2f)  =>  d = near (H - 2f) / (H - f - near); far follows."""
    h = v.focal**2 / (v.f_number * v.circle) + v.focal
    if h - v.focal <= v.near:
        return math.inf
    focus = v.near * (h - 2 * v.focal) / (h - v.focal - v.near)
    return depth_of_field_m(focal_length_m=v.focal, f_number=v.f_number, circle_m=v.circle, subject_distance_m=focus)[1]


def _beside(v: Given) -> dict[str, float]:
    focus = _focus(v.near, v.far) if math.isfinite(v.far) else 2 * v.near
    return {"focus": focus, "part": (focus - v.near) / (v.far - v.near) if math.isfinite(v.far) else 0.0,
            "airy": airy_diameter_m(f_number=v.f_number * (1 + v.focal / (focus - v.focal)))}  # fmt: skip


def _says(v: Given) -> list[str]:
    told = [f"Focus {CM.write(v.focus - v.near)} behind the near limit."]
    if v.airy > v.circle:
        told.append(
            f"Diffraction blurs more than the circle of confusion at {F_NUMBER.write(v.f_number)}: take a focus stack."
        )
    return told


def _picture(v: Given) -> Drawn:
    far = min(v.far, 3 * v.near)
    half = 0.16 * far
    return view("From the side: camera on the left", [
        shape([(v.near, -half), (far, -half), (far, half), (v.near, half)], style="area", words="sharp"),
        shape([(-0.08 * far, -half / 2), (0, -half / 2), (0, half / 2), (-0.08 * far, half / 2)], words="camera"),
        line(0, 0, far, 0, style="ghost"),
        line(v.focus, -half * 1.3, v.focus, half * 1.3, style="thing", words=f"focus {CM.write(v.focus)}"),
    ])  # fmt: skip


CALCULATION = Calculation(
    key="depth-between", name="Sharp from here to there", group=LENS,
    words="Measure the nearest and the farthest thing that must be sharp: where to focus, and the aperture it takes.",
    also="dof near far limit focus aperture zone",
    asks=(
        Quantity(name="near", words="Nearest", unit=CM, usual="110 cm", low=0.01, high=1000, shot="camera.near", taken=False),
        Quantity(name="far", words="Farthest", unit=CM, usual="120 cm", low=0.01, high=1e5, shot="camera.far", taken=False),
        Quantity(name="f_number", words="Aperture", unit=F_NUMBER, usual="f/11", low=0.05, high=512,
            shot="exposure.f_number"),
        Quantity(name="focal", words="Focal length", unit=MM, usual="100 mm", low=0.002, high=2, shot="camera.focal"),
        CIRCLE,
    ),
    unknowns={"f_number": _f_number, "far": _far},
    gives=(Quantity(name="focus", words="Focus at", unit=CM, shot="camera.focus"),),
    beside=_beside, says=_says, picture=_picture,
    formula="focus d = 2 near far / (near + far); N = f² / (c (H − f)), H = d (far − f) / (far − d)",
    limits="Distances from the lens, not from the sensor. Thin lens.",
    source="thin-lens geometry (textbook)",
)  # fmt: skip
