"""Where a panel must stand so that its image is the line that is wished for, on any product that mirrors.

What the camera would see mirrored at both ends of the line, row by row, is traced on the product itself; a panel at some distance is
as large as the places where these ways meet its plane.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import SEGMENT
from fotaxis.core.errors import NoSolution
from fotaxis.core.frames.readings.edge import EdgeLine
from fotaxis.core.frames.readings.reading import rows_between
from fotaxis.core.geometry import orientation
from fotaxis.core.lights.fixtures import MAX_PANEL_M, Stance
from fotaxis.core.render.arrays.pack_static_scene import SUBJECT
from fotaxis.core.render.arrays.static_scene import StaticScene
from fotaxis.core.render.passes import trace_samples
from fotaxis.core.scene.checks import face_places, through_table
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array, Point

SEARCHED_PX, SEARCHED = 2.0, 81
"""The product's edge is looked for so far to either side of its outermost pixel, in so many steps."""

BESIDE_PX = 0.3
LEAST_ROWS = 4
MARGIN = 1.04
"""A panel is so much taller than the line needs: a hand's breadth hides no end of it."""

UPRIGHT_RAD = math.radians(15.0)
"""Where the camera looks down by so little that the ways hardly slope, the panel stands upright."""

DISTANCES_M = tuple(round(0.25 + 0.05 * n, 2) for n in range(40))
LEAST_M = 0.02


@dataclass(frozen=True, slots=True, kw_only=True)
class LinePanel:
    """A panel for a line: middle, turn and tilt (radians), size and distance from the product's surface along its middle way
    (metres); below_m: how far its lower edge reaches under the table's top, 0 where it does not."""

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


@dataclass(frozen=True, slots=True, kw_only=True)
class MirroredWays:
    """Ways on from the product at both ends of a line: places and unit directions, rows by ends (inner, outer), (n, 2, 3)."""

    places: Array
    ways: Array

    @property
    def middle(self) -> Array:
        """The mean way, a unit vector (3,)."""
        mean = self.ways.mean(axis=(0, 1))
        unit: Array = mean / np.linalg.norm(mean)
        return unit


def mirrored_ways(
    plan: Plan, scene: StaticScene, is_product: NDArray[np.bool_], line: EdgeLine, *, near: float, far: float
) -> MirroredWays:
    """What the camera sees mirrored where a line is wished for: from near to far of the product's half width.

    is_product (height, width): where a picture shows the product. NoSolution where it is not seen between the line's heights.
    Source:     law of reflection at the traced surface; its normal from four rays about each place.
    """
    height, width = is_product.shape
    rows = np.array([(row + 0.5, first, last) for row, first, last in rows_between(is_product, line.low, line.high)])
    if len(rows) < LEAST_ROWS:
        raise NoSolution(
            "the product is hardly seen between the line's heights; make them wider, or bring it into the frame."
        )
    edges = _edges(plan, scene, rows, width, height)
    outward = -1.0 if line.left else 1.0
    middle, half = edges.mean(axis=1), np.diff(edges, axis=1)[:, 0] / 2
    spots = np.stack([middle + outward * near * half, middle + outward * far * half], axis=1)
    places, normals, ways, there = _surface(plan, scene, spots, rows[:, 0], width, height)
    some = there.all(axis=1)
    if some.sum() < LEAST_ROWS:
        raise NoSolution("the product is hidden where the line is wished for.")
    onward = ways - 2 * (ways * normals).sum(axis=2, keepdims=True) * normals
    return MirroredWays(places=places[some], ways=onward[some])


def _edges(plan: Plan, scene: StaticScene, rows: Array, width: int, height: int) -> Array:
    """Left and right edge of the product in rows (n, 3) of y, first and last pixel, to a fiftieth of one, (n, 2)."""
    about = np.linspace(-SEARCHED_PX, SEARCHED_PX, SEARCHED)
    x = np.stack([rows[:, 1, None] + 0.5 + about, rows[:, 2, None] + 0.5 + about], axis=1)
    y = np.broadcast_to(rows[:, 0, None, None], x.shape)
    traced = trace_samples(plan, scene, np.stack([x, y], axis=3).reshape(-1, 2), width, height)
    on = (traced.product == SUBJECT).reshape(x.shape)
    step = float(about[1] - about[0]) / 2
    left = np.where(on[:, 0], x[:, 0], np.inf).min(axis=1) - step
    right = np.where(on[:, 1], x[:, 1], -np.inf).max(axis=1) + step
    found = np.stack([left, right], axis=1)
    edges: Array = np.where(np.isfinite(found), found, rows[:, 1:] + np.array([0.0, 1.0]))
    return edges


def _surface(
    plan: Plan, scene: StaticScene, x: Array, y: Array, width: int, height: int
) -> tuple[Array, Array, Array, NDArray[np.bool_]]:
    """Places, unit normals towards the camera and the camera's ways at spots x (n, 2) of rows y (n,), each (n, 2, 3); are they on the
    product, (n, 2)."""
    about = np.array([[0, 0], [1, 0], [-1, 0], [0, 1], [0, -1]]) * BESIDE_PX
    spots = np.stack([x, np.broadcast_to(y[:, None], x.shape)], axis=2)[:, :, None] + about
    traced = trace_samples(plan, scene, spots.reshape(-1, 2), width, height)
    segments = traced.segments[traced.starts[:-1]].astype(np.float64)
    there = (traced.product == SUBJECT).reshape(*x.shape, 5).all(axis=2)
    length = np.minimum(segments[:, SEGMENT.LENGTH], 1e3)
    ends = (segments[:, SEGMENT.ORIGIN] + length[:, None] * segments[:, SEGMENT.DIRECTION]).reshape(*x.shape, 5, 3)
    ways = segments[:, SEGMENT.DIRECTION].reshape(*x.shape, 5, 3)[:, :, 0]
    normals = np.cross(ends[:, :, 1] - ends[:, :, 2], ends[:, :, 4] - ends[:, :, 3])
    normals /= np.maximum(np.linalg.norm(normals, axis=2, keepdims=True), 1e-30)
    normals *= -np.sign((normals * ways).sum(axis=2, keepdims=True))
    return ends[:, :, 0], normals, ways, there


def panel_at(mirrored: MirroredWays, distance_m: float) -> LinePanel:
    """The panel whose image is the line, with its face so far from the product along the middle way."""
    way = mirrored.middle
    flat = float(np.hypot(way[0], way[2]))
    if abs(math.atan2(way[1], flat)) < UPRIGHT_RAD and flat > 0:
        way = np.array([way[0], 0.0, way[2]]) / flat
    turn, tilt = math.atan2(-way[0], -way[2]), math.asin(max(-1.0, min(1.0, -float(way[1]))))
    across, up, front = orientation.axes(turn_rad=turn, tilt_rad=tilt)
    about = mirrored.places.mean(axis=(0, 1)) + distance_m * way
    along = (mirrored.ways * front).sum(axis=2)
    reach = ((about - mirrored.places) * front).sum(axis=2) / np.where(np.abs(along) < 1e-6, -1e-6, along)
    met = mirrored.places + reach[..., None] * mirrored.ways - about
    u, v = met @ across, met @ up
    ends = np.median(u, axis=0)
    low, high = float(v.min()), float(v.max())
    tall = max(MARGIN * (high - low), LEAST_M)
    middle = about + float(ends.mean()) * across + (low + high) / 2 * up
    below = max(0.0, -float((middle - tall / 2 * up)[1]))
    x, y, z = (float(c) for c in middle)
    return LinePanel(
        place=Point(x_m=x, y_m=y, z_m=z), turn_rad=turn, tilt_rad=tilt, width_m=max(abs(float(ends[1] - ends[0])), LEAST_M),
        height_m=min(tall, MAX_PANEL_M), distance_m=distance_m, below_m=below,
    )  # fmt: skip


def stands_clear(plan: Plan, panel: LinePanel) -> bool:
    """Does a panel clear the table: beside or behind it, or wholly above?"""
    return not through_table(plan, face_places(panel.stance, (panel.width_m / 2, panel.height_m / 2)))


def raised(panel: LinePanel) -> LinePanel:
    """The same panel with its lower edge on the table: its line ends above the foot."""
    _, up, _ = orientation.axes(turn_rad=panel.turn_rad, tilt_rad=panel.tilt_rad)
    x, y, z = (float(c) for c in panel.place.array() + panel.below_m / 2 * up)
    height = max(panel.height_m - panel.below_m, LEAST_M)
    return replace(panel, place=Point(x_m=x, y_m=y, z_m=z), height_m=height, below_m=0.0)


def taller(panel: LinePanel, height_m: float) -> LinePanel:
    """The same panel with its lower edge where it is, at least so tall: shoulder and neck mirror what stands higher."""
    more = max(0.0, min(height_m, MAX_PANEL_M) - panel.height_m)
    _, up, _ = orientation.axes(turn_rad=panel.turn_rad, tilt_rad=panel.tilt_rad)
    x, y, z = (float(c) for c in panel.place.array() + more / 2 * up)
    return replace(panel, place=Point(x_m=x, y_m=y, z_m=z), height_m=panel.height_m + more)


def nearest_clear(plan: Plan, mirrored: MirroredWays) -> LinePanel:
    """The nearest panel that clears the table; where none does, a near one that stands on it."""
    for distance in DISTANCES_M:
        panel = panel_at(mirrored, distance)
        if panel.width_m <= MAX_PANEL_M and panel.height_m < MAX_PANEL_M and stands_clear(plan, panel):
            return panel
    return raised(panel_at(mirrored, DISTANCES_M[4]))


def riser_needed_m(plan: Plan, mirrored: MirroredWays, panel: LinePanel) -> float:
    """By how much the product must be raised so that the table hides nothing of a line's panel: how far the lowest way on has sunk
    under the top where it leaves the table, or meets the panel over it; 0 for none.

    Source:     law of reflection; raising the product by as much raises the way by as much, but for the camera's own slope.
    """
    table = plan.table
    if table is None:
        return 0.0
    _, _, front = orientation.axes(turn_rad=panel.turn_rad, tilt_rad=panel.tilt_rad)
    lowest = 0.0
    for place, way in zip(mirrored.places.reshape(-1, 3), mirrored.ways.reshape(-1, 3), strict=True):
        toward = float(way @ front)
        ends = [float((panel.place.array() - place) @ front) / toward] if abs(toward) > 1e-9 else []
        ends += [
            (math.copysign(half, way[axis]) + at - place[axis]) / way[axis]
            for axis, half, at in ((0, table.width_m / 2, table.x_m), (2, table.depth_m / 2, table.z_m))
            if abs(way[axis]) > 1e-9
        ]
        if way[1] < 0 and ends:
            lowest = min(lowest, float(place[1] + max(min(ends), 0.0) * way[1]))
    return max(0.0, -lowest)
