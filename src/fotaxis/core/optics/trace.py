"""First stage: follow the camera's rays through everything that stands still, once.

Every free stretch of a path is kept with its length, so that a thing moved into it later blocks what follows.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.constants import SURFACE_OFFSET_M
from fotaxis.core.geometry.flat import hit_flat
from fotaxis.core.geometry.revolution import hit_solid, outline_normal
from fotaxis.core.kernel import kernel
from fotaxis.core.optics.fresnel import reflectance
from fotaxis.core.optics.still import Ints, Still
from fotaxis.core.values import Array

MAX_EVENTS = 10
CUT = 0.002
"""A path carrying less than this share of its pixel is dropped; what is dropped is added up."""

OFFSET = SURFACE_OFFSET_M
SEGMENT_COLUMNS = 10
LEAVES = -2
HIT_COLUMNS = 12

Bands = Callable[[Callable[[int, int], Any], int], list[Any]]
"""Runs a function over row bands (first, last) of a count, in worker threads, results in order."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Traced:
    """Everything the second stage needs; nothing in it depends on a light.

    segments (n, 10) float32   origin, direction, length in metres (inf where the path leaves the set), R, G, B weight
    segment_hit (n,) int32     row of `hits` at the end of the stretch, -1 for none, LEAVES where the path leaves the set
    starts (p + 1,) int64      the segments of sample i are segments[starts[i]:starts[i + 1]], in order
    hits (m, 12) float32       place, normal, R, G, B weight times diffuse factor, surface, u, v
    first (p,) int32           what the camera sees first: 64 * surface + skin, -1 for nothing
    route (p,) int32           a number that differs where the paths meet other surfaces in another order
    colours (m, 3) float32     columns 6 to 8 of hits by themselves: all that the last step of a drag reads of them
    lost_share                 mean share of a sample's light dropped by the cut-offs
    """

    segments: NDArray[np.float32]
    segment_hit: NDArray[np.int32]
    starts: NDArray[np.int64]
    hits: NDArray[np.float32]
    colours: NDArray[np.float32]
    first: NDArray[np.int32]
    route: NDArray[np.int32]
    lost_share: float

    def part(self, samples: NDArray[np.int64]) -> tuple[Traced, NDArray[np.int64]]:
        """The paths of some samples alone, and the rows of `hits` that they keep."""
        begin, count = self.starts[samples], self.starts[samples + 1] - self.starts[samples]
        starts = np.concatenate([np.zeros(1, np.int64), np.cumsum(count)])
        rows = np.repeat(begin - starts[:-1], count) + np.arange(starts[-1])
        linked = self.segment_hit[rows]
        hits = linked[linked >= 0].astype(np.int64)
        linked[linked >= 0] = np.arange(len(hits), dtype=np.int32)
        part = Traced(
            segments=self.segments[rows], segment_hit=linked, starts=starts, hits=self.hits[hits],
            colours=self.colours[hits],
            first=self.first[samples], route=self.route[samples], lost_share=self.lost_share,
        )  # fmt: skip
        return part, hits


class _Part(NamedTuple):
    """What one band of samples left in its buffers."""

    segments: NDArray[np.float32]
    segment_hit: NDArray[np.int32]
    starts: NDArray[np.int64]
    hits: NDArray[np.float32]
    first: NDArray[np.int32]
    route: NDArray[np.int32]
    lost: float


@kernel
def skin_at(zones: Array, solid_skin: Ints, solid: int, x: float, y: float, z: float) -> int:
    """Skin number at a place on a solid, place in the solid's own frame, metres."""
    skin = solid_skin[solid]
    azimuth = math.atan2(x, z)
    for k in range(zones.shape[0]):
        if zones[k, 0] != solid or y < zones[k, 1] or y > zones[k, 2]:
            continue
        away = abs(azimuth - zones[k, 3])
        if away > math.pi:
            away = 2 * math.pi - away
        if away <= zones[k, 4]:
            skin = int(zones[k, 5])
    return skin


@kernel
def nearest_still(
    stretches: Array, groups: Array, solids: Array, spans: Ints, flats: Array,
    ox: float, oy: float, oz: float, dx: float, dy: float, dz: float, t_min: float,
) -> tuple[float, int, int, float, float]:  # fmt: skip
    """Nearest still surface: t, surface (flats first, then solids; -1 none), stretch, and place u, v.

    On a flat u, v run -1..1; on a solid u is the place along the stretch and v unused.
    """
    best = math.inf
    surface = -1
    stretch = -1
    u = 0.0
    v = 0.0
    count = flats.shape[0]
    for k in range(count):
        t, a, b = hit_flat(flats, k, ox, oy, oz, dx, dy, dz, t_min, best)
        if t < best:
            best, surface, u, v = t, k, a, b
    for s in range(solids.shape[0]):
        t, i, along = hit_solid(
            stretches, groups,
            spans[s, 0], spans[s, 1], spans[s, 2], spans[s, 3],
            ox - solids[s, 0], oy - solids[s, 1], oz - solids[s, 2], dx, dy, dz, t_min, best,
        )  # fmt: skip
        if t < best:
            best, surface, stretch, u, v = t, count + s, i, along, 0.0
    return best, surface, stretch, u, v


@kernel
def _follow(
    stretches: Array, groups: Array, solids: Array, spans: Ints, flats: Array, flat_skin: Ints, zones: Array,
    solid_skin: Ints, skins: Array, eye: Array, right: Array, up: Array, ahead: Array, half_w: float, half_h: float,
    samples: Array, begin: int, end: int, width: int, height: int,
    segments: NDArray[np.float32], segment_hit: NDArray[np.int32], starts: NDArray[np.int64],
    hits: NDArray[np.float32], first: NDArray[np.int32], route: NDArray[np.int32],
) -> tuple[int, int, float]:  # fmt: skip
    """Trace samples[begin:end]; returns segments and hits written and light lost; -1 segments if a buffer is full."""
    n = 0
    m = 0
    lost = 0.0
    flat_count = flats.shape[0]
    for p in range(begin, end):
        starts[p - begin] = n
        sx = (2.0 * samples[p, 0] / width - 1.0) * half_w
        sy = (1.0 - 2.0 * samples[p, 1] / height) * half_h
        dx = ahead[0] + sx * right[0] + sy * up[0]
        dy = ahead[1] + sx * right[1] + sy * up[1]
        dz = ahead[2] + sx * right[2] + sy * up[2]
        length = math.sqrt(dx * dx + dy * dy + dz * dz)
        dx /= length
        dy /= length
        dz /= length
        ox, oy, oz = eye[0], eye[1], eye[2]
        weight = 1.0
        seen = -1
        order = 0
        for event in range(MAX_EVENTS + 1):
            if n >= segments.shape[0] or m >= hits.shape[0]:
                return -1, 0, 0.0
            t, surface, stretch, u, v = nearest_still(
                stretches, groups, solids, spans, flats, ox, oy, oz, dx, dy, dz, OFFSET
            )
            segments[n, 0] = ox
            segments[n, 1] = oy
            segments[n, 2] = oz
            segments[n, 3] = dx
            segments[n, 4] = dy
            segments[n, 5] = dz
            segments[n, 6] = t
            segments[n, 7] = weight
            segments[n, 8] = weight
            segments[n, 9] = weight
            segment_hit[n] = -1
            n += 1
            if surface < 0:
                segment_hit[n - 1] = LEAVES
                break
            x = ox + t * dx
            y = oy + t * dy
            z = oz + t * dz
            if surface < flat_count:
                nx = flats[surface, 9]
                ny = flats[surface, 10]
                nz = flats[surface, 11]
                gx, gy, gz = nx, ny, nz
                skin = flat_skin[surface]
                hit_u, hit_v = u, v
            else:
                s = surface - flat_count
                lx = x - solids[s, 0]
                ly = y - solids[s, 1]
                lz = z - solids[s, 2]
                nx, ny, nz = outline_normal(stretches, stretch, u, lx, lz)
                skin = skin_at(zones, solid_skin, s, lx, ly, lz)
                hit_u, hit_v = math.atan2(lx, lz), stretch + u
                r = math.hypot(lx, lz)
                gy = -(stretches[stretch, 3] - stretches[stretch, 1])
                gr = stretches[stretch, 2] - stretches[stretch, 0]
                scale = 1.0 / math.hypot(gy, gr)
                gy *= scale
                gr *= scale
                gx = gr * lx / r if r > 1e-12 else 0.0
                gz = gr * lz / r if r > 1e-12 else 0.0
            if gx * dx + gy * dy + gz * dz > 0.0:
                nx, ny, nz = -nx, -ny, -nz
                gx, gy, gz = -gx, -gy, -gz
            facing = nx * dx + ny * dy + nz * dz
            if facing >= -1e-6:
                nx, ny, nz = gx, gy, gz
                facing = nx * dx + ny * dy + nz * dz
            if event == 0:
                seen = surface * 64 + skin
            order = (order * 8191 + surface * 64 + skin + 1) % 1_000_003
            index = skins[skin, 3]
            mirrored = 0.0
            if index > 0.0:
                mirrored = reflectance(-facing, index)
            leaves = 1.0
            if index > 0.0:
                leaves = (1.0 - mirrored) * skins[skin, 4]
            if skins[skin, 0] + skins[skin, 1] + skins[skin, 2] > 0.0:
                hits[m, 0] = x
                hits[m, 1] = y
                hits[m, 2] = z
                hits[m, 3] = nx
                hits[m, 4] = ny
                hits[m, 5] = nz
                hits[m, 6] = weight * leaves * skins[skin, 0]
                hits[m, 7] = weight * leaves * skins[skin, 1]
                hits[m, 8] = weight * leaves * skins[skin, 2]
                hits[m, 9] = surface
                hits[m, 10] = hit_u
                hits[m, 11] = hit_v
                segment_hit[n - 1] = m
                m += 1
            weight *= mirrored
            if weight < CUT or event == MAX_EVENTS:
                lost += weight
                break
            rx = dx - 2.0 * facing * nx
            ry = dy - 2.0 * facing * ny
            rz = dz - 2.0 * facing * nz
            below = rx * gx + ry * gy + rz * gz
            if below <= 1e-6:
                facing = gx * dx + gy * dy + gz * dz
                rx = dx - 2.0 * facing * gx
                ry = dy - 2.0 * facing * gy
                rz = dz - 2.0 * facing * gz
            dx, dy, dz = rx, ry, rz
            ox, oy, oz = x, y, z
        first[p - begin] = seen
        route[p - begin] = order
    starts[end - begin] = n
    return n, m, lost


def trace(
    still: Still, *, eye: Array, basis: tuple[Array, Array, Array], half_width: float, half_height: float,
    samples: Array, width: int, height: int, bands: Bands,
) -> Traced:  # fmt: skip
    """Trace camera samples through the still set.

    eye (3,) metres; basis: right, up, ahead, unit vectors; half_width, half_height: tangents of half the field of view.
    samples (p, 2) float64: places in the picture in pixels, x right and y down, (0, 0) the upper left corner.
    Holds for:  an eye outside every solid. The buffers grow until everything fits.
    """
    right, up, ahead = basis

    def band(begin: int, end: int) -> _Part:
        count = end - begin
        room = max(64, int(1.6 * count))
        while True:
            segments = np.empty((room, SEGMENT_COLUMNS), np.float32)
            segment_hit = np.empty(room, np.int32)
            starts = np.empty(count + 1, np.int64)
            hits = np.empty((room, HIT_COLUMNS), np.float32)
            first = np.empty(count, np.int32)
            route = np.empty(count, np.int32)
            n, m, lost = _follow(
                *still, eye, right, up, ahead, half_width, half_height, samples, begin, end, width, height,
                segments, segment_hit, starts, hits, first, route,
            )  # fmt: skip
            if n >= 0:
                return _Part(segments[:n].copy(), segment_hit[:n].copy(), starts, hits[:m].copy(), first, route, lost)
            room *= 2

    parts = bands(band, len(samples))
    return _joined(parts, len(samples))


def _joined(parts: list[_Part], count: int) -> Traced:
    """One Traced from the bands' buffers, offsets corrected."""
    starts = [np.zeros(1, np.int64)]
    linked = [np.empty(0, np.int32)]
    n = m = 0
    for part in parts:
        starts.append(part.starts[1:] + n)
        linked.append(np.where(part.segment_hit >= 0, part.segment_hit + m, part.segment_hit).astype(np.int32))
        n += len(part.segments)
        m += len(part.hits)
    hits = np.concatenate([np.empty((0, HIT_COLUMNS), np.float32), *(p.hits for p in parts)])
    return Traced(
        segments=np.concatenate([np.empty((0, SEGMENT_COLUMNS), np.float32), *(p.segments for p in parts)]),
        segment_hit=np.concatenate(linked),
        starts=np.concatenate(starts),
        hits=hits,
        colours=np.ascontiguousarray(hits[:, 6:9]),
        first=np.concatenate([np.empty(0, np.int32), *(p.first for p in parts)]),
        route=np.concatenate([np.empty(0, np.int32), *(p.route for p in parts)]),
        lost_share=sum(p.lost for p in parts) / max(count, 1),
    )
