"""Measured outlines as CSV or typed text: one height and one diameter per line, centimetres."""

from __future__ import annotations

import csv
import io
import math

from fotaxis.core.errors import DomainError, FormatError
from fotaxis.core.geometry.profile import MAX_POINTS, Profile

MAX_BYTES = 200_000


def parse(text: str) -> list[tuple[float, float]]:
    """(height_cm, diameter_cm) pairs in the order given, checked as a Profile.

    Separators: comma, semicolon, tab or blanks; decimal comma when another separator is used. A first line of words
    is taken as a heading; empty lines and lines starting with # are passed over. Raises FormatError with the line.
    """
    if len(text) > MAX_BYTES:
        raise FormatError(f"the text is longer than {MAX_BYTES:,} characters; an outline needs at most {MAX_POINTS} lines.")
    pairs: list[tuple[float, float]] = []
    for number, line in enumerate(io.StringIO(text, newline=None), start=1):
        stripped = line.strip().lstrip("\ufeff")
        if not stripped or stripped.startswith("#"):
            continue
        try:
            values = [float(cell) for cell in _cells(stripped)]
        except (ValueError, csv.Error):
            if not pairs and not any(ch.isdigit() for ch in stripped.split()[0]):
                continue
            raise FormatError(
                f"{stripped[:40]!r} is not two numbers; write height and diameter in cm, as 12.5, 7.4.",
                place=f"line {number}",
            ) from None
        if len(values) != 2:
            raise FormatError(
                f"{len(values)} numbers; write two, height and diameter in cm, as 12.5, 7.4.", place=f"line {number}"
            )
        if not all(map(math.isfinite, values)):
            raise FormatError("that is not a length that can be measured.", place=f"line {number}")
        pairs.append((values[0], values[1]))
        if len(pairs) > MAX_POINTS:
            raise FormatError(f"more than {MAX_POINTS} points; thin them out.", place=f"line {number}")
    return checked(pairs)


def _cells(line: str) -> list[str]:
    for separator in (";", "\t"):
        if separator in line:
            return [cell.strip().replace(",", ".") for cell in next(csv.reader([line], delimiter=separator))]
    if "," in line and " " in line.strip() and ", " not in line:
        return [cell.replace(",", ".") for cell in line.split()]
    if "," in line:
        return [cell.strip() for cell in next(csv.reader([line]))]
    return line.split()


def checked(pairs: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """Return pairs if they make a sane outline, else raise FormatError."""
    try:
        Profile(heights_m=tuple(h / 100 for h, _ in pairs), radii_m=tuple(d / 200 for _, d in pairs))
    except DomainError as error:
        raise FormatError(str(error)) from error
    return pairs


def text(pairs: list[tuple[float, float]]) -> str:
    """Pairs as the lines `parse` reads."""
    return "\n".join(f"{h:g}, {d:g}" for h, d in pairs)
