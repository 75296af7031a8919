"""The edge of a flag's shadow: how soft it is, and where the flag must stand."""

from __future__ import annotations

from fotaxis.core.errors import DomainError, NoSolution
from fotaxis.core.reckoner.calculation import LIGHT, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, line, view
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import CM, PERCENT


def _softness(v: Given) -> float:
    if v.flag >= v.distance:
        raise DomainError(
            f"the flag stands {CM.write(v.flag)} from the surface, beyond the light at {CM.write(v.distance)}; it must be "
            "nearer than the light"
        )
    return float(v.source * v.flag / (v.distance - v.flag))


def _source(v: Given) -> float:
    if v.flag >= v.distance:
        raise DomainError("the flag must stand between light and surface: nearer to the surface than the light is")
    if v.flag <= 0:
        raise NoSolution("a flag on the surface has a hard edge with any light")
    return float(v.softness * (v.distance - v.flag) / v.flag)


def _picture(v: Given) -> Drawn:
    """Light on the left, surface on the right, the flag's edge on the axis."""
    d, a, s, w = v.distance, v.distance - v.flag, v.source / 2, v.softness / 2
    return view("From the side: light, flag's edge, soft edge on the surface", [
        line(0, -s, 0, s, style="light", words="light"),
        line(a, 0, a, max(3 * s, 0.3 * d), style="thing", words="flag"),
        line(d, -max(2 * w, 0.25 * d), d, max(3 * s, 0.3 * d), style="ground", words="surface"),
        line(0, s, d, -w, style="ghost"), line(0, -s, d, w, style="ghost"),
        line(d, -w, d, w, style="measure", words=CM.write(v.softness)),
    ])  # fmt: skip


CALCULATION = Calculation(
    key="penumbra", name="Soft edge of a flag", group=LIGHT,
    words="The closer a flag is to the light, the softer its edge. How soft, and where it must stand.",
    also="flag shadow penumbra cutter edge soft hard gobo barn door",
    asks=(
        Quantity(name="source", words="Light, across the edge", unit=CM, usual="30 cm", low=0, high=10, shot="light.face"),
        Quantity(name="distance", words="Light to surface", unit=CM, usual="120 cm", low=0, above=True, high=100,
            shot="light.distance"),
        Quantity(name="flag", words="Flag to surface", unit=CM, usual="30 cm", low=0, high=100),
        Quantity(name="softness", words="Soft edge", unit=CM, usual="10 cm", low=0, high=50),
    ),
    unknowns={
        "softness": _softness,
        "flag": lambda v: v.softness * v.distance / (v.source + v.softness) if v.source + v.softness else 0.0,
        "source": _source,
        "distance": lambda v: v.flag + v.source * v.flag / v.softness if v.softness else float("nan"),
    },
    gives=(Quantity(name="part", words="Flag stands at", unit=PERCENT, note="of the way from the surface"),),
    beside=lambda v: {"part": v.flag / v.distance},
    picture=_picture,
    formula="soft edge = source · (flag to surface) / (flag to light)",
    limits="Straight edge, surface square to the light; on a slanted surface it is wider by one over the cosine.",
    source="similar triangles (geometry)",
)  # fmt: skip
