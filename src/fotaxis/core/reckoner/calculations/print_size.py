"""Print size from pixels, and pixels from print size."""

from __future__ import annotations

import math

from fotaxis.core.reckoner.calculation import LENS, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, box, view
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import CM, PER_INCH, PIXELS

INCH_M = 0.0254
EYE_RAD = math.radians(1 / 60)
"""What a sharp eye tells apart: one minute of arc.  Textbook (visual acuity 1.0)."""


def _size(v: Given) -> float:
    return float(v.pixels / v.density * INCH_M)


def _beside(v: Given) -> dict[str, float]:
    return {
        "high": v.size * v.other / v.pixels,
        "from_where": INCH_M / v.density / EYE_RAD,
        "megapixels": v.pixels * v.other / 1e6,
    }


def _says(v: Given) -> list[str]:
    near = v.from_where
    return [f"From {CM.write(near)} or farther no pixel is seen."]


def _picture(v: Given) -> Drawn:
    return view("The print beside a sheet of 21 × 29.7 cm", [
        box(v.size / 2, v.high / 2, v.size, v.high, style="area", words=f"{CM.write(v.size)} × {CM.write(v.high)}"),
        box(v.size + 0.04 + 0.105, 0.1485, 0.21, 0.297, style="ghost"),
    ])  # fmt: skip


CALCULATION = Calculation(
    key="print-size", name="Print size from pixels", group=LENS, words="How large a picture prints, and how many pixels a "
    "print asks for.",
    also="dpi ppi resolution poster enlargement pixels",
    asks=(
        Quantity(name="pixels", words="Pixels across", unit=PIXELS, usual="6000", low=1, high=1e6),
        Quantity(name="other", words="Pixels high", unit=PIXELS, usual="4000", low=1, high=1e6),
        Quantity(name="density", words="Printed at", unit=PER_INCH, usual="300 ppi", low=1, high=5000),
        Quantity(name="size", words="Print, across", unit=CM, usual="50 cm", low=0.001, high=200),
    ),
    unknowns={
        "size": _size,
        "density": lambda v: v.pixels * INCH_M / v.size,
        "pixels": lambda v: v.size / INCH_M * v.density,
    },
    gives=(Quantity(name="high", words="Print, high", unit=CM), Quantity(name="from_where", words="Looks sharp from",
        unit=CM)),
    beside=_beside, says=_says, picture=_picture,
    formula="size = pixels / ppi · 2.54 cm; one pixel under one minute of arc from ppi⁻¹ / tan(1′)",
    limits="300 ppi for the hand, 150 for a wall, less for a poster: common practice. Add the printer's bleed.",
    source="2.54 cm to the inch (exact)",
)  # fmt: skip
