"""Measured lamps: IES LM-63 files (1986 to 2019), read into intensity over the angle off the axis.

Source: ANSI/IES LM-63, Standard File Format for the Electronic Transfer of Photometric Data: its keywords and order of fields.
A lamp that is not round is taken as the mean over all directions about its axis; how far it is from round is said.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

import numpy as np

from fotaxis.core.errors import FormatError
from fotaxis.core.values import Array

MAX_BYTES = 1_000_000
MOST_ANGLES = 1000
STEPS = 91
TYPE_C, TYPE_B, TYPE_A = 1, 2, 3
FOOT_M = 0.3048
KEYWORD = re.compile(r"^\s*\[([^\]]{1,60})\]\s*(.*)$")


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasuredLamp:
    """What a lamp file says.

    name: its luminaire, lamp or test; angles_deg from the axis, 0 to 90, and candela there, mean over all directions about it;
    diameter_m: of a round opening of the same area, 0 where none is given; uneven: largest difference from the mean about the
    axis, as a share of the greatest intensity; keywords: [NAME] lines.
    """

    name: str
    angles_deg: tuple[float, ...]
    candela: tuple[float, ...]
    diameter_m: float
    uneven: float
    keywords: dict[str, str]


def parse(data: bytes) -> MeasuredLamp:
    """A measured lamp from a file's bytes. Raises FormatError with the place: too long, another format, a wrong number."""
    if len(data) > MAX_BYTES:
        raise FormatError(f"the file is larger than {MAX_BYTES:,} bytes; a lamp file is a short text.")
    lines = data.decode("latin-1").replace("\r\n", "\n").replace("\r", "\n").split("\n")
    tilt = next((i for i, line in enumerate(lines) if line.strip().upper().startswith("TILT=")), None)
    if tilt is None:
        raise FormatError("there is no TILT= line, so this is no LM-63 lamp file (.ies).")
    keywords = _keywords(lines[:tilt])
    kind = lines[tilt].split("=", 1)[1].strip().upper()
    if kind not in ("NONE", "INCLUDE"):
        raise FormatError(
            "its TILT data stand in a file of their own, which was not sent; export the lamp with TILT=NONE or INCLUDE.",
            place=f"line {tilt + 1}",
        )
    numbers = _Numbers(lines, tilt + 1)
    if kind == "INCLUDE":
        numbers.take(1)
        pairs = numbers.count("pairs of tilt angles")
        numbers.take(2 * pairs)
    return _measured(numbers, keywords)


def _keywords(lines: list[str]) -> dict[str, str]:
    found: dict[str, str] = {}
    last = ""
    for line in lines:
        match = KEYWORD.match(line)
        if not match:
            continue
        name, words = match[1].strip().upper(), match[2].strip()
        if name == "MORE" and last:
            found[last] += " " + words
        else:
            last = name
            found[name] = words
    return found


class _Numbers:
    """The numbers after the TILT line, with the line each stands on."""

    def __init__(self, lines: list[str], begin: int) -> None:
        self._words = [
            (word, i + 1) for i, line in enumerate(lines[begin:], begin) for word in re.split(r"[\s,]+", line) if word
        ]
        self._at = 0

    def take(self, count: int) -> Array:
        """The next `count` numbers."""
        if self._at + count > len(self._words):
            place = f"line {self._words[-1][1]}" if self._words else "after TILT"
            raise FormatError(f"the file ends {self._at + count - len(self._words)} numbers too early.", place=place)
        values = []
        for word, line in self._words[self._at : self._at + count]:
            try:
                value = float(word)
            except ValueError:
                raise FormatError(f"{word[:20]!r} is not a number.", place=f"line {line}") from None
            if not math.isfinite(value):
                raise FormatError(f"{word[:20]!r} is not a number that can be measured.", place=f"line {line}")
            values.append(value)
        self._at += count
        return np.array(values)

    def count(self, what: str) -> int:
        """The next number, a count of at most 1000."""
        line = self._words[self._at][1] if self._at < len(self._words) else 0
        value = float(self.take(1)[0])
        if not (value.is_integer() and 1 <= value <= MOST_ANGLES):
            raise FormatError(f"{value:g} {what}; there must be 1 to {MOST_ANGLES}.", place=f"line {line}")
        return int(value)


def _measured(numbers: _Numbers, keywords: dict[str, str]) -> MeasuredLamp:
    _, _, multiplier = numbers.take(3)
    n_vertical, n_horizontal = numbers.count("vertical angles"), numbers.count("horizontal angles")
    photometry, units = (int(v) for v in numbers.take(2))
    if photometry not in (TYPE_C, TYPE_B, TYPE_A):
        raise FormatError(f"photometric type {photometry} is not known; LM-63 has 1 (C), 2 (B) and 3 (A).")
    width, length, _ = numbers.take(3) * (FOOT_M if units == 1 else 1.0)
    ballast, _, _ = numbers.take(3)
    vertical, horizontal = numbers.take(n_vertical), numbers.take(n_horizontal)
    for what, angles in (("vertical", vertical), ("horizontal", horizontal)):
        if (np.diff(angles) <= 0).any() or np.abs(angles).max() > 360:
            raise FormatError(f"the {what} angles do not rise from one to the next.")
    candela = numbers.take(n_vertical * n_horizontal).reshape(n_horizontal, n_vertical) * multiplier * ballast
    if (candela < 0).any() or not candela.max() > 0:
        raise FormatError("intensities must be 0 or more, and some more than 0.")
    off_axis = np.linspace(0.0, 90.0, STEPS)
    sampled = _about_axis(photometry, vertical, horizontal, candela, off_axis)
    mean = sampled.mean(axis=0)
    if not mean[0] > 0:
        raise FormatError("there is no light on the lamp's axis; turn the lamp file's axis to where it shines.")
    name = next((keywords[k] for k in ("LUMINAIRE", "LUMCAT", "LAMP", "TEST") if keywords.get(k)), "Measured lamp")
    return MeasuredLamp(
        name=name[:60], angles_deg=tuple(off_axis.tolist()), candela=tuple(mean.tolist()),
        diameter_m=_opening(float(width), float(length)), uneven=float(np.abs(sampled - mean).max() / sampled.max()),
        keywords=keywords,
    )  # fmt: skip


def _opening(width: float, length: float) -> float:
    """Diameter of a round opening; negative sizes are diameters, two positive ones the sides of a rectangle."""
    if width < 0 or length < 0:
        return max(-width, -length)
    return math.sqrt(4 * width * length / math.pi)


def _about_axis(photometry: int, vertical: Array, horizontal: Array, candela: Array, off_axis: Array) -> Array:
    """Intensity on circles about the axis, (directions, angles); candela (horizontal, vertical)."""
    if photometry == TYPE_C:
        # The axis is the nadir, angle 0; the planes are given for a quarter, half or all of the circle, or one for all.
        around = np.linspace(0, 360, 72, endpoint=False)
        span = horizontal[-1] - horizontal[0]
        folded = around
        if len(horizontal) == 1:
            folded = np.full_like(around, horizontal[0])
        elif span <= 90:
            folded = np.abs((around + 90) % 180 - 90)
        elif span <= 180:
            folded = np.abs((around + 180) % 360 - 180)
        return _between(horizontal, vertical, candela, folded[:, None] + 0 * off_axis, 0 * folded[:, None] + off_axis)
    # Types A and B: horizontal angle about the vertical axis (A: within the plane of the axis), 0 and 0 on the axis.
    turn = np.radians(np.linspace(0, 360, 72, endpoint=False))[:, None]
    a = np.radians(off_axis)
    x, y, z = np.sin(a) * np.cos(turn), np.sin(a) * np.sin(turn), np.cos(a) + 0 * turn
    if photometry == TYPE_B:
        h, v = np.degrees(np.arcsin(np.clip(x, -1, 1))), np.degrees(np.arctan2(y, z))
    else:
        h, v = np.degrees(np.arctan2(x, z)), np.degrees(np.arcsin(np.clip(y, -1, 1)))
    if horizontal[0] >= 0:
        h = np.abs(h)
    if vertical[0] >= 0:
        v = np.abs(v)
    return _between(horizontal, vertical, candela, h, v)


def _between(horizontal: Array, vertical: Array, candela: Array, h: Array, v: Array) -> Array:
    """Straight lines between the measured angles; beyond them no light across, the last plane around."""
    i = np.clip(np.searchsorted(horizontal, h) - 1, 0, max(len(horizontal) - 2, 0))
    j = np.clip(np.searchsorted(vertical, v) - 1, 0, max(len(vertical) - 2, 0))
    i1, j1 = np.minimum(i + 1, len(horizontal) - 1), np.minimum(j + 1, len(vertical) - 1)
    a = np.clip((h - horizontal[i]) / np.maximum(horizontal[i1] - horizontal[i], 1e-9), 0, 1)
    b = np.clip((v - vertical[j]) / np.maximum(vertical[j1] - vertical[j], 1e-9), 0, 1)
    value = (1 - a) * ((1 - b) * candela[i, j] + b * candela[i, j1]) + a * ((1 - b) * candela[i1, j] + b * candela[i1, j1])
    inside = (v >= vertical[0] - 1e-6) & (v <= vertical[-1] + 1e-6)
    return np.where(inside, value, 0.0)
