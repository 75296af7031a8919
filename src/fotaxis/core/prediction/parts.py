"""Things that are made of several faces: bent reflectors, barn doors, lamps that are moved or flash again."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from fotaxis.core.geometry import facing, flat
from fotaxis.core.sources.things import FULL_TURN, Card, Lamp, Light, Stance
from fotaxis.core.values import Array, Point

STRIP_RAD = math.radians(12)
"""A bent reflector is cut into strips that turn by no more than this from one to the next; its own spread blends them."""

MOST_PLACES = 40
DOOR_LENGTH = 1.1
"""Length of a barn door in diameters of the head's face, and its width."""


def strips_of(card: Card) -> list[Card]:
    """The card itself, or a bent one as flat strips side by side along its arc, their hollow side to the front."""
    if not card.bend_rad:
        return [card]
    count = max(2, math.ceil(card.bend_rad / STRIP_RAD))
    radius = card.width_m / card.bend_rad
    across, _, front = facing.axes(turn_rad=card.stance.turn_rad, tilt_rad=card.stance.tilt_rad)
    made = []
    for i in range(count):
        angle = ((i + 0.5) / count - 0.5) * card.bend_rad
        place = card.stance.place.array() + radius * (math.sin(angle) * across + (1 - math.cos(angle)) * front)
        looks = math.cos(angle) * front - math.sin(angle) * across
        turn, tilt = facing.aim(place=place, target=place + looks)
        stance = Stance(place=_point(place), turn_rad=turn, tilt_rad=tilt)
        width = 2 * radius * math.tan(card.bend_rad / count / 2)
        made.append(replace(card, stance=stance, width_m=width, bend_rad=0.0))
    return made


def places_of(light: Light) -> Iterator[tuple[int, float, Light]]:
    """A light wherever it shines from during one exposure: how many places, its share of light there, and the light.

    A burning lamp that is moved is taken in places as far apart as half its face, at most 40; one that flashes several times
    gives its whole light from each place.
    """
    if not isinstance(light, Lamp) or (light.to is None and light.pops == 1):
        yield 1, 1.0, light
        return
    if light.to is None:
        yield 1, float(light.pops), light
        return
    way = float(np.linalg.norm(light.to.place.array() - light.stance.place.array()))
    flashes = not light.emission.continuous
    count = light.pops if flashes else min(MOST_PLACES, max(8, math.ceil(2 * way / light.diameter_m)))
    share = 1.0 if flashes else 1.0 / count
    for i in range(count):
        part = 0.5 if count == 1 else (i / (count - 1) if flashes else (i + 0.5) / count)
        yield count, share, replace(light, stance=_between(light.stance, light.to, part))


def _between(begin: Stance, end: Stance, part: float) -> Stance:
    """A stance on the straight way from one to another; it turns the shorter way round."""
    turn = (end.turn_rad - begin.turn_rad + FULL_TURN / 2) % FULL_TURN - FULL_TURN / 2
    place = begin.place.array() * (1 - part) + end.place.array() * part
    turned = (begin.turn_rad + part * turn + FULL_TURN / 2) % FULL_TURN - FULL_TURN / 2
    return Stance(place=_point(place), turn_rad=turned, tilt_rad=begin.tilt_rad * (1 - part) + end.tilt_rad * part)


def door_rows(lamp: Lamp) -> list[Array]:
    """The barn doors of a head as flat things, see geometry.flat: hinged at its rim, each as long and wide as the face."""
    if lamp.doors is None:
        return []
    rows = []
    half = lamp.diameter_m / 2
    for _, _, part in places_of(lamp):
        across, up, front = facing.axes(turn_rad=part.stance.turn_rad, tilt_rad=part.stance.tilt_rad)
        # Seen from behind the head its left is where `across`, which counts for one facing it, is positive.
        for angle, out, along in zip(lamp.doors, (across, -across, up, -up), (up, up, across, across), strict=True):
            way = math.cos(angle) * front + math.sin(angle) * out
            centre = part.stance.place.array() + half * out + DOOR_LENGTH * half * way
            rows.append(
                flat.row(
                    centre=centre, across=along, up=way, front=np.cross(along, way), half_width_m=DOOR_LENGTH * half,
                    half_height_m=DOOR_LENGTH * half,
                )
            )  # fmt: skip
    return rows


def _point(place: Array) -> Point:
    return Point(x_m=float(place[0]), y_m=float(place[1]), z_m=float(place[2]))
