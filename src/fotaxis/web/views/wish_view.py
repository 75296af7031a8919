"""Wishes for the picture, for the page: what is wished for, met or not, and what powers would do."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from fotaxis.core.errors import NoSolution
from fotaxis.core.frames.levels import percent
from fotaxis.core.frames.readings import NamedReading
from fotaxis.core.frames.readings.reading import Value
from fotaxis.core.frames.whole_picture import WholePicture
from fotaxis.core.measures import AnyMeasure, Choice, Measure
from fotaxis.core.proposals.space import space_of
from fotaxis.core.scene.plan import Plan
from fotaxis.core.wishes import WISHES
from fotaxis.core.wishes.wish import NamedWish
from fotaxis.services import wishes
from fotaxis.services.proposals import Asked, about_glass, proposals, wished_highlight
from fotaxis.services.studies import Study
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
    values: Mapping[str, Value | None], read: Read, whole: WholePicture | None,
) -> dict[str, Any]:  # fmt: skip
    """Wishes as they stand, and what a balance would do: in words, and whether it would change anything."""
    judged = wishes.judged_wishes(plan, named, readings, values, whole)
    answer = None if not named or wishes.all_met(judged) else wishes.balanced(plan, held, named, read)
    found: dict[str, Any] = {
        "wishes": [one.told for one in wishes.with_contradictions(judged, answer)],
        "balance": {"words": [], "touches": 0},
    }  # fmt: skip
    if answer is None:
        return found
    names = {reading.key: reading.name for reading in readings}
    return found | {"balance": {"words": wishes.balance_words(plan, answer, names), "touches": len(answer.balance.powers)}}


def ways(asked: Asked) -> dict[str, Any]:
    """Ways to meet a wish for the page, or why there is none; space: outlines on floor and side, centimetres, where it is about a
    highlight; about: what is told of all of them."""
    found: dict[str, Any] = {"proposals": [], "none": "", "space": None, "about": []}
    highlight = wished_highlight(asked)
    if highlight is not None:
        space = space_of(highlight.plan, highlight.mirrored)
        found["space"] = {
            "floor": (100 * space.floor).round(1).tolist(), "side": (100 * space.side).round(1).tolist(),
            "free": percent(space.free),
        }  # fmt: skip
        found["about"] = about_glass(highlight)
    try:
        all_ways = proposals(asked)
    except NoSolution as error:
        return found | {"none": str(error)}
    return found | {"proposals": [{"title": one.title, "reasons": list(one.reasons)} for one in all_ways]}


def delicate(study: Study) -> dict[str, Any]:
    """How delicate a set is, in sentences: each thing's nearest limits."""
    return {
        "whole": study.whole,
        "rows": [{"key": one["key"], "name": one["name"], "words": limits(one)} for one in study.found],
    }


TOLD = 3


def limits(one: Mapping[str, Any]) -> str:
    """What a thing may be off, the most delicate way first, and what changes then."""
    told = [f"{row['way']} by {limit_words(row)} ({row['of']})" for row in one["rows"][:TOLD]]
    return "; ".join(told)


def limit_words(row: Mapping[str, Any]) -> str:
    """A tolerance as a hand thinks: millimetres up to 3 cm, then centimetres; degrees to a tenth."""
    if row["unit"] == "°":
        return f"{row['limit']:.1f}°"
    return f"{10 * row['limit']:.0f} mm" if row["limit"] < 3 else f"{row['limit']:.0f} cm"
