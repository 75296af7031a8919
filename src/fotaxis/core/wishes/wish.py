"""What every wish says: whether the frame meets it, in words, and what of it powers can bring about."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from fotaxis.core.frames.readings.reading import Value
from fotaxis.core.frames.whole_picture import WholePicture
from fotaxis.core.measures import AnyMeasure, Measure

MET, OPEN, UNSEEN, CONTRADICTED = "met", "open", "not seen", "contradicted"


@dataclass(frozen=True, slots=True, kw_only=True)
class Judged:
    """state: MET, OPEN, UNSEEN (its reading reads nothing) or CONTRADICTED (another wish rules it out); figure: what it is now, in few
    words; words: in full."""

    state: str
    figure: str
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Seen:
    """What wishes are judged by: values and names of the shot's readings by key; whole: the picture as a whole, None where it was not
    looked over; lights: names of the lights in the order of a value's shares, the room's before them left out."""

    values: Mapping[str, Value | None]
    names: Mapping[str, str]
    whole: WholePicture | None = None
    lights: Sequence[str] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Figure:
    """A number a wish is about; visible: by how much it changes before anybody sees it; unit: stops, or a share."""

    name: str
    value: float
    visible: float
    unit: str


VISIBLE_STOPS = 0.1
VISIBLE_OF_WIDTH = 0.01
"""A change that is just seen: a tenth of a stop, a hundredth of the product's width. Common practice."""


UNMET = 5.0
"""What a wish counts that is not met by nobody knows how much."""


@dataclass(frozen=True, slots=True, kw_only=True)
class LevelTarget:
    """What of a wish powers decide: the level of a reading, or of one over another, stops.

    side: 0 at that level, -1 at most, 1 at least; within: how far off still counts as met.
    """

    reading: str
    over: str = ""
    stops: float
    within: float
    side: int = 0

    def gap(self, stops: float) -> float:
        """How far a level is from what is wished for: 0 where a side allows it."""
        off = stops - self.stops
        if self.side:
            return max(0.0, off) if self.side < 0 else min(0.0, off)
        return off


class Wish:
    """A wish for the picture."""

    __slots__ = ()

    def judge(self, seen: Seen) -> Judged:
        """Does the picture show it?"""
        raise NotImplementedError

    def figures(self, seen: Seen) -> tuple[Figure, ...]:
        """The numbers it is about, for how delicate they are; none where it has none or is not seen."""
        return ()

    def lack(self, seen: Seen) -> float:
        """How far it is from being met, in its tolerances: 0 where it is."""
        return 0.0 if self.judge(seen).state == MET else UNMET

    @property
    def whole(self) -> bool:
        """Must the whole picture be looked over to judge it?"""
        return False

    @property
    def target(self) -> LevelTarget | None:
        """What powers can do about it; None for nothing."""
        return None

    @property
    def words(self) -> str:
        """What is wished for, after the name of its reading."""
        raise NotImplementedError


@dataclass(frozen=True, slots=True, kw_only=True)
class NamedWish:
    """A wish that is kept with the shot."""

    key: str
    kind: str
    wish: Wish


@dataclass(frozen=True, slots=True, kw_only=True)
class WishKind:
    """A kind of wish: its word in the shot file, the fields that name readings, measures, how it is made; add: what the page calls
    adding one; readings: the kinds of reading it is about."""

    key: str
    about: str
    refs: tuple[str, ...]
    measures: tuple[AnyMeasure, ...]
    make: Callable[[Mapping[str, Any]], Wish]
    add: str
    readings: tuple[str, ...]


def stops_within(usual: float) -> Measure:
    """How far off still counts as met."""
    return Measure(name="within", words="Within", unit="stops", low=0.05, high=4, usual=usual, step=0.05)


SIDES = ("at", "at most", "at least")


def missing(names: Mapping[str, str], *keys: str) -> Judged:
    """What is told of a wish whose readings read nothing."""
    gone = next((key for key in keys if key not in names), "")
    words = "its reading was taken away: choose another" if gone else "not seen in this frame"
    return Judged(state=UNSEEN, figure="—", words=words)


def lit(values: Mapping[str, Value | None], key: str) -> float | None:
    """The level that a reading reads, stops from grey; None for none."""
    value = values.get(key)
    return None if value is None else value.level_stops
