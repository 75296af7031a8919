"""Studies of a set, made by workers: how delicate it is, and which of many variants meets its wishes best."""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any
from uuid import UUID

import numpy as np
from scipy.stats import qmc

from fotaxis import __version__
from fotaxis.core.errors import FormatError, FotaxisError
from fotaxis.core.proposals.tolerance import Reading, Tolerance, tolerance
from fotaxis.core.wishes.wish import MET, Seen
from fotaxis.services.changes import Change, applied
from fotaxis.services.pictures import Pictures
from fotaxis.services.ports import Clock, Database, Document, Lane, Refused, ShotCodec, Work
from fotaxis.services.screens import PROBLEM
from fotaxis.services.wishes import about

STUDY = "study"
DELICATE, SWEEP = "delicate", "sweep"
JSON = "application/json"

PART = 64
"""A sweep goes to workers in parts of so many variants, a power of 2 as the sequence wants it."""

MOST_VARIANTS = 5000
BEST = 5
FREEDOMS = {
    "right or left": ("x_cm", 1.0, 20.0), "up or down": ("y_cm", 1.0, 20.0), "to or from the camera": ("z_cm", 1.0, 20.0),
    "turned": ("turn_deg", 1.0, 15.0), "tilted": ("tilt_deg", 1.0, 15.0),
}  # fmt: skip
"""What of a thing may be off: its field, the step it is tried by, and beyond what nothing is looked at, cm or degrees."""

PLACED = ("x_cm", "y_cm", "z_cm")


@dataclass(frozen=True, slots=True, kw_only=True)
class Study:
    """What is known of a study by now: parts made and asked for, and what they have found so far."""

    done: int
    parts: int
    found: list[dict[str, Any]]

    @property
    def whole(self) -> bool:
        return self.done >= self.parts


class Studies:
    """Ask for studies, and read what workers have found."""

    def __init__(self, database: Database, clock: Clock) -> None:
        self._database, self._clock = database, clock

    def delicate(self, studio_id: UUID, document: Document, *, ask: bool = False) -> Study:
        """How delicate a set is, the most delicate first; asked for, if it is to be and was not."""
        return self._study(studio_id, [_payload(DELICATE, document)], ask=ask, best=None)

    def sweep(
        self,
        studio_id: UUID,
        document: Document,
        key: str,
        *,
        span_cm: float,
        span_deg: float,
        variants: int,
        ask: bool = False,
    ) -> Study:
        """The best of many seeded variants of where one thing stands, within some distance and angle of where it does.

        Raises Refused for more than can be.
        """
        if not 1 <= variants <= MOST_VARIANTS:
            raise Refused(f"{variants} variants cannot be looked at; give 1 to {MOST_VARIANTS}.")
        _list_of(document, key)
        payloads = [
            _payload(
                SWEEP, document, key=key, span_cm=span_cm, span_deg=span_deg, begin=begin, end=min(begin + PART, variants)
            )
            for begin in range(0, variants, PART)
        ]
        return self._study(studio_id, payloads, ask=ask, best=BEST)

    def _study(self, studio_id: UUID, payloads: list[Document], *, ask: bool, best: int | None) -> Study:
        found: list[dict[str, Any]] = []
        done = 0
        with self._database.transaction() as repo:
            for payload in payloads:
                name = study_name(payload)
                made = repo.shared_picture(studio_id, name, at=self._clock())
                if made is None:
                    if ask:
                        repo.add_work(studio_id, lane=Lane.FINAL, kind=STUDY, ref=name, payload=payload)
                    continue
                if made.media_type == PROBLEM:
                    raise FotaxisError(made.data.decode())
                done += 1
                found += json.loads(made.data)
        if best is not None:
            found = sorted(found, key=lambda one: (-one["met"], one["lack"]))[:best]
        return Study(done=done, parts=len(payloads), found=found)


def study_name(payload: Document) -> str:
    """Name of what a payload leads to: equal names, equal findings."""
    mark = hashlib.sha256(json.dumps(payload, sort_keys=True).encode()).hexdigest()[:32]
    return f"{STUDY}:{mark}:{__version__}"


def _payload(what: str, document: Document, **more: Any) -> Document:
    free = {"name", "note", "reading_line", "captures", "finish", "retouch", "shooting"}
    return {"what": what, "document": {name: value for name, value in document.items() if name not in free}, **more}


def _list_of(document: Document, key: str) -> str:
    for name in ("lights", "cards"):
        if any(thing["key"] == key and "place" in thing for thing in document[name]):
            return name
    raise FormatError("this light or card was removed, or has no place; reload to see the shot as it is.", place="key")


class StudyMaker:
    """What a worker does with a study, or a part of one."""

    def __init__(self, database: Database, codec: ShotCodec, pictures: Pictures, clock: Clock) -> None:
        self._database, self._codec, self._pictures, self._clock = database, codec, pictures, clock

    def make(self, work: Work, wanted: Callable[[], bool]) -> None:
        """Find and tell; what cannot be found is told in words in its place."""
        payload = work.payload
        try:
            document = self._codec.check({"name": "Study", **payload["document"]})
            if payload["what"] == DELICATE:
                found: list[dict[str, Any]] | None = delicate(document, self._codec, self._pictures, wanted)
            else:
                found = swept(document, payload, self._codec, self._pictures, wanted)
            if found is None:
                return
            data, media = json.dumps(found).encode(), JSON
        except FotaxisError as error:
            data, media = str(error).encode(), PROBLEM
        self._share(work, data, media)

    def _share(self, work: Work, data: bytes, media: str) -> None:
        with self._database.transaction() as repo:
            repo.share_picture(work.studio_id, work.ref, data=data, media_type=media, at=self._clock())

    def set_aside(self, work: Work) -> None:
        """It ended its workers too often."""
        self._share(work, b"This study cannot be made here: it ended its worker three times.", PROBLEM)

    def fault(self, work: Work, number: str) -> None:
        words = f"Something in our program failed while this study was made; it is in the worker's log as fault {number}."
        self._share(work, words.encode(), PROBLEM)


# ---- how delicate


def delicate(
    document: Document, codec: ShotCodec, pictures: Pictures, wanted: Callable[[], bool] = lambda: True
) -> list[dict[str, Any]] | None:
    """By how much each thing may be off before a wish changes visibly, the most delicate first; None when called off."""
    document = {
        **document,
        "lights": [_free(one) for one in document["lights"]],
        "cards": [_free(one) for one in document["cards"]],
    }
    readings = {one.key: one.name for one in codec.readings(document)}
    words = {one.key: about(one, readings) for one in codec.wishes(document)}
    found = []
    for name in ("lights", "cards"):
        for thing in document[name]:
            if "place" not in thing or not thing.get("on", True):
                continue
            rows = []
            for way, (field, step, most) in FREEDOMS.items():
                if not wanted():
                    return None
                limit = tolerance(_figures(document, name, thing, field, codec, pictures), step=step, most=most)
                if math.isfinite(limit.limit):
                    rows.append(_row(way, field, limit, words))
            if rows:
                rows.sort(key=lambda row: row["delicacy"], reverse=True)
                found.append({"key": thing["key"], "name": thing["name"], "rows": rows})
    return sorted(found, key=lambda one: -one["rows"][0]["delicacy"])


def _free(thing: Document) -> Document:
    """A thing that is moved by itself: no pair, no aim."""
    return {**thing, "pair": None, "aim": None} if "pair" in thing else thing


def _row(way: str, field: str, limit: Tolerance, words: Mapping[str, str]) -> dict[str, Any]:
    """One way of being off: limit in the field's unit; delicacy: steps of 1 cm or 1 degree over it, to compare both."""
    wish, figure = limit.of.split("/", 1)
    return {
        "way": way, "unit": "cm" if field in PLACED else "°", "limit": round(limit.limit, 2),
        "of": f"{figure} of {words.get(wish, wish)}", "delicacy": round(1 / limit.limit, 4),
    }  # fmt: skip


def _figures(
    document: Document, name: str, thing: Document, field: str, codec: ShotCodec, pictures: Pictures
) -> Callable[[float], dict[str, Reading]]:
    """The numbers of all wishes with a field of a thing off by so much."""

    def read(by: float) -> dict[str, Reading]:
        path = (name, thing["key"], *(("place", field) if field in PLACED else (field,)))
        before = thing["place"][field] if field in PLACED else thing[field]
        moved = applied(document, [Change(kind="set", path=path, value=round(before + by, 4))])
        plan, readings = codec.plan(moved), codec.readings(moved)
        seen = Seen(values=pictures.named(plan, readings), names={one.key: one.name for one in readings})
        return {
            f"{one.key}/{figure.name}": Reading(value=figure.value, visible=figure.visible)
            for one in codec.wishes(moved) for figure in one.wish.figures(seen)
        }  # fmt: skip

    return read


# ---- many variants


def swept(
    document: Document, payload: Document, codec: ShotCodec, pictures: Pictures, wanted: Callable[[], bool] = lambda: True
) -> list[dict[str, Any]] | None:
    """The best of a part of a sweep's variants: how many wishes each meets, what it lacks, and where the thing stands; None when
    called off."""
    key, name = payload["key"], _list_of(document, payload["key"])
    thing = next(one for one in document[name] if one["key"] == key)
    found = []
    for by in offsets(payload["begin"], payload["end"]):
        if not wanted():
            return None
        cm, deg = by[:3] * payload["span_cm"], by[3:] * payload["span_deg"]
        place = {axis: round(thing["place"][axis] + float(off), 1) for axis, off in zip(PLACED, cm, strict=True)}
        values = {
            "place": place, "turn_deg": round(thing["turn_deg"] + float(deg[0]), 1),
            "tilt_deg": round(max(-90.0, min(90.0, thing["tilt_deg"] + float(deg[1]))), 1),
        }  # fmt: skip
        changes = [Change(kind="set", path=(name, key, field), value=value) for field, value in values.items()]
        try:
            moved = applied(document, changes)
            plan, readings = codec.plan(moved), codec.readings(moved)
            values_read = pictures.named(plan, readings)
        except FotaxisError:
            continue
        seen = Seen(values=values_read, names={one.key: one.name for one in readings})
        wishes = [one.wish for one in codec.wishes(moved) if not one.wish.whole]
        met = sum(wish.judge(seen).state == MET for wish in wishes)
        lack = sum(wish.lack(seen) for wish in wishes)
        found.append({"list": name, "key": key, "met": met, "of": len(wishes), "lack": round(lack, 4), "values": values})
    return sorted(found, key=lambda one: (-one["met"], one["lack"]))[:BEST]


def offsets(begin: int, end: int) -> np.ndarray:
    """Variants begin..end of a sweep: offsets -1..1 in three directions and two angles, the first one none at all, (n, 5).

    Source: Sobol's sequence, unscrambled: the same in every worker.
    """
    sequence = qmc.Sobol(d=5, scramble=False)
    if begin:
        sequence.fast_forward(begin)
    drawn: np.ndarray = 2 * sequence.random(PART)[: end - begin] - 1
    if begin == 0:
        drawn[0] = 0.0
    return drawn
