"""Mired: how far a light must be moved, and which gel does it."""

from __future__ import annotations

import itertools

from fotaxis.core.lights.gels import COLDEST_K, GELS, HOTTEST_K, Gel
from fotaxis.core.reckoner.calculation import COLOUR, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, mark, scale
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.unit import Unit
from fotaxis.core.reckoner.units import KELVIN, LOST, MIRED

CONVERSION = [gel for gel in GELS if gel.mired]
SEEN_MIRED = 10.0
"""Smaller differences are not seen side by side.  Common practice."""

WORDS = Unit(key="words")


def nearest_gels(shift: float) -> tuple[Gel, ...]:
    """The one or two conversion gels that come nearest to a shift; one, where a second brings less than can be seen."""
    ways = [(), *((gel,) for gel in CONVERSION), *itertools.combinations_with_replacement(CONVERSION, 2)]
    ways = [way for way in ways if len({gel.mired > 0 for gel in way}) < 2]

    def worth(way: tuple[Gel, ...]) -> float:
        return abs(shift - sum(gel.mired for gel in way)) + SEEN_MIRED / 2 * len(way)

    return min(ways, key=worth)


def gel_words(gels: tuple[Gel, ...]) -> str:
    """Gels as they are named one behind the other."""
    return " + ".join(gel.name for gel in gels) or "none"


def _beside(v: Given) -> dict[str, object]:
    gels = nearest_gels(v.shift)
    given = sum(gel.mired for gel in gels)
    return {
        "gel": gel_words(gels), "left": v.shift - given,
        "lost": sum(gel.stops for gel in gels),
        "becomes": 1e6 / (1e6 / v.light + given),
    }  # fmt: skip


def _says(v: Given) -> list[str]:
    if abs(v.left) <= SEEN_MIRED:
        return [f"What is left, {abs(v.left):.0f} mired, is hardly seen."]
    return [
        f"{abs(v.left):.0f} mired are left, which is seen side by side: set the camera's white balance between, or mix gels."
    ]


def _picture(v: Given) -> Drawn:
    low, high = sorted((1e6 / v.light, 1e6 / v.wanted))
    marks = [mark(1e6 / v.light, f"light {KELVIN.write(v.light)}"), mark(1e6 / v.wanted, "wanted "
        f"{KELVIN.write(v.wanted)}", strong=True),
             mark(1e6 / v.becomes, "with the gel")]  # fmt: skip
    return scale("Mired: cool on the left, warm on the right", marks, low=low - 40, high=high + 40)


CALCULATION = Calculation(
    key="mired", name="Mired shift and gel", group=COLOUR,
    words="How far a gel must move a light so that it agrees with another, and which gel comes nearest.",
    also="kelvin gel ctb cto warm cool conversion colour temperature mixed light",
    asks=(
        Quantity(name="light", words="The light has", unit=KELVIN, usual="5600 K", low=COLDEST_K, high=HOTTEST_K,
            shot="light.kelvin"),
        Quantity(name="wanted", words="It should have", unit=KELVIN, usual="3200 K", low=COLDEST_K, high=HOTTEST_K,
            shot="camera.white", taken=False),
        Quantity(name="shift", words="Shift (warm is plus)", unit=MIRED, usual="+131", low=-560, high=560),
    ),
    unknowns={
        "shift": lambda v: 1e6 / v.wanted - 1e6 / v.light,
        "wanted": lambda v: 1e6 / (1e6 / v.light + v.shift) if 1e6 / v.light + v.shift > 0 else float("nan"),
        "light": lambda v: 1e6 / (1e6 / v.wanted - v.shift) if 1e6 / v.wanted - v.shift > 0 else float("nan"),
    },
    gives=(
        Quantity(name="gel", words="Nearest gel", unit=WORDS), Quantity(name="becomes", words="Light becomes", unit=KELVIN),
        Quantity(name="left", words="Left over", unit=MIRED), Quantity(name="lost", words="It takes", unit=LOST),
    ),
    beside=_beside, says=_says, picture=_picture,
    formula="shift = 10⁶ / T wanted − 10⁶ / T of the light; shifts add",
    limits="For lights near the colours of heat; an LED or a tube may need green or magenta beside it. Gels bleach: measure "
    "old ones.",
    source="reciprocal colour temperature (CIE 15); gels of the catalogue, common practice",
)  # fmt: skip
