"""The outline of a solid of revolution: measured points in, a smooth checked curve out."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

import numpy as np
from scipy.interpolate import PchipInterpolator

from fotaxis.core.errors import DomainError
from fotaxis.core.values import Array

MAX_POINTS = 400
MAX_SIZE_M = 3.0
CREASE_ANGLE_RAD = math.radians(50.0)
"""Two measured segments meeting at more than this are an edge (a foot, a cap), not a curve."""

REFINED_SEGMENTS = 160


@dataclass(frozen=True, slots=True, kw_only=True)
class Profile:
    """Height/radius pairs from the foot up, as a tape and calliper give them.

    heights_m, radii_m: equally long tuples, 2 to 400 points, lowest point first, metres.
    Holds for:  finite values, radii >= 0 and not all 0, an outline that does not cross itself,
                no two equal neighbours, foot at the lowest height. Else DomainError naming the point.
    """

    heights_m: tuple[float, ...]
    radii_m: tuple[float, ...]

    def __post_init__(self) -> None:
        h, r = self.heights_m, self.radii_m
        if len(h) != len(r):
            raise DomainError(f"profile: {len(h)} heights but {len(r)} diameters; give them in pairs.")
        if not 2 <= len(h) <= MAX_POINTS:
            raise DomainError(f"profile: {len(h)} points; give 2 to {MAX_POINTS} height/diameter pairs.")
        for i, (height, radius) in enumerate(zip(h, r, strict=True), start=1):
            if not (math.isfinite(height) and abs(height) <= MAX_SIZE_M):
                raise DomainError(f"profile, point {i}: height is {height * 100:g} cm; it must be at most 300 cm.")
            if not (math.isfinite(radius) and 0 <= radius <= MAX_SIZE_M):
                raise DomainError(f"profile, point {i}: diameter is {radius * 200:g} cm; it must be 0 to 600 cm.")
        if max(r) <= 0:
            raise DomainError("profile: every diameter is 0; measure at least one.")
        if max(h) - min(h) < 1e-3:
            raise DomainError("profile: it is less than 1 mm high; heights run from the foot up, in centimetres.")
        if h[0] > min(h) + 1e-9:
            raise DomainError("profile, point 1: it is not the lowest; list the points from the foot up.")
        for i in range(1, len(h)):
            if math.hypot(h[i] - h[i - 1], r[i] - r[i - 1]) < 1e-6:
                raise DomainError(f"profile, point {i + 1}: it repeats point {i}; remove one of them.")
        crossing = _first_crossing(np.array(r), np.array(h))
        if crossing is not None:
            a, b = crossing
            raise DomainError(
                f"profile: the segment after point {a} crosses the segment after point {b}; "
                "the outline must not cross itself. Check the order of the points."
            )

    @property
    def foot_m(self) -> float:
        """Lowest height, metres."""
        return min(self.heights_m)

    @property
    def top_m(self) -> float:
        """Greatest height, metres."""
        return max(self.heights_m)

    @property
    def widest_m(self) -> float:
        """Greatest radius, metres."""
        return max(self.radii_m)

    def radius_at(self, height_m: float) -> float:
        """Outer radius of the refined outline at a height, metres; 0 above and below the solid."""
        outline = refine(self)
        y, r = outline.points[:, 0], outline.points[:, 1]
        spans = (np.minimum(y[:-1], y[1:]) <= height_m) & (height_m <= np.maximum(y[:-1], y[1:]))
        rise = np.diff(y)[spans]
        flat = np.abs(rise) < 1e-12
        part = np.where(flat, 0.5, (height_m - y[:-1][spans]) / np.where(flat, 1.0, rise))
        return float((r[:-1][spans] + part * np.diff(r)[spans]).max(initial=0.0))


FOOT_POINTS = 8


def with_round_foot(profile: Profile, radius_m: float) -> Profile:
    """The profile with the edge of its foot rounded by an arc of this radius, metres.

    Holds for:  0 < radius_m below the foot's own radius and half the height, a side that rises without turning back there. Else
                DomainError.
    """
    # The refined outline without the lids that close it.
    h, r = refine(profile).points[1:-1].T
    begin = profile.foot_m + radius_m
    above = np.flatnonzero(h >= begin)
    rising = len(above) > 0 and (np.diff(h[: above[0] + 1]) >= 0).all()
    side = float(np.interp(begin, h[: above[0] + 1], r[: above[0] + 1])) if rising else 0.0
    if not 0 < radius_m < min(side, (profile.top_m - profile.foot_m) / 2):
        raise DomainError(
            f"the foot's edge is rounded by {radius_m * 1000:g} mm; it must be less than the foot's radius and half the height, where "
            "the side rises without turning back."
        )
    turn = np.linspace(0, math.pi / 2, FOOT_POINTS)
    keep = [i for i in above if h[i] > begin + 1e-6 or i > above[0]]
    # Places on the side up to the next point: the curve does not swing out over the arc.
    on = begin + (h[keep[0]] - begin) * np.linspace(0, 1, FOOT_POINTS)[1:-1] ** 3
    heights = (*(begin - radius_m * np.cos(turn)), *on, *h[keep])
    radii = (*(side - radius_m + radius_m * np.sin(turn)), *np.interp(on, h[: keep[0] + 1], r[: keep[0] + 1]), *r[keep])
    return Profile(heights_m=tuple(map(float, heights)), radii_m=tuple(map(float, radii)))


@dataclass(frozen=True, slots=True, kw_only=True)
class Outline:
    """A refined profile ready for tracing.

    points:   (n + 1, 2) float64, (height, radius) in metres from foot to top, closed on the axis at both ends.
    normals:  (n, 2, 2) float64, unit (height, radius) outward normal at both ends of each segment; they
              differ between neighbours only at creases.
    """

    points: Array
    normals: Array


def _first_crossing(x: Array, y: Array) -> tuple[int, int] | None:
    """1-based numbers of the first two segments that cross or touch, neighbours excepted."""
    n = len(x) - 1
    for i in range(n):
        for j in range(i + 2, n):
            if _cross(x[i], y[i], x[i + 1], y[i + 1], x[j], y[j], x[j + 1], y[j + 1]):
                return i + 1, j + 1
    return None


def _cross(ax: float, ay: float, bx: float, by: float, cx: float, cy: float, dx: float, dy: float) -> bool:
    """Do the closed segments ab and cd share a point? Ends on the axis (x = 0) may touch."""
    d1 = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
    d2 = (bx - ax) * (dy - ay) - (by - ay) * (dx - ax)
    d3 = (dx - cx) * (ay - cy) - (dy - cy) * (ax - cx)
    d4 = (dx - cx) * (by - cy) - (dy - cy) * (bx - cx)
    return d1 * d2 < 0 and d3 * d4 < 0


@lru_cache(maxsize=64)
def refine(profile: Profile, *, segments: int = REFINED_SEGMENTS) -> Outline:
    """Lay a smooth curve through the measured points and cut it into about `segments` straight pieces.

    Between creases the curve is a shape-preserving cubic of radius and height over chord length, so that it
    neither overshoots a measured diameter nor rounds off a foot. The curve is closed to the axis by flat ends.
    Holds for:  any Profile; segments >= 8.
    Source:     monotone piecewise cubic, Fritsch & Carlson 1980 (scipy's PchipInterpolator).
    """
    h = np.array(profile.heights_m)
    r = np.array(profile.radii_m)
    runs = _split_at_creases(h, r)
    chord_total = sum(float(np.hypot(np.diff(h[a : b + 1]), np.diff(r[a : b + 1])).sum()) for a, b in runs)
    points: list[Array] = []
    normals: list[Array] = []

    def add(run_points: Array, run_tangents: Array) -> None:
        """Append the segments of one smooth run; tangents run from foot to top."""
        outward = np.stack([-run_tangents[:, 1], run_tangents[:, 0]], axis=1)
        outward /= np.linalg.norm(outward, axis=1, keepdims=True)
        start = 0 if not points else 1
        points.append(run_points[start:])
        normals.append(np.stack([outward[:-1], outward[1:]], axis=1))

    if r[0] > 0:
        flat = np.array([[h[0], 0.0], [h[0], r[0]]])
        add(flat, np.array([[0.0, 1.0], [0.0, 1.0]]))
    for a, b in runs:
        add(*_smooth_run(h[a : b + 1], r[a : b + 1], segments=segments, chord_total=chord_total))
    if r[-1] > 0:
        flat = np.array([[h[-1], r[-1]], [h[-1], 0.0]])
        add(flat, np.array([[0.0, -1.0], [0.0, -1.0]]))
    outline = Outline(points=np.concatenate(points), normals=np.concatenate(normals))
    outline.points.flags.writeable = outline.normals.flags.writeable = False  # shared by every caller
    return outline


def _split_at_creases(h: Array, r: Array) -> list[tuple[int, int]]:
    """First and last point of every smooth run."""
    direction = np.arctan2(np.diff(h), np.diff(r))
    turn = np.abs((np.diff(direction) + math.pi) % (2 * math.pi) - math.pi)
    corners = [0, *(int(i) + 1 for i in np.flatnonzero(turn > CREASE_ANGLE_RAD)), len(h) - 1]
    return list(pairwise(corners))


def _smooth_run(h: Array, r: Array, *, segments: int, chord_total: float) -> tuple[Array, Array]:
    """Points (m, 2) and tangents (m, 2) of one run, both as (height, radius)."""
    if len(h) == 2:
        tangent = np.array([h[1] - h[0], r[1] - r[0]])
        return np.array([[h[0], r[0]], [h[1], r[1]]]), np.array([tangent, tangent])
    chord = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(h), np.diff(r)))])
    count = max(2 * (len(h) - 1), round(segments * chord[-1] / chord_total))
    at = np.linspace(0.0, chord[-1], count + 1)
    height, radius = PchipInterpolator(chord, h), PchipInterpolator(chord, r)
    tangents = np.stack([height(at, 1), radius(at, 1)], axis=1)
    points = np.stack([height(at), np.maximum(radius(at), 0.0)], axis=1)
    stuck = np.linalg.norm(tangents, axis=1) < 1e-9
    if stuck.any():
        secants = np.gradient(points, axis=0)
        tangents[stuck] = secants[stuck]
    return points, tangents
