"""The circle of confusion that sharpness is judged by."""

from __future__ import annotations

from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import MM

CIRCLE = Quantity(
    name="circle", words="Circle of confusion", unit=MM, usual="0.029 mm", low=0.0005 / 1000, high=0.001, shot="camera.circle",
    note="The sensor's diagonal over 1500; over 3000 for large prints.",
)  # fmt: skip
