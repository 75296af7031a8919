"""Units as one thinks in them, ready for quantities.

Inside everything is SI and radians; f-numbers, speeds and times on a camera are the exact series behind their nominal names.
"""

from __future__ import annotations

import math
from collections.abc import Mapping

from fotaxis.core.reckoner.camera_units import FNumber, Iso, Power, Shutter, Stops, Time
from fotaxis.core.reckoner.unit import Choice, Clock, Date, Length, Listed, Unit

F_NUMBER = FNumber(key="f_number", example="8, f/5.6 or 8 +1/3")
ISO = Iso(key="iso", example="100")
SHUTTER = Shutter(key="shutter", example="1/125 or 0.5 s")
LOST = Stops(key="stops", name="stops", example="1 1/3", also=("stop",), signed=False)
FRACTION = Time(key="time", example="1/2000 or 12 ms", fraction=True)
TIME = Time(key="time", example="1/2000, 12 ms, 3.5 s or 2 min")
STOPS = Stops(key="stops", name="stops", example="+1 1/3 or −0.7", also=("stop",))
POWER = Power(key="power", example="1/8, 1/8 +1/3, −3 or 12 %")
CM = Length(key="length", per=100, step=5, example="120 cm, 1.2 m or 48 in")
MM = Length(key="length", per=1000, step=1, example="85 mm")
METRES = Length(key="length", per=1, step=0.1, example="1.2 m, 120 cm or 4 ft")
ANGLE = Unit(key="angle", name="°", per=180 / math.pi, digits=3, example="40°", also=("deg", "degrees"))
PERCENT = Unit(key="percent", name="%", per=100, step=5, digits=3, example="90 %")
COUNT = Unit(key="count", whole=True, example="3")
RATIO = Unit(key="number", step=0.1, digits=3, example="1.5")
KELVIN = Unit(key="kelvin", name="K", step=100, digits=4, example="5600 K")
MIRED = Unit(key="mired", name="mired", step=5, digits=3, example="+42 or −131")
LUX = Unit(key="lux", name="lx", step=1.26, ratio=True, digits=3, example="320 lx", also=("lux",))
CANDELA = Unit(key="candela", name="cd", step=1.26, ratio=True, digits=3, example="4000 cd")
KILOGRAMS = Unit(key="mass", name="kg", step=0.5, digits=3, example="4.5 kg")
WATTS = Unit(key="watts", name="W", step=50, digits=4, example="500 W")
AMPERES = Unit(key="amperes", name="A", digits=3, example="16 A")
VOLTS = Unit(key="volts", name="V", step=10, digits=3, example="230 V")
SQUARE_MM = Unit(key="section", name="mm²", per=1, step=0.5, digits=3, example="2.5", also=("mm2",))
JOULES = Unit(key="energy", name="Ws", step=50, digits=4, example="400 Ws", also=("j",))
SPEED = Unit(key="speed", name="m/s", step=0.1, digits=3, example="2 m/s")
HERTZ = Unit(key="frequency", name="Hz", step=10, digits=3, example="50 Hz")
FRAMES = Unit(key="rate", name="fps", step=1, digits=4, example="50 fps")
PIXELS = Unit(key="pixels", name="px", step=100, digits=4, example="6000")
PER_INCH = Unit(key="per_inch", name="ppi", step=10, digits=4, example="300 ppi", also=("dpi",))
LATITUDE = Unit(key="degrees", name="°", per=1, step=1, digits=5, example="52.5 (south and west with a minus)")
HOURS = Unit(key="hours", name="h", per=1, step=1, digits=3, example="+1")
CLOCK = Clock(key="clock", example="14:05")
DATE = Date(key="date", example="2026-06-21")


def choice(*words: str) -> Choice:
    """A list of words to choose from."""
    return Choice(key="choice", words=words)


def listed(of: Unit) -> Listed:
    """Several of a unit."""
    return Listed(key="list", of=of, example=f"{of.example.split(',')[0].split(' or ')[0]}, ...")


def named(known: Mapping[str, float]) -> Listed:
    """Several of a catalogue, by name."""
    return Listed(key="names", known=dict(known), example=", ".join(list(known)[:2]))
