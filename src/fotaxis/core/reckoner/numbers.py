"""Numbers as people type them: 1 1/3, ⅔, 0,5, −2."""

from __future__ import annotations

import math
import re

THOUSANDS = "\u202f"
"""A narrow space between thousands, which no line breaks at."""

GLYPHS = {"⅓": "1/3", "⅔": "2/3", "½": "1/2", "¼": "1/4", "¾": "3/4"}
PLAIN = r"[0-9]+(?:\.[0-9]*)?|\.[0-9]+"
_NUMBER = re.compile(rf"([+-]?)\s*(?:({PLAIN})\s*/\s*({PLAIN})|({PLAIN})(?:\s+({PLAIN})\s*/\s*({PLAIN}))?)")
LONGEST = 200
"""No answer needs more to be typed."""


def plain(text: str) -> str:
    """The same with one kind of minus, decimal point and fraction, in small letters."""
    text = text[:LONGEST].strip().lower().replace("−", "-").replace("–", "-").replace(THOUSANDS, "")
    for glyph, fraction in GLYPHS.items():
        text = text.replace(glyph, f" {fraction}")
    return re.sub(r"(?<=[0-9]),(?=[0-9])", ".", text).strip()


def number(text: str) -> float | None:
    """The number that a plain text is: '-1 1/3', '+0.5', '3/4'; None where it is none."""
    found = _NUMBER.fullmatch(text.strip())
    if not found:
        return None
    sign, over, under, whole, part, of = found.groups()
    if (under is not None and float(under) == 0) or (of is not None and float(of) == 0):
        return None
    value = float(over) / float(under) if under else float(whole) + (float(part) / float(of) if of else 0.0)
    return -value if sign == "-" else value


def figures(value: float, *, digits: int = 3) -> str:
    """A number with as many figures as are of use, never fewer than its whole part: 128, 12.5, 0.083."""
    if not math.isfinite(value):
        return "∞" if value > 0 else "−∞"
    if value == 0 or abs(value) < 1e-9:
        return "0"
    places = max(0, digits - 1 - math.floor(math.log10(abs(value)) + 1e-9))
    text = f"{abs(value):,.{places}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    text = text.replace(",", THOUSANDS if abs(value) >= 10_000 else "")
    return ("−" if value < 0 else "") + text
