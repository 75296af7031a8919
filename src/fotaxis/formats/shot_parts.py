"""What all parts of a shot file are made of: numbers, names, names out of catalogues."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, Any

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

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
