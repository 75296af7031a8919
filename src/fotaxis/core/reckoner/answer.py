"""One question answered: texts as typed go in, the unknown and what follows comes out, in words and as numbers."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from types import SimpleNamespace
from typing import Any

from fotaxis.core.errors import DomainError, NoSolution
from fotaxis.core.reckoner.calculation import Calculation, Given
from fotaxis.core.reckoner.quantity import Quantity

MOST_TOLD = 3
"""So many of what follows go into one line."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """A quantity with its value: in words, more exactly where that is rounded to what can be set, and as a number (SI)."""

    name: str
    words: str
    text: str
    finer: str
    value: float | str | list[Any] | None
    shot: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """unknown: the name of what was asked for; given: texts by name as they were typed; reads: the same as understood; gives: the
    unknown first, then what follows. problem, field: why there is no answer, and the field it is about."""

    key: str
    unknown: str
    given: dict[str, str] = field(default_factory=dict)
    reads: dict[str, str] = field(default_factory=dict)
    gives: tuple[Shown, ...] = ()
    says: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    picture: dict[str, Any] | None = None
    problem: str = ""
    field: str = ""

    def told(self) -> dict[str, Any]:
        """As plain data."""
        return {
            "key": self.key, "unknown": self.unknown, "given": self.given, "reads": self.reads,
            "says": list(self.says), "cautions": list(self.cautions),
            "picture": self.picture, "problem": self.problem, "field": self.field,
            "gives": [
                {"name": one.name, "words": one.words, "text": one.text, "finer": one.finer, "value": _plain(one.value),
                 "shot": one.shot}
                for one in self.gives
            ],
        }  # fmt: skip

    @property
    def sentence(self) -> str:
        """The answer in one line, with what first follows: 'Distance 1.6 m; near 1.5 m, far 1.7 m'."""
        texts = [f"{one.words} {one.finer or one.text}" for one in self.gives[: 1 + MOST_TOLD]]
        return "; ".join([texts[0], ", ".join(texts[1:])]) if len(texts) > 1 else "".join(texts)


def _plain(value: Any) -> Any:
    if isinstance(value, float) and not math.isfinite(value):
        return None
    return list(value) if isinstance(value, tuple) else value


def answer(
    calculation: Calculation, texts: Mapping[str, str], *, unknown: str = "", inches: bool = False, step: tuple[str, int] | None = None
) -> Answer:  # fmt: skip
    """Solve for an unknown, all else as typed or as usual.

    unknown: '' asks for the first that nothing is said about; step: a quantity moved by so many presses before it is solved.
    What cannot be answered is told in `problem`; nothing is raised but for a name that the calculation has not.
    Raises DomainError for an unknown name.
    """
    by_name = calculation.by_name
    odd = [name for name in texts if name not in by_name]
    if odd:
        raise DomainError(f"{calculation.name} has no {odd[0][:40]!r}; it has {', '.join(by_name)}.")
    untold = next((name for name in calculation.unknowns if name not in texts), next(iter(calculation.unknowns)))
    unknown = unknown or untold
    if unknown not in calculation.unknowns:
        raise DomainError(
            f"{calculation.name} cannot be solved for {unknown[:40]!r}; ask for {', '.join(calculation.unknowns)}."
        )
    given: dict[str, str] = {}
    values: dict[str, Any] = {}
    for one in calculation.asks:
        if one.name == unknown:
            continue
        if one.name in calculation.idle.get(unknown, ()):
            values[one.name] = None
            continue
        given[one.name] = texts.get(one.name, one.usual)
        try:
            values[one.name] = one.read(given[one.name], inches=inches)
            if step and step[0] == one.name:
                values[one.name] = one.check(one.unit.stepped(values[one.name], step[1]), inches=inches)
                given[one.name] = one.unit.write(values[one.name], inches=inches)
        except DomainError as error:
            return Answer(key=calculation.key, unknown=unknown, given=_rest(calculation, texts, unknown), problem=str(error),
                          field=one.name)  # fmt: skip
    return _solved(calculation, given, values, unknown=unknown, inches=inches)


def _rest(calculation: Calculation, texts: Mapping[str, str], unknown: str) -> dict[str, str]:
    idle = (unknown, *calculation.idle.get(unknown, ()))
    return {one.name: texts.get(one.name, one.usual) for one in calculation.asks if one.name not in idle}


def _solved(
    calculation: Calculation, given: dict[str, str], values: dict[str, Any], *, unknown: str, inches: bool
) -> Answer:
    asked = calculation.by_name[unknown]
    try:
        value = calculation.unknowns[unknown](SimpleNamespace(**values))
        if asked.unit.whole and math.isfinite(value):
            value = float(round(value)) if abs(value - round(value)) < 1e-9 else value
        v = Given(**values, **{unknown: _reachable(asked, value, inches=inches)})
        beside = calculation.beside(v)
        found = [(asked, getattr(v, unknown)), *((one, beside[one.name]) for one in calculation.gives if one.name in beside)]
        for name, more in beside.items():
            setattr(v, name, more)
        return Answer(
            key=calculation.key, unknown=unknown, given=given,
            reads={name: _written(calculation.by_name[name], values[name], inches=inches) for name in given},
            gives=tuple(shown(one, value, inches=inches) for one, value in found),
            says=tuple(calculation.says(v)), cautions=tuple(calculation.cautions(v)), picture=calculation.picture(v),
        )  # fmt: skip
    except (DomainError, NoSolution) as error:
        return Answer(key=calculation.key, unknown=unknown, given=given, problem=_sentence(str(error)), field=unknown)
    except (ValueError, OverflowError, ZeroDivisionError):
        return Answer(
            key=calculation.key, unknown=unknown, given=given, field=unknown,
            problem=f"There is no {asked.words.lower()} that fits these numbers; check the largest and the smallest of them.",
        )  # fmt: skip


def _reachable(asked: Quantity, value: float, *, inches: bool) -> float:
    """A solved value, if it is one that can be. Raises NoSolution naming what it would have to be."""
    if isinstance(value, float) and math.isnan(value):
        raise NoSolution(f"no {asked.words.lower()} fits these numbers.")
    loose = value == math.inf or isinstance(value, tuple)
    if loose or asked.low - 1e-9 <= value <= asked.high * (1 + 1e-9) + 1e-12:
        return value
    raise NoSolution(f"{asked.words} would have to be {asked.shown(value, inches=inches)}; {asked.must(inches=inches)}")


def _sentence(text: str) -> str:
    return text[:1].upper() + text[1:]


def _written(quantity: Quantity, value: Any, *, inches: bool) -> str:
    return value if isinstance(value, str) else quantity.unit.write(value, inches=inches)


def shown(quantity: Quantity, value: Any, *, inches: bool = False) -> Shown:
    """A quantity's value in words."""
    finer = ""
    if value == math.inf:
        text = "∞"
    else:
        text = _written(quantity, value, inches=inches)
        if isinstance(value, float) and value > -math.inf:
            finer = quantity.unit.finer(value)
    return Shown(
        name=quantity.name,
        words=quantity.words,
        text=text,
        finer=finer,
        value=value,
        shot=quantity.shot if quantity.taken else "",
    )
