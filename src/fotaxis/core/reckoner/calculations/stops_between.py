"""Sums of stops between two exposures: f-number, shutter, ISO, power, distance."""

from __future__ import annotations

import math

from fotaxis.core.errors import NoSolution
from fotaxis.core.reckoner.calculation import EXPOSURE, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, mark, scale
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import CM, F_NUMBER, ISO, POWER, SHUTTER, STOPS, choice
from fotaxis.core.stops import thirds_name

FLASH, BURNING = "flash", "burns on"


def _parts(v: Given) -> dict[str, float]:
    """Stops that each change gives; what is not known yet counts nothing."""
    has = vars(v).keys()
    parts = {}
    if {"f_number", "new_f_number"} <= has:
        parts["aperture"] = 2 * math.log2(v.f_number / v.new_f_number)
    if {"shutter", "new_shutter"} <= has:
        parts["shutter"] = math.log2(v.new_shutter / v.shutter) if v.light == BURNING else 0.0
    if {"iso", "new_iso"} <= has:
        parts["ISO"] = math.log2(v.new_iso / v.iso)
    if {"power", "new_power"} <= has:
        parts["power"] = v.new_power - v.power
    if {"distance", "new_distance"} <= has:
        parts["distance"] = 2 * math.log2(v.distance / v.new_distance)
    return parts


def _left(v: Given) -> float:
    """Stops that the unknown has to give."""
    return float(v.difference - math.fsum(_parts(v).values()))


def _shutter(v: Given) -> float:
    if v.light == FLASH:
        raise NoSolution("a flash does not heed the shutter: ask for the aperture, or say that the light burns on")
    return float(v.shutter * 2.0 ** _left(v))


def _picture(v: Given) -> Drawn:
    bars, at = [], 0.0
    for words, stops in _parts(v).items():
        if abs(stops) > 0.01:
            bars.append((at, at + stops, f"{words} {thirds_name(stops)}"))
            at += stops
    reach = max(3.0, *(max(abs(a), abs(b)) for a, b, _ in bars)) if bars else 3.0
    marks = [mark(0, "before"), mark(v.difference, "now", strong=True)]
    return scale("Stops from the exposure before", marks, low=-math.ceil(reach), high=math.ceil(reach), bars=bars)


def _says(v: Given) -> list[str]:
    if v.light == FLASH and abs(v.shutter - v.new_shutter) > 1e-9:
        return ["The shutter does not count: at sync or slower a flash lights the frame in its own time."]
    return []


CALCULATION = Calculation(
    key="stops", name="Stops from one exposure to another", group=EXPOSURE,
    words="What a change of aperture, time, ISO, power or distance costs, and what makes up for it.",
    also="sum equivalent exposure compensate f-stop change",
    asks=(
        Quantity(name="light", words="Light", unit=choice(FLASH, BURNING), usual=FLASH, shot="light.kind"),
        Quantity(name="f_number", words="Aperture before", unit=F_NUMBER, usual="f/8", low=0.5, high=128,
            shot="exposure.f_number", taken=False),
        Quantity(name="new_f_number", words="Aperture now", unit=F_NUMBER, usual="f/8", low=0.5, high=128,
            shot="exposure.f_number"),
        Quantity(name="power", words="Power before", unit=POWER, usual="1/4", low=-12, high=0, shot="light.power", taken=False),
        Quantity(name="new_power", words="Power now", unit=POWER, usual="1/4", low=-12, high=0, shot="light.power"),
        Quantity(name="iso", words="ISO before", unit=ISO, usual="100", low=3, high=409_600, shot="exposure.iso", taken=False),
        Quantity(name="new_iso", words="ISO now", unit=ISO, usual="100", low=3, high=409_600, shot="exposure.iso"),
        Quantity(name="distance", words="Light's distance before", unit=CM, usual="100 cm", low=0, above=True, high=100,
                 shot="light.distance", taken=False),
        Quantity(name="new_distance", words="Light's distance now", unit=CM, usual="100 cm", low=0, above=True, high=100,
                 shot="light.distance"),
        Quantity(name="shutter", words="Shutter before", unit=SHUTTER, usual="1/125", low=1e-5, high=3600,
            shot="exposure.shutter", taken=False),
        Quantity(name="new_shutter", words="Shutter now", unit=SHUTTER, usual="1/125", low=1e-5, high=3600,
            shot="exposure.shutter"),
        Quantity(name="difference", words="Brighter or darker by", unit=STOPS, usual="0", low=-30, high=30),
    ),
    unknowns={
        "difference": lambda v: math.fsum(_parts(v).values()),
        "new_power": lambda v: v.power + _left(v),
        "new_f_number": lambda v: v.f_number * 2.0 ** (-_left(v) / 2),
        "new_iso": lambda v: v.iso * 2.0 ** _left(v),
        "new_distance": lambda v: v.distance * 2.0 ** (-_left(v) / 2),
        "new_shutter": _shutter,
    },
    says=_says, picture=_picture,
    formula="stops = 2 log₂(N₁/N₂) + log₂(S₂/S₁) + (P₂ − P₁) + 2 log₂(d₁/d₂) + log₂(t₂/t₁), the last for light that "
    "burns on",
    limits="Flash: time does not count at sync or slower. Distances hold for lights that are small beside them: the law is "
    "1 % off at "
    "ten radii of a round face, a third of a stop at three radii.",
    source="ISO 517 (f-numbers), ISO 12232 (speed); inverse-square law",
)  # fmt: skip
