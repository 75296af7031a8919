"""A shot as the pattern of a range: another product in the same look, places and powers computed anew, and how alike they are."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any
from uuid import UUID

import numpy as np

from fotaxis.core.captures.likeness import Difference, Line, Look, differences
from fotaxis.core.errors import DomainError, NoSolution
from fotaxis.core.frames.readings.edge import LineValue
from fotaxis.core.frames.readings.reading import Value
from fotaxis.services.changes import applied
from fotaxis.services.pictures import Pictures
from fotaxis.services.ports import Database, Document, Shot, ShotCodec
from fotaxis.services.presets import usual_readings
from fotaxis.services.proposals import asked_for, proposals, taken
from fotaxis.services.shots import Shots
from fotaxis.services.wishes import balanced, power_changes

SIDE = 400
LEAST_CM, MOST_CM = 0.5, 300.0
CM = ("height_cm", "low_cm", "high_cm", "level_cm", "floor_cm", "length_cm")
ACROSS = ("diameter_cm", "width_cm", "depth_cm", "centre_cm", "foot_diameter_cm", "neck_diameter_cm")
"""Measures of a product that grow with its height, and with its width."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NewProduct:
    """What is other about the next of a range: height and width, cm (None: width in proportion), its liquid by name ('' as before),
    the artwork of its label (None: as before)."""

    name: str
    height_cm: float
    width_cm: float | None = None
    liquid: str = ""
    label: Document | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Member:
    """A shot of a series beside its pattern."""

    shot: Shot
    differences: tuple[Difference, ...]
    names: Mapping[str, str]

    @property
    def departs(self) -> list[Difference]:
        return [one for one in self.differences if one.seen]


def sizes_of(subject: Document) -> tuple[float, float]:
    """Height and width of a product, cm."""
    if subject.get("profile"):
        heights = [point["height_cm"] for point in subject["profile"]]
        return max(heights) - min(heights), max(point["diameter_cm"] for point in subject["profile"])
    height = subject.get("height_cm") or subject.get("length_cm") or subject.get("diameter_cm") or 20.0
    across = [subject[name] for name in ("diameter_cm", "width_cm", "foot_diameter_cm") if subject.get(name)]
    return float(height), float(across[0] if across else height)


def resized(subject: Document, *, taller: float, wider: float) -> Document:
    """A product with all its measures larger by two factors; walls and edges stay as thick as they are."""

    def grown(value: Any, name: str) -> Any:
        if isinstance(value, dict):
            return {key: grown(part, key) for key, part in value.items()}
        if isinstance(value, list):
            return [grown(part, name) for part in value]
        if isinstance(value, bool) or not isinstance(value, int | float):
            return value
        by = taller if name in CM else wider if name in ACROSS else 1.0
        return round(float(value) * by, 3)

    made = {key: grown(value, key) for key, value in subject.items() if key not in ("body", "mesh")}
    return {**subject, **made}


def next_of(document: Document, new: NewProduct, codec: ShotCodec, pictures: Pictures) -> tuple[Document, list[str]]:
    """A shot of another product in a pattern's look, and what could not be kept, in words.

    The camera steps back so that the product fills as much of the frame; what makes each line stands where it must for the new shape;
    powers bring every reading to the pattern's level. Raises DomainError for sizes that cannot be, FormatError for what is wrong.
    """
    pattern = _with_readings(document, codec)
    for what, value in (("height", new.height_cm), ("width", new.width_cm)):
        if value is not None and not LEAST_CM <= value <= MOST_CM:
            raise DomainError(f"the {what} is {value:g} cm; it must be {LEAST_CM:g} to {MOST_CM:g} cm.")
    height, width = sizes_of(pattern["subject"])
    taller = new.height_cm / height
    wider = new.width_cm / width if new.width_cm else taller
    made = _with_product(pattern, new, taller=taller, wider=wider)
    values = pictures.named(codec.plan(pattern), codec.readings(pattern), long_side=SIDE)
    made, words = _placed(codec.check(made), values, codec, pictures)
    made, more = _powered(made, values, codec, pictures)
    kept = {"wishes": pattern["wishes"], "name": new.name}
    return codec.check({**made, **kept}), [*words, *more]


def _with_readings(document: Document, codec: ShotCodec) -> Document:
    """The document with what is compared: its own readings and the usual ones."""
    return codec.check({**document, "readings": [*document["readings"], *usual_readings(document)][:24]})


def _with_product(pattern: Document, new: NewProduct, *, taller: float, wider: float) -> Document:
    subject = {**resized(pattern["subject"], taller=taller, wider=wider), "name": new.name}
    if new.liquid and subject.get("liquid"):
        subject["liquid"] = {**subject["liquid"], "liquid": new.liquid}
    if new.label is not None:
        subject["bands"] = [
            {**band, "artwork": new.label} if band.get("name") == "Label" else band for band in subject.get("bands", [])
        ]
    far = max(taller, wider)
    camera = dict(pattern["camera"])
    for name in ("distance_cm", "height_cm", "side_cm", "aim_height_cm", "aim_side_cm"):
        camera[name] = round(camera[name] * far, 2)
    riser = pattern["riser"] and {**pattern["riser"], "diameter_cm": round(pattern["riser"]["diameter_cm"] * wider, 2)}
    made = {**pattern, "name": new.name, "subject": subject, "camera": camera, "riser": riser}
    for part in ("lights", "cards"):
        made[part] = [_stepped(one, far) for one in pattern[part]]
    return made


def _stepped(thing: Document, by: float) -> Document:
    """A thing as much further away as the product is larger; its own size is what it is."""
    if "place" not in thing:
        return thing
    return {**thing, "place": {name: round(value * by, 2) for name, value in thing["place"].items()}}


def _placed(
    document: Document, values: Mapping[str, Value | None], codec: ShotCodec, pictures: Pictures
) -> tuple[Document, list[str]]:
    """What makes each line of the pattern stood where it lies as the pattern's."""
    words = []
    names = {one.key: one.name for one in codec.readings(document)}
    for key, value in values.items():
        if not isinstance(value, LineValue):
            continue
        middle, half = abs(value.place), value.width / 2
        near, far = max(0.0, round(middle - half, 3)), min(1.0, round(middle + half, 3))
        if far - near < 0.005:
            continue
        wish = {"kind": "place", "key": "series", "reading": key, "near": near, "far": far, "within": 0.03, "height": 0.5}
        tried = codec.check({**document, "wishes": [wish]})
        try:
            ways = proposals(asked_for(pictures, codec, tried, codec.wishes(tried)[0]))
        except (NoSolution, DomainError) as error:
            words.append(f"{names.get(key, key)}: {error}")
            continue
        moved = next((way for way in ways if all(change.kind == "set" for change in way.changes)), None)
        if moved is None:
            words.append(f"{names.get(key, key)}: nothing on the set can be moved to make it; see its ways on the bench.")
            continue
        document = codec.check({**applied(tried, taken(asked_for(pictures, codec, tried, codec.wishes(tried)[0]), moved))})
    return {**document, "wishes": []}, words


def _powered(
    document: Document, values: Mapping[str, Value | None], codec: ShotCodec, pictures: Pictures
) -> tuple[Document, list[str]]:
    """Powers that bring every reading to the pattern's level."""
    wishes = [
        {"kind": "level", "key": f"series-{i}", "reading": key, "stops": round(value.level_stops, 2), "within": 0.17}
        for i, (key, value) in enumerate(values.items())
        if value is not None and value.level_stops is not None and value.level_stops > -8
    ]  # fmt: skip
    if not wishes:
        return document, []
    tried = codec.check({**document, "wishes": wishes[:24]})
    plan, readings = codec.plan(tried), codec.readings(tried)
    answer = balanced(plan, [], codec.wishes(tried), lambda now: pictures.named(now, readings, long_side=SIDE))
    if answer is None:
        return document, []
    names = {one.key: one.name for one in readings}
    words = [
        f"{names.get(getattr(answer.about[bound.of].wish, 'reading', ''), 'A level')}: {bound.words}."
        for bound in answer.balance.bounds
    ]
    return {**applied(tried, power_changes(answer.balance)), "wishes": []}, words


# ---- likeness


def look_of(document: Document, codec: ShotCodec, pictures: Pictures) -> tuple[Look, dict[str, str]]:
    """What makes a shot's picture look as it does, and its readings' names."""
    full = _with_readings(document, codec)
    plan, readings = codec.plan({**full, "captures": []}), codec.readings(full)
    values = pictures.named(plan, readings, long_side=SIDE)
    lines = {key: Line(place=abs(v.place), width=v.width / 2) for key, v in values.items() if isinstance(v, LineValue)}
    levels = {key: v.level_stops for key, v in values.items() if v is not None and v.level_stops is not None}
    product = pictures.product_of(plan, long_side=SIDE)
    seen = np.minimum(pictures.levels(plan, long_side=SIDE), 1.0)
    colour = seen[product].astype(np.float64).mean(axis=0) if product.any() else None
    return Look(lines=lines, levels=levels, colour=colour), {one.key: one.name for one in readings}


class Series:
    """Makes the next of a range from a pattern, and compares all of one with it."""

    def __init__(self, database: Database, shots: Shots, codec: ShotCodec, pictures: Pictures) -> None:
        self._database, self._shots = database, shots
        self._codec, self._pictures = codec, pictures

    def add(self, studio_id: UUID, shot_id: UUID, new: NewProduct) -> tuple[Shot, list[str]]:
        """The next of a range, in the pattern's job; and what could not be kept, which its note tells too."""
        opened = self._shots.open(studio_id, shot_id)
        document, words = next_of(opened.document, new, self._codec, self._pictures)
        if words:
            document["note"] = f"{document['note']}\n{' '.join(words)}".strip()[:4000]
        shot = self._shots.create(
            studio_id, opened.shot.job_id, name=new.name, document=document, label=f"As {opened.shot.name}"
        )
        with self._database.transaction() as repo:
            repo.set_pattern(studio_id, shot.id, pattern_id=shot_id)
        return shot, words

    def pattern_of(self, studio_id: UUID, shot_id: UUID) -> UUID | None:
        """The shot that this one follows; None for a pattern itself, or one that stands alone."""
        with self._database.transaction() as repo:
            return repo.pattern_of(studio_id, shot_id)

    def join(self, studio_id: UUID, shot_id: UUID, *, pattern_id: UUID | None) -> None:
        """Let a shot follow a pattern, or none any more."""
        with self._database.transaction() as repo:
            repo.set_pattern(studio_id, shot_id, pattern_id=None if pattern_id == shot_id else pattern_id)

    def members(self, studio_id: UUID, shot_id: UUID) -> list[Member]:
        """All that follow a pattern, each with what it differs by."""
        pattern, names = look_of(self._shots.open(studio_id, shot_id).document, self._codec, self._pictures)
        with self._database.transaction() as repo:
            shots = repo.made_after(studio_id, shot_id)
        found = []
        for shot in shots:
            look, own = look_of(self._shots.open(studio_id, shot.id).document, self._codec, self._pictures)
            found.append(Member(shot=shot, differences=tuple(differences(pattern, look)), names={**own, **names}))
        return found
