"""Edits of a shot document: set a value, add a thing, remove one, move one in the build order."""

from __future__ import annotations

from collections.abc import Container
from dataclasses import dataclass
from typing import Any

from fotaxis.core.errors import FormatError
from fotaxis.core.keys import RESERVED_KEYS
from fotaxis.services import names
from fotaxis.services.aims import following_aims
from fotaxis.services.mirror_pairs import following_pairs
from fotaxis.services.ports import Document

LISTS = ("lights", "cards", "others")
UNKNOWN: Any = object()


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """One edit. Paths name things by key, not by number: ('lights', 'left', 'place', 'x_cm').

    kind set: put value at path; add: append value to the list at path; remove: take the thing at path away;
    move: put the thing at path at place `value` of its list. was: what the maker of the change last saw at the path, UNKNOWN where
    that was not said.
    """

    kind: str
    path: tuple[str, ...]
    value: Any = None
    was: Any = UNKNOWN


def applied(document: Document, changes: list[Change]) -> Document:
    """A changed document; the given one is untouched, and what did not change is shared with it.

    Raises FormatError for a path that leads nowhere.
    """
    result = document
    for change in changes:
        if not change.path or len(change.path) > 8:
            raise FormatError("the change names no place in the shot.", place="path")
        result = _changed(result, change, change.path)
    result = sane(result)
    sets = [change.path for change in changes if change.kind == "set" and len(change.path) >= 3]
    touched = {(path[0], path[1], path[2]) for path in sets}
    for path in sets:
        if len(path) == 3 and path[0] in ("lights", "cards"):
            result = _with_its_name(result, path, before=value_at(document, path))
    return following_pairs(*following_aims(result, touched))


def _with_its_name(document: Document, path: tuple[str, ...], *, before: Any) -> Document:
    """The document, the thing's name telling what is set at a path of it now."""
    thing = value_at(document, path[:2])
    if before is UNKNOWN or not isinstance(thing, dict):
        return document
    renamed = names.following(thing, path[2], before, thing.get(path[2]))
    if renamed is thing:
        return document
    renaming = Change(kind="set", path=(*path[:2], "name"), value=renamed["name"])
    changed: Document = _changed(document, renaming, renaming.path)
    return changed


def sane(document: Document) -> Document:
    """The document, when its lists are lists of things with keys: what all that follows relies on. Raises FormatError."""
    for name in (*LISTS, "readings", "wishes", "captures", "retouch", "reckoned"):
        things = document.get(name, [])
        if not isinstance(things, list):
            raise FormatError("this must be a list of things.", place=name)
        for i, thing in enumerate(things):
            if not isinstance(thing, dict) or not isinstance(thing.get("key", ""), str):
                raise FormatError(
                    "every thing of the list must have a key of its own, in letters and digits.", place=f"{name}[{i}]"
                )
    return document


def contradicted(document: Document, changes: list[Change]) -> Change | None:
    """The first change whose place holds by now neither what its maker saw there nor what it would put there; None without one."""
    for change in changes:
        if change.kind != "set" or change.was is UNKNOWN:
            continue
        now = value_at(document, change.path)
        if now is not UNKNOWN and now != change.was and now != change.value:
            return change
    return None


def value_at(document: Document, path: tuple[str, ...]) -> Any:
    """What stands at a path; UNKNOWN where it leads nowhere."""
    at: Any = document
    try:
        for step in path:
            at = _step(at, step, path)
    except FormatError:
        return UNKNOWN
    return at


def _changed(at: Any, change: Change, path: tuple[str, ...]) -> Any:
    """A copy of a part of the document, changed at a path below it."""
    step = path[0]
    if len(path) > 1:
        below = _changed(_step(at, step, change.path), change, path[1:])
        return _with(at, step, below, change.path)
    if change.kind == "set":
        return _with(at, step, change.value, change.path)
    if change.kind == "add":
        target = _step(at, step, change.path)
        if not isinstance(target, list):
            raise _nowhere(change.path)
        return _with(at, step, [*target, _with_own_key(change.value, target)], change.path)
    if change.kind in ("remove", "move"):
        if not isinstance(at, list):
            raise _nowhere(change.path)
        things = list(at)
        thing = things.pop(_index(things, step, change.path))
        if change.kind == "move":
            if not isinstance(change.value, int):
                place = ".".join(change.path)
                raise FormatError("the new place in the build order must be a whole number.", place=place)
            things.insert(max(0, min(change.value, len(things))), thing)
        return things
    raise FormatError(f"{change.kind[:20]!r} is not a kind of change; use set, add, remove or move.", place="kind")


def _with(at: Any, step: str, value: Any, path: tuple[str, ...]) -> Any:
    """A copy of a part with something else at one step."""
    if isinstance(at, list):
        index = _index(at, step, path)
        return [*at[:index], value, *at[index + 1 :]]
    if isinstance(at, dict):
        return {**at, step: value}
    raise _nowhere(path)


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


def _with_own_key(thing: Any, others: list[Any]) -> Any:
    """A thing that is added, under another key where somebody added one of the same key meanwhile."""
    if not isinstance(thing, dict) or not isinstance(thing.get("key"), str):
        return thing
    taken = {other.get("key") for other in others if isinstance(other, dict)}
    number, key = 2, thing["key"]
    while key in taken:
        key, number = f"{thing['key'][:50]}-{number}", number + 1
    return thing if key == thing["key"] else {**thing, "key": key}


def _nowhere(path: tuple[str, ...]) -> FormatError:
    return FormatError(
        "this place does not exist in the shot; it may have been removed in another window. Reload to see it as it is.",
        place=".".join(path)[:120],
    )


def fresh_key(document: Document, stem: str) -> str:
    """A key that no light or card of the document has yet: 'panel', 'panel-2', ..."""
    taken = {thing["key"] for name in LISTS for thing in document.get(name, [])} | {*RESERVED_KEYS}
    return free_key(stem, taken)


def free_key(stem: str, taken: Container[str]) -> str:
    """The stem, or with a number behind it where it is taken."""
    number, key = 2, stem
    while key in taken:
        key, number = f"{stem}-{number}", number + 1
    return key
