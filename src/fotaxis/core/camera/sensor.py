"""The sensor: where it clips, and below which level nothing can be told from its own noise."""

from __future__ import annotations

import math
from dataclasses import dataclass

from fotaxis.core.constants import MIDDLE_GREY, REFERENCE_ISO
from fotaxis.core.limits import require_finite, require_positive

USUAL_RANGE_STOPS = 13.0
"""From clipping down to where noise equals the signal, at base ISO; 11 to 14.5 are common practice."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Sensor:
    """range_stops: from clipping to the noise floor at ISO 100."""

    range_stops: float = USUAL_RANGE_STOPS

    def __post_init__(self) -> None:
        require_finite("range of the sensor", self.range_stops, low=5, high=18, unit="stops")

    def floor_stops(self, iso: float) -> float:
        """The noise floor in stops from middle grey.

        Clipping lies log2(1 / 0.18) over grey at every speed; every doubling of the speed over ISO 100 takes a stop of the
        range away.  Limits: below ISO 100 the range is that of ISO 100.  Source: common practice, after the definition of
        dynamic range in ISO 15739 (level at which signal and noise are equal).
        """
        require_positive("ISO", iso)
        left = self.range_stops - max(0.0, math.log2(iso / REFERENCE_ISO))
        return math.log2(1 / MIDDLE_GREY) - left
