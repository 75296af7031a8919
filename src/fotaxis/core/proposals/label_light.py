"""Where a head lights a matte zone well while no image of it reaches the lens."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.geometry import orientation
from fotaxis.core.lights.fixtures import Lamp, Stance
from fotaxis.core.metering import incident
from fotaxis.core.proposals.panel import Face, in_frame, stands_clear
from fotaxis.core.proposals.survey import Ways, meets
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array, Point

ASIDE_DEG = (0.0, 20.0, 35.0, 45.0, 60.0, 75.0)
UP_DEG = (-35.0, -20.0, 10.0, 25.0, 35.0, 45.0, 60.0)
DISTANCES_M = (0.45, 0.7, 1.0, 1.4)
USUAL_UP_DEG = 45.0
"""From 45 degrees above, with a grid. Common practice."""

LIT_STRAIGHT = 0.35
"""A zone that a head grazes more than this cosine gets little of its light."""

GLARE_COST, UNEVEN_COST, EVEN_COST, STEEP_COST, FAR_COST = 40.0, 1.0, 4.0, 0.004, 0.15
"""What a place costs: for the part of the product that mirrors the head, per stop of unevenness (more where it is wished to
be even), per degree off the usual height, per metre."""

FLOOR_M = 0.7
OFF_M = 1e-4


@dataclass(frozen=True, slots=True, kw_only=True)
class ZonePlaces:
    """Places all over a matte zone (n, 3), their unit normals, and the row and column (n,) each lies in."""

    places: Array
    normals: Array
    row: NDArray[np.int64]
    column: NDArray[np.int64]

    def uneven_stops(self, light: Array) -> float:
        """Brightest less darkest of the medians of its rows or of its columns, whichever is more, as a patch is read."""
        stops = np.log2(np.maximum(light, 1e-12))
        return max(self._spread(stops, self.row), self._spread(stops, self.column))

    def _spread(self, stops: Array, lies: NDArray[np.int64]) -> float:
        medians = [float(np.median(stops[lies == number])) for number in np.unique(lies)]
        return max(medians) - min(medians)


@dataclass(frozen=True, slots=True, kw_only=True)
class LabelLight:
    """Where a head stands: its stance; mirrored: the part of the product that shows its image; uneven_stops: over the zone;
    straight: the mean cosine at which it meets it."""

    stance: Stance
    mirrored: float
    uneven_stops: float
    straight: float
    cost: float


def label_lights(
    plan: Plan, zone: ZonePlaces, whole: Ways, head: Lamp, *, most: int = 3, uneven_cost: float = UNEVEN_COST
) -> list[LabelLight]:
    """Places for a head, the best first: it is seen nowhere in the product's gloss, stands outside the frame, clears the table, and
    lights a zone most evenly.

    uneven_cost: what a stop of unevenness costs.

    Source:     law of reflection over the whole product; illuminance I cos / d^2; what a place costs: common practice.
    """
    places, normals = zone.places, zone.normals
    middle = places.mean(axis=0)
    cheap: list[LabelLight] = []
    for stance in _around(plan, middle):
        light, straight = light_from(stance, places, normals, head)
        if straight < LIT_STRAIGHT or light.min() <= 0:
            continue
        uneven = zone.uneven_stops(light)
        way = stance.place.array() - middle
        away = float(np.linalg.norm(way))
        up = math.degrees(math.asin(way[1] / away))
        cost = uneven_cost * uneven + STEEP_COST * abs(up - USUAL_UP_DEG) + FAR_COST * away
        cheap.append(LabelLight(stance=stance, mirrored=0.0, uneven_stops=uneven, straight=straight, cost=cost))
    cheap.sort(key=lambda one: one.cost)
    kept: list[LabelLight] = []
    for one in cheap:
        if len(kept) == most and one.cost >= kept[-1].cost:
            break
        face = Face(
            place=one.stance.place, turn_rad=one.stance.turn_rad, tilt_rad=one.stance.tilt_rad, width_m=head.diameter_m,
            height_m=head.diameter_m, distance_m=0.0, below_m=0.0,
        )  # fmt: skip
        if in_frame(plan, face) or not stands_clear(plan, face):
            continue
        image = meets(plan, whole, [face], camera=False).face == 0
        mirrored = float((image & whole.bare).mean())
        judged = replace(one, mirrored=mirrored, cost=one.cost + GLARE_COST * mirrored)
        kept = _apart(sorted([*kept, judged], key=lambda other: other.cost), most)
    return [_measured(plan, one, zone, head) for one in kept]


def _measured(plan: Plan, one: LabelLight, zone: ZonePlaces, head: Lamp) -> LabelLight:
    """The same, how even it is read with the head as large as it is: near by, its pool is wider than its beam from far away."""
    lamp = replace(head, stance=one.stance, emission=replace(head.emission, power_stops=0.0, on=True))
    alone = replace(plan, lights=(lamp,), meter=None)
    light = incident.arriving_at_lux_s(alone, zone.places + OFF_M * zone.normals, zone.normals)[:, 0]
    return replace(one, uneven_stops=zone.uneven_stops(light))


def light_from(stance: Stance, places: Array, normals: Array, head: Lamp) -> tuple[Array, float]:
    """Light of a head at places (n,), of any unit, and the mean cosine at which it arrives."""
    own = stance.place.array()
    toward = own - places
    away = np.linalg.norm(toward, axis=1)
    cosine = (toward * normals).sum(axis=1) / away
    _, _, front = orientation.axes(turn_rad=stance.turn_rad, tilt_rad=stance.tilt_rad)
    off = np.arccos(np.clip(-(toward @ front) / away, -1, 1))
    beam = head.shaping.off_axis(off)
    light: Array = beam * np.maximum(cosine, 0) / away**2
    return light, float(cosine.mean())


def _around(plan: Plan, middle: Array) -> Iterator[Stance]:
    """Stances on half balls about a place, on the camera's side of it, aimed at it."""
    eye = plan.camera.place.array()
    facing = math.atan2(eye[0] - middle[0], eye[2] - middle[2])
    for distance in DISTANCES_M:
        for up in UP_DEG:
            for aside in ASIDE_DEG:
                for side in (-1, 1) if aside else (1,):
                    angle, rise = facing + side * math.radians(aside), math.radians(up)
                    way = np.array([
                        math.sin(angle) * math.cos(rise), math.sin(rise), math.cos(angle) * math.cos(rise),
                    ])  # fmt: skip
                    place = middle + distance * way
                    floor = -(plan.table.above_floor_m if plan.table else FLOOR_M)
                    if place[1] < floor + 0.15:
                        continue
                    turn, tilt = orientation.aim(place=place, target=middle)
                    x, y, z = (float(c) for c in place)
                    yield Stance(place=Point(x_m=x, y_m=y, z_m=z), turn_rad=turn, tilt_rad=tilt)


def _apart(found: list[LabelLight], most: int) -> list[LabelLight]:
    """The best that stand well apart from each other."""
    kept: list[LabelLight] = []
    for one in found:
        place = one.stance.place.array()
        if all(np.linalg.norm(place - other.stance.place.array()) > 0.3 for other in kept):
            kept.append(one)
        if len(kept) == most:
            break
    return kept
