"""How bright a face is at full power, from a guide number or from one meter reading."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from fotaxis.core.constants import INCIDENT_CONSTANT_DOME, INCIDENT_CONSTANT_FLAT, REFERENCE_ISO
from fotaxis.core.errors import DomainError
from fotaxis.core.lights.beam_patterns import cell_transmission
from fotaxis.core.lights.gradients import relative_luminance
from fotaxis.core.limits import require_finite, require_positive
from fotaxis.core.values import Array

FACE_SAMPLES = 48
DISC_RINGS = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class GuideNumber:
    """Full-power guide number in metres at ISO 100, of the light as shaped, on its axis far away."""

    metres: float

    def __post_init__(self) -> None:
        require_positive("guide number", self.metres, high=1000, unit="m")


@dataclass(frozen=True, slots=True, kw_only=True)
class MeterReading:
    """One incident reading on the light's axis; it always wins over a catalogue figure.

    f_number at iso, power_stops relative to full when it was taken, flat or domed receptor.
    For continuous light also the shutter time; None means flash.
    """

    distance_m: float
    f_number: float
    iso: float
    power_stops: float
    dome: bool = False
    shutter_s: float | None = None

    def __post_init__(self) -> None:
        require_positive("meter distance", self.distance_m, high=50, unit="m")
        require_positive("meter f-number", self.f_number, high=256)
        require_positive("meter ISO", self.iso, high=1e6)
        require_finite("meter power", self.power_stops, low=-12, high=0, unit="stops")
        if self.shutter_s is not None:
            require_positive("meter shutter", self.shutter_s, high=3600, unit="s")

    @property
    def constant(self) -> float:
        """Calibration constant C of the receptor, lux s."""
        return INCIDENT_CONSTANT_DOME if self.dome else INCIDENT_CONSTANT_FLAT

    @property
    def full_power_exposure(self) -> float:
        """What would arrive at the meter at full power: lux s for flash, lux for continuous light.

            flash: H = C N^2 / S        continuous: E = C N^2 / (S t)
        Source:     ISO 2720.
        """
        arriving = self.constant * self.f_number**2 / self.iso
        if self.shutter_s is not None:
            arriving /= self.shutter_s
        return float(arriving * 2.0**-self.power_stops)


@dataclass(frozen=True, slots=True, kw_only=True)
class Candela:
    """Full-power intensity on the axis of the light as shaped but for grids, cd (continuous) or cd s (flash)."""

    value: float

    def __post_init__(self) -> None:
        require_positive("intensity", self.value, high=1e10, unit="cd")


Calibration = GuideNumber | MeterReading | Candela


def axis_intensity(calibration: GuideNumber | Candela) -> float:
    """Intensity on the axis far away at full power, cd s (flash) or cd (continuous)."""
    if isinstance(calibration, Candela):
        return calibration.value
    return guide_number_intensity_cd_s(guide_number_m=calibration.metres)


def guide_number_intensity_cd_s(*, guide_number_m: float) -> float:
    """Beam intensity of a flash from its guide number: I = GN^2 C / 100, C = 250 (flat receptor), cd s.

    Holds for:  guide number > 0. Else DomainError.
    Source:     ISO 2720 incident equation at N = GN / d and the inverse-square law.
    """
    require_positive("guide number", guide_number_m, unit="m")
    return guide_number_m**2 * INCIDENT_CONSTANT_FLAT / REFERENCE_ISO


def face_weights(
    *, kind: str, stops: float, columns: int = FACE_SAMPLES, rows: int = FACE_SAMPLES
) -> tuple[Array, Array, Array]:
    """Cell middles u, v (-1..1) and luminance relative to the middle of a face, each (rows * columns,) float64."""
    u = 2 * (np.arange(columns) + 0.5) / columns - 1
    v = 2 * (np.arange(rows) + 0.5) / rows - 1
    vv, uu = np.meshgrid(v, u, indexing="ij")
    return uu.ravel(), vv.ravel(), relative_luminance(kind=kind, stops=stops, u=uu.ravel(), v=vv.ravel())


@lru_cache(maxsize=512)
def rectangle_luminance(
    *, calibration: Calibration, width_m: float, height_m: float, kind: str, stops: float, grid_angle_rad: float = 0.0,
    octagon: bool = False,
) -> float:  # fmt: skip
    """Luminance at the middle of a rectangular face at full power, cd s/m2 (flash) or cd/m2 (continuous).

        far away:  I = L0 * integral of g dA                     g: luminance relative to the middle
        metered:   E = L0 * integral of g T cos^2 / r^2 dA        on the axis at the metered distance, T through the grid

    Holds for:  positive sizes. Else DomainError.
    """
    require_positive("panel width", width_m, unit="m")
    require_positive("panel height", height_m, unit="m")
    u, v, g = face_weights(kind=kind, stops=stops)
    cell = width_m * height_m / len(g)
    if octagon:
        inside = np.abs(u) + np.abs(v) <= math.sqrt(2)
        g = g * inside * (2 * (math.sqrt(2) - 1) / inside.mean())  # cells that its edges cut count in the right shares
    if not isinstance(calibration, MeterReading):
        return axis_intensity(calibration) / float(cell * g.sum())
    d = calibration.distance_m
    r2 = (u * width_m / 2) ** 2 + (v * height_m / 2) ** 2 + d * d
    if grid_angle_rad:
        g = g * cell_transmission(np.sqrt(r2 / d**2 - 1), math.tan(grid_angle_rad / 2))
    return calibration.full_power_exposure / float(cell * (g * d * d / r2**2).sum())


def disc_luminance(*, calibration: Calibration, radius_m: float, off_axis: Callable[[Array], Array]) -> float:
    """Luminance on the axis of a disc at full power, cd s/m2 (flash) or cd/m2 (continuous).

        by intensity   L = I / (pi R^2)
        metered        E = L * integral of b(angle) cos^2 / r^2 dA      on the axis at the metered distance

    off_axis: luminance b at angles off the axis relative to that on it, with grids; a reading is of the light as it is shaped.
    Holds for:  radius > 0 and a disc that lights the meter. Else DomainError.
    """
    require_positive("dish radius", radius_m, unit="m")
    area = math.pi * radius_m**2
    if not isinstance(calibration, MeterReading):
        return axis_intensity(calibration) / area
    d = calibration.distance_m
    edges = radius_m * np.sqrt(np.linspace(0, 1, DISC_RINGS + 1))
    r = (edges[1:] + edges[:-1]) / 2
    form = (off_axis(np.arctan2(r, d)) * d * d / (r * r + d * d) ** 2 * np.diff(np.pi * edges**2)).sum()
    if not form > 0:
        raise DomainError("no light of this head reaches the meter; hold it on the axis, farther away.")
    return calibration.full_power_exposure / float(form)


def ball_luminance(*, calibration: Calibration, radius_m: float) -> float:
    """Luminance of an even ball at full power:  L = I / (pi R^2),  or from a reading  L = E d^2 / (pi R^2)."""
    require_positive("bulb radius", radius_m, unit="m")
    area = math.pi * radius_m**2
    if not isinstance(calibration, MeterReading):
        return axis_intensity(calibration) / area
    return calibration.full_power_exposure * calibration.distance_m**2 / area
