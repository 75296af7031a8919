"""What surfaces and clear media are made of, and the row of numbers the kernels read."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

from fotaxis.core.errors import DomainError
from fotaxis.core.limits import require_finite, require_positive
from fotaxis.core.materials.bump import EMBOSS, KINDS
from fotaxis.core.materials.fresnel import hemispherical_reflectance
from fotaxis.core.values import Reflectance

Rgb = tuple[float, float, float]

OPAQUE, METAL, CLEAR = 0.0, 1.0, 2.0
BRUSH = {"none": 0.0, "around": 1.0, "along": 2.0}
PATTERNS = {"none": 0.0, "wood": 1.0}

DIFFUSE, COAT, INNER, KIND, N, K, TINT = 0, 3, 4, 5, 6, 9, 12
ALONG, ACROSS, BRUSHED = 15, 16, 17
RELIEF, PERIOD, DEPTH = 18, 19, 20
THROUGH, PATTERN, SECOND, PATTERN_PERIOD, ENTRY, BACK = 21, 22, 23, 26, 27, 28
COLUMNS = 29
"""Where what stands in a skin's row: diffuse R, G, B; coat index; inner factor; kind; metal n and k per R, G, B; tint;
GGX roughness along u and along v; direction of the brush; relief kind, period and depth in metres; diffuse transmittance;
pattern, its second colour and period in metres; one over the mean share of light that enters the coat; does it mirror back."""

LEAST_ROUGHNESS = 0.004
"""Below this a surface mirrors sharply."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Relief:
    """A relief too fine to be modelled as shape. emboss: the zone's field stands up (depth > 0) or is sunk (depth < 0),
    with a rim `period_m` wide."""

    kind: str
    period_m: float
    depth_m: float

    def __post_init__(self) -> None:
        if self.kind not in KINDS:
            raise DomainError(f"relief is {self.kind!r}; it must be one of {', '.join(KINDS)}.")
        require_positive("relief period", self.period_m, high=0.5, unit="m")
        require_finite("relief depth", self.depth_m, low=-0.01, high=0.01, unit="m")
        if KINDS[self.kind] != EMBOSS and self.depth_m < 0:
            raise DomainError("relief depth is below 0; only an emboss can be sunk.")


@dataclass(frozen=True, slots=True, kw_only=True)
class Metal:
    """Complex refractive index n + ik at the red, green and blue of Rec. 709, and what tints it (1: nothing)."""

    n: Rgb
    k: Rgb
    tint: Rgb = (1.0, 1.0, 1.0)

    def __post_init__(self) -> None:
        for c, n, k, t in zip(("red", "green", "blue"), self.n, self.k, self.tint, strict=True):
            require_finite(f"metal n, {c}", n, low=0.01, high=20)
            require_finite(f"metal k, {c}", k, low=0.0, high=20)
            require_finite(f"tint {c}", t, low=0.0, high=1.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Skin:
    """What a surface is made of.

    reflectance: what its matte part scatters, under the coat; second: the other colour of a pattern.
    coat_index: a clear smooth coat over paper or metal (lacquer, varnish, film, glass gloss); 0 for none.
    metal: a metal instead of the matte part. roughness 0 mirrors sharply, 1 hardly at all (squared: GGX alpha); over
    paper it roughens the coat. brush: scratches run 'around' the axis or 'along' it; the mirror image spreads across them.
    returns: it is covered with beads or prisms, so that what its rough coat mirrors goes back to where it came from, less and less
    the more it is turned away.
    through: share of light scattered through to the other side (opal sheet, thin paper).
    """

    reflectance: Reflectance
    coat_index: float = 0.0
    metal: Metal | None = None
    roughness: float = 0.0
    brush: str = "none"
    relief: Relief | None = None
    through: float = 0.0
    pattern: str = "none"
    second: Reflectance | None = None
    pattern_m: float = 0.02
    clear: bool = False
    returns: bool = False

    def __post_init__(self) -> None:
        if self.coat_index != 0 and not 1.0 < self.coat_index <= 3.0:
            raise DomainError(f"coat index is {self.coat_index:g}; give 0 for no gloss, or more than 1 and at most 3.")
        require_finite("roughness", self.roughness, low=0.0, high=1.0)
        require_finite("light let through", self.through, low=0.0, high=1.0)
        require_positive("pattern's period", self.pattern_m, high=2, unit="m")
        if self.returns and (self.metal or not self.coat_index or not self.roughness_along[0]):
            raise DomainError("what mirrors light back needs a coat index and a roughness, and no metal.")
        if self.brush not in BRUSH:
            raise DomainError(f"brush is {self.brush!r}; it must be one of {', '.join(BRUSH)}.")
        if self.pattern not in PATTERNS:
            raise DomainError(f"pattern is {self.pattern!r}; it must be one of {', '.join(PATTERNS)}.")
        if max(self.reflectance.red, self.reflectance.green, self.reflectance.blue) + self.through > 1.0 + 1e-9:
            raise DomainError(
                f"reflectance and light let through add up to more than 1 "
                f"({max(self.reflectance.red, self.reflectance.green, self.reflectance.blue) + self.through:g}); lower one."
            )

    @property
    def roughness_along(self) -> tuple[float, float]:
        """GGX alpha along u (round the axis, or to the right) and along v (up)."""
        alpha = self.roughness**2
        if alpha < LEAST_ROUGHNESS or not (self.coat_index or self.metal):
            return 0.0, 0.0
        fine = max(LEAST_ROUGHNESS, alpha * 0.15)
        return {"none": (alpha, alpha), "around": (fine, alpha), "along": (alpha, fine)}[self.brush]

    def row(self) -> list[float]:
        """As the kernels read it, COLUMNS numbers."""
        r = self.reflectance
        mean = (r.red + r.green + r.blue) / 3
        inner = inner_factor(self.coat_index, mean) if self.coat_index and not self.metal else 1.0
        m = self.metal
        kind = CLEAR if self.clear else METAL if m else OPAQUE
        second = self.second or r
        relief = self.relief
        return [
            *((0.0, 0.0, 0.0) if m or self.clear else (r.red, r.green, r.blue)), self.coat_index, inner, kind,
            *(m.n if m else (0.0,) * 3), *(m.k if m else (0.0,) * 3), *(m.tint if m else (1.0,) * 3),
            *self.roughness_along, BRUSH[self.brush],
            float(KINDS[relief.kind]) if relief else 0.0, relief.period_m if relief else 1.0, relief.depth_m if relief else 0.0,
            self.through, PATTERNS[self.pattern], second.red, second.green, second.blue, self.pattern_m,
            1.0 / (1.0 - hemispherical_reflectance(index=self.coat_index)) if self.coat_index else 1.0,
            float(self.returns),
        ]  # fmt: skip


GLASS_SKIN = Skin(reflectance=Reflectance.grey(0.0), clear=True)
"""A bare boundary between two clear media: which, the surface says."""


@lru_cache(maxsize=64)
def inner_factor(index: float, albedo: float) -> float:
    """How much diffuse light of albedo 1 a coat passes both ways, inner reflections summed.

        (1 - F_out) / (n^2 (1 - albedo F_in)),  F_in = 1 - (1 - F_out) / n^2
    Source: Judd 1942; the light's entry is averaged over the hemisphere here and corrected where its direction is known,
    the exit is exact (trace multiplies by 1 - R).
    """
    outside = hemispherical_reflectance(index=index)
    inside = 1 - (1 - outside) / index**2
    return (1 - outside) / index**2 / (1 - albedo * inside)


@dataclass(frozen=True, slots=True, kw_only=True)
class Medium:
    """A clear medium: refractive index, and what is left of red, green and blue after one centimetre of it."""

    index: float
    left_per_cm: Rgb = (1.0, 1.0, 1.0)

    def __post_init__(self) -> None:
        require_finite("refractive index", self.index, low=1.0, high=3.0)
        for name, value in zip(("red", "green", "blue"), self.left_per_cm, strict=True):
            require_finite(f"{name} left after 1 cm", value, low=1e-6, high=1.0)

    def absorption(self) -> list[float]:
        """Index, then absorption per metre in R, G, B:  -ln(left) / 0.01 m  (Beer and Lambert)."""
        return [self.index, *(-math.log(left) / 0.01 for left in self.left_per_cm)]

    def diluted(self, water_share: float) -> Medium:
        """This liquid cut with water to a share of the volume: absorption and excess index in proportion.

        Holds for:  0 <= share <= 1. Else DomainError.
        Limits:     1 is water. Proportional index (Gladstone & Dale 1863) is good to a few thousandths.
        """
        require_finite("water added", water_share, low=0.0, high=1.0)
        part = 1.0 - water_share
        left = tuple(own**part * clear**water_share for own, clear in zip(self.left_per_cm, WATER_LEFT, strict=True))
        return Medium(index=WATER_INDEX + part * (self.index - WATER_INDEX), left_per_cm=left)  # type: ignore[arg-type]


WATER_INDEX = 1.333
"""Water at room temperature, sodium light. IAPWS R9-97 (1.3330 at 589 nm, 20 C)."""

WATER_LEFT: Rgb = (0.997, 0.9994, 0.9999)
"""Pure water over one centimetre; red goes first (about 0.3 per metre at 610 nm). From memory, Pope & Fry 1997."""

AIR = Medium(index=1.0)
