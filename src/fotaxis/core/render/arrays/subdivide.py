"""Things that are made of several faces: bent reflectors, barn doors, lamps that are moved or flash again."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, field, replace

import numpy as np

from fotaxis.core.geometry import orientation, planar
from fotaxis.core.lights.fixtures import MOST_POPS, Card, Lamp, Light, Stance
from fotaxis.core.lights.way import on_way, way_lengths
from fotaxis.core.values import Array, Point

STRIP_RAD = math.radians(12)
"""A bent reflector is cut into strips that turn by no more than this from one to the next; its own spread blends them."""

MOST_PLACES = 40
DOOR_LENGTH = 1.1
"""Length of a barn door in diameters of the head's face, and its width."""


MOST_FACES = 160
"""What a set may be cut into. Who sees whom is kept for every pair of faces, so what many cost grows with their square."""

DOORS = 4
MOST_STRIPS = 16


@dataclass(frozen=True, slots=True, kw_only=True)
class Cuts:
    """Into how many parts at most a moved light and a bent card are cut."""

    places: int = MOST_POPS
    strips: int = MOST_STRIPS


def cuts(lights: tuple[Light, ...], cards: tuple[Card, ...]) -> Cuts:
    """The finest cuts with which a set stays within MOST_FACES; where even the coarsest do not, those.

    Whichever of places and strips make more faces are thinned first.
    """
    found = Cuts()
    while True:
        from_lights = sum(_places(light, found.places) * (1 + DOORS * _has_doors(light)) for light in lights)
        from_cards = sum(_strips(card, found.strips) for card in cards)
        if from_lights + from_cards <= MOST_FACES or found == Cuts(places=1, strips=2):
            return found
        if found.strips == 2 or (from_lights >= from_cards and found.places > 1):
            found = Cuts(places=max(1, found.places * 4 // 5), strips=found.strips)
        else:
            found = Cuts(places=found.places, strips=max(2, found.strips * 4 // 5))


def _has_doors(light: Light) -> bool:
    return isinstance(light, Lamp) and light.doors is not None


def _strips(card: Card, most: int) -> int:
    return min(most, max(2, math.ceil(card.bend_rad / STRIP_RAD))) if card.bend_rad else 1


def thinned_words(lights: tuple[Light, ...], cards: tuple[Card, ...]) -> dict[str, str]:
    """What of a set is shown with fewer parts than it has, in words by key; mostly nothing."""
    found, words = cuts(lights, cards), {}
    for light in lights:
        all_, shown = _places(light, MOST_POPS), _places(light, found.places)
        if shown < all_:
            flashes = isinstance(light, Lamp) and not light.emission.continuous
            what = "flashes, each as bright as those it stands for" if flashes else "places along its way"
            words[light.key] = f"shown with {shown} of {all_} {what}: the set has too many parts for more"
    for card in cards:
        if _strips(card, found.strips) < _strips(card, MOST_POPS):
            words[card.key] = (
                f"its bend is shown in {_strips(card, found.strips)} flat strips: the set has too many parts for more"
            )
    return words


def strips_of(card: Card, most: int = MOST_STRIPS) -> list[Card]:
    """The card itself, or a bent one as flat strips side by side along its arc, their hollow side to the front."""
    if not card.bend_rad:
        return [card]
    count = _strips(card, most)
    radius = card.width_m / card.bend_rad
    across, _, front = orientation.axes(turn_rad=card.stance.turn_rad, tilt_rad=card.stance.tilt_rad)
    made = []
    for i in range(count):
        angle = ((i + 0.5) / count - 0.5) * card.bend_rad
        place = card.stance.place.array() + radius * (math.sin(angle) * across + (1 - math.cos(angle)) * front)
        looks = math.cos(angle) * front - math.sin(angle) * across
        turn, tilt = orientation.aim(place=place, target=place + looks)
        stance = Stance(place=_point(place), turn_rad=turn, tilt_rad=tilt)
        width = 2 * radius * math.tan(card.bend_rad / count / 2)
        made.append(replace(card, stance=stance, width_m=width, bend_rad=0.0))
    return made


def _places(light: Light, most: int) -> int:
    """From how many places a light shines during one exposure, `most` at most."""
    if not isinstance(light, Lamp) or not light.way:
        return 1
    if not light.emission.continuous:
        return min(light.pops, most)
    way = float(way_lengths(light).sum()) * (light.lit[1] - light.lit[0])
    return min(MOST_PLACES, max(8, math.ceil(2 * way / light.diameter_m)), most)


@dataclass(frozen=True, slots=True, kw_only=True)
class Shining:
    """A light at one of `count` places from which it shines during one exposure.

    share: of its light that it gives there; time: of the exposure that it spends there; sweep (3,): how far it is carried
    meanwhile, metres.
    """

    light: Light
    count: int = 1
    share: float = 1.0
    time: float = 1.0
    sweep: Array = field(default_factory=lambda: np.zeros(3))


def places_of(light: Light, most: int = MOST_POPS) -> Iterator[Shining]:
    """A light wherever it shines from during one exposure.

    A burning lamp that is moved is taken in places as far apart as half its face, at most 40; one that flashes several times
    gives its whole light from each place, or from `most` of them that of all.
    """
    if not isinstance(light, Lamp) or not light.way:
        yield Shining(light=light, share=float(light.pops) if isinstance(light, Lamp) else 1.0)
        return
    flashes, count = not light.emission.continuous, _places(light, most)
    begin, end = light.lit
    each = (end - begin) / count
    for i in range(count):
        part = 0.5 if count == 1 else (i / (count - 1) if flashes else (i + 0.5) / count)
        at = begin + (end - begin) * part
        here = replace(light, stance=on_way(light, at), way=())
        if flashes:
            yield Shining(light=here, count=count, share=light.pops / count, time=1.0 / count)
            continue
        first, last = (on_way(light, at + off * each / 2).place.array() for off in (-1, 1))
        yield Shining(light=here, count=count, share=each, time=each, sweep=last - first)


def door_rows(lamp: Lamp, most: int = MOST_POPS) -> list[Array]:
    """The barn doors of a head as flat things, see geometry.flat: hinged at its rim, each as long and wide as the face."""
    if lamp.doors is None:
        return []
    rows = []
    half = lamp.diameter_m / 2
    for shining in places_of(lamp, most):
        stance = shining.light.stance
        across, up, front = orientation.axes(turn_rad=stance.turn_rad, tilt_rad=stance.tilt_rad)
        # Seen from behind the head its left is where `across`, which counts for one facing it, is positive.
        for angle, out, along in zip(lamp.doors, (across, -across, up, -up), (up, up, across, across), strict=True):
            way = math.cos(angle) * front + math.sin(angle) * out
            centre = stance.place.array() + half * out + DOOR_LENGTH * half * way
            rows.append(
                planar.row(
                    centre=centre, across=along, up=way, front=np.cross(along, way), half_width_m=DOOR_LENGTH * half,
                    half_height_m=DOOR_LENGTH * half,
                )
            )  # fmt: skip
    return rows


def _point(place: Array) -> Point:
    return Point(x_m=float(place[0]), y_m=float(place[1]), z_m=float(place[2]))
