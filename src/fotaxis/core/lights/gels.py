"""Gels by generic name: what they take, and how far they move a light towards warm or cool."""

from __future__ import annotations

import math
from dataclasses import dataclass

from fotaxis.core.errors import DomainError

COLDEST_K, HOTTEST_K = 1700.0, 25_000.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Gel:
    """A filter before a head.

    mired: how far it moves a light towards warm (above 0) or cool; a coloured gel has none but colour, its transmittance
    relative to the strongest channel. stops: light lost, as metered.
    """

    name: str
    words: str
    stops: float
    mired: float = 0.0
    colour: tuple[float, float, float] | None = None


GELS = (
    Gel(name="eighth warm", stops=1 / 6, mired=20, words="A trace of warmth."),
    Gel(name="quarter warm", stops=1 / 3, mired=42, words="A quarter of the way from daylight to tungsten; two make a half."),
    Gel(name="half warm", stops=1 / 2, mired=81, words="Half of the way from daylight to tungsten."),
    Gel(name="full warm", stops=2 / 3, mired=159, words="Daylight to tungsten: 6500 K becomes 3200 K."),
    Gel(name="quarter cool", stops=1 / 3, mired=-35, words="A quarter of the way from tungsten to daylight."),
    Gel(name="half cool", stops=2 / 3, mired=-78, words="Half of the way from tungsten to daylight."),
    Gel(name="full cool", stops=4 / 3, mired=-131, words="Tungsten to daylight: 3200 K becomes 5500 K."),
    Gel(name="ND 1 stop", stops=1, words="Takes a stop from a head that is at minimum power."),
    Gel(name="ND 2 stops", stops=2, words="Takes two stops."),
    Gel(name="ND 3 stops", stops=3, words="Takes three stops."),
    Gel(name="red", stops=3.0, colour=(1.0, 0.03, 0.04), words="Saturated red. Put colour into kicker or background."),
    Gel(name="amber", stops=1.2, colour=(1.0, 0.48, 0.06), words="Deep amber, as of late sun."),
    Gel(name="green", stops=2.2, colour=(0.10, 1.0, 0.16), words="Saturated green."),
    Gel(name="teal", stops=1.8, colour=(0.05, 0.80, 1.0), words="Blue-green."),
    Gel(name="blue", stops=3.6, colour=(0.05, 0.18, 1.0), words="Saturated blue; it costs most."),
    Gel(name="magenta", stops=2.6, colour=(1.0, 0.10, 0.75), words="Red and blue without green."),
)  # fmt: skip
"""Mired of warm gels from 6500 K to 3200 K is arithmetic; the others and all stops and colours are common practice, from memory."""

GEL = {gel.name: gel for gel in GELS}
MOST_GELS = 4


def shifted_kelvin(kelvin: float, mired: float) -> float:
    """Colour temperature behind a gel:  1e6 / T' = 1e6 / T + mired, held within 1700 K to 25000 K."""
    return min(max(1e6 / max(1e6 / kelvin + mired, 1e6 / HOTTEST_K), COLDEST_K), HOTTEST_K)


def stops_lost(gels: tuple[Gel, ...]) -> float:
    """Stops that stacked gels take."""
    return math.fsum(gel.stops for gel in gels)


def known_gels(names: tuple[str, ...]) -> tuple[Gel, ...]:
    """Gels by name. Raises DomainError for an unknown one or too many."""
    if len(names) > MOST_GELS:
        raise DomainError(f"{len(names)} gels are stacked; at most {MOST_GELS} go before one head.")
    for name in names:
        if name not in GEL:
            raise DomainError(f"there is no gel {name[:40]!r}; use one of: {', '.join(GEL)}.")
    return tuple(GEL[name] for name in names)
