"""Wishes in the shot file: what the picture must show, about its readings."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Union

from pydantic import Field, TypeAdapter

from fotaxis.core.wishes import WISHES
from fotaxis.core.wishes.wish import NamedWish, Wish
from fotaxis.formats.shot_parts import Key, Part, part_of


class WishPart(Part):
    """A wish that its kind makes of plain measures and of keys of readings."""

    if TYPE_CHECKING:
        kind: str
        key: str

    def value(self) -> NamedWish:
        made: Wish = WISHES[self.kind].make(self.model_dump())
        return NamedWish(key=self.key, kind=self.kind, wish=made)


if TYPE_CHECKING:
    AnyWish = WishPart
else:
    PARTS = [
        part_of(
            kind.key, kind.about, kind.measures, WishPart, own={"key": (Key, ...)} | dict.fromkeys(kind.refs, (Key, ...))
        )
        for kind in WISHES.values()
    ]
    AnyWish = Annotated[Union[*PARTS], Field(discriminator="kind")]

WISH_LIST = TypeAdapter(list[AnyWish])
"""Wishes of a document that was checked, by themselves."""
