"""Wishes for the picture, for the page: what is wished for, met or not, and what powers would do."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from fotaxis.core.frames.readings import NamedReading
from fotaxis.core.frames.readings.reading import Value
from fotaxis.core.measures import AnyMeasure, Choice, Measure
from fotaxis.core.scene.plan import Plan
from fotaxis.core.wishes import WISHES
from fotaxis.core.wishes.wish import NamedWish
from fotaxis.services import wishes
from fotaxis.services.wishes import Read


def wish_kinds() -> dict[str, dict[str, Any]]:
    """What the page needs of every kind: how adding one is called, the readings it is about, its fields."""
    return {
        kind.key: {
            "add": kind.add,
            "readings": list(kind.readings),
            "refs": list(kind.refs),
            "fields": [_field(m) for m in kind.measures],
        }
        for kind in WISHES.values()
    }


def _field(measure: AnyMeasure) -> dict[str, Any]:
    told: dict[str, Any] = {"name": measure.name, "words": measure.words}
    if isinstance(measure, Choice):
        return told | {"choices": list(measure.choices)}
    assert isinstance(measure, Measure), "a wish is told by numbers and words"
    return told | {"unit": measure.unit, "low": measure.low, "high": measure.high, "step": measure.step}


def told(
    plan: Plan, held: Sequence[str], named: Sequence[NamedWish], readings: Sequence[NamedReading],
    values: Mapping[str, Value | None], read: Read,
) -> dict[str, Any]:  # fmt: skip
    """Wishes as they stand, and what a balance would do: in words, and whether it would change anything."""
    judged = wishes.judged_wishes(named, readings, values)
    found: dict[str, Any] = {
        "wishes": [one.told for one in judged],
        "balance": {"words": [], "touches": 0},
    }  # fmt: skip
    if not named or wishes.all_met(judged):
        return found
    answer = wishes.balanced(plan, held, named, read)
    if answer is None:
        return found
    names = {reading.key: reading.name for reading in readings}
    return found | {"balance": {"words": wishes.balance_words(plan, answer, names), "touches": len(answer.balance.powers)}}
