"""Calculations that were used for a shot, in the shot file: what was given, as typed, and what was asked for."""

from __future__ import annotations

from typing import Annotated, Self

from pydantic import AfterValidator, Field, model_validator

from fotaxis.core.reckoner.calculations import CALCULATION
from fotaxis.core.reckoner.numbers import LONGEST
from fotaxis.formats.shot_parts import Key, Part, keepable, named

Typed = Annotated[str, Field(max_length=LONGEST), AfterValidator(keepable)]


class ReckonedPart(Part):
    """A calculation by its key; given: texts by the names of its fields; unknown: what was asked for; of: the light it is about, ''
    for none; inches: bare numbers are inches and feet."""

    key: Key
    calculation: Annotated[str, *named(CALCULATION, "calculation")]
    unknown: Annotated[str, Field(max_length=40)]
    given: dict[Annotated[str, Field(max_length=40)], Typed] = {}
    of: Annotated[str, Field(max_length=80), AfterValidator(keepable)] = ""
    inches: bool = False

    @model_validator(mode="after")
    def _known(self) -> Self:
        calculation = CALCULATION[self.calculation]
        odd = [name for name in self.given if name not in calculation.by_name]
        if odd:
            raise ValueError(f"{self.calculation} has no field {odd[0]!r}; it has {', '.join(calculation.by_name)}")
        if self.unknown not in calculation.unknowns:
            raise ValueError(
                f"{self.calculation} cannot be solved for {self.unknown!r}; ask for {', '.join(calculation.unknowns)}"
            )
        return self
