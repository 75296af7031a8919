"""What ways on from the set's surfaces meet: the whole product looked over, and any wished highlight."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import SEGMENT
from fotaxis.core.geometry import orientation
from fotaxis.core.keys import PRODUCT_KEY
from fotaxis.core.lights.fixtures import Card, Light, Panel
from fotaxis.core.proposals.panel import Face
from fotaxis.core.proposals.ways import surface_at
from fotaxis.core.render.arrays.path_records import SKINS_PER_SURFACE
from fotaxis.core.render.arrays.static_scene import StaticScene
from fotaxis.core.render.mirrored import MirrorSamples, static_thing, trace_mirrored, zone_name
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array

ROWS, COLUMNS = 40, 30
"""The product is looked over in so many places."""

CAMERA_M = 0.09
"""Lens and body hide what passes closer by. Common practice: a body with its lens is some 15 cm wide."""

CAMERA = "camera"
STARTS_M = 1e-4


@dataclass(frozen=True, slots=True, kw_only=True)
class Ways:
    """Mirrored ways on from places of the frame (n,): spots (n, 2) 0..1, places and unit directions (n, 3), how far they are free of
    what stands still (m) and whose that is, the zone's number and whether it mirrors sharply."""

    spots: Array
    places: Array
    ways: Array
    free_m: Array
    ends_on: tuple[str, ...]
    zone: NDArray[np.int64]
    bare: NDArray[np.bool_]

    def __len__(self) -> int:
        return len(self.spots)


def ways_on(plan: Plan, scene: StaticScene, spots: Array, *, width: int, height: int) -> Ways:
    """The ways on from places of a picture; of what mirrors blurred the middle of what it mirrors."""
    return ways_of(plan, scene, trace_mirrored(plan, scene, spots, width=width, height=height), spots, (width, height))


def ways_of(plan: Plan, scene: StaticScene, samples: MirrorSamples, spots: Array, size: tuple[int, int]) -> Ways:
    """The ways on of traced places of a picture of some size, see ways_on."""
    root = samples.root
    sharp = root >= 0
    rows = samples.paths.segments[np.maximum(root, 0)].astype(np.float64)
    ways = np.where(sharp[:, None], rows[:, SEGMENT.DIRECTION], 0.0)
    free = np.where(sharp, rows[:, SEGMENT.LENGTH], 0.0)
    blurred = np.flatnonzero(~sharp & samples.on_product)
    if len(blurred):
        x, y = spots[blurred].T * np.array([[size[0]], [size[1]]])
        on = surface_at(plan, scene, x, y, *size)
        there = on.there & on.mirrors
        ways[blurred[there]], free[blurred[there]] = on.onward[there], np.inf
    owners = tuple(static_thing(plan, samples, k) if sharp[k] else "" for k in range(len(root)))
    return Ways(spots=spots, places=samples.ends, ways=ways, free_m=free, ends_on=owners, zone=samples.zone, bare=free > 0)


def product_spots(is_product: NDArray[np.bool_]) -> Array:
    """Places all over the product as a picture shows it, 0..1, (n, 2)."""
    height, width = is_product.shape
    rows = np.flatnonzero(is_product.any(axis=1))
    if not len(rows):
        return np.empty((0, 2))
    found = []
    for row in np.unique(np.linspace(rows[0], rows[-1], ROWS).round().astype(int)):
        columns = np.flatnonzero(is_product[row])
        x = (np.linspace(columns[0], columns[-1], COLUMNS) + 0.5).round(2)
        on = is_product[row, np.clip(x.astype(int), 0, width - 1)]
        found.append(np.column_stack([x[on] / width, np.full(np.count_nonzero(on), (row + 0.5) / height)]))
    return np.concatenate(found)


def looked_over(plan: Plan, scene: StaticScene, is_product: NDArray[np.bool_]) -> Ways:
    """Ways on from the whole product as it is seen."""
    height, width = is_product.shape
    return ways_on(plan, scene, product_spots(is_product), width=width, height=height)


def some_of(ways: Ways, chosen: NDArray[np.bool_] | slice) -> Ways:
    """Some of the ways."""
    owners = np.array(ways.ends_on, dtype=object)[chosen]
    return Ways(
        spots=ways.spots[chosen], places=ways.places[chosen], ways=ways.ways[chosen], free_m=ways.free_m[chosen],
        ends_on=tuple(owners), zone=ways.zone[chosen], bare=ways.bare[chosen],
    )  # fmt: skip


def zone_words(plan: Plan, scene: StaticScene, ways: Ways) -> dict[int, str]:
    """Names of the zones ways leave, by number, the body by the product's own name."""
    return {
        int(zone): zone_name(plan, PRODUCT_KEY, scene.skins[int(zone) % SKINS_PER_SURFACE]) or plan.product.name
        for zone in np.unique(ways.zone[ways.zone >= 0])
    }


@dataclass(frozen=True, slots=True, kw_only=True)
class Meets:
    """What ways meet first: number of the face (n,), -1 for what stands still or nothing, CAMERA_HIDES for the camera; and how far
    away (m)."""

    face: NDArray[np.int64]
    away_m: Array


CAMERA_HIDES = -2


def meets(plan: Plan, ways: Ways, faces: Sequence[Light | Card | Face], *, camera: bool = True) -> Meets:
    """Which of some faces every way meets first, as flat rectangles and discs.

    Source:     intersection of rays with planes; lens and body as a ball about the lens.
    """
    nearest = ways.free_m.copy()
    which = np.full(len(ways), -1, np.int64)
    for number, face in enumerate(faces):
        away = _away(ways, face)
        closer = away < nearest
        nearest[closer], which[closer] = away[closer], number
    if camera:
        toward = plan.camera.place.array() - ways.places
        along = (toward * ways.ways).sum(axis=1)
        aside = np.linalg.norm(toward - along[:, None] * ways.ways, axis=1)
        hides = (along > 0) & (along < nearest) & (aside < CAMERA_M)
        which[hides], nearest[hides] = CAMERA_HIDES, along[hides]
    return Meets(face=which, away_m=nearest)


def _away(ways: Ways, face: Light | Card | Face) -> Array:
    """How far along every way a face is met, inf where it is missed."""
    stance = face.stance
    across, up, front = orientation.axes(turn_rad=stance.turn_rad, tilt_rad=stance.tilt_rad)
    half_w, half_h = face.half_size_m
    toward = stance.place.array() - ways.places
    along = ways.ways @ front
    away = (toward @ front) / np.where(np.abs(along) < 1e-9, 1e-9, along)
    at = away[:, None] * ways.ways - toward
    u, v = at @ across, at @ up
    if isinstance(face, Panel | Card | Face):
        inside = (np.abs(u) <= half_w) & (np.abs(v) <= half_h)
        if isinstance(face, Card) and face.hole_m:
            inside &= np.hypot(u, v) > face.hole_m / 2
    else:
        inside = np.hypot(u, v) <= half_w
    found: Array = np.where(inside & (away > STARTS_M), away, np.inf)
    return found
