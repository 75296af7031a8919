"""What a unit can do: read what is typed, write a value, move it by one step; lengths, times of day, words and lists."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from fotaxis.core.errors import DomainError
from fotaxis.core.reckoner.numbers import figures, number, plain

CM_PER_INCH = 2.54


@dataclass(frozen=True, slots=True, kw_only=True)
class Unit:
    """Plain numbers with a unit's name. per: how many of it make one SI unit; step: what one press adds, in the unit, or the
    factor where `ratio`."""

    key: str
    name: str = ""
    per: float = 1.0
    step: float = 1.0
    ratio: bool = False
    digits: int = 4
    whole: bool = False
    example: str = "12"
    also: tuple[str, ...] = ()

    def read(self, text: str, *, inches: bool = False) -> float:
        """The value that a text says. Raises DomainError saying how it is written."""
        told = plain(text)
        for ending in (self.name, *self.also):
            if ending and told.endswith(ending.lower()):
                told = told[: -len(ending)].strip()
                break
        value = number(told)
        if value is None:
            raise DomainError(f"{text[:40]!r} cannot be read; write it as {self.example}.")
        return value / self.per

    def write(self, value: float, *, inches: bool = False) -> str:
        """The value in words, with its unit."""
        text = figures(value * self.per, digits=self.digits)
        return f"{text}{'' if self.name in ('°', '') else ' '}{self.name}".strip()

    def typed(self, value: float, *, inches: bool = False) -> str:
        """As somebody would type just this value: as `write`, but never rounded to what can be set."""
        return self.write(value, inches=inches)

    def finer(self, value: float) -> str:
        """More exactly than `write`, where that rounds to what can be set; else nothing."""
        return ""

    def stepped(self, value: float, by: int) -> float:
        """The value so many presses on."""
        if self.ratio:
            return float(value * self.step**by)
        return float((round(value * self.per / self.step) + by) * self.step / self.per)


@dataclass(frozen=True, slots=True, kw_only=True)
class Length(Unit):
    """Metres inside. per: 100 shows centimetres or inches, 1 metres or feet, 1000 always millimetres."""

    def read(self, text: str, *, inches: bool = False) -> float:
        told = plain(text)
        feet = re.fullmatch(r"(\S+)\s*(?:'|ft|feet|foot)\s*(?:(.+?)\s*(?:\"|in|inch|inches)?)?", told)
        if feet:
            whole, rest = number(feet[1]), number(feet[2]) if feet[2] else 0.0
            if whole is not None and rest is not None:
                return (12 * whole + rest) * CM_PER_INCH / 100
        found = re.fullmatch(r"(.*?)\s*(mm|cm|m|km|in|inch|inches|\")?", told)
        value = number(found[1]) if found else None
        if found is None or value is None:
            raise DomainError(f"{text[:40]!r} is no length; write it as {self.example}.")
        return value * (_METRES[found[2]] if found[2] else self._own(inches))

    def _own(self, inches: bool) -> float:
        if not inches or self.per == 1000:
            return 1 / self.per
        return CM_PER_INCH / 100 if self.per == 100 else 12 * CM_PER_INCH / 100

    def write(self, value: float, *, inches: bool = False) -> str:
        name = {1000: "mm", 100: "in" if inches else "cm"}.get(int(self.per), "ft" if inches else "m")
        told = value / self._own(inches)
        if self.per == 1 and 0 < abs(value) < self._own(inches):
            return f"{_tape(value / (CM_PER_INCH / 100 if inches else 0.01))} {'in' if inches else 'cm'}"
        if name == "cm" and FAR_CM <= abs(told) < math.inf:
            return f"{figures(value)} m"
        return f"{_tape(told) if name in ('cm', 'in') else figures(told, digits=3 if abs(told) >= 0.1 else 2)} {name}"


FAR_CM = 1000
"""From here on metres are said."""


def _tape(told: float) -> str:
    """As far as a tape is read: to a millimetre, below a centimetre to a tenth of that."""
    return figures(told, digits=4 if abs(told) >= 100 else 3 if abs(told) >= 10 else 2)


_METRES = {
    "mm": 0.001, "cm": 0.01, "m": 1.0, "km": 1000.0, "in": CM_PER_INCH / 100, "inch": CM_PER_INCH / 100,
    "inches": CM_PER_INCH / 100, '"': CM_PER_INCH / 100,
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Clock(Unit):
    """Hours after midnight inside: 14:05."""

    def read(self, text: str, *, inches: bool = False) -> float:
        found = re.fullmatch(r"([0-9]{1,2})(?::([0-9]{2}))?", plain(text))
        if not found or int(found[1]) > 23 or int(found[2] or 0) > 59:
            raise DomainError(f"{text[:20]!r} is no time of day; write it as {self.example}.")
        return int(found[1]) + int(found[2] or 0) / 60

    def write(self, value: float, *, inches: bool = False) -> str:
        minutes = round(value * 60) % 1440
        return f"{minutes // 60:02d}:{minutes % 60:02d}"

    def stepped(self, value: float, by: int) -> float:
        return ((round(value * 4) + by) / 4) % 24


@dataclass(frozen=True, slots=True, kw_only=True)
class Date(Unit):
    """Days after 1 January 2000 inside: 2026-06-21."""

    def read(self, text: str, *, inches: bool = False) -> float:
        from datetime import date

        try:
            return float((date.fromisoformat(plain(text)) - date(2000, 1, 1)).days)
        except ValueError:
            raise DomainError(f"{text[:20]!r} is no date; write it as {self.example}.") from None

    def write(self, value: float, *, inches: bool = False) -> str:
        from datetime import date, timedelta

        return (date(2000, 1, 1) + timedelta(days=round(value))).isoformat()


@dataclass(frozen=True, slots=True, kw_only=True)
class Choice(Unit):
    """One word out of several."""

    words: tuple[str, ...] = ()

    def read(self, text: str, *, inches: bool = False) -> str:  # type: ignore[override]
        told = plain(text)
        for word in self.words:
            if plain(word) == told:
                return word
        raise DomainError(f"{text[:40]!r} is not known; choose {', '.join(self.words[:-1])} or {self.words[-1]}.")

    def write(self, value: str, *, inches: bool = False) -> str:  # type: ignore[override]
        return value

    def stepped(self, value: str, by: int) -> str:  # type: ignore[override]
        return self.words[(self.words.index(value) + by) % len(self.words)]


MOST_LISTED = 24


@dataclass(frozen=True, slots=True, kw_only=True)
class Listed(Unit):
    """Several of a kind, with commas between: 'full grid cloth, 2 x single net' or 'f/5.6, f/8'. known: names with what they
    stand for; else each is read by `of`."""

    of: Unit | None = None
    known: Mapping[str, float] = field(default_factory=dict)

    def read(self, text: str, *, inches: bool = False) -> tuple[float, ...] | tuple[str, ...]:  # type: ignore[override]
        parts = [part.strip() for part in text[:1000].split(",") if part.strip()]
        if len(parts) > MOST_LISTED:
            raise DomainError(f"{len(parts)} are listed; at most {MOST_LISTED} are taken.")
        if self.of is not None:
            return tuple(self.of.read(part, inches=inches) for part in parts)
        names: list[str] = []
        for part in parts:
            found = re.fullmatch(r"(?:([0-9])\s*[x×]\s*)?(.+)", plain(part))
            name = next((known for known in self.known if found and plain(known) == found[2].strip()), None)
            if found is None or name is None:
                raise DomainError(f"{part[:40]!r} is not known; choose of: {', '.join(self.known)}.")
            names += [name] * int(found[1] or 1)
        return tuple(names)

    def stepped(self, value: tuple, by: int) -> tuple:  # type: ignore[override]
        """A list has no next one."""
        return value

    def write(self, value: tuple, *, inches: bool = False) -> str:  # type: ignore[override]
        return ", ".join(self.of.write(one, inches=inches) if self.of else one for one in value)
