"""Magnification, extension and what the bellows take."""

from __future__ import annotations

import math

from fotaxis.core.reckoner.calculation import LENS, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, curve
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import CM, F_NUMBER, LOST, MM, RATIO


def _loss(m: float, pupil: float) -> float:
    return 2 * math.log2(1 + m / pupil)


def _beside(v: Given) -> dict[str, float]:
    m = v.magnification
    return {
        "distance": v.focal * (1 + 1 / m), "loss": _loss(m, v.pupil), "effective": v.f_number * (1 + m / v.pupil),
        "field": v.sensor / m,
    }  # fmt: skip


def _picture(v: Given) -> Drawn:
    m = v.magnification
    return curve("Stops lost by magnification", lambda x: _loss(max(x, 0), v.pupil), low=0, high=max(1.0, 2 * m),
        x="magnification",
                 y="stops", at=[(m, v.loss, f"{v.loss:.1f}")])  # fmt: skip


CALCULATION = Calculation(
    key="magnification", name="Magnification and bellows", group=LENS,
    words="How large the product is on the sensor, how far the lens is drawn out, and what that takes.",
    also="bellows extension tube macro ratio loss factor compensation",
    asks=(
        Quantity(name="focal", words="Focal length", unit=MM, usual="100 mm", low=0.002, high=2, shot="camera.focal"),
        Quantity(name="extension", words="Drawn out by", unit=MM, usual="50 mm", low=0, above=True, high=5,
                 note="Tubes and bellows, from the infinity setting."),
        Quantity(name="magnification", words="Magnification", unit=RATIO, usual="0.5", low=0.0001, high=20,
            shot="camera.magnification"),
        Quantity(name="f_number", words="Aperture on the ring", unit=F_NUMBER, usual="f/8", low=0.5, high=128,
            shot="exposure.f_number"),
        Quantity(name="sensor", words="Sensor width", unit=MM, usual="36 mm", low=0.002, high=0.3,
            shot="camera.sensor_width"),
        Quantity(name="pupil", words="Pupil ratio", unit=RATIO, usual="1", low=0.1, high=5, note="Exit over entrance pupil; "
            "1 for most."),
    ),
    unknowns={
        "extension": lambda v: v.magnification * v.focal,
        "magnification": lambda v: v.extension / v.focal,
        "focal": lambda v: v.extension / v.magnification,
    },
    gives=(
        Quantity(name="loss", words="That takes", unit=LOST), Quantity(name="effective", words="Works as", unit=F_NUMBER),
        Quantity(name="distance", words="Lens to product", unit=CM), Quantity(name="field", words="Width in the frame",
            unit=CM),
    ),
    beside=_beside, picture=_picture,
    says=lambda v: ["A handheld meter and a flash's guide number do not know of this loss; a camera that meters through the "
                    "lens does."],
    formula="extension = m f; loss = 2 log₂(1 + m / p); works as N (1 + m / p); distance = f (1 + 1/m); field = sensor / m",
    limits="Thin lens. Many macro lenses shorten their focal length: believe the scale on the barrel.",
    source="thin-lens formula (textbook); life size costs two stops",
)  # fmt: skip
