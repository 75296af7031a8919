"""The sun: where it stands at a place, date and hour, how bright and how warm it is in a clear sky."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import UTC, datetime

from fotaxis.core.errors import DomainError
from fotaxis.core.limits import require_finite

SUN_DIAMETER_RAD = math.radians(0.533)
"""Apparent diameter at the mean distance. Source: Astronomical Almanac."""

OUTSIDE_LUX = 127_500.0
EXTINCTION = 0.21
"""Illuminance outside the air, and what a clear sky takes per air mass. Source: IES RP-21, clear sky."""

EPOCH = datetime(2000, 1, 1, 12, tzinfo=UTC)


@dataclass(frozen=True, slots=True, kw_only=True)
class Sun:
    """elevation_rad over the horizon; bearing_rad clockwise from north, 0 to 2 pi."""

    elevation_rad: float
    bearing_rad: float

    @property
    def illuminance_lux(self) -> float:
        """On a plane facing it, lux; 0 below the horizon.

            E = 127 500 exp(-0.21 m),  m = 1 / (sin h + 0.50572 (h + 6.07995 deg)^-1.6364), h in degrees
        Source:     IES RP-21; air mass of Kasten & Young 1989.
        """
        h = math.degrees(self.elevation_rad)
        if h <= 0:
            return 0.0
        mass = 1 / (math.sin(self.elevation_rad) + 0.50572 * (h + 6.07995) ** -1.6364)
        return OUTSIDE_LUX * math.exp(-EXTINCTION * mass)

    @property
    def colour_k(self) -> float:
        """About 5600 K high up and 2000 K at the horizon. From memory: haze and season change it by far more."""
        return 5600 - 3600 * math.exp(-max(0.0, math.degrees(self.elevation_rad)) / 8)


def sun_at(*, latitude_deg: float, longitude_deg: float, when: datetime) -> Sun:
    """The sun at a moment. Longitude east of Greenwich positive.

    Holds for:  a moment with its zone between 1950 and 2050; latitude -90..90, longitude -180..180. Else DomainError.
    Limits:     0.01 degrees; refraction, up to 0.5 degrees at the horizon, is left out.
    Source:     Michalsky 1988, after the low-precision formulas of the Astronomical Almanac.
    """
    require_finite("latitude", latitude_deg, low=-90, high=90, unit="°")
    require_finite("longitude", longitude_deg, low=-180, high=180, unit="°")
    if when.tzinfo is None or not 1950 <= when.year <= 2050:
        raise DomainError("the sun is known from 1950 to 2050; choose another date.")
    moment = when.astimezone(UTC)
    n = (moment - EPOCH).total_seconds() / 86_400
    mean = math.radians(280.460 + 0.9856474 * n)
    anomaly = math.radians(357.528 + 0.9856003 * n)
    ecliptic = mean + math.radians(1.915 * math.sin(anomaly) + 0.020 * math.sin(2 * anomaly))
    tilt = math.radians(23.439 - 4e-7 * n)
    ascension = math.atan2(math.cos(tilt) * math.sin(ecliptic), math.cos(ecliptic))
    declination = math.asin(math.sin(tilt) * math.sin(ecliptic))
    hour = moment.hour + moment.minute / 60 + (moment.second + moment.microsecond * 1e-6) / 3600
    sidereal = math.radians(15 * (6.697375 + 0.0657098242 * n + hour) + longitude_deg)
    angle = sidereal - ascension
    latitude = math.radians(latitude_deg)
    elevation = math.asin(
        math.sin(declination) * math.sin(latitude) + math.cos(declination) * math.cos(latitude) * math.cos(angle)
    )
    bearing = math.atan2(
        -math.cos(declination) * math.sin(angle),
        math.sin(declination) * math.cos(latitude) - math.cos(declination) * math.sin(latitude) * math.cos(angle),
    )
    return Sun(elevation_rad=elevation, bearing_rad=bearing % (2 * math.pi))
