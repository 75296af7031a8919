"""The sun by place, date and hour, and when it clears a wall."""

from __future__ import annotations

import math
from collections.abc import Callable
from datetime import UTC, datetime, timedelta

from fotaxis.core.errors import NoSolution
from fotaxis.core.lights.sun import Sun, sun_at
from fotaxis.core.reckoner.calculation import SET, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, curve
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.unit import Unit
from fotaxis.core.reckoner.units import ANGLE, CLOCK, DATE, HOURS, LATITUDE, LUX, METRES

STEPS = 144
STEP_H = 24 / STEPS
"""What is hidden or seen for less than ten minutes may be missed."""

EPOCH = datetime(2000, 1, 1, tzinfo=UTC)


def _sun(v: Given, clock: float) -> Sun:
    when = EPOCH + timedelta(days=v.date, hours=clock - v.zone)
    return sun_at(latitude_deg=v.latitude, longitude_deg=v.longitude, when=when)


def _clock(v: Given) -> float:
    """The first moment of the day at which the sun climbs through a height."""
    for step in range(STEPS):
        before, after = step * STEP_H, (step + 1) * STEP_H
        if _sun(v, before).elevation_rad < v.height <= _sun(v, after).elevation_rad:
            return _moment(before, after, lambda clock: _sun(v, clock).elevation_rad >= v.height) % 24
    raise NoSolution(f"the sun does not climb through {ANGLE.write(v.height)} on {DATE.write(v.date)} here")


def _moment(before: float, after: float, holds: Callable[[float], bool]) -> float:
    """When between two hours something comes to hold, or ceases, to some seconds."""
    first = holds(before)
    for _ in range(12):
        middle = (before + after) / 2
        before, after = (middle, after) if holds(middle) == first else (before, middle)
    return after


def wall_angle_rad(v: Given, bearing_rad: float) -> float:
    """Height over the horizon of the wall's top where the sun stands: its distance along that way is d over the cosine of "
    "the angle to
    the way straight at it; 0 where the wall does not stand."""
    cosine = math.cos(bearing_rad - v.wall_bearing)
    return math.atan(v.wall * cosine / v.wall_distance) if cosine > 0 else 0.0


def _over(v: Given, clock: float) -> bool:
    sun = _sun(v, clock)
    return sun.elevation_rad > max(0.0, wall_angle_rad(v, sun.bearing_rad))


def _reaches(v: Given) -> list[tuple[float, float]]:
    """Parts of the day in which the sun reaches the set, hours."""
    parts: list[tuple[float, float]] = []
    begin = 0.0 if _over(v, 0.0) else None
    for step in range(STEPS):
        before, after = step * STEP_H, (step + 1) * STEP_H
        if _over(v, after) == (begin is not None):
            continue
        at = _moment(before, after, lambda clock: _over(v, clock))
        if begin is None:
            begin = at
        else:
            parts.append((begin, at))
            begin = None
    return [*parts, (begin, 24.0)] if begin is not None else parts


def _beside(v: Given) -> dict[str, object]:
    sun = _sun(v, v.clock)
    parts = _reaches(v)
    return {
        "bearing": sun.bearing_rad, "lux": sun.illuminance_lux,
        "clears": CLOCK.write(parts[0][0]) if parts else "not that day",
        "until": CLOCK.write(parts[-1][1]) if parts else "–",
        "parts": parts,
    }  # fmt: skip


def _says(v: Given) -> list[str]:
    if not v.parts:
        return ["The sun does not reach the set that day."]
    spans = " and ".join(f"{CLOCK.write(a)} to {CLOCK.write(b)}" for a, b in v.parts)
    return [f"The sun reaches the set from {spans}."]


def _picture(v: Given) -> Drawn:
    def height(clock: float) -> float:
        return math.degrees(_sun(v, clock).elevation_rad)

    def wall(clock: float) -> float:
        return math.degrees(wall_angle_rad(v, _sun(v, clock).bearing_rad))

    return curve("The sun's height over the day, and the wall's top before it", height, low=0, high=24, x="hour", y="°",
                 at=[(v.clock, height(v.clock), CLOCK.write(v.clock))], more=[(wall, "wall")], across=[(0.0,
                     "horizon")])  # fmt: skip


CALCULATION = Calculation(
    key="sun", name="Sun and wall", group=SET,
    words="Where the sun stands at a place, date and hour, and when it clears a wall or a house.",
    also="daylight window azimuth elevation sunrise shadow solar",
    asks=(
        Quantity(name="latitude", words="Latitude", unit=LATITUDE, usual="52.5", low=-89.9, high=89.9),
        Quantity(name="longitude", words="Longitude", unit=LATITUDE, usual="13.4", low=-180, high=180),
        Quantity(name="date", words="Date", unit=DATE, usual="2026-06-21", low=-18_262, high=18_627),
        Quantity(name="zone", words="Clock is ahead of UTC by", unit=HOURS, usual="2", low=-12, high=14),
        Quantity(name="clock", words="Hour", unit=CLOCK, usual="10:00", low=0, high=24),
        Quantity(name="height", words="Sun's height", unit=ANGLE, usual="45°", low=-math.pi / 2, high=math.pi / 2),
        Quantity(name="wall", words="Wall's height over the set", unit=METRES, usual="6 m", low=0, high=2000),
        Quantity(name="wall_distance", words="Wall is away", unit=METRES, usual="8 m", low=0.1, high=100_000),
        Quantity(name="wall_bearing", words="It stands towards", unit=ANGLE, usual="135°", low=0, high=2 * math.pi,
                 note="From north over east: 90° east, 180° south."),
    ),
    unknowns={"height": lambda v: _sun(v, v.clock).elevation_rad, "clock": _clock},
    gives=(
        Quantity(name="bearing", words="Sun stands towards", unit=ANGLE), Quantity(name="lux", words="Clear sun gives",
            unit=LUX),
        Quantity(name="clears", words="Clears the wall", unit=Unit(key="words")), Quantity(name="until", words="Sun until",
            unit=Unit(key="words")),
    ),
    beside=_beside, says=_says, picture=_picture,
    cautions=lambda v: ["Never look at the sun through a finder; a lens left in it burns."],
    formula="Michalsky 1988; the wall hides the sun while tan(height) < (wall / distance) · cos(bearing − wall's bearing)",
    limits="1950 to 2050; 0.01°, refraction left out (half a degree at the horizon); a long straight wall, flat ground; "
    "times to a minute.",
    source="Michalsky, Solar Energy 40 (1988), after the Astronomical Almanac; IES RP-21 for the light",
)  # fmt: skip
