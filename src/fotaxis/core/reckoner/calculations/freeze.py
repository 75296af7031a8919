"""Flash duration against the speed of what moves."""

from __future__ import annotations

from fotaxis.core.reckoner.calculation import TIME, Calculation, Given
from fotaxis.core.reckoner.falling import GRAVITY_M_S2
from fotaxis.core.reckoner.pictures import Drawn, curve
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import CM, FRACTION, MM, PIXELS, SPEED

WHOLE_OVER_HALF = 3.0
"""t 0.1 over t 0.5 of a flash that dies away evenly: ln 10 / ln 2 = 3.3; makers tell about 3.  Common practice."""


def _beside(v: Given) -> dict[str, float]:
    return {
        "half": v.duration / WHOLE_OVER_HALF,
        "fall": v.speed**2 / (2 * GRAVITY_M_S2),
        "on_sensor": v.blur / v.width * v.pixels,
    }


def _picture(v: Given) -> Drawn:
    def at(thousandth: float) -> float:
        return v.speed * thousandth

    longest = max(2.0, 2000 * v.duration)
    return curve("Blur by flash duration", at, low=0, high=longest, x="duration, ms", y="blur, mm",
                 at=[(v.duration * 1000, v.blur * 1000, MM.write(v.blur))])  # fmt: skip


CALCULATION = Calculation(
    key="freeze", name="Freezing a drop or a pour", group=TIME,
    words="How short a flash must be for a speed, or how much a drop moves while it burns.",
    also="splash drop pour flash duration t.1 t0.1 motion blur high speed",
    asks=(
        Quantity(name="speed", words="Speed", unit=SPEED, usual="2 m/s", low=0, above=True, high=400,
                 note="A drop from 20 cm has 2 m/s, a pour from 10 cm 1.4 m/s."),
        Quantity(name="blur", words="May move by", unit=MM, usual="0.2 mm", low=0, above=True, high=1),
        Quantity(name="duration", words="Flash duration (t 0.1)", unit=FRACTION, usual="1/8000", low=1e-7, high=1),
        Quantity(name="width", words="Frame's width at the product", unit=CM, usual="20 cm", low=0.001, high=20,
            shot="camera.width"),
        Quantity(name="pixels", words="Pixels across", unit=PIXELS, usual="6000", low=10, high=1e6),
    ),
    unknowns={
        "duration": lambda v: v.blur / v.speed,
        "blur": lambda v: v.speed * v.duration,
        "speed": lambda v: v.blur / v.duration,
    },
    gives=(
        Quantity(name="half", words="As t 0.5 on a data sheet", unit=FRACTION), Quantity(name="on_sensor", words="Blur in "
            "the file", unit=PIXELS),
        Quantity(name="fall", words="That speed after a fall of", unit=CM),
    ),
    beside=_beside, picture=_picture,
    says=lambda v: ["Not the shutter freezes it but the flash: keep room light black, and take the power at which your head "
                    "is shortest."],
    cautions=lambda v: ["Water and mains apart, a residual-current breaker, packs off the floor; in doubt a licensed "
                        "person."],
    formula="duration = blur / speed; t 0.5 ≈ t 0.1 / 3; v = √(2 g h)",
    limits="Motion square to the view. Some heads are shortest at low power, others at high: read your head's table.",
    source="definition of speed; ISO 2827 (t 0.1, t 0.5). 2 m/s moves 1 mm in 1/2000 s",
)  # fmt: skip
