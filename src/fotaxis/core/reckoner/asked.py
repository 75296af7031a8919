"""The reckoner's one door: a question as plain data in, an answer as plain data out; the same for page, command line and browser."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fotaxis.core.errors import DomainError
from fotaxis.core.reckoner.answer import Answer, answer
from fotaxis.core.reckoner.calculation import GROUPS, Calculation
from fotaxis.core.reckoner.calculations import CALCULATION, CALCULATIONS
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.unit import Choice, Listed

MOST_RECKONED = 24
"""So many calculations stand on the sheet of a shot."""

ShotNumbers = Mapping[str, float | str]
"""Numbers of a shot by their names (exposure.f_number), SI."""


def calculation_of(key: str) -> Calculation:
    """A calculation by its key. Raises DomainError naming what there is."""
    found = CALCULATION.get(key)
    if found is None:
        near = [one.key for one in CALCULATIONS if key.lower() in one.also.split()]
        there = f"perhaps {' or '.join(near)}" if near else f"there are: {', '.join(CALCULATION)}"
        raise DomainError(f"there is no calculation {key[:40]!r}; {there}.")
    return found


def from_shot(calculation: Calculation, numbers: ShotNumbers, *, inches: bool = False) -> dict[str, str]:
    """Texts of the fields that a shot has a number for, by name; numbers that a field does not allow are left out."""
    texts: dict[str, str] = {}
    for one in calculation.asks:
        value: Any = numbers.get(one.shot) if one.shot else None
        if value is None:
            continue
        try:
            one.check(value, inches=inches)
            texts[one.name] = one.unit.typed(value, inches=inches)
        except (DomainError, ValueError):
            continue
    return texts


def answered(
    calculation: Calculation, typed: Mapping[str, str], numbers: ShotNumbers, *, unknown: str, inches: bool = False,
    step: tuple[str, int] | None = None,
) -> Answer:  # fmt: skip
    """An answer in which what was not typed is as in the shot, else as usual. Raises DomainError as `answer`."""
    filled = from_shot(calculation, numbers, inches=inches)
    known = {**filled, **{name: text for name, text in typed.items() if name != unknown}}
    return answer(calculation, known, unknown=unknown, inches=inches, step=step)


def asked(question: Mapping[str, Any]) -> dict[str, Any]:
    """Answer a question: {key, texts, unknown, inches, step: [name, presses], shot: numbers of a shot}.

    texts: what was typed. The answer tells all fields, see Answer.told, and `shot`: the names of the fields that stand as in the shot.
    Raises DomainError for a calculation, a field or an unknown that there is not.
    """
    calculation = calculation_of(str(question["key"]))
    inches, numbers = bool(question.get("inches")), question.get("shot") or {}
    typed = {str(name): str(text) for name, text in dict(question.get("texts") or {}).items()}
    unknown = str(question.get("unknown") or "") or next(iter(calculation.unknowns))
    step = question.get("step")
    found = answered(
        calculation, typed, numbers, unknown=unknown, inches=inches, step=(str(step[0]), int(step[1])) if step else None
    )
    filled = from_shot(calculation, numbers, inches=inches)
    as_in_shot = [name for name, text in found.given.items() if filled.get(name) == text]
    return {**found.told(), "sentence": found.sentence, "shot": as_in_shot}


def described() -> list[dict[str, Any]]:
    """Every calculation as a page needs it, in the order of the groups."""
    return [_described(one) for group in GROUPS for one in CALCULATIONS if one.group == group]


def _described(one: Calculation) -> dict[str, Any]:
    return {
        "key": one.key, "name": one.name, "group": one.group, "words": one.words, "also": one.also, "formula": one.formula,
        "limits": one.limits, "source": one.source, "unknowns": list(one.unknowns),
        "idle": {name: list(idle) for name, idle in one.idle.items()},
        "asks": [_field(quantity) for quantity in one.asks],
    }  # fmt: skip


def _field(quantity: Quantity) -> dict[str, Any]:
    unit = quantity.unit
    choices = list(unit.words) if isinstance(unit, Choice) else list(unit.known) if isinstance(unit, Listed) else []
    kind = "choice" if isinstance(unit, Choice) else "list" if isinstance(unit, Listed) else "number"
    return {
        "name": quantity.name, "words": quantity.words, "kind": kind, "choices": choices, "note": quantity.note,
        "example": unit.example, "usual": quantity.usual, "unit": unit.name, "shot": quantity.shot,
        "taken": quantity.taken,
    }  # fmt: skip
