"""What a calculation is made of: its quantities, how each unknown follows from the others, and what is said about it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from types import SimpleNamespace
from typing import Any

from fotaxis.core.reckoner.quantity import Quantity

Given = SimpleNamespace
"""Values by the names of their quantities, SI."""

EXPOSURE, LIGHT, COLOUR, LENS, TIME, SET = "Exposure", "Light", "Colour", "Lens", "Time", "Set"
GROUPS = (EXPOSURE, LIGHT, COLOUR, LENS, TIME, SET)


def _nothing(_: Given) -> dict[str, Any]:
    return {}


def _no_words(_: Given) -> Sequence[str]:
    return ()


def _no_picture(_: Given) -> dict[str, Any] | None:
    return None


@dataclass(frozen=True, slots=True, kw_only=True)
class Calculation:
    """asks: quantities in the order in which they are thought of.

    unknowns: those that may be asked for, each with how it follows from all others; the first is asked for where nothing is said.
    gives: what also follows once all is known, by `beside`. says: sentences about it; cautions: what to mind.
    idle: by unknown, what does not count then and is not asked; it is None in what `beside` and the others are given.
    formula, limits, source: shown on request.
    also: other words people look for it by.
    """

    key: str
    name: str
    group: str
    words: str
    asks: tuple[Quantity, ...]
    unknowns: Mapping[str, Callable[[Given], float]]
    formula: str
    source: str
    limits: str = ""
    also: str = ""
    gives: tuple[Quantity, ...] = ()
    idle: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    beside: Callable[[Given], dict[str, Any]] = field(default=_nothing)
    says: Callable[[Given], Sequence[str]] = field(default=_no_words)
    cautions: Callable[[Given], Sequence[str]] = field(default=_no_words)
    picture: Callable[[Given], dict[str, Any] | None] = field(default=_no_picture)

    @property
    def by_name(self) -> dict[str, Quantity]:
        """What is asked, by name."""
        return {one.name: one for one in self.asks}
