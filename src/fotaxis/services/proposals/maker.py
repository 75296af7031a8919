"""What makes a highlight by now: a panel, a card, or a sheet with the lights behind it, which are moved as one."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from fotaxis.core.frames.readings.edge import EdgeLine
from fotaxis.core.geometry import orientation
from fotaxis.core.lights.fixtures import Card, Light, Panel, Stance
from fotaxis.core.proposals.panel import Face
from fotaxis.core.proposals.survey import meets
from fotaxis.core.values import Point
from fotaxis.services.changes import Change
from fotaxis.services.proposals.highlight import Highlight
from fotaxis.services.proposals.proposal import set_all, stood, turned, where

BEHIND_M = 1.5
PASSES = 0.05
SEEN, BRIGHT = 0.25, 0.1


@dataclass(frozen=True, slots=True, kw_only=True)
class Maker:
    """A thing that makes a highlight, the list it stands in, and the lights behind it where it is a sheet."""

    thing: Light | Card
    list_name: str
    behind: tuple[Light, ...] = ()

    @property
    def keys(self) -> frozenset[str]:
        return frozenset({self.thing.key, *(light.key for light in self.behind)})

    @property
    def height_m(self) -> float:
        return 2 * self.thing.half_size_m[1]

    def moved_to(self, face: Face) -> list[Change]:
        """Changes that move and size it, the lights behind it with it."""
        changes = set_all(self.list_name, self.thing.key, stood(face))
        before, after = self.thing.stance, face.stance
        old = np.array(orientation.axes(turn_rad=before.turn_rad, tilt_rad=before.tilt_rad))
        new = np.array(orientation.axes(turn_rad=after.turn_rad, tilt_rad=after.tilt_rad))
        for light in self.behind:
            apart = old @ (light.stance.place.array() - before.place.array())
            x, y, z = (float(v) for v in after.place.array() + apart @ new)
            turn = _wrapped(light.stance.turn_rad + after.turn_rad - before.turn_rad)
            tilt = max(-math.pi / 2, min(math.pi / 2, light.stance.tilt_rad + after.tilt_rad - before.tilt_rad))
            stance = Stance(place=Point(x_m=x, y_m=y, z_m=z), turn_rad=turn, tilt_rad=tilt)
            changes += set_all("lights", light.key, {"place": where(stance.place), **turned(stance)})
        return changes

    def taken_away(self) -> list[Change]:
        """Changes that take it off the set, with the lights behind it."""
        found = [Change(kind="remove", path=(self.list_name, self.thing.key))]
        return found + [Change(kind="remove", path=("lights", light.key)) for light in self.behind]


def _wrapped(angle_rad: float) -> float:
    return (angle_rad + math.pi) % (2 * math.pi) - math.pi


def maker_of(highlight: Highlight) -> Maker | None:
    """What makes most of a highlight by now; of a line what stands on its own side; None for nothing that could be moved."""
    asked, plan = highlight.asked, highlight.plan
    found = _mirrored(highlight)
    if found is None:
        light = asked.main_light
        found = light if light is None else _sheet_before(plan.cards, light) or light
    if not isinstance(found, Panel | Card):
        return None
    reading = asked.reading
    if reading is not None and isinstance(reading.at, EdgeLine) and (found.stance.place.x_m < 0) != reading.at.left:
        return None
    if isinstance(found, Card):
        behind = tuple(light for light in plan.lights if _sheet_before(plan.cards, light) is found)
        return Maker(thing=found, list_name="cards", behind=behind if found.finish.passed > PASSES else ())
    return Maker(thing=found, list_name="lights")


def _mirrored(highlight: Highlight) -> Light | Card | None:
    """The light or bright card that most of the highlight's ways meet."""
    things = [*highlight.plan.lights, *highlight.plan.cards]
    met = meets(highlight.plan, highlight.own, things, camera=False).face
    if not len(met) or (met >= 0).mean() < SEEN:
        return None
    number, count = np.unique(met[met >= 0], return_counts=True)
    best = things[int(number[np.argmax(count)])]
    dark = (
        isinstance(best, Card) and max(best.finish.reflectance.green, best.finish.gloss.green, best.finish.passed) < BRIGHT
    )
    return None if dark else best


def _sheet_before(cards: tuple[Card, ...], light: Light) -> Card | None:
    """The sheet that a light shines through along its axis; None without one."""
    _, _, front = orientation.axes(turn_rad=light.stance.turn_rad, tilt_rad=light.stance.tilt_rad)
    best, nearest = None, BEHIND_M
    for card in cards:
        if card.finish.passed <= PASSES or card.finish.veil.green > 0:
            continue
        across, up, facing = orientation.axes(turn_rad=card.stance.turn_rad, tilt_rad=card.stance.tilt_rad)
        toward = card.stance.place.array() - light.stance.place.array()
        along = float(front @ facing)
        if abs(along) < 1e-6:
            continue
        away = float(toward @ facing) / along
        at = away * front - toward
        inside = abs(float(at @ across)) <= card.half_size_m[0] and abs(float(at @ up)) <= card.half_size_m[1]
        if 0 < away < nearest and inside:
            best, nearest = card, away
    return best
