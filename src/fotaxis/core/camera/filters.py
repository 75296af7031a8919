"""What stands before the lens: polariser, neutral density, window mask and hood; and the glare of the lens itself."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from fotaxis.core.limits import require_finite, require_positive
from fotaxis.core.values import Array

CLEAN_LENS_GLARE = 0.01
"""Veiling glare index of a clean, coated lens; 0.5 to 3 % are common practice."""

NEAR_GLARE = 0.5
"""Part of a lens's glare that lies about the light it comes from; the rest is even. From memory: lenses differ much."""

NEAR_RAD = math.radians(3)
"""The near part falls with the square of the angle from here outwards, the shape glare is usually described by."""

LEAST_FRONT_M = 0.03
"""A front element is at least this wide, and at least as wide as the aperture seen through it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Polariser:
    """A polarising filter. turn_rad: 0 takes away what lies on a table, a quarter turn what stands upright beside.

    loss_stops: on unpolarised light; 1 in theory, 1.3 to 1.7 for real filters (common practice).
    """

    turn_rad: float = 0.0
    loss_stops: float = 1.5

    def __post_init__(self) -> None:
        require_finite("polariser's turn", self.turn_rad, low=-math.pi, high=math.pi, unit="rad")
        require_finite("polariser's loss", self.loss_stops, low=1, high=3, unit="stops")

    @property
    def axis_rad(self) -> float:
        """What the filter lets through, from the picture's right towards its top."""
        return math.pi / 2 + self.turn_rad


@dataclass(frozen=True, slots=True, kw_only=True)
class Opening:
    """A dark frame before the lens around its axis: a card with a window, or, round, the end of a hood.

    before_m: how far before the lens; width_m, height_m: of the opening (a round one's diameter twice).
    """

    before_m: float
    width_m: float
    height_m: float
    is_round: bool = False

    def __post_init__(self) -> None:
        require_positive("distance of the mask before the lens", self.before_m, high=10, unit="m")
        require_positive("width of the mask's opening", self.width_m, high=10, unit="m")
        require_positive("height of the mask's opening", self.height_m, high=10, unit="m")

    def passes(self, across: Array, up: Array, *, front_m: float) -> Array:
        """Share of the front element of diameter front_m that sees a direction through the opening, same shape.

        across, up: tangents of the direction from the lens's axis; inf where it looks backwards.
        The element is looked at in 19 places.
        """
        x, y = _disc(front_m / 2)
        with np.errstate(invalid="ignore"):
            u = np.abs(np.asarray(across)[..., None] * self.before_m + x)
            v = np.abs(np.asarray(up)[..., None] * self.before_m + y)
        half_w, half_h = self.width_m / 2, self.height_m / 2
        inside = (u / half_w) ** 2 + (v / half_h) ** 2 <= 1 if self.is_round else (u <= half_w) & (v <= half_h)
        share: Array = inside.mean(axis=-1)
        return share


@lru_cache(maxsize=16)
def _disc(radius: float) -> tuple[Array, Array]:
    """Nineteen places of about equal share on a disc."""
    rings = [(0.0, 1), (0.5, 6), (0.87, 12)]
    at = [(r * radius, 2 * math.pi * (k + 0.3) / n) for r, n in rings for k in range(n)]
    r, angle = np.array(at).T
    return r * np.cos(angle), r * np.sin(angle)


@dataclass(frozen=True, slots=True, kw_only=True)
class BeforeLens:
    """Filters, shades and glare of a lens.

    glare: veiling glare index, the luminance that a black spot shows in a field of even luminance, over that luminance; 0 for a
    lens that shows none.   Source: the integral method of ISO 9358.
    """

    polariser: Polariser | None = None
    nd_stops: float = 0.0
    mask: Opening | None = None
    hood: Opening | None = None
    glare: float = 0.0

    def __post_init__(self) -> None:
        require_finite("neutral density", self.nd_stops, low=0, high=20, unit="stops")
        require_finite("glare of the lens", self.glare, low=0, high=0.2)

    @property
    def stops(self) -> float:
        """Light lost to the filters, stops."""
        return self.nd_stops + (self.polariser.loss_stops if self.polariser else 0.0)

    @property
    def transmission(self) -> float:
        """Share of unpolarised light that the filters let through."""
        return 2.0**-self.stops

    def open_share(self, across: Array, up: Array, *, front_m: float, middle: tuple[float, float] = (0.0, 0.0)) -> Array:
        """Share of the front element that sees a direction past mask and hood, as Opening.passes gives it.

        across, up: tangents from the frame's middle, about which a mask stands; middle: tangents of that from the lens's axis, about
        which a hood stands.
        """
        share = np.ones(np.shape(across))
        if self.mask:
            share = share * self.mask.passes(across, up, front_m=front_m)
        if self.hood:
            share = share * self.hood.passes(across + middle[0], up + middle[1], front_m=front_m)
        return share


def glare_spread(angle_rad: Array) -> Array:
    """How glare spreads about its light: per lux at the lens, relative to the glare index, 1/sr, same shape.

        f = (1 - s) / pi + s c / (a^2 + a0^2),  s = 0.5, a0 = 3 degrees

    c makes the integral of f cos(a) over the half space 1, so that an even field gives the index.
    """
    spread: Array = (1 - NEAR_GLARE) / math.pi + NEAR_GLARE * _near_scale() / (angle_rad**2 + NEAR_RAD**2)
    return spread


@lru_cache(maxsize=1)
def _near_scale() -> float:
    from scipy.integrate import quad

    whole, _ = quad(lambda a: 2 * math.pi * math.sin(a) * math.cos(a) / (a * a + NEAR_RAD**2), 0, math.pi / 2)
    return float(1 / whole)
