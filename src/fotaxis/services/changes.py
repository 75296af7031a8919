"""Edits of a shot document: set a value, add a thing, remove one, move one in the build order."""

from __future__ import annotations

import copy
from dataclasses import dataclass
from typing import Any

from fotaxis.core.errors import FormatError
from fotaxis.core.prediction.plan import RESERVED_KEYS
from fotaxis.services.pairs import follow_pairs
from fotaxis.services.ports import Document

LISTS = ("lights", "cards", "others")


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """One edit. Paths name things by key, not by number: ('lights', 'left', 'place', 'x_cm').

    kind set: put value at path; add: append value to the list at path; remove: take the thing at path away;
    move: put the thing at path at place `value` of its list.
    """

    kind: str
    path: tuple[str, ...]
    value: Any = None


def applied(document: Document, changes: list[Change]) -> Document:
    """A changed copy; the given document is untouched. Raises FormatError for a path that leads nowhere."""
    result = copy.deepcopy(document)
    for change in changes:
        _apply(result, change)
    follow_pairs(result, {change.path[:3] for change in changes if change.kind == "set" and len(change.path) >= 3})  # type: ignore[misc]
    return result


def _apply(document: Document, change: Change) -> None:
    if not change.path or len(change.path) > 8:
        raise FormatError("the change names no place in the shot.", place="path")
    at: Any = document
    for step in change.path[:-1]:
        at = _step(at, step, change.path)
    last = change.path[-1]
    if change.kind == "set":
        if isinstance(at, list):
            index = _index(at, last, change.path)
            at[index] = change.value
        elif isinstance(at, dict):
            at[last] = change.value
        else:
            raise _nowhere(change.path)
    elif change.kind == "add":
        target = _step(at, last, change.path)
        if not isinstance(target, list):
            raise _nowhere(change.path)
        target.append(change.value)
    elif change.kind in ("remove", "move"):
        if not isinstance(at, list):
            raise _nowhere(change.path)
        thing = at.pop(_index(at, last, change.path))
        if change.kind == "move":
            if not isinstance(change.value, int):
                raise FormatError("the new place in the build order must be a whole number.", place=".".join(change.path))
            at.insert(max(0, min(change.value, len(at))), thing)
    else:
        raise FormatError(f"{change.kind[:20]!r} is not a kind of change; use set, add, remove or move.", place="kind")


def _step(at: Any, step: str, path: tuple[str, ...]) -> Any:
    if isinstance(at, dict) and step in at:
        return at[step]
    if isinstance(at, list):
        return at[_index(at, step, path)]
    raise _nowhere(path)


def _index(things: list[Any], name: str, path: tuple[str, ...]) -> int:
    """A thing's number in its list by its key, or by the number itself where things have none."""
    for i, thing in enumerate(things):
        if isinstance(thing, dict) and thing.get("key") == name:
            return i
    if name.isdecimal() and int(name) < len(things):
        return int(name)
    raise _nowhere(path)


def _nowhere(path: tuple[str, ...]) -> FormatError:
    return FormatError(
        "this place does not exist in the shot; it may have been removed in another window. Reload to see it as it is.",
        place=".".join(path)[:120],
    )


def fresh_key(document: Document, stem: str) -> str:
    """A key that no light or card of the document has yet: 'panel', 'panel-2', ..."""
    taken = {thing["key"] for name in LISTS for thing in document.get(name, [])} | {*RESERVED_KEYS}
    number, key = 2, stem
    while key in taken:
        key, number = f"{stem}-{number}", number + 1
    return key
