"""Depth of field both ways: what is sharp at an aperture, and the aperture for what must be sharp."""

from __future__ import annotations

from fotaxis.core.camera.lens import airy_diameter_m, depth_of_field_m, hyperfocal_m
from fotaxis.core.errors import DomainError
from fotaxis.core.reckoner.calculation import LENS, Calculation, Given
from fotaxis.core.reckoner.circle import CIRCLE
from fotaxis.core.reckoner.pictures import Drawn, curve
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.roots import where
from fotaxis.core.reckoner.unit import Length
from fotaxis.core.reckoner.units import CM, F_NUMBER, MM

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
    """Near and far limit by aperture; a far limit beyond four times the focus is not drawn further."""
    most = 4 * v.distance

    def limits(n: float) -> tuple[float, float]:
        near, far = _limits(Given(**{**vars(v), "f_number": n}))
        return 100 * near, 100 * min(far, most)

    return curve(
        "Sharp between these, by aperture", lambda n: limits(n)[1], low=1.4, high=max(22.0, 1.3 * v.f_number), x="f-number",
        y="cm from the lens", more=[(lambda n: limits(n)[0], "")],
        at=[(v.f_number, 100 * v.near, CM.write(v.near)), (v.f_number, 100 * min(v.far, most), CM.write(v.far))],
        across=[(100 * v.distance, "focus")],
    )  # fmt: skip


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
