"""Units of the camera and of heads: the exact series behind nominal names, stops, powers; and durations."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from fotaxis.core.camera.nominal_scales import (
    F_NUMBERS,
    exact_f_number,
    f_number_name,
    f_number_with_tenths,
    shutter_choices,
)
from fotaxis.core.errors import DomainError
from fotaxis.core.reckoner.numbers import PLAIN, THOUSANDS, figures, number, plain
from fotaxis.core.reckoner.unit import Unit
from fotaxis.core.stops import power_name, thirds_name

MOST_STOPS = 60
"""No exposure is told by more."""


@dataclass(frozen=True, slots=True, kw_only=True)
class FNumber(Unit):
    """5.6 is 4 √2; thirds of a stop, also as f/8 +⅓.  Source: ISO 517."""

    def read(self, text: str, *, inches: bool = False) -> float:
        told = re.sub(r"^f\s*/?\s*", "", plain(text))
        found = re.fullmatch(rf"({PLAIN})(?:\s*([+-])\s*(.+))?", told)
        more = number(found[3]) if found and found[3] else 0.0
        if not found or more is None or more > MOST_STOPS:
            raise DomainError(f"{text[:40]!r} is no f-number; write it as {self.example}.")
        value = exact_f_number(float(found[1]))
        return float(value * 2.0 ** ((more if found[2] != "-" else -more) / 2))

    def write(self, value: float, *, inches: bool = False) -> str:
        return (
            f_number_name(value) if F_NUMBERS[0] * 0.95 <= value <= F_NUMBERS[-1] * 1.05 else f"f/{figures(value, digits=2)}"
        )

    def typed(self, value: float, *, inches: bool = False) -> str:
        return f"f/{value:.4g}" if self.finer(value) else self.write(value)

    def finer(self, value: float) -> str:
        off = 2 * math.log2(value / exact_f_number(float(self.write(value)[2:].replace(THOUSANDS, ""))))
        return f_number_with_tenths(value) if abs(off) >= NEAR_STOPS else ""

    def stepped(self, value: float, by: int) -> float:
        return float(2.0 ** ((round(6 * math.log2(value)) + by) / 6))


NEAR_STOPS = 0.04
"""What was rounded by less is not told again."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Iso(Unit):
    """Speeds in thirds of a stop from 100: 64, 80, 100, 125."""

    def read(self, text: str, *, inches: bool = False) -> float:
        value = number(re.sub(r"^iso\s*", "", plain(text)))
        if value is None:
            raise DomainError(f"{text[:40]!r} is no ISO speed; write it as {self.example}.")
        if value <= 0:
            return value
        near = _exact_iso(value)
        return near if abs(_nominal_iso(near) - value) < 0.02 * value else value

    def write(self, value: float, *, inches: bool = False) -> str:
        return figures(_nominal_iso(value), digits=5)

    def typed(self, value: float, *, inches: bool = False) -> str:
        return f"{value:.4g}" if self.finer(value) else self.write(value)

    def finer(self, value: float) -> str:
        off = math.log2(value / _exact_iso(value))
        return f"{self.write(value)} {'+' if off > 0 else '−'}{abs(off):.1f}" if abs(off) >= NEAR_STOPS else ""

    def stepped(self, value: float, by: int) -> float:
        return float(_exact_iso(value) * 2.0 ** (by / 3))


def _exact_iso(value: float) -> float:
    return float(100 * 2.0 ** (round(3 * math.log2(value / 100)) / 3))


_ISO_TENS = (100, 125, 160, 200, 250, 320, 400, 500, 640, 800)


def _nominal_iso(value: float) -> float:
    """The name of the nearest third: 100, 125, 160, 200 ... 12 800."""
    thirds = round(3 * math.log2(value / 100))
    if 0 <= thirds < len(_ISO_TENS):
        return float(_ISO_TENS[thirds])
    if -9 <= thirds < 0:
        return (12, 16, 20, 25, 32, 40, 50, 64, 80)[thirds + 9]
    return float(_ISO_TENS[thirds % 3] * 2 ** (thirds // 3))


@dataclass(frozen=True, slots=True, kw_only=True)
class Shutter(Unit):
    """Seconds inside: 1/125 is 2⁻⁷ s; in thirds from 30 s down."""

    def read(self, text: str, *, inches: bool = False) -> float:
        value = _seconds(text, self.example)
        for name, exact in _SHUTTERS:
            if value > 0 and abs(math.log2(value / _nominal_s(name))) < 0.01:
                return exact
        return value

    def write(self, value: float, *, inches: bool = False) -> str:
        if 0 < value < 30 * 1.1:
            return min(_SHUTTERS, key=lambda one: abs(math.log2(one[1] / value)))[0] if value > 2**-13.5 else _time(value)
        return _time(value)

    def typed(self, value: float, *, inches: bool = False) -> str:
        return (f"1/{1 / value:.4g} s" if value < 1 else f"{value:.4g} s") if self.finer(value) else self.write(value)

    def finer(self, value: float) -> str:
        near = self.read(self.write(value))
        return _time(value) if abs(math.log2(near / value)) >= NEAR_STOPS else ""

    def stepped(self, value: float, by: int) -> float:
        return float(2.0 ** ((round(3 * math.log2(value)) + by) / 3))


def _nominal_s(name: str) -> float:
    return number(name.removesuffix(" s")) or 1.0


_SHUTTERS = [
    *shutter_choices(),
    *((f"1/{name} s", 2.0 ** (-10 - (i + 1) / 3)) for i, name in enumerate(
        (1250, 1600, 2000, 2500, 3200, 4000, 5000, 6400, 8000, 10000))),
]  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Time(Unit):
    """A duration: 1/2000, 12 ms, 3.5 s, 2 min. fraction: as a shutter is written where it is short."""

    fraction: bool = False

    def read(self, text: str, *, inches: bool = False) -> float:
        return _seconds(text, self.example)

    def write(self, value: float, *, inches: bool = False) -> str:
        if not self.fraction and 0.004 <= value < 0.1:
            return f"{figures(value * 1000)} ms"
        return f"{figures(value)} s" if not self.fraction and 0.1 <= value < 0.4 else _time(value)

    def stepped(self, value: float, by: int) -> float:
        return float(value * 2.0 ** (by / 3))


_PER = {"": 1.0, "s": 1.0, "sec": 1.0, "ms": 1e-3, "µs": 1e-6, "us": 1e-6, "min": 60.0, "h": 3600.0}


def _seconds(text: str, example: str) -> float:
    told = plain(text)
    found = re.fullmatch(r"(.*?)\s*(sec|s|ms|µs|us|min|h)?", told)
    two = re.fullmatch(r"(.+?)\s*min\s*(.+?)\s*s", told)
    if two:
        minutes, rest = number(two[1]), number(two[2])
        if minutes is not None and rest is not None:
            return 60 * minutes + rest
    value = number(found[1]) if found else None
    if found is None or value is None:
        raise DomainError(f"{text[:40]!r} is no time; write it as {example}.")
    return value * _PER[found[2] or ""]


def _time(value: float) -> str:
    if not math.isfinite(value):
        return "∞"
    if value >= 5400:
        return f"{figures(value / 3600)} h"
    if value >= 120:
        minutes, seconds = divmod(round(value), 60)
        return f"{minutes} min {seconds} s" if seconds else f"{minutes} min"
    if value >= 0.4:
        return f"{figures(value)} s"
    if value >= 1e-5:
        return f"1/{figures(1 / value, digits=2 if value < 0.004 else 3)} s"
    return f"{figures(value * 1e6)} µs"


@dataclass(frozen=True, slots=True, kw_only=True)
class Stops(Unit):
    """Differences: +1⅓, −0.7. signed: said with a sign; else how many of something that goes one way, as a loss."""

    signed: bool = True

    def write(self, value: float, *, inches: bool = False) -> str:
        told = thirds_name(value).replace("0.0", "0")
        if not self.signed:
            told = told.removeprefix("+")
        return f"{told} stop{'' if told.lstrip('+−') in ('1', '⅓', '⅔', '½') else 's'}"

    def stepped(self, value: float, by: int) -> float:
        return (round(value * 3) + by) / 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Power(Unit):
    """Stops below full: 1/8, 1/8 +⅓, −3, 12 %, full; in thirds where it is one, else in tenths, which most heads have."""

    def read(self, text: str, *, inches: bool = False) -> float:
        told = plain(text)
        if told in ("full", "1"):
            return 0.0
        if told.endswith("%"):
            share = number(told[:-1].strip())
            if share and share > 0:
                return math.log2(share / 100)
        found = re.fullmatch(r"1\s*/\s*([0-9]+)(?:\s*([+-])\s*(.+))?", told)
        if found and int(found[1]) > 0:
            more = number(found[3]) if found[3] else 0.0
            if more is not None:
                return float(-round(math.log2(int(found[1])) * 3) / 3 + (more if found[2] != "-" else -more))
        value = number(told)
        if value is None:
            raise DomainError(f"{text[:40]!r} is no power; write it as {self.example}.")
        return value

    def write(self, value: float, *, inches: bool = False) -> str:
        if value > NEAR_STOPS:
            return f"{thirds_name(value)} over full"
        if value < -MOST_STOPS:  # two to the power of it would fill the memory
            return f"{figures(value)} stops from full"
        thirds = abs(value - round(value * 3) / 3) < NEAR_STOPS / 2
        return power_name(min(value, 0.0), steps_per_stop=3 if thirds else 10)

    def typed(self, value: float, *, inches: bool = False) -> str:
        written = self.write(value)
        return written if value > 0 or abs(self.read(written) - value) < NEAR_STOPS / 2 else f"{value:.2f}"

    def stepped(self, value: float, by: int) -> float:
        return (round(value * 3) + by) / 3
