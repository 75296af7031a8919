"""A set-up made to stand: nothing in the table or the product, nothing in the frame, every level in its head's reach."""

from __future__ import annotations

import math
from typing import Any

from fotaxis.core.errors import FotaxisError
from fotaxis.core.frames.faults import crossings, things_in_frame
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.scene.checks import collisions, out_of_reach
from fotaxis.core.scene.plan import Plan
from fotaxis.services.ports import Document, ShotCodec

ROUNDS = 40
SLIDE_CM, ABOVE_TABLE_CM, OUT_OF_FRAME_CM = 2.0, 0.4, 0.6
GROWS = 1.12
LARGEST_CM = 320.0
FACES_RAD, LOOKS_DOWN_RAD = 0.2, 1.0
"""A background faces the camera; what looks down is a ceiling."""

Part = dict[str, Any]


def tidied(document: Document, codec: ShotCodec) -> Document:
    """The lights and cards of a document moved until nothing stands where it cannot or shows where it must not; a pair moves together.

    Sizes grow where a background's edges would show. What cannot be helped in ROUNDS steps stays as it is.
    """
    for _ in range(ROUNDS):
        try:
            plan = codec.plan(document)
        except FotaxisError:
            return document
        moves = _moves(plan)
        if not moves:
            return document
        _grow_together(plan, moves)
        document = {
            **document,
            **{name: [_moved(one, moves, document) for one in document[name]] for name in ("lights", "cards")},
        }
    return document


def _moves(plan: Plan) -> dict[str, tuple[str, float]]:
    """What each thing that stands wrongly should do: 'out' from the axis, 'up' onto the table, 'aside' by so much, 'grow'."""
    found: dict[str, tuple[str, float]] = {}
    small = {card.key for card in plan.cards if max(card.half_size_m) < 0.5 and card.finish.group == "card"}
    for key, what in collisions(plan).items():
        found[key] = ("stand", 0.0) if what == "the table" and key in small else ("out", SLIDE_CM)
    for key, what in out_of_reach(plan).items():
        found.setdefault(key, ("down" if what == "too high" else "up", 5.0))
    for fault in crossings(plan):
        other = next(one for one in (*plan.lights, *plan.cards) if one.key == fault.other)
        found.setdefault(fault.other, ("right" if other.stance.place.x_m >= 0 else "left", SLIDE_CM))
    for fault in things_in_frame(plan, pack_static_scene(plan)):
        if not fault.side:
            continue
        depth = 100 * fault.depth_m + OUT_OF_FRAME_CM
        thing = next(one for one in (*plan.lights, *plan.cards) if one.key == fault.key)
        stance = thing.stance
        behind = stance.place.z_m < 0 and abs(stance.turn_rad) < FACES_RAD and abs(stance.tilt_rad) < LOOKS_DOWN_RAD
        if behind and (fault.whole or fault.side in ("from below", "from above")):
            found.setdefault(fault.key, ("grow", GROWS))
        elif fault.side in ("from the left", "from the right"):
            found.setdefault(fault.key, ("left" if fault.side == "from the left" else "right", depth))
        else:
            found.setdefault(fault.key, ("up" if fault.side == "from above" else "down", depth))
    return found


def _grow_together(plan: Plan, moves: dict[str, tuple[str, float]]) -> None:
    """A flag before a box keeps its share of it: what faces the same way as something that grows, grows too."""
    things = {one.key: one for one in (*plan.lights, *plan.cards)}
    for key in [key for key, (what, _) in moves.items() if what == "grow"]:
        stance = things[key].stance
        for other in things.values():
            if (other.stance.turn_rad, other.stance.tilt_rad) == (stance.turn_rad, stance.tilt_rad):
                moves[other.key] = ("grow", GROWS)


def _moved(thing: Part, moves: dict[str, tuple[str, float]], document: Document) -> Part:
    """A thing after its own move, or its other half's mirrored."""
    own, pair = moves.get(thing["key"]), moves.get(thing.get("pair") or "")
    move = own or pair
    if move is None or "place" not in thing:
        return thing
    what, by = move
    if not own:
        what = {"left": "right", "right": "left"}.get(what, what)
    place = dict(thing["place"])
    if what == "grow":
        grown: Part = {n: round(min(thing[n] * by, LARGEST_CM), 1) for n in ("width_cm", "height_cm") if n in thing}
        return {**thing, **grown}
    if what == "stand":
        place["y_cm"] = round(thing.get("height_cm", 20.0) / 2 + ABOVE_TABLE_CM, 1)
    elif what == "out":
        away = math.hypot(place["x_cm"], place["z_cm"]) or 1.0
        place["x_cm"], place["z_cm"] = (round(place[n] * (1 + by / away), 1) for n in ("x_cm", "z_cm"))
        if away < 1.5:
            place["z_cm"] = round(place["z_cm"] - by, 1)
    elif what in ("left", "right"):
        place["x_cm"] = round(place["x_cm"] + (by if what == "right" else -by), 1)
    else:
        place["y_cm"] = round(place["y_cm"] + (by if what == "up" else -by), 1)
    return {**thing, "place": place}
