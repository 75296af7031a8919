"""The distance from which all up to infinity is sharp."""

from __future__ import annotations

import math

from fotaxis.core.camera.lens import hyperfocal_m
from fotaxis.core.reckoner.calculation import LENS, Calculation, Given
from fotaxis.core.reckoner.circle import CIRCLE
from fotaxis.core.reckoner.pictures import Drawn, curve
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import F_NUMBER, METRES, MM


def _hyperfocal(v: Given) -> float:
    return hyperfocal_m(focal_length_m=v.focal, f_number=v.f_number, circle_m=v.circle)


def _focal(v: Given) -> float:
    nc = v.f_number * v.circle
    return (-nc + math.sqrt(nc * nc + 4 * nc * v.hyperfocal)) / 2


def _picture(v: Given) -> Drawn:
    def at(n: float) -> float:
        return hyperfocal_m(focal_length_m=v.focal, f_number=max(n, 0.7), circle_m=v.circle)

    return curve("Hyperfocal distance by aperture", at, low=2.8, high=max(22, 1.2 * v.f_number), x="f-number", y="m",
                 at=[(v.f_number, v.hyperfocal, METRES.write(v.hyperfocal))])  # fmt: skip


CALCULATION = Calculation(
    key="hyperfocal", name="Hyperfocal distance", group=LENS,
    words="Focused here, everything from half of it to infinity is sharp.", also="infinity landscape window background "
    "sharp",
    asks=(
        Quantity(name="focal", words="Focal length", unit=MM, usual="50 mm", low=0.002, high=2, shot="camera.focal"),
        Quantity(name="f_number", words="Aperture", unit=F_NUMBER, usual="f/8", low=0.5, high=128, shot="exposure.f_number"),
        CIRCLE,
        Quantity(name="hyperfocal", words="Hyperfocal distance", unit=METRES, usual="10 m", low=0.003, high=1e5),
    ),
    unknowns={
        "hyperfocal": _hyperfocal,
        "f_number": lambda v: v.focal**2 / (v.circle * (v.hyperfocal - v.focal)) if v.hyperfocal > v.focal else math.nan,
        "focal": _focal,
    },
    gives=(Quantity(name="near", words="Sharp from", unit=METRES),),
    beside=lambda v: {"near": v.hyperfocal / 2}, picture=_picture,
    formula="H = f² / (N c) + f", limits="Thin lens; the circle is for a print seen whole.", source="thin-lens geometry "
    "(textbook)",
)  # fmt: skip
