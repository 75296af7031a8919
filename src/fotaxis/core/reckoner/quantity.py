"""One number of a calculation: what it is called, how it is written, what it may be."""

from __future__ import annotations

import math
from dataclasses import dataclass

from fotaxis.core.errors import DomainError
from fotaxis.core.reckoner.unit import Choice, Listed, Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class Quantity:
    """name: as on the command line; usual: what it is where nothing is said, as it is typed.

    low, high: allowed, in SI; `above` excludes the low end itself.
    shot: the number of a shot it begins with, see services/reckoning; taken: may it be taken into the shot too, where that can be.
    note: a word of help under the field.
    """

    name: str
    words: str
    unit: Unit
    usual: str = ""
    low: float = -math.inf
    high: float = math.inf
    above: bool = False
    shot: str = ""
    taken: bool = True
    note: str = ""

    def read(self, text: str, *, inches: bool = False) -> float:
        """The value of what was typed. Raises DomainError that begins with the quantity's words."""
        if not text.strip() and not isinstance(self.unit, Listed):
            raise DomainError(f"{self.words} is empty; write it as {self.unit.example}.")
        try:
            value = self.unit.read(text, inches=inches)
        except DomainError as error:
            raise DomainError(f"{self.words}: {error}") from None
        return self.check(value, inches=inches)

    def check(self, value: float, *, inches: bool = False) -> float:
        """The value, if it is allowed; else DomainError says what is."""
        if isinstance(self.unit, Choice) or isinstance(value, str):
            return value
        for one in value if isinstance(value, tuple) else (value,):
            if not isinstance(one, str) and not self._allowed(one):
                shown = self.shown(one, inches=inches)
                raise DomainError(f"{self.words} is {shown}; {self.must(inches=inches)}")
        return value

    def _allowed(self, value: float) -> bool:
        low = value > self.low if self.above else value >= self.low - 1e-12
        return math.isfinite(value) and low and value <= self.high + 1e-12 and (not self.unit.whole or value == round(value))

    def must(self, *, inches: bool = False) -> str:
        """What it must be, in a sentence."""
        whole = "a whole number, " if self.unit.whole else ""
        low, high = (self.shown(end, inches=inches) for end in (self.low, self.high))
        if math.isinf(self.high):
            return f"it must be {whole}{'more than' if self.above else 'at least'} {low}."
        if math.isinf(self.low):
            return f"it must be {whole}at most {high}."
        return f"it must be {whole}{'more than' if self.above else 'from'} {low} {'and at most' if self.above else 'to'} {high}."

    def shown(self, value: float, *, inches: bool = False) -> str:
        """The value in words; what a unit has no name for (f/0) is written as a plain number."""
        try:
            return self.one.write(value, inches=inches)
        except (DomainError, ValueError, OverflowError, ZeroDivisionError):
            return f"{value:g}"

    @property
    def one(self) -> Unit:
        """The unit of one of it, where several are listed."""
        return self.unit.of if isinstance(self.unit, Listed) and self.unit.of else self.unit
