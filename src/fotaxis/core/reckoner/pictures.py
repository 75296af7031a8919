"""What is drawn beside a calculation, as plain data: a scale of stops, a curve, a view of things to scale.

The page draws it; nothing here knows of pixels.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

Drawn = dict[str, Any]
SAMPLES = 60


def mark(at: float, words: str, *, strong: bool = False) -> Drawn:
    """A place on a scale."""
    return {"at": at, "words": words, "strong": strong}


def scale(
    words: str, marks: Sequence[Drawn], *, low: float, high: float, bars: Sequence[tuple[float, float, str]] = ()
) -> Drawn:
    """A scale of stops from low to high, or as far as its marks reach, with named marks; bars: from, to, words."""
    places = [one["at"] for one in marks] + [end for a, b, _ in bars for end in (a, b)]
    return {"kind": "scale", "words": words, "low": min([low, *places]), "high": max([high, *places]), "marks": list(marks),
            "bars": [{"from": a, "to": b, "words": w} for a, b, w in bars]}  # fmt: skip


def curve(
    words: str, function: Callable[[float], float], *, low: float, high: float, x: str, y: str,
    at: Sequence[tuple[float, float, str]] = (), more: Sequence[tuple[Callable[[float], float], str]] = (),
        across: Sequence[tuple[float, str]] = (),
) -> Drawn:  # fmt: skip
    """One or more curves over low to high; at: points with words; across: levels drawn as lines."""
    xs = [low + (high - low) * i / SAMPLES for i in range(SAMPLES + 1)]
    lines = [{"points": [[x_at, f(x_at)] for x_at in xs], "words": name} for f, name in ((function, ""), *more)]
    return {"kind": "curve", "words": words, "x": x, "y": y, "lines": lines,
            "at": [{"x": a, "y": b, "words": w} for a, b, w in at], "across": [{"y": b, "words": w} for b,
            w in across]}  # fmt: skip


def line(x1: float, y1: float, x2: float, y2: float, *, style: str = "", words: str = "") -> Drawn:
    """A line in metres. style: '', light (a ray), thing, ghost, measure, ground."""
    return {"kind": "line", "x1": x1, "y1": y1, "x2": x2, "y2": y2, "style": style, "words": words}


def shape(points: Sequence[tuple[float, float]], *, style: str = "thing", words: str = "") -> Drawn:
    """A closed outline in metres. style: thing, light, ghost, area."""
    return {"kind": "shape", "points": [list(p) for p in points], "style": style, "words": words}


def box(x: float, y: float, width: float, height: float, *, style: str = "thing", words: str = "") -> Drawn:
    """An upright rectangle by its middle."""
    w, h = width / 2, height / 2
    return shape([(x - w, y - h), (x + w, y - h), (x + w, y + h), (x - w, y + h)], style=style, words=words)


def round_(x: float, y: float, radius: float, *, style: str = "thing", words: str = "") -> Drawn:
    """A circle."""
    return {"kind": "round", "x": x, "y": y, "r": radius, "style": style, "words": words}


def view(words: str, parts: Sequence[Drawn]) -> Drawn:
    """Things to scale, seen from the side or from above; x right, y up."""
    return {"kind": "view", "words": words, "parts": list(parts)}
