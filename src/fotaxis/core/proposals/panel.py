"""The face whose mirror image is a line or an area: place, turn and size at any distance, and what the table takes of it."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from fotaxis.core.errors import NoSolution
from fotaxis.core.geometry import orientation
from fotaxis.core.lights.fixtures import MAX_PANEL_M, Stance
from fotaxis.core.proposals.ways import MirroredWays
from fotaxis.core.scene.checks import face_places, through_table
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array, Point

MARGIN = 1.04
"""A panel is so much taller than the line needs: a hand's breadth hides no end of it."""

AROUND = 1.04
MOST_BLUR_RAD = math.radians(25.0)
"""A face is so much larger than the highlight needs both ways."""

UPRIGHT_RAD = math.radians(15.0)
"""Where the camera looks down by so little that the ways hardly slope, the panel stands upright."""

DISTANCES_M = tuple(round(0.25 + 0.05 * n, 2) for n in range(40))
LEAST_M = 0.02
ALONG = 1e-6
GRAZES = math.cos(math.radians(80.0))
SPREADS = "its parts mirror from more than half the space around: mark less of it, or one of its faces alone."


@dataclass(frozen=True, slots=True, kw_only=True)
class Face:
    """A face: middle, turn and tilt (radians), size and distance from the surface along its middle way (metres); below_m: how
    far its lower edge reaches under the table's top, 0 where it does not."""

    place: Point
    turn_rad: float
    tilt_rad: float
    width_m: float
    height_m: float
    distance_m: float
    below_m: float

    @property
    def stance(self) -> Stance:
        return Stance(place=self.place, turn_rad=self.turn_rad, tilt_rad=self.tilt_rad)

    @property
    def axes(self) -> tuple[Array, Array, Array]:
        return orientation.axes(turn_rad=self.turn_rad, tilt_rad=self.tilt_rad)

    @property
    def half_size_m(self) -> tuple[float, float]:
        return self.width_m / 2, self.height_m / 2


def face_at(mirrored: MirroredWays, distance_m: float) -> Face:
    """The face whose image is the line, or covers the area, so far from the surface along the middle way.

    NoSolution where no flat face can be."""
    way = mirrored.middle
    flat = float(np.hypot(way[0], way[2]))
    if abs(math.atan2(way[1], flat)) < UPRIGHT_RAD and flat > 0:
        way = np.array([way[0], 0.0, way[2]]) / flat
    turn, tilt = math.atan2(-way[0], -way[2]), math.asin(max(-1.0, min(1.0, -float(way[1]))))
    across, up, front = orientation.axes(turn_rad=turn, tilt_rad=tilt)
    about = mirrored.centre + distance_m * way
    along = (mirrored.ways * front).sum(axis=2)
    if (-along[mirrored.there]).min() < GRAZES:
        raise NoSolution(SPREADS)
    reach = ((about - mirrored.places) * front).sum(axis=2) / np.where(np.abs(along) < ALONG, -ALONG, along)
    met = mirrored.places + reach[..., None] * mirrored.ways - about
    u, v = met @ across, met @ up
    if mirrored.is_line:
        ends = np.median(u, axis=0)
        left, right = float(ends.min()), float(ends.max())
        low, high, taller = float(v.min()), float(v.max()), MARGIN
    else:
        u, v = u[mirrored.there], v[mirrored.there]
        left, right = float(u.min()), float(u.max())
        beyond = distance_m * math.tan(min(mirrored.blur_rad, MOST_BLUR_RAD))
        left, right = left - beyond, right + beyond
        low, high, taller = float(v.min()) - beyond, float(v.max()) + beyond, AROUND
    wider = 1.0 if mirrored.is_line else AROUND
    tall = min(max(taller * (high - low), LEAST_M), MAX_PANEL_M)
    middle = about + (left + right) / 2 * across + (low + high) / 2 * up
    x, y, z = (float(c) for c in middle)
    return Face(
        place=Point(x_m=x, y_m=y, z_m=z), turn_rad=turn, tilt_rad=tilt,
        width_m=min(max(wider * (right - left), LEAST_M), MAX_PANEL_M), height_m=tall, distance_m=distance_m,
        below_m=max(0.0, -float((middle - tall / 2 * up)[1])),
    )  # fmt: skip


def stands_clear(plan: Plan, face: Face) -> bool:
    """Does a face clear the table: beside or behind it, or wholly above?"""
    return not through_table(plan, face_places(face.stance, face.half_size_m))


def in_frame(plan: Plan, face: Face) -> bool:
    """Is a part of a face's outline or its middle seen in the frame, but for what the product hides, or does it stand right before the
    lens?"""
    camera = plan.camera
    eye, (right, up, ahead) = camera.place.array(), camera.from_frame()
    half_w, half_h = camera.half_field
    across, upward, _ = face.axes
    w, h = face.half_size_m
    middle = face.place.array()
    part, one = np.linspace(-1, 1, OUTLINE), np.ones(OUTLINE)
    u, v = np.concatenate([part, part, -one, one, [0.0]]), np.concatenate([-one, one, part, part, [0.0]])
    places = middle + (u * w)[:, None] * across + (v * h)[:, None] * upward
    if np.linalg.norm(middle - eye) < max(w, h) + BEFORE_LENS_M:
        return True
    if _before_frame(plan, face):
        return True
    way = places - eye
    depth = way @ ahead
    seen = (depth > NEAR_M) & (np.abs(way @ right) < BEYOND * half_w * depth) & (np.abs(way @ up) < BEYOND * half_h * depth)
    return bool(seen.any())


def _before_frame(plan: Plan, face: Face) -> bool:
    """Does a face stand across a way from the lens through the frame, all of whose edges it may cover?"""
    camera = plan.camera
    right, up, middle = camera.to_frame()
    half_w, half_h = camera.half_field
    across, upward, front = face.axes
    toward = face.place.array() - camera.place.array()
    part = np.linspace(-1, 1, OUTLINE)
    u, v = np.meshgrid(part * half_w, part * half_h)
    ways = middle + u[..., None] * right + v[..., None] * up
    along = ways @ front
    away = float(toward @ front) / np.where(np.abs(along) < ALONG, ALONG, along)
    at = away[..., None] * ways - toward
    inside = (np.abs(at @ across) < face.half_size_m[0]) & (np.abs(at @ upward) < face.half_size_m[1])
    return bool((inside & (away > NEAR_M)).any())


BEFORE_LENS = (
    "it would have to stand where the camera looks through: take a card with a hole for the lens, or move the camera aside."
)
OUTLINE = 9
BEYOND, NEAR_M, BEFORE_LENS_M = 1.03, 0.02, 0.12


def raised(face: Face) -> Face:
    """The same face with its lower edge on the table: its image ends above the foot."""
    _, up, _ = face.axes
    x, y, z = (float(c) for c in face.place.array() + face.below_m / 2 * up)
    height = max(face.height_m - face.below_m, LEAST_M)
    return replace(face, place=Point(x_m=x, y_m=y, z_m=z), height_m=height, below_m=0.0)


def taller(face: Face, height_m: float) -> Face:
    """The same face with its lower edge where it is, at least so tall: shoulder and neck mirror what stands higher."""
    more = max(0.0, min(height_m, MAX_PANEL_M) - face.height_m)
    _, up, _ = face.axes
    x, y, z = (float(c) for c in face.place.array() + more / 2 * up)
    return replace(face, place=Point(x_m=x, y_m=y, z_m=z), height_m=face.height_m + more)


def resized(face: Face, *, width_m: float, height_m: float) -> Face:
    """The same face about the same middle, in another size."""
    return replace(face, width_m=width_m, height_m=height_m)


def nearest_clear(plan: Plan, mirrored: MirroredWays, *, least_m: float = 0.0) -> Face:
    """The nearest face that clears the table and the frame; else one in the frame that clears the table; where none does, a near one
    that stands on it.

    NoSolution where it would stand between the lens and the highlight, or no flat face can be."""
    shown: Face | None = None
    for distance in DISTANCES_M:
        if distance < least_m:
            continue
        face = face_at(mirrored, distance)
        if face.width_m >= MAX_PANEL_M or face.height_m >= MAX_PANEL_M:
            break
        if not stands_clear(plan, face) or _hides(plan, mirrored, face):
            continue
        shown = shown or face
        if not in_frame(plan, face):
            return face
    if shown is None:
        shown = raised(face_at(mirrored, max(DISTANCES_M[4], least_m)))
        if _hides(plan, mirrored, shown):
            raise NoSolution(BEFORE_LENS)
    return shown


def _hides(plan: Plan, mirrored: MirroredWays, face: Face) -> bool:
    """Would a face stand between the lens and the highlight it is to be seen in?"""
    across, upward, front = face.axes
    eye = plan.camera.place.array()
    ways = mirrored.places[mirrored.there] - eye
    toward = face.place.array() - eye
    along = ways @ front
    part = float(toward @ front) / np.where(np.abs(along) < ALONG, ALONG, along)
    at = part[:, None] * ways - toward
    inside = (np.abs(at @ across) < face.half_size_m[0]) & (np.abs(at @ upward) < face.half_size_m[1])
    return bool((inside & (part > 0) & (part < 1 - 1e-3)).any())


def distance_for(mirrored: MirroredWays, *, width_m: float, height_m: float) -> float | None:
    """How far away a face so large has the image that is wished for: where the wider it would have to be the further it stood, its
    width is just enough; None where it is too small at any distance, or its height does not reach.

    Source:     the ways spread evenly: sizes grow in proportion to the distance.
    """
    near, far = face_at(mirrored, DISTANCES_M[0]), face_at(mirrored, DISTANCES_M[-1])
    if near.width_m > width_m * (1 + 1e-9):
        return None
    slope = (far.width_m - near.width_m) / (far.distance_m - near.distance_m)
    distance = far.distance_m if slope <= 0 else near.distance_m + (width_m - near.width_m) / slope
    distance = min(distance, far.distance_m)
    return distance if face_at(mirrored, distance).height_m <= height_m * 1.001 else None


def riser_needed_m(plan: Plan, mirrored: MirroredWays, face: Face) -> float:
    """By how much the product must be raised so that the table hides nothing of a face: how far the lowest way on has sunk
    under the top where it leaves the table, or meets the face over it; 0 for none.

    Source:     law of reflection; raising the product by as much raises the way by as much, but for the camera's own slope.
    """
    table = plan.table
    if table is None:
        return 0.0
    _, _, front = face.axes
    lowest = 0.0
    for place, way in zip(mirrored.places[mirrored.there], mirrored.ways[mirrored.there], strict=True):
        toward = float(way @ front)
        ends = [float((face.place.array() - place) @ front) / toward] if abs(toward) > 1e-9 else []
        ends += [
            (math.copysign(half, way[axis]) + at - place[axis]) / way[axis]
            for axis, half, at in ((0, table.width_m / 2, table.x_m), (2, table.depth_m / 2, table.z_m))
            if abs(way[axis]) > 1e-9
        ]
        if way[1] < 0 and ends:
            lowest = min(lowest, float(place[1] + max(min(ends), 0.0) * way[1]))
    return max(0.0, -lowest)
