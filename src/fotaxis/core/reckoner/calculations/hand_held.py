"""The longest time that a hand holds still."""

from __future__ import annotations

from fotaxis.core.reckoner.calculation import EXPOSURE, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, curve
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import LOST, MM, SHUTTER

FULL_WIDTH_M = 0.036


def _factor(v: Given) -> float:
    """Times the limit of a plain lens on a full frame, per metre of focal length."""
    return float(v.sensor / FULL_WIDTH_M * 2.0 ** (v.steadied - v.stricter))


def _shutter(v: Given) -> float:
    return _factor(v) / (1000 * v.focal)


def _picture(v: Given) -> Drawn:
    def at(focal_mm: float) -> float:
        return 1 / (_factor(v) / max(focal_mm, 1.0))

    focal = v.focal * 1000
    return curve("Slowest shutter by focal length", at, low=10, high=max(200, 2 * focal), x="focal length, mm", y="1 / time, 1/s",
                 at=[(focal, at(focal), SHUTTER.write(v.shutter))])  # fmt: skip


CALCULATION = Calculation(
    key="hand-held", name="Hand-held limit", group=EXPOSURE, words="The slowest shutter a hand holds still, by focal "
    "length.",
    also="shake blur reciprocal rule stabiliser tripod",
    asks=(
        Quantity(name="focal", words="Focal length", unit=MM, usual="100 mm", low=0.004, high=2, shot="camera.focal"),
        Quantity(name="sensor", words="Sensor width", unit=MM, usual="36 mm", low=0.002, high=0.3,
            shot="camera.sensor_width"),
        Quantity(name="steadied", words="Stabiliser gives", unit=LOST, usual="0", low=0, high=8),
        Quantity(name="stricter", words="Stricter, for large prints", unit=LOST, usual="1", low=0, high=4),
        Quantity(name="shutter", words="Slowest shutter", unit=SHUTTER, usual="1/125", low=1e-5, high=60,
            shot="exposure.shutter"),
    ),
    unknowns={
        "shutter": _shutter,
        "focal": lambda v: _factor(v) / (1000 * v.shutter),
    },
    picture=_picture,
    says=lambda v: ["Flash freezes the product whatever the shutter is; this is for room light, lamps and daylight."],
    formula="t = (w / 36 mm) / (f in mm) · 2^(stabiliser − stricter), s",
    limits="A rule of thumb: hands differ by two stops. A product is shot from a tripod.",
    source="common practice (one over the focal length)",
)  # fmt: skip
