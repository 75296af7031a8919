"""What tracing leaves for shading: the paths of all samples, as flat records."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import GATHER, HIT, SEGMENT
from fotaxis.core.geometry.rays import Ray
from fotaxis.core.kernel import inlined, leaf
from fotaxis.core.render.arrays.receiver import Receiver
from fotaxis.core.render.arrays.surface_hit import SurfaceHit
from fotaxis.core.values import Array

LEAVES_SET = -2
RECEIVER_COLUMNS = [HIT.X, HIT.Y, HIT.Z, HIT.NX, HIT.NY, HIT.NZ, HIT.COAT, HIT.ENTRY]
"""What a place that receives light (columns.place) takes of a hit."""

VARIANTS = 8
FRONT, BACK, TILT_U, TILT_V, COATED = 0, 1, 2, 3, 4
"""Sides and tilts a surface is lit on; COATED is added under a coat."""

TILT = 0.25
"""Slope at which the light on a relief is looked up beside the light on its mean plane; between them it is linear."""

SKINS_PER_SURFACE = 256
MOST_PATCHES = 8_192
"""Smooth patches of a surface have so many numbers; the next begin anew."""

MATTE, GATHERED, INTERREFLECTION = 0.0, 1.0, 2.0
GLOSSY, INSIDE_GLASS = 0.0, 1.0

WORTH_AN_EDGE = 0.01
"""Paths carrying less than this do not tell one pixel's route from its neighbour's."""

Bands = Callable[[Callable[[int, int], Any], int], list[Any]]
"""Runs a function over row bands (first, last) of a count, in worker threads, results in order."""


@dataclass(frozen=True, slots=True, kw_only=True)
class TracedPaths:
    """Everything that shading needs of the paths; nothing in it depends on a light.

    segments (n, 11) float32   origin, direction, length in metres (inf where the path leaves the set, 0 for a mere link to
                               a hit inside glass), R, G, B weight; first segment from a blurred mirror: directions per
                               steradian there, else 0
    segment_hit (n,) int32     row of `hits` at the end of the segment, -1 for none, LEAVES where the path leaves the set
    skip (n,) int32            how many rows further the next one is that does not come after this segment
    starts (p + 1,) int64      the segments of sample i are segments[starts[i]:starts[i + 1]], depth first
    hits (m, 16) float32       place, normal, R, G, B weight times reflectance, surface times 8 plus variant, u, v (of a mesh:
                               triangle, corner weight 1), coat index, kind (matte, gather point, or
                               place inside glass met again: then skin and smooth patch in column 9), corner weight 2, entry factor;
                               for a gather point column 10 is its row of `gather_points`
    gather_points (f, 20) float64
                               places that mirror blurred or scatter inside glass: place, normal, axis t,
                               direction to the viewer, skin, kind, medium, product, route so far, x and y of the sample (inside
                               glass: place on its own surface, metres), smooth patch
    first (p,) int32           what the camera sees first: 256 * surface + skin, -1 for nothing
    product (p,) int32         number of the product seen first, -1 for none
    route (p,) int32           a number that differs where the paths meet other surfaces in another order
    fine (p,) bool             a relief or pattern is seen: its detail may be smaller than the pixel
    polar (n, 3), hit_polar (m, 3) float32     what arrives of unpolarised light at the end of each segment, and of each hit,
                               and how it is polarised: along the picture's width less its height, along the rising diagonal
                               less the falling one; (0, 3) where that was not followed
    colours (m, 3) float32     columns 6 to 8 of hits by themselves: all that the last step of a drag reads of them
    lost_share                 mean share of a sample's light dropped by the cut-offs
    """

    segments: NDArray[np.float32]
    segment_hit: NDArray[np.int32]
    skip: NDArray[np.int32]
    starts: NDArray[np.int64]
    hits: NDArray[np.float32]
    gather_points: Array
    colours: NDArray[np.float32]
    first: NDArray[np.int32]
    product: NDArray[np.int32]
    route: NDArray[np.int32]
    fine: NDArray[np.bool_]
    lost_share: float
    polar: NDArray[np.float32]
    hit_polar: NDArray[np.float32]

    def part(self, samples: NDArray[np.int64]) -> tuple[TracedPaths, NDArray[np.int64]]:
        """The paths of some samples alone, and the rows of `hits` that they keep. Gather points keep their old rows."""
        begin, count = self.starts[samples], self.starts[samples + 1] - self.starts[samples]
        starts = np.concatenate([np.zeros(1, np.int64), np.cumsum(count)])
        rows = np.repeat(begin - starts[:-1], count) + np.arange(starts[-1])
        linked = self.segment_hit[rows]
        hits = linked[linked >= 0].astype(np.int64)
        linked[linked >= 0] = np.arange(len(hits), dtype=np.int32)
        part = TracedPaths(
            segments=self.segments[rows], segment_hit=linked, skip=self.skip[rows], starts=starts, hits=self.hits[hits],
            gather_points=self.gather_points, colours=self.colours[hits], first=self.first[samples], product=self.product[samples],
            route=self.route[samples], fine=self.fine[samples], lost_share=self.lost_share,
            polar=self.polar[rows] if len(self.polar) else self.polar,
            hit_polar=self.hit_polar[hits] if len(self.hit_polar) else self.hit_polar,
        )  # fmt: skip
        return part, hits

    def through_polariser(self, axis_rad: float) -> TracedPaths:
        """The same paths seen through a polariser on the lens, its own loss of 2 taken out: unpolarised light stays as it is.

            f = a + b cos 2 phi + c sin 2 phi

        axis_rad: phi, from the picture's right towards its top, of what the filter lets through.  Source: Malus's law.
        """
        if not len(self.polar):
            return self
        weights = np.array([1.0, np.cos(2 * axis_rad), np.sin(2 * axis_rad)], np.float32)
        share, hit_share = np.maximum(self.polar @ weights, 0.0), np.maximum(self.hit_polar @ weights, 0.0)
        segments, hits = self.segments.copy(), self.hits.copy()
        segments[:, SEGMENT.COLOUR] *= share[:, None]
        hits[:, HIT.COLOUR] *= hit_share[:, None]
        return replace(self, segments=segments, hits=hits, colours=np.ascontiguousarray(hits[:, HIT.COLOUR]))


class PathBuffers(NamedTuple):
    """What one band of samples writes to, see TracedPaths; levels: how many kept segments lead to each."""

    segments: NDArray[np.float32]
    segment_hit: NDArray[np.int32]
    levels: NDArray[np.int32]
    skip: NDArray[np.int32]
    starts: NDArray[np.int64]
    hits: NDArray[np.float32]
    gather_points: Array
    first: NDArray[np.int32]
    product: NDArray[np.int32]
    route: NDArray[np.int32]
    fine: NDArray[np.bool_]
    polar: NDArray[np.float32]
    hit_polar: NDArray[np.float32]

    @classmethod
    def of(cls, count: int, room: int, gather_room: int, polarised: bool) -> PathBuffers:
        polar = room if polarised else 0
        return cls(
            np.empty((room, SEGMENT.COUNT), np.float32), np.empty(room, np.int32), np.empty(room, np.int32),
            np.empty(room, np.int32), np.empty(count + 1, np.int64), np.empty((room, HIT.COUNT), np.float32),
            np.empty((gather_room, GATHER.COUNT)), np.empty(count, np.int32), np.empty(count, np.int32),
            np.empty(count, np.int32), np.empty(count, np.bool_), np.empty((polar, 3), np.float32),
            np.empty((polar, 3), np.float32),
        )  # fmt: skip


class BandResult(NamedTuple):
    """What one band of samples left in its buffers."""

    buffers: PathBuffers
    lost: float


@inlined
def link_hit(out: PathBuffers, n: int, hit: int, level: int, free: bool) -> int:
    """Tie a hit to the segment written last if that is free, else to a segment of no length; returns the count."""
    if free and out.segment_hit[n - 1] == -1:
        out.segment_hit[n - 1] = hit
        return n
    for k in range(SEGMENT.COUNT):
        out.segments[n, k] = 0.0
    out.segment_hit[n] = hit
    out.levels[n] = level
    return n + 1


class Counts(NamedTuple):
    """How many segments, hits and gather points are written."""

    segments: int
    hits: int
    gather: int


class Rgb(NamedTuple):
    """Weights of red, green and blue."""

    red: float
    green: float
    blue: float


class OnSurface(NamedTuple):
    """A place on a surface: which, side or tilt it is lit on, u and v (of a mesh: triangle, two corner weights)."""

    surface: int
    variant: int
    u: float
    v: float
    w: float


@inlined
def write_hit(out: PathBuffers, m: int, at: Receiver, weight: Rgb, on: OnSurface, kind: float) -> int:
    """Write hit m; returns how many there are then."""
    h = out.hits
    h[m, HIT.X], h[m, HIT.Y], h[m, HIT.Z] = at.x, at.y, at.z
    h[m, HIT.NX], h[m, HIT.NY], h[m, HIT.NZ] = at.nx, at.ny, at.nz
    h[m, HIT.RED], h[m, HIT.GREEN], h[m, HIT.BLUE] = weight.red, weight.green, weight.blue
    h[m, HIT.SURFACE] = on.surface * VARIANTS + on.variant + (COATED if at.coat > 0.0 else 0)
    h[m, HIT.U] = on.u
    h[m, HIT.V] = on.v
    h[m, HIT.COAT] = at.coat
    h[m, HIT.KIND] = kind
    h[m, HIT.W] = on.w
    h[m, HIT.ENTRY] = at.entry
    return m + 1


class SampleRoute(NamedTuple):
    """Which sample writes: its place in the picture, pixels, and the route of its path so far."""

    x: float
    y: float
    route: int


@leaf
def write_gather_point(
    out: PathBuffers,
    f: int,
    at: Receiver,
    spot: SurfaceHit,
    ray: Ray,
    kind: float,
    medium: int,
    product: int,
    sample: SampleRoute,
) -> int:
    """Write gather point f, seen along a ray; returns how many there are then."""
    a = out.gather_points
    a[f, GATHER.X], a[f, GATHER.Y], a[f, GATHER.Z] = at.x, at.y, at.z
    a[f, GATHER.NX], a[f, GATHER.NY], a[f, GATHER.NZ] = at.nx, at.ny, at.nz
    a[f, GATHER.TX] = spot.tx
    a[f, GATHER.TY] = spot.ty
    a[f, GATHER.TZ] = spot.tz
    a[f, GATHER.VX] = -ray.dx
    a[f, GATHER.VY] = -ray.dy
    a[f, GATHER.VZ] = -ray.dz
    a[f, GATHER.SKIN] = spot.skin
    a[f, GATHER.KIND] = kind
    a[f, GATHER.MEDIUM] = medium
    a[f, GATHER.PRODUCT] = product
    inner = kind == INSIDE_GLASS  # its light does not depend on how it is seen: its place is that on its own surface
    a[f, GATHER.ROUTE] = 0 if inner else sample.route
    a[f, GATHER.U] = spot.u if inner else sample.x
    a[f, GATHER.V] = spot.v if inner else sample.y
    a[f, GATHER.PATCH] = spot.patch % MOST_PATCHES
    return f + 1


@inlined
def write_skips(out: PathBuffers, begin: int, end: int) -> None:
    for i in range(begin, end):
        j = i + 1
        while j < end and out.levels[j] > out.levels[i]:
            j += 1
        out.skip[i] = j - i


@leaf
def gather_frame(gather_points: Array, p: int) -> tuple[float, float, float, float, float, float, float, float, float]:
    """Axes t and b of a gather point's surface, square to its normal (a relief tilts it), and the viewer's direction in that frame."""
    nx, ny, nz = gather_points[p, GATHER.NX], gather_points[p, GATHER.NY], gather_points[p, GATHER.NZ]
    along = gather_points[p, GATHER.TX] * nx + gather_points[p, GATHER.TY] * ny + gather_points[p, GATHER.TZ] * nz
    tx, ty, tz = (
        gather_points[p, GATHER.TX] - along * nx,
        gather_points[p, GATHER.TY] - along * ny,
        gather_points[p, GATHER.TZ] - along * nz,
    )
    scale = 1.0 / math.sqrt(tx * tx + ty * ty + tz * tz)
    tx, ty, tz = tx * scale, ty * scale, tz * scale
    bx, by, bz = ny * tz - nz * ty, nz * tx - nx * tz, nx * ty - ny * tx
    ex, ey, ez = gather_points[p, GATHER.VX], gather_points[p, GATHER.VY], gather_points[p, GATHER.VZ]
    return (
        tx, ty, tz, bx, by, bz, ex * tx + ey * ty + ez * tz, ex * bx + ey * by + ez * bz,
        max(1e-4, ex * nx + ey * ny + ez * nz),
    )  # fmt: skip


MANY_SAMPLES = 200_000
"""Of pictures with more samples the buffers are too large to be kept whole until the end."""


def trace_in_bands(
    work: Callable[[int, int, PathBuffers], tuple[int, Counts, float]], count: int, each: float, bands: Bands,
    *, polarised: bool = False,
) -> TracedPaths:  # fmt: skip
    """Run over bands of samples; where a buffer is full, go on in a new one, and join what they left."""

    def band(begin: int, end: int) -> list[BandResult]:
        parts: list[BandResult] = []
        need = each
        least = 64
        while begin < end:
            room = max(least, int(need * (end - begin)) + 64)
            out = PathBuffers.of(end - begin, room, max(least, (end - begin) // 4), polarised)
            done, (n, m, f), lost = work(begin, end, out)
            if done == 0:
                least *= 4
                continue
            kept = PathBuffers(
                out.segments[:n], out.segment_hit[:n], out.levels[:0], out.skip[:n], out.starts[: done + 1], out.hits[:m],
                out.gather_points[:f], out.first[:done], out.product[:done], out.route[:done], out.fine[:done], out.polar[:n],
                out.hit_polar[:m],
            )  # fmt: skip
            if count > MANY_SAMPLES:  # the rest of the buffers is given back before all are joined
                kept = PathBuffers._make([part.copy() for part in kept])
            kept.starts[done] = n
            parts.append(BandResult(kept, lost))
            begin += done
            need = max(need, 1.5 * n / done)
        return parts

    return _concatenated([part for parts in bands(band, count) for part in parts], count)


def _concatenated(parts: list[BandResult], count: int) -> TracedPaths:
    """One TracedPaths from the bands' buffers, offsets corrected."""
    starts = [np.zeros(1, np.int64)]
    linked = [np.empty(0, np.int32)]
    n = m = f = 0
    for part, _ in parts:
        starts.append(part.starts[1:] + n)
        linked.append(np.where(part.segment_hit >= 0, part.segment_hit + m, part.segment_hit).astype(np.int32))
        of_fan = part.hits[:, HIT.KIND] == GATHERED
        if f and len(part.gather_points):
            part.hits[of_fan, HIT.U] += f
        n, m, f = n + len(part.segments), m + len(part.hits), f + len(part.gather_points)

    def joined(name: str, empty: NDArray) -> Any:
        return np.concatenate([empty, *(getattr(p, name) for p, _ in parts)])

    hits = joined("hits", np.empty((0, HIT.COUNT), np.float32))
    none = np.empty(0, np.int32)
    return TracedPaths(
        segments=joined("segments", np.empty((0, SEGMENT.COUNT), np.float32)), segment_hit=np.concatenate(linked),
        skip=joined("skip", none), starts=np.concatenate(starts), hits=hits, gather_points=joined("gather_points",
        np.empty((0, GATHER.COUNT))),
        colours=np.ascontiguousarray(hits[:, HIT.COLOUR]), first=joined("first", none), product=joined("product", none),
        route=joined("route", none), fine=joined("fine", np.empty(0, np.bool_)),
        lost_share=sum(p.lost for p in parts) / max(count, 1), polar=joined("polar", np.empty((0, 3), np.float32)),
        hit_polar=joined("hit_polar", np.empty((0, 3), np.float32)),
    )  # fmt: skip
