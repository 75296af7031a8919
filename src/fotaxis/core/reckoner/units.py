"""Units as one thinks in them: how a quantity is typed, shown, and moved by one step.

Inside everything is SI and radians; f-numbers, speeds and times on a camera are the exact series behind their nominal names.
"""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from fotaxis.core.camera.nominal_scales import (
    F_NUMBERS,
    exact_f_number,
    f_number_name,
    f_number_with_tenths,
    shutter_choices,
)
from fotaxis.core.errors import DomainError
from fotaxis.core.reckoner.numbers import PLAIN, THOUSANDS, figures, number, plain
from fotaxis.core.stops import power_name, thirds_name

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


F_NUMBER = FNumber(key="f_number", example="8, f/5.6 or 8 +1/3")
ISO = Iso(key="iso", example="100")
SHUTTER = Shutter(key="shutter", example="1/125 or 0.5 s")
LOST = Stops(key="stops", name="stops", example="1 1/3", also=("stop",), signed=False)
FRACTION = Time(key="time", example="1/2000 or 12 ms", fraction=True)
TIME = Time(key="time", example="1/2000, 12 ms, 3.5 s or 2 min")
STOPS = Stops(key="stops", name="stops", example="+1 1/3 or −0.7", also=("stop",))
POWER = Power(key="power", example="1/8, 1/8 +1/3, −3 or 12 %")
CM = Length(key="length", per=100, step=5, example="120 cm, 1.2 m or 48 in")
MM = Length(key="length", per=1000, step=1, example="85 mm")
METRES = Length(key="length", per=1, step=0.1, example="1.2 m, 120 cm or 4 ft")
ANGLE = Unit(key="angle", name="°", per=180 / math.pi, digits=3, example="40°", also=("deg", "degrees"))
PERCENT = Unit(key="percent", name="%", per=100, step=5, digits=3, example="90 %")
COUNT = Unit(key="count", whole=True, example="3")
RATIO = Unit(key="number", step=0.1, digits=3, example="1.5")
KELVIN = Unit(key="kelvin", name="K", step=100, digits=4, example="5600 K")
MIRED = Unit(key="mired", name="mired", step=5, digits=3, example="+42 or −131")
LUX = Unit(key="lux", name="lx", step=1.26, ratio=True, digits=3, example="320 lx", also=("lux",))
CANDELA = Unit(key="candela", name="cd", step=1.26, ratio=True, digits=3, example="4000 cd")
KILOGRAMS = Unit(key="mass", name="kg", step=0.5, digits=3, example="4.5 kg")
WATTS = Unit(key="watts", name="W", step=50, digits=4, example="500 W")
AMPERES = Unit(key="amperes", name="A", digits=3, example="16 A")
VOLTS = Unit(key="volts", name="V", step=10, digits=3, example="230 V")
SQUARE_MM = Unit(key="section", name="mm²", per=1, step=0.5, digits=3, example="2.5", also=("mm2",))
JOULES = Unit(key="energy", name="Ws", step=50, digits=4, example="400 Ws", also=("j",))
SPEED = Unit(key="speed", name="m/s", step=0.1, digits=3, example="2 m/s")
HERTZ = Unit(key="frequency", name="Hz", step=10, digits=3, example="50 Hz")
FRAMES = Unit(key="rate", name="fps", step=1, digits=4, example="50 fps")
PIXELS = Unit(key="pixels", name="px", step=100, digits=4, example="6000")
PER_INCH = Unit(key="per_inch", name="ppi", step=10, digits=4, example="300 ppi", also=("dpi",))
LATITUDE = Unit(key="degrees", name="°", per=1, step=1, digits=5, example="52.5 (south and west with a minus)")
HOURS = Unit(key="hours", name="h", per=1, step=1, digits=3, example="+1")
CLOCK = Clock(key="clock", example="14:05")
DATE = Date(key="date", example="2026-06-21")


def choice(*words: str) -> Choice:
    """A list of words to choose from."""
    return Choice(key="choice", words=words)


def listed(of: Unit) -> Listed:
    """Several of a unit."""
    return Listed(key="list", of=of, example=f"{of.example.split(',')[0].split(' or ')[0]}, ...")


def named(known: Mapping[str, float]) -> Listed:
    """Several of a catalogue, by name."""
    return Listed(key="names", known=dict(known), example=", ".join(list(known)[:2]))
