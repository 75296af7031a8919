"""Ways to a darker background: further away, a flag before the light that reaches it; and to a light behind for a glow."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from fotaxis.core.errors import NoSolution
from fotaxis.core.frames.readings.frame_area import FrameArea
from fotaxis.core.frames.readings.frame_spot import FrameSpot
from fotaxis.core.proposals.dark_ground import background_light, darker_at_m, ground_flag
from fotaxis.core.render.layers import layer_gains
from fotaxis.core.stops import measured_stops
from fotaxis.core.wishes.level import Level
from fotaxis.services.changes import Change, fresh_key
from fotaxis.services.presets import new_thing
from fotaxis.services.proposals.proposal import Asked, Proposal, place_words, size_words, stood

LEAST_SHARE = 0.1
FLAGS_AT_MOST = 3


def ground_proposals(asked: Asked) -> list[Proposal]:
    """Raises NoSolution where it is dark enough, there is no background, or nothing helps."""
    wish, plan = asked.wish.wish, asked.plan
    reading = asked.reading
    if not isinstance(wish, Level) or reading is None or not isinstance(reading.at, FrameSpot | FrameArea):
        raise NoSolution("this wish is about no background.")
    now = asked.value.level_stops if asked.value else None
    if now is None or wish.target.gap(now) <= wish.target.within:
        raise NoSolution("it is dark enough as it stands.")
    lacks = now - wish.stops
    if plan.background is None:
        raise NoSolution("there is no background on this set: what is seen there is light in the room, haze or veil.")
    gains = layer_gains(plan)[1:]
    made = background_light(plan, gains)
    found = [*_further(asked, gains, lacks), *_flags(asked, made, lacks)]
    if not found:
        raise NoSolution(
            f"no place up to 8 m and no single flag makes it {measured_stops(lacks)} stops darker: take darker cloth, and flag the "
            "lights that reach it."
        )
    return sorted(found, key=lambda one: -one.rank)


def _further(asked: Asked, gains: np.ndarray, lacks: float) -> Iterator[Proposal]:
    background = asked.plan.background
    assert background is not None, "there is a background"
    distance = darker_at_m(asked.plan, gains, stops=lacks, spots=_spots(asked))
    if distance is None:
        return
    to_cm = round(100 * distance + 0.5)
    wider = distance / background.distance_m
    size = {
        "distance_cm": to_cm, "width_cm": round(100 * background.width_m * max(1.0, wider), 0),
        "height_cm": round(100 * background.height_m * max(1.0, wider), 0),
    }  # fmt: skip
    changes = tuple(Change(kind="set", path=("background", name), value=value) for name, value in size.items())
    reasons = (
        f"From {100 * background.distance_m:.0f} cm: {measured_stops(lacks)} stops less light reaches it. It must be "
        f"{size['width_cm']:.0f} × {size['height_cm']:.0f} cm to fill the frame there.",
    )  # fmt: skip
    yield Proposal(title=f"Background {to_cm} cm behind", reasons=reasons, changes=changes, rank=90 - 4 * distance)


def _flags(asked: Asked, made: np.ndarray, lacks: float) -> Iterator[Proposal]:
    whole = float(made.sum())
    if whole <= 0:
        return
    for number in np.argsort(-made)[:FLAGS_AT_MOST]:
        share = float(made[number]) / whole
        if share < LEAST_SHARE:
            continue
        light = asked.plan.lights[int(number)]
        face = ground_flag(asked.plan, light)
        if face is None:
            continue
        key = fresh_key(asked.document, "flag")
        thing = {**new_thing("black card"), "name": f"Flag, {light.name} off the ground", **stood(face), "key": key}
        changes = [Change(kind="add", path=("cards",), value=thing)]
        after = background_light(asked.plan_with(changes), layer_gains(asked.plan)[1:])
        falls = float(np.log2(whole / max(float(after.sum()), 1e-12)))
        enough = "enough" if falls >= lacks - 0.05 else f"of {measured_stops(lacks)} wanted"
        reasons = (
            f"{light.name} makes {100 * share:.0f} % of it; {size_words(face)}, {place_words(face.place)}.",
            f"It takes {measured_stops(min(falls, 12.0))} stops off the background ({enough}) and leaves the product lit.",
        )
        yield Proposal(
            title=f"Flag between {light.name} and the background", reasons=reasons, changes=tuple(changes),
            rank=60 + 30 * min(1.0, falls / max(lacks, 0.1)),
        )  # fmt: skip


def _spots(asked: Asked) -> np.ndarray:
    """Where in the frame the wish reads the background, (n, 2)."""
    at = asked.reading.at if asked.reading else None
    if isinstance(at, FrameArea):
        return np.array([(x, y) for x in np.linspace(at.x, at.to_x, 4) for y in np.linspace(at.y, at.to_y, 4)])
    assert isinstance(at, FrameSpot), "the wish reads the frame"
    return np.array([(at.x, at.y)])
