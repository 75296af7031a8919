"""Shading: what the traced paths see of the movable things; one linear picture per light."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import FLAT, SEGMENT
from fotaxis.core.geometry.planar import BALL
from fotaxis.core.kernel import kernel, leaf
from fotaxis.core.render.arrays.emitters import (
    GLOSS,
    HAS_LOBE,
    STRAIGHT,
    Emitters,
    beam_factor,
    face_density,
    face_profile,
)
from fotaxis.core.render.arrays.path_records import LEAVES_SET, WORTH_AN_EDGE, TracedPaths
from fotaxis.core.render.arrays.static_scene import Ints
from fotaxis.core.render.grids.irradiance_grid import GridWeights
from fotaxis.core.render.shading.first_hits import (
    MOST_ATTENUATED,
    NO_FIRST_HITS,
    FirstHits,
    View,
    attenuate_by_veils,
    attenuation_stack,
    nearest_emitter,
    swept_share,
)
from fotaxis.core.render.transport.card_radiance import add_card_radiance, is_static
from fotaxis.core.render.transport.lobe_radiance import FaceRay, add_lobe_radiance, lobes_undisturbed
from fotaxis.core.values import Array

ONE = np.ones(3)

ROOM_LAYER = 0
"""Layer 0 is the room's even light; layer 1 + i is light i."""


class PathArrays(NamedTuple):
    """What of TracedPaths is walked to shade them."""

    segments: NDArray[np.float32]
    segment_hit: NDArray[np.int32]
    skip: NDArray[np.int32]
    starts: NDArray[np.int64]
    colours: NDArray[np.float32]


class Room(NamedTuple):
    """Room for one thread: one layer more than lights of colours, (1 + lights, 3), one more colour (1, 3), see attenuation_stack."""

    layers: Array
    one: Array
    dims: Array
    ends: Ints


@kernel
def shading_room(layers: int) -> Room:
    dims, ends = attenuation_stack()
    return Room(np.empty((layers, 3)), np.empty((1, 3)), dims, ends)


class LobeCache(NamedTuple):
    """What the lobes of cards and sheets that stay show at the ends of segments, in a preview; empty where nothing is kept.

    moved (m,) int64: what does not stay; light (segments, 3) float32: for a segment of weight 1; valid (segments,) bool: light is
    known and shows nothing that may change but what is moved; stale (faces,) bool: faces whose lobes show something else now.
    """

    moved: Ints
    light: NDArray[np.float32]
    valid: NDArray[np.bool_]
    stale: NDArray[np.bool_]


NO_LOBE_CACHE = LobeCache(
    moved=np.empty(0, np.int64), light=np.empty((0, 3), np.float32), valid=np.empty(0, np.bool_), stale=np.empty(0, np.bool_)
)


@leaf
def _face_value(emitters: Emitters, k: int, u: float, v: float, segments: NDArray[np.float32], n: int) -> float:
    """What face k shows at a place to the end of segment n, relative to its middle; -1 seen from behind."""
    flats = emitters.flats
    dx, dy, dz = float(segments[n, SEGMENT.DX]), float(segments[n, SEGMENT.DY]), float(segments[n, SEGMENT.DZ])
    if flats[k, FLAT.SHAPE] != BALL and dx * flats[k, FLAT.NX] + dy * flats[k, FLAT.NY] + dz * flats[k, FLAT.NZ] >= 0.0:
        return -1.0
    return face_profile(emitters.shape, k, u, v) * beam_factor(emitters, k, u, v, -dx, -dy, -dz)


@leaf
def _carried_value(emitters: Emitters, k: int, segments: NDArray[np.float32], n: int, reach: float) -> tuple[float, float]:
    """What carried face k shows to segment n before `reach` metres, relative to its middle, times the share of its time that it does,
    and for what share of the exposure it hides what is behind it.

    Directions of a blurred mirror do not see it shine, see rough_specular: there its samples count whole.
    """
    share, u, v = swept_share(emitters.flats, emitters.sweep, k, segments, n, reach)
    if share <= 0.0:
        return 0.0, 0.0
    hidden = share * (1.0 - emitters.veil[k, 1])
    if segments[n, SEGMENT.DENSITY] > 0.0:
        return 0.0, hidden
    return share * max(_face_value(emitters, k, u, v, segments, n), 0.0), hidden


@leaf
def _lobe_part(emitters: Emitters, k: int, segments: NDArray[np.float32], n: int, t: float) -> float:
    """What counts of light k met by a direction of a blurred mirror; the rest is found by directions to the light's samples.

    Source: the balance heuristic, Veach & Guibas 1995 (see rough_specular.add_rough_specular for the other part).
    """
    flats = emitters.flats
    leaves = 1.0
    if flats[k, FLAT.SHAPE] != BALL:
        leaves = abs(
            segments[n, SEGMENT.DX] * flats[k, FLAT.NX]
            + segments[n, SEGMENT.DY] * flats[k, FLAT.NY]
            + segments[n, SEGMENT.DZ] * flats[k, FLAT.NZ]
        )
    to_light = face_density(flats, emitters.parts, k, t, leaves)
    return segments[n, SEGMENT.DENSITY] / (segments[n, SEGMENT.DENSITY] + to_light)


@leaf
def _add_emitter(
    emitters: Emitters, k: int, side: int, u: float, v: float, lights: int, room: float, dim: Array, out: Array
) -> None:
    """Add what a side of a card or sheet shows at a place but by its lobes, times dim (3,), to out (1 + lights, 3)."""
    for c in range(3):
        given = emitters.albedo[k, c] + emitters.through[k, c] + emitters.lobes[k, STRAIGHT] + emitters.lobes[k, GLOSS + c]
        out[ROOM_LAYER, c] += dim[c] * given * room
    add_card_radiance(emitters, k, side, u, v, lights, 1.0, dim, out[1:])


@leaf
def _add_cached_lobes(
    emitters: Emitters, ray: FaceRay, n: int, cache: LobeCache, dim: Array, one: Array, out: Array
) -> None:
    """Add what the lobes of the face that segment n meets show to out (1, 3), from the cache where that still holds."""
    if cache.valid.shape[0] == 0 or not is_static(cache.moved, ray.k):
        add_lobe_radiance(emitters, ray, 1, 1.0, dim, True, 0, out)
        return
    if not (cache.valid[n] and not cache.stale[ray.k] and lobes_undisturbed(emitters, cache.moved, False, ray)):
        one[:] = 0.0
        add_lobe_radiance(emitters, ray, 1, 1.0, ONE, True, 0, one)
        cache.valid[n] = lobes_undisturbed(emitters, cache.moved, True, ray)
        for c in range(3):
            cache.light[n, c] = one[0, c]
    for c in range(3):
        out[0, c] += dim[c] * cache.light[n, c]


@leaf
def _segment_ray(segments: NDArray[np.float32], n: int, k: int, u: float, v: float) -> FaceRay:
    """Segment n as a ray that meets face k at u, v."""
    return FaceRay(k, u, v, float(segments[n, SEGMENT.DX]), float(segments[n, SEGMENT.DY]), float(segments[n, SEGMENT.DZ]))


@leaf
def _shade_per_light(
    emitters: Emitters, lights: int, view: View, paths: PathArrays, light_at: NDArray[np.float32], begin: int, end: int, room: Room,
    layers: NDArray[np.float32], seen: NDArray[np.int32],
) -> None:  # fmt: skip
    segments, segment_hit, skip, starts, colours = paths
    in_view, seen_by_camera, met_before, veiled, carried = view
    scratch, dims, ends = room.layers, room.dims, room.ends
    even = 1.0 / math.pi
    light, gain = emitters.light, emitters.gain
    count = light.shape[0]
    dim = dims[MOST_ATTENUATED]
    for p in range(begin, end):
        for i in range(lights + 1):
            for c in range(3):
                layers[i, p, c] = 0.0
        met = 0
        depth = 0
        n = starts[p]
        while n < starts[p + 1]:
            while depth > 0 and n >= ends[depth]:
                depth -= 1
            for c in range(3):
                dim[c] = dims[depth, c]
            if segments[n, SEGMENT.LENGTH] > 0.0:
                first = seen_by_camera and n == starts[p]
                found, u, v, t = nearest_emitter(emitters, count, in_view, met_before, segments, n, first)
                left = 1.0
                for k in carried:
                    value, hidden = _carried_value(emitters, k, segments, n, t)
                    left -= hidden
                    if value > 0.0:
                        met = met * 31 % 1_000_003 + 7
                        for c in range(3):
                            layers[1 + light[k], p, c] += dim[c] * segments[n, SEGMENT.RED + c] * value * gain[k, c]
                if veiled:
                    attenuate_by_veils(emitters, in_view, segments, n, first, t, dim)
                    if left < 1.0:
                        for c in range(3):
                            dim[c] *= left
                if found >= 0:
                    weight = max(segments[n, SEGMENT.RED], max(segments[n, SEGMENT.GREEN], segments[n, SEGMENT.BLUE]))
                    if weight >= WORTH_AN_EDGE:
                        met = (met * 31 + (n - starts[p]) * 256 + found + 1) % 1_000_003
                    own = light[found]
                    value = _face_value(emitters, found, u, v, segments, n)
                    for c in range(3):
                        dim[c] *= segments[n, SEGMENT.RED + c]
                    if own >= 0:
                        if segments[n, SEGMENT.DENSITY] > 0.0 and value > 0.0:
                            value *= _lobe_part(emitters, found, segments, n, t)
                        for c in range(3):
                            layers[1 + own, p, c] += dim[c] * max(value, 0.0) * gain[found, c]
                    else:
                        scratch[:] = 0.0
                        _add_emitter(emitters, found, 0 if value >= 0.0 else 1, u, v, lights, even, dim, scratch)
                        if emitters.lobes[found, HAS_LOBE] > 0.0:
                            ray = _segment_ray(segments, n, found, u, v)
                            turn = 0 if seen_by_camera else n
                            add_lobe_radiance(emitters, ray, lights, 1.0, dim, seen_by_camera, turn, scratch[1:])
                        for i in range(lights + 1):
                            for c in range(3):
                                layers[i, p, c] += scratch[i, c]
                    n += skip[n]
                    continue
                if veiled and depth < MOST_ATTENUATED - 1 and dim[1] != dims[depth, 1]:
                    depth += 1
                    ends[depth] = n + skip[n]
                    for c in range(3):
                        dims[depth, c] = dim[c]
            h = segment_hit[n]
            if h >= 0:
                for i in range(lights + 1):
                    for c in range(3):
                        layers[i, p, c] += dim[c] * colours[h, c] * light_at[h, i, c]
            elif h == LEAVES_SET:
                for c in range(3):
                    layers[ROOM_LAYER, p, c] += dim[c] * segments[n, SEGMENT.RED + c] * even
            n += 1
        seen[p] = met


class MixedLight(NamedTuple):
    """Light at the nodes of a grid, all lights at their gains (nodes, 3), where the hits take theirs (node, weight:
    (hits, 4)), and what
    an even room gives over pi."""

    nodes: NDArray[np.float32]
    node: NDArray[np.int32]
    weight: NDArray[np.float32]
    room: float


@leaf
def _shade_mixed(
    emitters: Emitters, view: View, behind: NDArray[np.bool_], cache: LobeCache, paths: PathArrays, mixed: MixedLight, begin: int,
    end: int, scratch: Room, out: NDArray[np.float32],
) -> None:  # fmt: skip
    segments, segment_hit, skip, starts, colours = paths
    nodes, node, weight, room = mixed
    in_view, _, met_before, veiled, carried = view
    thing, one, dims, ends = scratch
    light, gain = emitters.light, emitters.gain
    count = light.shape[0]
    nothing = np.float32(0.0)
    dim = dims[MOST_ATTENUATED]
    for p in range(begin, end):
        n = starts[p]
        last = starts[p + 1]
        if not behind[p] and last == n + 1 and segment_hit[n] >= 0:
            # Most of a picture: something matte, and nothing before it.
            h = segment_hit[n]
            i, j, k, m = node[h, 0], node[h, 1], node[h, 2], node[h, 3]
            a, b, c_, d = weight[h, 0], weight[h, 1], weight[h, 2], weight[h, 3]
            for c in range(3):
                out[p, c] = colours[h, c] * (a * nodes[i, c] + b * nodes[j, c] + c_ * nodes[k, c] + d * nodes[m, c])
            continue
        red = green = blue = nothing
        fr = fg = fb = np.float32(1.0)
        depth = 0
        while n < last:
            first = n == starts[p]
            if veiled:
                while depth > 0 and n >= ends[depth]:
                    depth -= 1
                for c in range(3):
                    dim[c] = dims[depth, c]
            if segments[n, SEGMENT.LENGTH] > nothing and (behind[p] or not first):
                found, u, v, t = nearest_emitter(emitters, count, in_view, met_before, segments, n, first)
                left = 1.0
                for k in carried:
                    value, hidden = _carried_value(emitters, k, segments, n, t)
                    left -= hidden
                    if value > 0.0:
                        red += np.float32(dim[0] * segments[n, SEGMENT.RED] * value * gain[k, 0])
                        green += np.float32(dim[1] * segments[n, SEGMENT.GREEN] * value * gain[k, 1])
                        blue += np.float32(dim[2] * segments[n, SEGMENT.BLUE] * value * gain[k, 2])
                if veiled:
                    attenuate_by_veils(emitters, in_view, segments, n, first, t, dim)
                    if left < 1.0:
                        for c in range(3):
                            dim[c] *= left
                if found >= 0:
                    value = _face_value(emitters, found, u, v, segments, n)
                    if not veiled:
                        dim[:] = 1.0
                    for c in range(3):
                        dim[c] *= segments[n, SEGMENT.RED + c]
                    if light[found] >= 0:
                        value = max(value, 0.0)
                        red += np.float32(dim[0] * value * gain[found, 0])
                        green += np.float32(dim[1] * value * gain[found, 1])
                        blue += np.float32(dim[2] * value * gain[found, 2])
                    else:
                        thing[:] = 0.0
                        _add_emitter(emitters, found, 0 if value >= 0.0 else 1, u, v, 1, room, dim, thing)
                        if emitters.lobes[found, HAS_LOBE] > 0.0:
                            ray = _segment_ray(segments, n, found, u, v)
                            _add_cached_lobes(emitters, ray, n, cache, dim, one, thing[1:])
                        red += np.float32(thing[0, 0] + thing[1, 0])
                        green += np.float32(thing[0, 1] + thing[1, 1])
                        blue += np.float32(thing[0, 2] + thing[1, 2])
                    n += skip[n]
                    continue
                if veiled and depth < MOST_ATTENUATED - 1 and dim[1] != dims[depth, 1]:
                    depth += 1
                    ends[depth] = n + skip[n]
                    for c in range(3):
                        dims[depth, c] = dim[c]
            if veiled:
                fr, fg, fb = np.float32(dim[0]), np.float32(dim[1]), np.float32(dim[2])
            h = segment_hit[n]
            if h >= 0:
                i, j, k, m = node[h, 0], node[h, 1], node[h, 2], node[h, 3]
                a, b, c_, d = weight[h, 0], weight[h, 1], weight[h, 2], weight[h, 3]
                red += fr * colours[h, 0] * (a * nodes[i, 0] + b * nodes[j, 0] + c_ * nodes[k, 0] + d * nodes[m, 0])
                green += fg * colours[h, 1] * (a * nodes[i, 1] + b * nodes[j, 1] + c_ * nodes[k, 1] + d * nodes[m, 1])
                blue += fb * colours[h, 2] * (a * nodes[i, 2] + b * nodes[j, 2] + c_ * nodes[k, 2] + d * nodes[m, 2])
            elif h == LEAVES_SET:
                red += np.float32(segments[n, SEGMENT.RED] * fr * room)
                green += np.float32(segments[n, SEGMENT.GREEN] * fg * room)
                blue += np.float32(segments[n, SEGMENT.BLUE] * fb * room)
            n += 1
        out[p, 0], out[p, 1], out[p, 2] = red, green, blue


def _arrays(traced: TracedPaths) -> PathArrays:
    return PathArrays(traced.segments, traced.segment_hit, traced.skip, traced.starts, traced.colours)


def shade_per_light(
    emitters: Emitters, lights: int, in_view: Ints | None, traced: TracedPaths, light_at: NDArray[np.float32],
    begin: int, end: int, layers: NDArray[np.float32], seen: NDArray[np.int32], met: FirstHits = NO_FIRST_HITS,
) -> None:  # fmt: skip
    """Walk the paths of samples begin..end; write what they meet to layers (1 + lights, samples, 3).

    in_view: numbers of the emitters that reach into the camera's field (see view_frustum.in_frustum); None where the paths do not
    begin at the camera.
    light_at (m, 1 + lights, 3) belongs to traced.hits: what a hit of colour 1 shows. The room layer is for 1 lux everywhere.
    seen (samples,): a number that differs where other emitters are met or after other events, 0 for none.
    """
    view = View(
        NOTHING if in_view is None else in_view, in_view is not None, met, bool(emitters.veil.any()), _carried(emitters)
    )
    _shade_per_light(emitters, lights, view, _arrays(traced), light_at, begin, end, shading_room(1 + lights), layers, seen)


NOTHING: Ints = np.empty(0, np.int64)


def _carried(emitters: Emitters) -> Ints:
    """Faces of lamps that are moved during the exposure."""
    found: Ints = np.flatnonzero((emitters.veil[:, 1] > 0) & (emitters.light >= 0))
    return found


def shade_mixed(
    emitters: Emitters, in_view: Ints, behind: NDArray[np.bool_], met: FirstHits, cache: LobeCache, traced: TracedPaths,
    nodes: NDArray[np.float32], at: GridWeights, room_gain: float, begin: int, end: int, out: NDArray[np.float32],
) -> None:  # fmt: skip
    """As shade_per_light, all lights summed before: levels of samples begin..end of out (samples, 3) float32.

    A second routine, because it is half of a preview: light at a hit is interpolated where it is used, and most pixels show one
    matte place with nothing before it. Held equal to the first by tests/core/render/test_traced_scene.py.
    emitters: see card_radiance.mix_lights; behind (samples,): see view_frustum.behind_emitters; nodes (g, 3): what a hit of colour 1
    shows at each node, all lights at their gains; at: where the hits take their light.
    """
    view = View(in_view, True, met, bool(emitters.veil.any()), _carried(emitters))
    mixed = MixedLight(nodes, at.node, at.weight, room_gain / math.pi)
    _shade_mixed(emitters, view, behind, cache, _arrays(traced), mixed, begin, end, shading_room(2), out)
