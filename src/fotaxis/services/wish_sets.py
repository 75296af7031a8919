"""Ready-made sets of wishes: what most sets want, and what the lighting set-ups are built for."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from fotaxis.core.errors import FormatError
from fotaxis.core.frames.zones_seen import ZoneSeen
from fotaxis.core.wishes import WISHES
from fotaxis.services.changes import Change
from fotaxis.services.ports import Document
from fotaxis.services.presets import usual_readings

Parts = tuple[list[dict[str, Any]], list[dict[str, Any]]]
"""Readings, and wishes about them."""

LABEL_INSET = 0.1
RIMS = {"left": (-0.98, -0.93), "right": (0.93, 0.98)}
"""Where the rim of clear glass is read, across."""


@dataclass(frozen=True, slots=True, kw_only=True)
class WishSet:
    """A set of wishes: its key, name and words; make: readings and wishes for a shot whose zones are seen so."""

    key: str
    name: str
    words: str
    make: Callable[[Document, Sequence[ZoneSeen]], Parts]


def _label(document: Document, zones: Sequence[ZoneSeen]) -> Parts:
    """The label at grey's level, and even from top to bottom."""
    seen = _matte(zones)
    if seen is None:
        return [], []
    low, high, _, _ = seen.inner(LABEL_INSET)
    if not low < high:
        return [], []
    part = max(0.1, min(1.0, round(0.75 * min(abs(seen.begin), abs(seen.end)), 2)))
    reading = {"kind": "patch", "key": "label-even", "name": seen.name or "Label", "low": low, "high": high, "part": part}
    return [reading], [
        {"kind": "level", "key": "label-level", "reading": "label-even", "stops": 0.0},
        {"kind": "even", "key": "label-evenness", "reading": "label-even", "within": 0.35},
    ]


def _matte(zones: Sequence[ZoneSeen]) -> ZoneSeen | None:
    """The label: the largest matte zone that has a name, else the largest that is matte."""
    matte = [zone for zone in zones if not zone.mirrors]
    return next((zone for zone in matte if zone.name), matte[0] if matte else None)


def _lines(near: float, far: float, *, inside: str = "any", outside: str = "any", within: float = 0.06) -> Parts:
    """A line on each side, alike."""
    readings = [
        {"kind": "edge", "key": f"{side}-line", "name": f"{side.title()} line", "side": side, "low": 0.08, "high": 0.6}
        for side in ("left", "right")
    ]
    wishes: list[dict[str, Any]] = [
        {
            "kind": "place", "key": f"{side}-place", "reading": f"{side}-line", "near": near, "far": far, "within": within,
            "height": 0.2, "inside": inside, "outside": outside,
        }
        for side in ("left", "right")
    ]  # fmt: skip
    return readings, [
        *wishes,
        {"kind": "ratio", "key": "left-right", "reading": "left-line", "over": "right-line", "stops": 0.0},
    ]


def _glow(document: Document) -> Parts:
    """Liquid that glows a stop over grey."""
    glow = next((one for one in usual_readings({**document, "readings": []}) if one["key"] == "glow"), None)
    if glow is None:
        return [], []
    return [glow], [{"kind": "level", "key": "glow-level", "reading": "glow", "stops": 1.0, "side": "at least"}]


def _ground(stops: float, side: str) -> Parts:
    return [{"kind": "frame", "key": "background", "name": "Background", "x": 0.08, "y": 0.12}], [
        {"kind": "level", "key": "ground-level", "reading": "background", "stops": stops, "side": side}
    ]


def _absent(*what: str) -> Parts:
    return [], [{"kind": "clean", "key": f"no-{one.replace(' ', '-')}", "what": one} for one in what]


def _metal(zones: Sequence[ZoneSeen]) -> Parts:
    """Foil that mirrors a light all over, a stop and a third over the print: rim over key. Common practice."""
    foil = next((zone for zone in zones if zone.metal and zone.name), None)
    if foil is None:
        return [], []
    low, high, begin, end = foil.inner(0.05)
    if not (low < high and begin < end):
        return [], []
    reading = {"kind": "area", "key": "foil", "name": foil.name, "low": low, "high": high, "begin": begin, "end": end}
    return [reading], [
        {"kind": "cover", "key": "foil-lit", "reading": "foil", "share": 0.8},
        {"kind": "level", "key": "foil-level", "reading": "foil", "stops": 1.33, "within": 0.5},
    ]


def _rims() -> Parts:
    """Bright rims of clear glass, left and right, alike."""
    readings = [
        {"kind": "edge", "key": f"{side}-rim", "name": f"{side.title()} rim", "side": side, "low": 0.15, "high": 0.85}
        for side in ("left", "right")
    ]
    wishes: list[dict[str, Any]] = [
        {"kind": "level", "key": f"{side}-rim-level", "reading": f"{side}-rim", "stops": 1.0, "side": "at least"}
        for side in ("left", "right")
    ]
    return readings, [
        *wishes,
        {"kind": "ratio", "key": "rims-alike", "reading": "left-rim", "over": "right-rim", "stops": 0.0},
    ]


def _dark_rims() -> Parts:
    """Dark rims of clear glass."""
    readings = [
        {
            "kind": "area",
            "key": f"{at}-rim",
            "name": f"{at.title()} rim",
            "low": 0.2,
            "high": 0.85,
            "begin": ends[0],
            "end": ends[1],
        }
        for at, ends in RIMS.items()
    ]
    return readings, [
        {"kind": "level", "key": f"{at}-rim-level", "reading": f"{at}-rim", "stops": -1.0, "side": "at most"} for at in RIMS
    ]


def _joined(*parts: Parts) -> Parts:
    return [one for readings, _ in parts for one in readings], [one for _, wishes in parts for one in wishes]


SETS = {
    one.key: one
    for one in (
        WishSet(
            key="usual", name="Usual wishes", words="Label at grey and even, a line on each side, alike, and a glow.",
            make=lambda document, zones: _joined(
                (usual_readings(document), []), _label(document, zones), _lines(0.8, 0.96), _glow(document)
            ),
        ),
        WishSet(
            key="soft lines", name="Two soft lines, black ground",
            words="Lines soft inside and crisp outside, alike; label at grey and even; glow; black ground; nothing else mirrored.",
            make=lambda document, zones: _joined(
                _lines(0.78, 0.95, inside="soft", outside="crisp"), _label(document, zones), _glow(document), _ground(-6.0, "at most"),
                _absent("mirrored"),
            ),
        ),
        WishSet(
            key="crisp lines", name="Two crisp lines",
            words="Lines crisp on both sides, alike, label at grey and even, nothing else mirrored, no hot spot.",
            make=lambda document, zones: _joined(
                _lines(0.7, 0.9, within=0.08), _label(document, zones), _absent("mirrored", "hot spots"),
            ),
        ),
        WishSet(
            key="foil", name="Carton with foil", words="The print at grey and even, the foil mirrors a light, no hot spot, no veil.",
            make=lambda document, zones: _joined(
                _label(document, zones), _metal(zones), _absent("hot spots", "veil", "in frame"),
            ),
        ),
        WishSet(
            key="dark field", name="Dark field", words="Rims a stop over grey and alike, black ground, no veil.",
            make=lambda document, zones: _joined(
                _rims(), _ground(-5.0, "at most"), _absent("veil", "in frame"),
            ),
        ),
        WishSet(
            key="bright field", name="Bright field", words="White ground, dark rims, no veil.",
            make=lambda document, zones: _joined(_dark_rims(), _ground(2.0, "at least"), _absent("veil", "in frame")),
        ),
        WishSet(
            key="absences", name="Nothing that does not belong",
            words="Nothing else mirrored, no lens, no table in the gloss, no veil, no hot spot, nothing in the frame, no room light.",
            make=lambda document, zones: _absent("mirrored", "lens", "table", "veil", "hot spots", "in frame", "room"),
        ),
    )
}  # fmt: skip


def set_wishes(document: Document, key: str, zones: Sequence[ZoneSeen]) -> list[Change]:
    """Changes that add a set's wishes, with the readings they are about; none of what is there already.

    Raises FormatError for an unknown one."""
    if key not in SETS:
        raise FormatError(f"there are no wishes called {key[:20]!r}; choose some from the list.", place="set")
    readings, wishes = SETS[key].make(document, zones)
    here = document.get("readings", [])
    known = {one["key"] for one in here}
    readings = list({one["key"]: one for one in reversed(readings) if one["key"] not in known}.values())[::-1]
    known |= {one["key"] for one in readings}
    there = {one["key"] for one in document.get("wishes", [])}
    wanted = [
        one for one in wishes if one["key"] not in there and all(one[ref] in known for ref in WISHES[one["kind"]].refs)
    ]
    if not wanted:
        return []
    return [
        Change(kind="set", path=("readings",), value=[*here, *readings]),
        Change(kind="set", path=("wishes",), value=[*document.get("wishes", []), *wanted]),
    ]
