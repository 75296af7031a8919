"""Stops that sheets and nets take of an even light, by generic name.

Common practice: real sheets vary by a third of a stop either way; measure yours.
"""

from __future__ import annotations

SHEET_STOPS = {
    "light frost": 1 / 3,
    "quarter silk": 1 / 2,
    "quarter white": 2 / 3,
    "half white": 1.0,
    "quarter grid cloth": 1.0,
    "opal frost": 4 / 3,
    "full white": 1.0,
    "light grid cloth": 1.5,
    "full silk": 1.5,
    "dense white": 1.5,
    "dense diffusion": 5 / 3,
    "opal acrylic": 1.5,
    "full grid cloth": 2.0,
}

NET_STOPS = {
    "single net": 0.5,
    "double net": 1.0,
    "triple net": 1.5,
}
