"""What a kind of movable thing says of itself: its word in the shot file, measures, how it is made and how a new one stands."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from fotaxis.core.lights.fixtures import Card, Emission, Light, Stance
from fotaxis.core.measures import AnyMeasure, Measure, size

LIGHTS, CARDS = "lights", "cards"
"""The lists of a shot."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Placed:
    """What every movable thing has."""

    key: str
    name: str
    stance: Stance


@dataclass(frozen=True, slots=True, kw_only=True)
class ModifierKind:
    """One kind of light, card, sheet or net.

    key: its word in the file; names: the words where it goes by several (cards by what they are of); group: the list of a shot;
    about: one sentence for the schema; make, make_light: from the values of a shot file, lights with their emission; None where the
    format has a part of its own. begins: a new one as in a shot file, {} where it is added under other names; menu: among what
    it is offered.
    """

    key: str
    group: str
    about: str
    measures: tuple[AnyMeasure, ...] = ()
    names: tuple[str, ...] = ()
    make: Callable[[Placed, Mapping[str, Any]], Card] | None = None
    make_light: Callable[[Placed, Emission, Mapping[str, Any]], Light] | None = None
    begins: Mapping[str, Any] = field(default_factory=dict)
    menu: str = ""


FACE = (size("width_cm", "Width", part="place"), size("height_cm", "Height", part="place"))
"""Measures of a rectangular face."""


def grid_angle(*, usual: float | None) -> Measure:
    """Full angle of a grid; usual 0: may be left away."""
    if usual is None:
        return Measure(name="grid_angle_deg", words="Grid", unit="°", low=0, above=True, least=5, most=90)
    return Measure(name="grid_angle_deg", words="Grid, 0 none", unit="°", low=0, high=90, usual=usual, least=0)
