"""Power of a head: stops below full, on the notches the head really has."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from fotaxis.core.errors import DomainError

STEPS = (Fraction(1, 10), Fraction(1, 3), Fraction(1, 2), Fraction(1))


@dataclass(frozen=True, slots=True, kw_only=True)
class PowerRange:
    """From full power down to `lowest_stops` below it in equal steps.

    lowest_stops: 1..10 whole stops under full (7 is 1/128); steps_per_stop: 10, 3, 2 or 1.
    """

    lowest_stops: int = 7
    steps_per_stop: int = 3

    def __post_init__(self) -> None:
        if not 1 <= self.lowest_stops <= 10:
            raise DomainError(f"power range: lowest power is {self.lowest_stops} stops under full; give 1 to 10.")
        if self.steps_per_stop not in (1, 2, 3, 10):
            raise DomainError(f"power range: {self.steps_per_stop} steps per stop; heads have 1, 2, 3 or 10.")

    def notch(self, stops: float) -> float:
        """The notch nearest to a wish in stops relative to full (0 full, negative below)."""
        steps = round(max(-float(self.lowest_stops), min(0.0, stops)) * self.steps_per_stop)
        return steps / self.steps_per_stop

    def check(self, stops: float) -> float:
        """Return stops if the head can be set there, else raise DomainError saying which notch is nearest."""
        if not -self.lowest_stops - 1e-9 <= stops <= 1e-9:
            raise DomainError(
                f"power is {stops:+.2f} stops from full; this head goes from -{self.lowest_stops} "
                f"(1/{2**self.lowest_stops}) to 0 (1/1)."
            )
        if abs(self.notch(stops) - stops) > 0.01:
            raise DomainError(f"power {stops:+.2f} stops is between two notches; the nearest is {self.notch(stops):+.2f}.")
        return self.notch(stops)


def power_name(stops: float, *, steps_per_stop: int) -> str:
    """How the head's display names a power: '1/8', '1/8 +⅓', '1/16 +0.7'.

    stops relative to full, 0 or negative. Common practice: named upwards from the next lower full stop.
    """
    steps = round(-stops * steps_per_stop)
    whole, rest = divmod(steps, steps_per_stop)
    if rest == 0:
        return f"1/{2**whole}"
    above = steps_per_stop - rest
    return f"1/{2 ** (whole + 1)} +{step_name(above, steps_per_stop=steps_per_stop)}"


def step_name(steps: int, *, steps_per_stop: int) -> str:
    """A part of a stop as it is written: ⅓, ½, 0.3."""
    return {(1, 3): "⅓", (2, 3): "⅔", (1, 2): "½"}.get((steps, steps_per_stop), f"{steps / steps_per_stop:.1f}")
