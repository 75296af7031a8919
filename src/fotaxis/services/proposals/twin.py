"""The same as on the other side: what makes the opposite line, mirrored."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from fotaxis.core.frames.readings.edge import EdgeLine
from fotaxis.core.proposals.panel import Face
from fotaxis.core.values import Point
from fotaxis.core.wishes.place import Place
from fotaxis.services.changes import Change, fresh_key
from fotaxis.services.mirror_pairs import mirrored, other_side_name
from fotaxis.services.ports import Document
from fotaxis.services.proposals.highlight import Highlight, judged, ways_of_wish
from fotaxis.services.proposals.maker import Maker, maker_of
from fotaxis.services.proposals.proposal import Proposal

BETTER = 6.0
"""Two sides made by the same things are equal in brightness and place as soon as their powers are. Common practice."""


def twin(highlight: Highlight) -> Iterator[Proposal]:
    """What makes the line on the other side, once more, linked as a pair."""
    other = _opposite(highlight)
    maker = maker_of(other) if other else None
    if maker is None or maker_of(highlight) is not None:
        return
    document = highlight.asked.document
    changes: list[Change] = []
    for name, key in [(maker.list_name, maker.thing.key), *(("lights", light.key) for light in maker.behind)]:
        thing = next(one for one in document[name] if one["key"] == key)
        if thing.get("pair"):
            return
        changes += _linked(document, changes, name, thing)
    title = f"As on the other side: {maker.thing.name}, mirrored"
    made = judged(highlight, title, changes, _mirrored_face(maker), owned=True)
    power = next((one for one in document["lights"] if one["key"] in maker.keys), None)
    # Its power is that of the other side, not found anew.
    yield replace(made, rank=made.rank + BETTER, shines=None if power else made.shines)


def _linked(document: Document, before: list[Change], name: str, thing: Document) -> list[Change]:
    taken = {
        **document,
        name: [*document[name], *(one.value for one in before if one.kind == "add" and one.path == (name,))],
    }
    key = fresh_key(taken, other_side_name(thing["key"]).replace(", other side", "-2").replace(" ", "-"))
    copy = {**mirrored(thing), "key": key, "name": other_side_name(thing["name"]), "pair": thing["key"]}
    return [
        Change(kind="add", path=(name,), value=copy), Change(kind="set", path=(name, thing["key"], "pair"), value=key),
    ]  # fmt: skip


def _opposite(highlight: Highlight) -> Highlight | None:
    """The highlight of a wish about a line on the other side that lies where this one is to lie."""
    asked = highlight.asked
    wish, reading = asked.wish.wish, asked.reading
    if not isinstance(wish, Place) or reading is None or not isinstance(reading.at, EdgeLine):
        return None
    by_key = {one.key: one for one in asked.readings}
    for one in asked.codec.wishes(asked.document):
        other = by_key.get(one.wish.reading) if isinstance(one.wish, Place) else None
        if (
            other is not None
            and isinstance(one.wish, Place)
            and isinstance(other.at, EdgeLine)
            and other.at.left != reading.at.left
            and (one.wish.near, one.wish.far) == (wish.near, wish.far)
        ):
            turned = replace(asked, wish=one)
            return Highlight(asked=turned, plan=highlight.plan, mirrored=ways_of_wish(turned, highlight.plan))
    return None


def _mirrored_face(maker: Maker) -> Face:
    stance = maker.thing.stance
    half_w, half_h = maker.thing.half_size_m
    place = Point(x_m=-stance.place.x_m, y_m=stance.place.y_m, z_m=stance.place.z_m)
    return Face(
        place=place, turn_rad=-stance.turn_rad, tilt_rad=stance.tilt_rad, width_m=2 * half_w, height_m=2 * half_h,
        distance_m=abs(place.x_m), below_m=max(0.0, half_h - place.y_m),
    )  # fmt: skip
