"""What a kind of thing says of its measures: names as in the shot file, words and units for the page, limits, usual values.

Formats, pages, pairs and the schema derive their fields from these, so that a measure is told once.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True, slots=True, kw_only=True)
class Measure:
    """A number. name: in the shot file, its unit ends it; low, high: allowed, `above` excludes the low end itself.

    usual: what it is where nothing is said; None where it must be given. step, least, most: of the field on the page, least and most
    where they are not low and high.
    part: the group of fields of a thing it stands in (place, shape).
    """

    name: str
    words: str
    unit: str
    low: float | None = None
    above: bool = False
    high: float | None = None
    usual: float | None = None
    step: float = 1
    least: float | None = None
    most: float | None = None
    part: str = "shape"


@dataclass(frozen=True, slots=True, kw_only=True)
class Choice:
    """A word out of a list. what: what the list is of, for the sentence that refuses another; known: from a catalogue, checked by
    name, or a closed list of the format."""

    name: str
    words: str
    choices: tuple[str, ...]
    what: str = ""
    usual: str | None = None
    part: str = "shape"


@dataclass(frozen=True, slots=True, kw_only=True)
class Flag:
    """Yes or no."""

    name: str
    words: str
    usual: bool = False
    part: str = "shape"


AnyMeasure = Measure | Choice | Flag


def size(name: str, words: str, *, step: float = 1, least: float = 0.1, part: str = "shape") -> Measure:
    """A length in centimetres that must be given, and be more than nothing."""
    return Measure(name=name, words=words, unit="cm", low=0, above=True, step=step, least=least, part=part)


def metres(values: Mapping[str, Any], name: str) -> float:
    """A length of a shot file in metres: its name ends in cm, mm or m."""
    per = {"cm": 100.0, "mm": 1000.0, "m": 1.0}[name.rsplit("_", 1)[-1]]
    return float(values[name]) / per
