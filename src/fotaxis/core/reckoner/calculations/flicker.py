"""Lamps on mains flicker: which shutter times see it."""

from __future__ import annotations

import math

from fotaxis.core.reckoner.calculation import TIME, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, curve
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.roots import where
from fotaxis.core.reckoner.units import FRACTION, FRAMES, HERTZ, LOST, PERCENT, RATIO, SHUTTER

SEEN_STOPS = 0.1
BEAT = 0.005
"""Rates that miss a whole number of pulses by less than this part do not pump within a take."""


def _pulse(v: Given) -> float:
    """Lamps pulse at twice the mains frequency, Hz."""
    return float(2 * v.mains)


def _swing(v: Given, shutter: float) -> float:
    """How far the mean over a shutter time departs from the lamp's mean, as a part of it: depth |sin x / x|, x = pi F t."""
    x = math.pi * _pulse(v) * shutter
    return float(v.depth * abs(math.sin(x) / x)) if x > 1e-9 else float(v.depth)


def _apart(swing: float) -> float:
    """Stops from the brightest frame to the darkest."""
    return math.log2((1 + swing) / max(1 - swing, 1e-6))


def _nearest(v: Given) -> float:
    """The safe time, a whole number of pulses, nearest to the shutter."""
    return max(1, round(v.shutter * _pulse(v))) / _pulse(v)


def _depth(v: Given) -> float:
    x = math.pi * _pulse(v) * v.shutter
    share = abs(math.sin(x) / x)
    ratio = 2.0**v.apart
    return (ratio - 1) / (ratio + 1) / share if share > 1e-9 else math.nan


def _shutter(v: Given) -> float:
    """The longest time under one pulse at which frames differ so much; longer ones differ less."""
    one = 1 / _pulse(v)
    return where(lambda t: _apart(_swing(v, t)), v.apart, low=one / 1000, high=one, what="shutter time under one pulse")


def _says(v: Given) -> list[str]:
    told = []
    if v.apart > SEEN_STOPS:
        told.append(f"Frames will differ: use {FRACTION.write(v.safe)}, or a lamp that is driven free of flicker.")
    else:
        told.append("Hardly seen at this shutter time.")
    beat = abs(_pulse(v) / max(1, round(_pulse(v) / v.rate)) - v.rate)
    if beat > BEAT * v.rate and v.apart > SEEN_STOPS:
        told.append(f"At {FRAMES.write(v.rate)} the picture pumps: choose a rate that divides {HERTZ.write(_pulse(v))}.")
    return told


def _picture(v: Given) -> Drawn:
    def at(t_ms: float) -> float:
        return min(_apart(_swing(v, max(t_ms, 1e-3) / 1000)), 4.0)

    high = max(3000 / _pulse(v), 1300 * v.shutter)
    return curve("Difference from frame to frame by shutter time", at, low=0.05, high=high, x="shutter, ms", y="stops",
                 at=[(v.shutter * 1000, at(v.shutter * 1000), SHUTTER.write(v.shutter))])  # fmt: skip


CALCULATION = Calculation(
    key="flicker", name="Flicker of lamps", group=TIME,
    words="Lamps on mains pulse twice a cycle. How much frames differ at a shutter time, and which times are safe.",
    also="banding mains led tube 50 hz 60 hz pump",
    asks=(
        Quantity(name="mains", words="Mains", unit=HERTZ, usual="50 Hz", low=1, high=1000),
        Quantity(name="depth", words="The lamp swings by", unit=PERCENT, usual="30 %", low=0, high=1,
                 note="(brightest − darkest) / (brightest + darkest): glowing lamps 5 to 15 %, poor LEDs up to 100 %."),
        Quantity(name="shutter", words="Shutter", unit=SHUTTER, usual="1/125", low=1e-6, high=60,
            shot="exposure.shutter", taken=False),
        Quantity(name="rate", words="Frame rate, for film", unit=FRAMES, usual="25 fps", low=0.1, high=10_000),
        Quantity(name="apart", words="Frames differ by", unit=LOST, usual="0.1", low=0, high=20),
    ),
    unknowns={"apart": lambda v: _apart(_swing(v, v.shutter)), "shutter": _shutter, "depth": _depth},
    gives=(
        Quantity(name="safe", words="Nearest safe shutter", unit=FRACTION, shot="exposure.shutter"),
        Quantity(name="pulses", words="Pulses in one exposure", unit=RATIO),
    ),
    beside=lambda v: {"safe": _nearest(v), "pulses": v.shutter * _pulse(v)}, says=_says, picture=_picture,
    formula="mean over t = 1 ± depth · |sin(π F t) / (π F t)|, F = 2 × mains; safe: t = k / F",
    limits="A sine at twice the mains frequency; LEDs dimmed by switching pulse at their own frequency: ask their maker.",
    source="integral of a sine over the exposure (textbook); depth as percent flicker in IEEE 1789",
)  # fmt: skip
