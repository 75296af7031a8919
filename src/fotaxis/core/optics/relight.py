"""Second stage: what the kept rays see of the movable things; one linear picture per light."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.geometry.flat import BALL, hit_flat
from fotaxis.core.kernel import kernel, leaf
from fotaxis.core.optics.faces import (
    GLOSS,
    HAS_LOBE,
    STRAIGHT,
    Movables,
    beam,
    face_density,
    face_profile,
    veil_share,
)
from fotaxis.core.optics.lightnodes import InGrid
from fotaxis.core.optics.paths import LEAVES, WORTH_AN_EDGE, Traced
from fotaxis.core.optics.shown import add_lobes, add_shown, lobes_keep_off, stays
from fotaxis.core.optics.still import Ints
from fotaxis.core.values import Array

ONE = np.ones(3)

ROOM = 0
"""Layer 0 is the room's even light; layer 1 + i is light i."""

MOST_VEILED = 16
"""Stretches on one way that pass through nets or gels; further ones are not dimmed any more."""


@kernel
def veil_stack() -> tuple[Array, Ints]:
    """What is left R, G, B of the light behind the veils passed so far, (17, 3), and the stretches they hold for, (16,)."""
    return np.ones((MOST_VEILED + 1, 3)), np.zeros(MOST_VEILED, np.int64)


class Met(NamedTuple):
    """What every stretch ends on of the things that stay where they are while others are moved; empty where it is not known.

    moved (m,) int64: the others; found (stretches,) int16: -1 for none.
    """

    moved: Ints
    found: NDArray[np.int16]


NOT_KNOWN = Met(moved=np.empty(0, np.int64), found=np.empty(0, np.int16))


class LobesSeen(NamedTuple):
    """What the lobes of cards and sheets that stay show at the ends of stretches, in a drag; empty where nothing is kept.

    moved (m,) int64: what does not stay; seen (stretches, 3) float32: for a stretch of weight 1; lasts (stretches,) bool: seen is
    known and shows nothing that may change but what is moved; stale (faces,) bool: faces whose lobes show something else now.
    """

    moved: Ints
    seen: NDArray[np.float32]
    lasts: NDArray[np.bool_]
    stale: NDArray[np.bool_]


NO_LOBES_SEEN = LobesSeen(
    moved=np.empty(0, np.int64), seen=np.empty((0, 3), np.float32), lasts=np.empty(0, np.bool_), stale=np.empty(0, np.bool_)
)


@leaf
def nearest_met(
    things: Movables, count: int, in_view: Ints, met: Met, segments: NDArray[np.float32], n: int, first: bool
) -> tuple[int, float, float, float]:
    """The movable thing that stretch n ends on, the place on it and how far away; -1 for none.

    The first stretch of a path leaves the camera: only what stands in its field can be met there. Veils do not end it.
    """
    flats, veil = things.flats, things.veil
    ox, oy, oz = float(segments[n, 0]), float(segments[n, 1]), float(segments[n, 2])
    dx, dy, dz = float(segments[n, 3]), float(segments[n, 4]), float(segments[n, 5])
    best = float(segments[n, 6])
    found = -1
    u = 0.0
    v = 0.0
    some = in_view if first else met.moved
    every = not first
    if met.found.shape[0] > 0:
        some = met.moved
        every = False
        k = int(met.found[n])
        if k >= 0:
            best, u, v = hit_flat(flats, k, ox, oy, oz, dx, dy, dz, 1e-5, best)
            found = k
    for j in range(count if every else some.shape[0]):
        k = j if every else some[j]
        if veil[k, 1] > 0.0:
            continue
        t, a, b = hit_flat(flats, k, ox, oy, oz, dx, dy, dz, 1e-5, best)
        if t < best:
            best, found, u, v = t, k, a, b
    return found, u, v, best


@kernel
def _meet(
    things: Movables, staying: Ints, segments: NDArray[np.float32], begin: int, end: int, found: NDArray[np.int16]
) -> None:
    met = Met(staying[:0], found[:0])
    for n in range(begin, end):
        k, _, _, _ = nearest_met(things, 0, staying, met, segments, n, True)
        found[n] = k


def meet(movables: Movables, staying: Ints, traced: Traced, begin: int, end: int, found: NDArray[np.int16]) -> None:
    """Fill Met.found for stretches begin..end, of the things `staying` where they are."""
    _meet(movables, staying, traced.segments, begin, end, found)


@leaf
def _dimmed(
    things: Movables, in_view: Ints, segments: NDArray[np.float32], n: int, first: bool, reach: float, dim: Array
) -> None:
    """Multiply dim (3,) by what the veils before the first `reach` metres of stretch n let through."""
    veil = things.veil
    ox, oy, oz = float(segments[n, 0]), float(segments[n, 1]), float(segments[n, 2])
    dx, dy, dz = float(segments[n, 3]), float(segments[n, 4]), float(segments[n, 5])
    for j in range(in_view.shape[0] if first else veil.shape[0]):
        k = in_view[j] if first else j
        if veil[k, 1] <= 0.0:
            continue
        t, _, _ = hit_flat(things.flats, k, ox, oy, oz, dx, dy, dz, 1e-5, reach)
        if t < reach:
            for c in range(3):
                dim[c] *= veil_share(things.flats, veil, k, c, dx, dy, dz)


@leaf
def _face_value(things: Movables, k: int, u: float, v: float, segments: NDArray[np.float32], n: int) -> float:
    """What face k shows at a place to the end of stretch n, relative to its middle; -1 seen from behind."""
    flats = things.flats
    dx, dy, dz = float(segments[n, 3]), float(segments[n, 4]), float(segments[n, 5])
    if flats[k, 14] != BALL and dx * flats[k, 9] + dy * flats[k, 10] + dz * flats[k, 11] >= 0.0:
        return -1.0
    return face_profile(things.shape, k, u, v) * beam(things, k, u, v, -dx, -dy, -dz)


@leaf
def _lobe_part(things: Movables, k: int, segments: NDArray[np.float32], n: int, t: float) -> float:
    """What counts of light k met by a direction of a blurred mirror; the rest is found by directions to the light's samples.

    Source: the balance heuristic, Veach & Guibas 1995 (see glosslight.gloss_light for the other part).
    """
    flats = things.flats
    leaves = 1.0
    if flats[k, 14] != BALL:
        leaves = abs(segments[n, 3] * flats[k, 9] + segments[n, 4] * flats[k, 10] + segments[n, 5] * flats[k, 11])
    to_light = face_density(flats, things.parts, k, t, leaves)
    return segments[n, 10] / (segments[n, 10] + to_light)


@leaf
def _add_thing(
    things: Movables, k: int, value: float, u: float, v: float, segments: NDArray[np.float32], n: int, lights: int,
    room: float, dim: Array, out: Array,
) -> None:  # fmt: skip
    """Add what a card or sheet shows to the end of stretch n but by its lobes, to out (1 + lights, 3); value: below 0 seen from
    behind."""
    side = 0 if value >= 0.0 else 1
    for c in range(3):
        given = things.albedo[k, c] + things.through[k, c] + things.lobes[k, STRAIGHT] + things.lobes[k, GLOSS + c]
        out[ROOM, c] += dim[c] * given * room
    add_shown(things, k, side, u, v, lights, 1.0, dim, out[1:])


@leaf
def _add_lobes_seen(
    things: Movables, k: int, u: float, v: float, segments: NDArray[np.float32], n: int, kept: LobesSeen, dim: Array, one: Array,
    out: Array,
) -> None:  # fmt: skip
    """Add what the lobes of face k show to the end of stretch n to out (1, 3), from what is kept if that still holds."""
    dx, dy, dz = float(segments[n, 3]), float(segments[n, 4]), float(segments[n, 5])
    if kept.lasts.shape[0] == 0 or not stays(kept.moved, k):
        add_lobes(things, k, u, v, dx, dy, dz, 1, 1.0, dim, True, 0, out)
        return
    if not (kept.lasts[n] and not kept.stale[k] and lobes_keep_off(things, kept.moved, False, k, u, v, dx, dy, dz)):
        one[:] = 0.0
        add_lobes(things, k, u, v, dx, dy, dz, 1, 1.0, ONE, True, 0, one)
        kept.lasts[n] = lobes_keep_off(things, kept.moved, True, k, u, v, dx, dy, dz)
        for c in range(3):
            kept.seen[n, c] = one[0, c]
    for c in range(3):
        out[0, c] += dim[c] * kept.seen[n, c]


@leaf
def _gather(
    things: Movables, lights: int, room: float, in_view: Ints, seen_by_camera: bool, met_before: Met, veiled: bool,
    segments: NDArray[np.float32], segment_hit: NDArray[np.int32], skip: NDArray[np.int32], starts: NDArray[np.int64],
    colours: NDArray[np.float32], light_at: NDArray[np.float32], begin: int, end: int, scratch: Array, dims: Array, ends: Ints,
    layers: NDArray[np.float32], seen: NDArray[np.int32],
) -> None:  # fmt: skip
    light, gain = things.light, things.gain
    count = light.shape[0]
    dim = dims[MOST_VEILED]
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
            if segments[n, 6] > 0.0:
                first = seen_by_camera and n == starts[p]
                found, u, v, t = nearest_met(things, count, in_view, met_before, segments, n, first)
                if veiled:
                    _dimmed(things, in_view, segments, n, first, t, dim)
                if found >= 0:
                    weight = max(segments[n, 7], max(segments[n, 8], segments[n, 9]))
                    if weight >= WORTH_AN_EDGE:
                        met = (met * 31 + (n - starts[p]) * 256 + found + 1) % 1_000_003
                    own = light[found]
                    value = _face_value(things, found, u, v, segments, n)
                    for c in range(3):
                        dim[c] *= segments[n, 7 + c]
                    if own >= 0:
                        if segments[n, 10] > 0.0 and value > 0.0:
                            value *= _lobe_part(things, found, segments, n, t)
                        for c in range(3):
                            layers[1 + own, p, c] += dim[c] * max(value, 0.0) * gain[found, c]
                    else:
                        scratch[:] = 0.0
                        _add_thing(things, found, value, u, v, segments, n, lights, room, dim, scratch)
                        if things.lobes[found, HAS_LOBE] > 0.0:
                            dx, dy, dz = float(segments[n, 3]), float(segments[n, 4]), float(segments[n, 5])
                            turn = 0 if seen_by_camera else n
                            add_lobes(things, found, u, v, dx, dy, dz, lights, 1.0, dim, seen_by_camera, turn, scratch[1:])
                        for i in range(lights + 1):
                            for c in range(3):
                                layers[i, p, c] += scratch[i, c]
                    n += skip[n]
                    continue
                if veiled and depth < MOST_VEILED - 1 and dim[1] != dims[depth, 1]:
                    depth += 1
                    ends[depth] = n + skip[n]
                    for c in range(3):
                        dims[depth, c] = dim[c]
            h = segment_hit[n]
            if h >= 0:
                for i in range(lights + 1):
                    for c in range(3):
                        layers[i, p, c] += dim[c] * colours[h, c] * light_at[h, i, c]
            elif h == LEAVES:
                for c in range(3):
                    layers[ROOM, p, c] += dim[c] * segments[n, 7 + c] * room
            n += 1
        seen[p] = met


@kernel
def _paint(
    things: Movables, in_view: Ints, behind: NDArray[np.bool_], met_before: Met, kept: LobesSeen, veiled: bool,
    segments: NDArray[np.float32],
    segment_hit: NDArray[np.int32], skip: NDArray[np.int32], starts: NDArray[np.int64], colours: NDArray[np.float32],
    nodes: NDArray[np.float32], node: NDArray[np.int32], weight: NDArray[np.float32], room: float, begin: int, end: int,
    out: NDArray[np.float32],
) -> None:  # fmt: skip
    light, gain = things.light, things.gain
    count = light.shape[0]
    nothing = np.float32(0.0)
    thing = np.empty((2, 3))
    one = np.empty((1, 3))
    dims, ends = veil_stack()
    dim = dims[MOST_VEILED]
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
            if segments[n, 6] > nothing and (behind[p] or not first):
                found, u, v, t = nearest_met(things, count, in_view, met_before, segments, n, first)
                if veiled:
                    _dimmed(things, in_view, segments, n, first, t, dim)
                if found >= 0:
                    value = _face_value(things, found, u, v, segments, n)
                    if not veiled:
                        dim[:] = 1.0
                    for c in range(3):
                        dim[c] *= segments[n, 7 + c]
                    if light[found] >= 0:
                        value = max(value, 0.0)
                        red += np.float32(dim[0] * value * gain[found, 0])
                        green += np.float32(dim[1] * value * gain[found, 1])
                        blue += np.float32(dim[2] * value * gain[found, 2])
                    else:
                        thing[:] = 0.0
                        _add_thing(things, found, value, u, v, segments, n, 1, room, dim, thing)
                        if things.lobes[found, HAS_LOBE] > 0.0:
                            _add_lobes_seen(things, found, u, v, segments, n, kept, dim, one, thing[1:])
                        red += np.float32(thing[0, 0] + thing[1, 0])
                        green += np.float32(thing[0, 1] + thing[1, 1])
                        blue += np.float32(thing[0, 2] + thing[1, 2])
                    n += skip[n]
                    continue
                if veiled and depth < MOST_VEILED - 1 and dim[1] != dims[depth, 1]:
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
            elif h == LEAVES:
                red += np.float32(segments[n, 7] * fr * room)
                green += np.float32(segments[n, 8] * fg * room)
                blue += np.float32(segments[n, 9] * fb * room)
            n += 1
        out[p, 0], out[p, 1], out[p, 2] = red, green, blue


def gather(
    movables: Movables, lights: int, in_view: Ints | None, traced: Traced, light_at: NDArray[np.float32],
    begin: int, end: int, layers: NDArray[np.float32], seen: NDArray[np.int32], met: Met = NOT_KNOWN,
) -> None:  # fmt: skip
    """Walk the paths of samples begin..end; write what they meet to layers (1 + lights, samples, 3).

    in_view: numbers of the movables that reach into the camera's field (see infield.stands_in_field); None where the paths do not
    begin at the camera.
    light_at (m, 1 + lights, 3) belongs to traced.hits: what a hit of colour 1 shows. The room layer is for 1 lux everywhere.
    seen (samples,): a number that differs where other movables are met or after other events, 0 for none.
    """
    dims, ends = veil_stack()
    _gather(
        movables, lights, 1.0 / math.pi, NOTHING if in_view is None else in_view, in_view is not None, met,
        bool(movables.veil.any()), traced.segments, traced.segment_hit, traced.skip, traced.starts, traced.colours, light_at,
        begin, end, np.empty((1 + lights, 3)), dims, ends, layers, seen,
    )  # fmt: skip


NOTHING: Ints = np.empty(0, np.int64)


def paint(
    movables: Movables, in_view: Ints, behind: NDArray[np.bool_], met: Met, kept: LobesSeen, traced: Traced,
    nodes: NDArray[np.float32], at: InGrid, room_gain: float, begin: int, end: int, out: NDArray[np.float32],
) -> None:  # fmt: skip
    """Gather and spread in one walk, all lights summed before: levels of samples begin..end of out (samples, 3) float32.

    movables: see shown.as_one_light; behind (samples,): see infield.behind_movables; nodes (g, 3): what a hit of colour 1 shows at
    each node, all lights at their gains; at: where the hits take their light.
    """
    _paint(
        movables, in_view, behind, met, kept, bool(movables.veil.any()), traced.segments, traced.segment_hit, traced.skip,
        traced.starts,
        traced.colours, nodes, at.node, at.weight, room_gain / math.pi, begin, end, out,
    )  # fmt: skip
