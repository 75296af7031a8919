"""What all parts of a shot file are made of: numbers, names, names out of catalogues."""

from __future__ import annotations

import inspect
from collections.abc import Iterable, Mapping
from typing import Annotated, Any, Literal, TypeVar

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, create_model

from fotaxis.core.measures import AnyMeasure, Choice, Flag
from fotaxis.formats.wording import KEY_PATTERN

Number = Annotated[float, Field(allow_inf_nan=False)]
Positive = Annotated[float, Field(gt=0, allow_inf_nan=False)]
Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
Key = Annotated[str, Field(pattern=KEY_PATTERN)]
Triple = Annotated[list[Number], Field(min_length=3, max_length=3)]
CUSTOM = "custom"


def keepable(text: str) -> str:
    """Refuse characters that cannot be stored or shown: control characters and halves of surrogate pairs."""
    if any((ord(ch) < 32 and ch not in "\n\t") or 0xD800 <= ord(ch) <= 0xDFFF for ch in text):
        raise ValueError("it contains a character that cannot be kept; type it again")
    return text


Name = Annotated[str, Field(min_length=1, max_length=80), AfterValidator(keepable)]


def named(names: Iterable[str], what: str, *, custom: bool = False) -> tuple[Any, AfterValidator]:
    """What a field that holds a name out of a catalogue is annotated with; custom: or the word 'custom'.

    Other names are refused with the whole list.
    """
    known = [*names]
    allowed = {*known, CUSTOM} if custom else {*known}

    def check(name: str) -> str:
        if name not in allowed:
            use = "custom or one of" if custom else "one of"
            raise ValueError(f"{name[:40]!r} is no {what} known here; use {use}: {', '.join(known)}")
        return name

    enum = [*known, CUSTOM] if custom else known
    return Field(max_length=40, json_schema_extra={"enum": [*enum]}), AfterValidator(check)


class Part(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=False)


P = TypeVar("P", bound=Part)


def part_of(
    key: str, about: str, measures: Iterable[AnyMeasure], base: type[P], *, names: tuple[str, ...] = (),
    first: tuple[str, ...] = (), own: Mapping[str, Any] = {},
) -> type[P]:  # fmt: skip
    """The part of a shot file for a kind of thing that its measures tell: `kind` is its key, or one of its
    names, and there is one field for each measure; first: those that
    stand before it; own: further fields, right after it."""
    fields: dict[str, Any] = {m.name: (_annotation(m), ... if m.usual is None else m.usual) for m in measures}
    kind = {"kind": (Literal[names or (key,)], ...)}
    fields = {name: fields[name] for name in first} | kind | dict(own) | fields
    title = "".join(word.capitalize() for word in key.split()) + "Part"
    return create_model(title, __base__=base, __doc__=inspect.cleandoc(about), __module__=__name__, **fields)


def _annotation(measure: AnyMeasure) -> Any:
    if isinstance(measure, Flag):
        return bool
    if isinstance(measure, Choice):
        return Annotated[str, *named(measure.choices, measure.what)] if measure.what else Literal[measure.choices]
    limits: dict[str, Any] = {} if measure.low is None else {"gt" if measure.above else "ge": measure.low}
    if measure.high is not None:
        limits["le"] = measure.high
    return Annotated[float, Field(**limits, allow_inf_nan=False)]
