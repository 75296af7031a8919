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
