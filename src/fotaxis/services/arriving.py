"""Where a new thing stands: free, aimed at the product, out of the frame, beside the last of its kind."""

from __future__ import annotations

import math
from collections.abc import Iterator
from itertools import product as every
from typing import Any

from fotaxis.core.errors import FotaxisError
from fotaxis.core.frames.faults import crossings, things_in_frame
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.scene.checks import collisions, out_of_reach
from fotaxis.core.scene.plan import Plan
from fotaxis.services.changes import fresh_key
from fotaxis.services.levels import wanted_powers
from fotaxis.services.lighting_setups.setup import ACCENT_STOPS, EDGE_STOPS, GLOW_STOPS, LABEL_STOPS
from fotaxis.services.ports import Document, ShotCodec
from fotaxis.services.presets import list_of

Things = list[dict[str, Any]]

TURNS_DEG = (0, 15, -15, 30, -30, 45, -45, 60, -60, 80, -80, 100, -100, 130, -130, 160)
FARTHER = (1.0, 1.25, 1.6, 2.0, 2.6)
HIGHER_CM = (0.0, 20.0, 45.0)
"""Tried in turn until a place is free: round the product, farther from it, higher."""

BESIDE_CM, FRONT_CM = 2.0, 4.0
ABREAST = 6
FITTED = ("lens-hole card", "card behind the bottle", "corridor of black cards", "sun")
"""What is added where it belongs, and nowhere else."""


def arrived(kind: str, things: Things, document: Document, codec: ShotCodec) -> list[tuple[str, dict[str, Any]]]:
    """New things of one kind, each with the list it belongs to, where they are free, a light at the level it usually has; as they
    are where no place is."""
    return _at_their_level(kind, _placed(kind, things, document, codec), document, codec)


LEVELS = {
    "grid head": LABEL_STOPS,
    "snoot": LABEL_STOPS,
    "panel": EDGE_STOPS,
    "strip box": EDGE_STOPS,
    "background head": GLOW_STOPS,
}
"""How bright the brightest of what a new light does is, stops from grey; of others ACCENT_STOPS."""

BEHIND_KINDS = ("background head",)


def _at_their_level(
    kind: str, placed: list[tuple[str, dict[str, Any]]], document: Document, codec: ShotCodec
) -> list[tuple[str, dict[str, Any]]]:
    """The same, the light among them at the step of its power at which it shows as such a light usually does."""
    lights = [thing for list_name, thing in placed if list_name == "lights"]
    if len(lights) != 1 or "place" not in lights[0]:
        return placed
    with_all, key = document, ""
    for list_name, thing in placed:
        own = fresh_key(with_all, "arriving")
        key = own if list_name == "lights" else key
        with_all = {**with_all, list_name: [*with_all.get(list_name, []), {**thing, "key": own}]}
    behind = frozenset({key} if kind in BEHIND_KINDS else ())
    try:
        stops = wanted_powers(codec.plan(with_all), {key: LEVELS.get(kind, ACCENT_STOPS)}, in_frame=behind).get(key)
    except FotaxisError:
        return placed
    if stops is None:
        return placed
    light = lights[0]
    steps, lowest = light.get("steps_per_stop", 3), light.get("lowest_stops", 7)
    power = max(-float(lowest), min(0.0, round(stops * steps) / steps))
    return [(name, {**thing, "power_stops": round(power, 4)} if thing is light else thing) for name, thing in placed]


def _placed(kind: str, things: Things, document: Document, codec: ShotCodec) -> list[tuple[str, dict[str, Any]]]:
    """As arrived, at their preset power."""
    lists = [list_of(thing) for thing in things]
    if kind in FITTED:
        return list(zip(lists, things, strict=True))
    if kind in BEHIND_KINDS:
        poses: Iterator[Things] = _low_behind(things[0], document)
    elif lists == ["others"]:
        poses = _beside(things[0], codec.plan(document))
    elif all("place" in thing for thing in things):
        poses = _round_about(kind, things, document, codec.plan(document))
    else:
        poses = iter(())
    for pose in poses:
        if _is_free(pose, lists, document, codec):
            return list(zip(lists, pose, strict=True))
    return list(zip(lists, things, strict=True))


def _is_free(things: Things, lists: list[str], document: Document, codec: ShotCodec) -> bool:
    """Do things stand clear of everything, within reach of a stand, and out of the frame?"""
    keys = set()
    for list_name, thing in zip(lists, things, strict=True):
        keyed = {**thing, "key": fresh_key(document, "arriving")}
        keys.add(keyed["key"])
        document = {**document, list_name: [*document.get(list_name, []), keyed]}
    try:
        plan = codec.plan(document)
    except FotaxisError:
        return False
    if keys & {*collisions(plan), *out_of_reach(plan)}:
        return False
    if lists == ["others"]:
        return True
    if any(keys & {fault.key, fault.other} for fault in crossings(plan)):
        return False
    return not any(fault.key in keys for fault in things_in_frame(plan, pack_static_scene(plan)))


def _round_about(kind: str, things: Things, document: Document, plan: Plan) -> Iterator[Things]:
    """Poses of a group of things about the product, the likeliest first: the preset's, or beside the last of the kind."""
    begin, turned_by = things, 0.0
    last = _last_alike(things[0], document) if len(things) == 1 else None
    if last is not None:
        begin = [
            {**things[0], "place": dict(last["place"]), "turn_deg": last["turn_deg"], "tilt_deg": last.get("tilt_deg", 0)}
        ]
    middle = 100 * (plan.lift_m + plan.product.height_m / 2)
    for higher, farther, turn in every(HIGHER_CM, FARTHER, TURNS_DEG):
        if last is not None and turn == 0 and farther == 1.0 and higher == 0.0:
            continue
        yield [_posed(thing, turned_by + turn, farther, higher, middle, aimed=len(things) == 1) for thing in begin]


LOWER_CM, ASIDE_CM = 10.0, 20.0
DEEPEST_CM = -60.0


def _low_behind(thing: dict[str, Any], document: Document) -> Iterator[Things]:
    """Poses of a head that lights the background: as the preset has it, then lower, then aside, always turned to the part of the
    background that the frame shows."""
    background = document.get("background") or {"distance_cm": 150}
    aim = document["camera"]["aim_height_cm"]
    place = thing["place"]
    away = max(background["distance_cm"] + place["z_cm"], 10.0)
    for aside in range(5):
        for side in (1, -1) if aside else (1,):
            height = place["y_cm"]
            while height >= DEEPEST_CM:
                x = side * aside * ASIDE_CM
                turn = 180.0 + math.degrees(math.atan2(x, away))
                tilt = math.degrees(math.atan2(aim - height, math.hypot(away, x)))
                pose = {
                    **thing,
                    "place": {**place, "x_cm": x, "y_cm": round(height, 1)},
                    "turn_deg": round((turn + 180) % 360 - 180, 1),
                }
                yield [{**pose, "tilt_deg": round(tilt, 1)}]
                height -= LOWER_CM


def _last_alike(thing: dict[str, Any], document: Document) -> dict[str, Any] | None:
    """The newest thing of the same kind on the set."""
    alike = [
        one for one in document.get(list_of(thing), [])
        if "place" in one and all(one.get(name) == thing.get(name) for name in ("kind", "head", "material"))
    ]  # fmt: skip
    return alike[-1] if alike else None


def _posed(
    thing: dict[str, Any], turn: float, farther: float, higher: float, middle: float, *, aimed: bool
) -> dict[str, Any]:
    """A thing turned about the product's axis, farther from it and higher; a head that is alone looks at the product's middle."""
    place = thing["place"]
    x, z, angle = place["x_cm"], place["z_cm"], math.radians(turn)
    moved = {
        "x_cm": round(farther * (x * math.cos(angle) + z * math.sin(angle)), 1), "y_cm": round(place["y_cm"] + higher, 1),
        "z_cm": round(farther * (z * math.cos(angle) - x * math.sin(angle)), 1),
    }  # fmt: skip
    posed = {**thing, "place": moved, "turn_deg": round((thing["turn_deg"] + turn + 180) % 360 - 180, 1)}
    if aimed and thing["kind"] in ("head", "grid head"):
        away = math.hypot(moved["x_cm"], moved["z_cm"])
        posed["turn_deg"] = round(math.degrees(math.atan2(-moved["x_cm"], -moved["z_cm"])), 1)
        posed["tilt_deg"] = round(math.degrees(math.atan2(middle - moved["y_cm"], away)), 1)
    return posed


def _beside(thing: dict[str, Any], plan: Plan) -> Iterator[Things]:
    """Places of a product beside the main one: right, left, then farther out."""
    reach = 100 * plan.product.reach_m
    for step in range(ABREAST):
        for side in (1, -1):
            for own in (5.0, 8.0, 12.0, 20.0):
                x = side * (reach + own + BESIDE_CM + step * 8.0)
                yield [
                    {
                        **thing,
                        "x_cm": round(100 * plan.product.x_m + x, 1),
                        "z_cm": round(100 * plan.product.z_m + FRONT_CM, 1),
                    }
                ]
