"""Depth of field both ways: what is sharp at an aperture, and the aperture for what must be sharp."""

from __future__ import annotations

import math

from fotaxis.core.camera.lens import airy_diameter_m, depth_of_field_m, hyperfocal_m
from fotaxis.core.errors import DomainError
from fotaxis.core.reckoner.calculation import LENS, Calculation, Given
from fotaxis.core.reckoner.circle import CIRCLE
from fotaxis.core.reckoner.pictures import Drawn, line, shape, view
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.roots import where
from fotaxis.core.reckoner.units import CM, F_NUMBER, MM, Length

WIDEST, SMALLEST = 0.5, 512.0
MICRONS = Length(key="length", per=1000, digits=3, example="0.01 mm")


def _limits(v: Given) -> tuple[float, float]:
    return depth_of_field_m(focal_length_m=v.focal, f_number=v.f_number, circle_m=v.circle, subject_distance_m=v.distance)


def _depth(v: Given) -> float:
    near, far = _limits(v)
    return far - near


def _f_number(v: Given) -> float:
    """The depth grows with the f-number until the focus is the hyperfocal distance."""
    if v.focal >= v.distance:
        raise DomainError("the focal length must be shorter than the distance")
    most = v.focal**2 / (v.circle * (v.distance - v.focal))

    def depth(n: float) -> float:
        return _depth(Given(**{**vars(v), "f_number": n}))

    return where(depth, v.depth, low=WIDEST / 1000, high=most * (1 - 1e-9), what="f-number")


def _distance(v: Given) -> float:
    def depth(d: float) -> float:
        return _depth(Given(**{**vars(v), "distance": d}))

    most = hyperfocal_m(focal_length_m=v.focal, f_number=v.f_number, circle_m=v.circle)
    return where(depth, v.depth, low=v.focal * 1.0001, high=most * (1 - 1e-9), what="distance")


def _beside(v: Given) -> dict[str, float]:
    near, far = _limits(v)
    return {
        "near": near, "far": far, "before": v.distance - near, "behind": far - v.distance,
        "hyperfocal": hyperfocal_m(focal_length_m=v.focal, f_number=v.f_number, circle_m=v.circle),
        "airy": airy_diameter_m(f_number=v.f_number * (1 + v.focal / (v.distance - v.focal))),
    }  # fmt: skip


def _says(v: Given) -> list[str]:
    if v.airy > v.circle:
        return [
            f"Diffraction blurs more than the circle of confusion (a spot of {1e6 * v.airy:.0f} µm): open up and take a "
            "focus stack."
        ]
    return []


def _picture(v: Given) -> Drawn:
    far = min(v.far, 2.5 * v.distance)
    half = v.distance * 0.16
    return view("From the side: camera on the left", [
        shape([(v.near, -half), (far, -half), (far, half), (v.near, half)], style="area", words="sharp"),
        shape([(-0.08 * v.distance, -half / 2), (0, -half / 2), (0, half / 2), (-0.08 * v.distance, half / 2)],
            words="camera"),
        line(0, 0, far, 0, style="ghost"),
        line(v.distance, -half * 1.3, v.distance, half * 1.3, style="thing", words=f"focus {CM.write(v.distance)}"),
        line(v.near, -half * 1.15, v.near, half * 1.15, style="measure", words=CM.write(v.near)),
        line(far, -half * 1.15, far, half * 1.15, style="measure", words=CM.write(v.far) if math.isfinite(v.far) else "∞"),
    ])  # fmt: skip


CALCULATION = Calculation(
    key="depth-of-field", name="Depth of field", group=LENS,
    words="What is sharp before and behind the focus, and the aperture that makes a wanted depth.",
    also="dof sharp near far focus diffraction airy",
    asks=(
        Quantity(name="focal", words="Focal length", unit=MM, usual="100 mm", low=0.002, high=2, shot="camera.focal"),
        Quantity(name="distance", words="Lens to focus", unit=CM, usual="120 cm", low=0, above=True, high=1000,
            shot="camera.focus"),
        Quantity(name="f_number", words="Aperture", unit=F_NUMBER, usual="f/11", low=WIDEST, high=SMALLEST,
            shot="exposure.f_number"),
        CIRCLE,
        Quantity(name="depth", words="Depth", unit=CM, usual="10 cm", low=0, above=True, high=1e6, shot="product.depth"),
    ),
    unknowns={"depth": _depth, "f_number": _f_number, "distance": _distance},
    gives=(
        Quantity(name="near", words="Sharp from", unit=CM), Quantity(name="far", words="to", unit=CM),
        Quantity(name="before", words="Before the focus", unit=CM), Quantity(name="behind", words="Behind it", unit=CM),
        Quantity(name="hyperfocal", words="Hyperfocal distance", unit=CM), Quantity(name="airy", words="Diffraction spot",
            unit=MICRONS),
    ),
    beside=_beside, says=_says, picture=_picture,
    formula="H = f² / (N c) + f; near = d (H − f) / (H + d − 2f), far = d (H − f) / (H − d)",
    limits="Thin lens, distances from the lens; a real macro lens shortens its focal length when it focuses near. The "
    "circle is for a print "
    "seen whole: for one seen from near, halve it.",
    source="thin-lens geometry (textbook); diffraction after Airy",
)  # fmt: skip
