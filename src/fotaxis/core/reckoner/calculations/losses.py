"""Sheets, nets, gels, filters and a polariser in series: what they take together."""

from __future__ import annotations

import math

from fotaxis.core.lights.gels import GELS
from fotaxis.core.lights.losses import NET_STOPS, SHEET_STOPS
from fotaxis.core.reckoner.calculation import LIGHT, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, mark, scale
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import F_NUMBER, LOST, PERCENT, named

POLARISER = {"polariser": 1.5}
"""On unpolarised light: 1 in theory, 1.3 to 1.7 for real filters; common practice."""

KNOWN = {**SHEET_STOPS, **NET_STOPS, **{gel.name: gel.stops for gel in GELS}, **POLARISER}


def _listed(v: Given) -> float:
    return math.fsum(KNOWN[name] for name in v.things)


def _picture(v: Given) -> Drawn:
    bars, at = [], 0.0
    for name in v.things:
        bars.append((-at, -(at + KNOWN[name]), name))
        at += KNOWN[name]
    if v.more > 0:
        bars.append((-at, -(at + v.more), "more"))
    return scale("Stops lost, one after the other", [mark(0, "without"), mark(-v.total, "behind all", strong=True)],
                 low=-max(3, math.ceil(v.total) + 1), high=1, bars=bars)  # fmt: skip


CALCULATION = Calculation(
    key="losses", name="Lost in sheets, nets, gels, polariser", group=LIGHT,
    words="What stands in the light takes stops, and stops add. What is lost, and what the aperture becomes.",
    also="diffusion scrim silk frost nd filter polarizer gel cost transmission",
    asks=(
        Quantity(name="things", words="In the light", unit=named(KNOWN), usual="full grid cloth, single net",
                 note="With commas between; twice the same: 2 x single net."),
        Quantity(name="more", words="Others, by their data sheet", unit=LOST, usual="0", low=0, high=20),
        Quantity(name="before", words="Aperture without them", unit=F_NUMBER, usual="f/22", low=0.5, high=256),
        Quantity(name="after", words="Aperture behind them", unit=F_NUMBER, usual="f/8", low=0.1, high=256,
            shot="exposure.f_number"),
    ),
    unknowns={
        "after": lambda v: v.before * 2.0 ** (-(_listed(v) + v.more) / 2),
        "before": lambda v: v.after * 2.0 ** ((_listed(v) + v.more) / 2),
        "more": lambda v: 2 * math.log2(v.before / v.after) - _listed(v),
    },
    gives=(Quantity(name="total", words="Lost together", unit=LOST), Quantity(name="passes", words="Passes", unit=PERCENT)),
    beside=lambda v: {"total": _listed(v) + v.more, "passes": 2.0 ** -(_listed(v) + v.more)},
    picture=_picture,
    cautions=lambda v: ["Hot lamps: heat-rated material only and a gap for air before the lamp."] if v.things else [],
    formula="lost = sum of stops; passes = 2^−lost; N behind = N before · 2^(−lost/2)",
    limits="Real sheets vary by a third of a stop. In series two sheets that mirror into each other lose a little less than "
    "the sum. "
    "A net turned to the beam takes more: its stops over the cosine.",
    source="catalogue figures of the set (common practice); transmittances multiply",
)  # fmt: skip
