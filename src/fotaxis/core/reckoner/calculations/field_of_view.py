"""Lens, distance and the width that the frame holds."""

from __future__ import annotations

import math

from fotaxis.core.reckoner.calculation import LENS, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, line, shape, view
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import ANGLE, CM, MM, PERCENT, RATIO


def _width(v: Given) -> float:
    return float(v.subject / v.share)


def _beside(v: Given) -> dict[str, float]:
    v_image = v.focal * v.distance / (v.distance - v.focal)
    return {"width": _width(v), "angle": 2 * math.atan(v.sensor / 2 / v_image), "magnification": v.sensor / _width(v)}


def _share(v: Given) -> float:
    return float(v.subject * v.focal / (v.sensor * (v.distance - v.focal))) if v.distance > v.focal else math.nan


def _picture(v: Given) -> Drawn:
    half, subject = v.width / 2, v.subject / 2
    return view("From above: camera on the left", [
        shape([(0, 0), (v.distance, -half), (v.distance, half)], style="area", words=f"frame {CM.write(v.width)}"),
        shape([(-0.06 * v.distance, -0.04 * v.distance), (0, -0.04 * v.distance), (0, 0.04 * v.distance),
               (-0.06 * v.distance, 0.04 * v.distance)], words="camera"),
        line(v.distance, -subject, v.distance, subject, style="thing", words=f"product {CM.write(v.subject)}"),
        line(0, -half * 1.15, v.distance, -half * 1.15, style="measure", words=CM.write(v.distance)),
    ])  # fmt: skip


CALCULATION = Calculation(
    key="field-of-view", name="Framing: lens and distance", group=LENS,
    words="Which lens, or how far away, so that the product fills a wanted share of the frame.",
    also="fov angle of view field width lens framing fill",
    asks=(
        Quantity(name="subject", words="Product, along that side", unit=CM, usual="30 cm", low=0, above=True, high=1000,
                 shot="product.height"),
        Quantity(name="share", words="Fills of the frame", unit=PERCENT, usual="80 %", low=0.01, high=20,
            shot="camera.share"),
        Quantity(name="sensor", words="Sensor along that side", unit=MM, usual="36 mm", low=0.002, high=0.3,
            shot="camera.sensor_height",
                 note="What is used of it after the crop."),
        Quantity(name="focal", words="Focal length", unit=MM, usual="100 mm", low=0.002, high=5, shot="camera.focal"),
        Quantity(name="distance", words="Lens to product", unit=CM, usual="114 cm", low=0, above=True, high=1000,
            shot="camera.distance"),
    ),
    unknowns={
        "distance": lambda v: v.focal * (1 + _width(v) / v.sensor),
        "focal": lambda v: v.distance / (1 + _width(v) / v.sensor),
        "share": _share,
        "subject": lambda v: v.share * v.sensor * (v.distance - v.focal) / v.focal if v.distance > v.focal else math.nan,
    },
    gives=(
        Quantity(name="width", words="Frame holds", unit=CM), Quantity(name="angle", words="Angle of view", unit=ANGLE),
        Quantity(name="magnification", words="Magnification", unit=RATIO),
    ),
    beside=_beside, picture=_picture,
    formula="frame = sensor · (d − f) / f; angle = 2 atan(sensor / 2v), v = f d / (d − f)",
    limits="Thin lens, product square to the axis; from above or below a tall product appears shorter.",
    source="thin-lens formula (textbook)",
)  # fmt: skip
