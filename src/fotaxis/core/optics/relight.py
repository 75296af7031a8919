"""Second stage: what the kept rays see of the movable things; one linear picture per light."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.geometry.flat import hit_flat
from fotaxis.core.kernel import kernel
from fotaxis.core.optics.shading import Movables, beam, face_profile
from fotaxis.core.optics.still import Ints
from fotaxis.core.optics.trace import Traced
from fotaxis.core.values import Array

ROOM = 0
"""Layer 0 is the room's even light; layer 1 + i is light i."""


@kernel
def _card_value(cells: Ints, card_luminance: Array, k: int, side: int, light: int, u: float, v: float, c: int) -> float:
    """Luminance of a card at a place, between cell middles bilinearly, beyond them held."""
    columns = cells[k, 0]
    rows = cells[k, 1]
    x = min(max((u + 1.0) * 0.5 * columns - 0.5, 0.0), columns - 1.0)
    y = min(max((v + 1.0) * 0.5 * rows - 0.5, 0.0), rows - 1.0)
    i = min(int(x), max(columns - 2, 0))
    j = min(int(y), max(rows - 2, 0))
    a = x - i
    b = y - j
    i1 = min(i + 1, columns - 1)
    j1 = min(j + 1, rows - 1)
    low = (1.0 - a) * card_luminance[k, side, light, j * columns + i, c]
    low += a * card_luminance[k, side, light, j * columns + i1, c]
    high = (1.0 - a) * card_luminance[k, side, light, j1 * columns + i, c]
    high += a * card_luminance[k, side, light, j1 * columns + i1, c]
    return (1.0 - b) * low + b * high


@kernel
def _gather(
    flats: Array, light: Ints, gain: Array, shape: Array, albedo: Array, cells: Ints, samples: Array,
    card_luminance: Array, lights: int, room: float, in_view: Ints,
    segments: NDArray[np.float32], segment_hit: NDArray[np.int32], starts: NDArray[np.int64],
    hits: NDArray[np.float32], illuminance: NDArray[np.float32], room_illuminance: float,
    begin: int, end: int, layers: NDArray[np.float32], seen: NDArray[np.int32],
) -> None:  # fmt: skip
    count = light.shape[0]
    inv_pi = 1.0 / math.pi
    for p in range(begin, end):
        for i in range(lights + 1):
            for c in range(3):
                layers[i, p, c] = 0.0
        seen[p] = -1
        for n in range(starts[p], starts[p + 1]):
            ox, oy, oz = float(segments[n, 0]), float(segments[n, 1]), float(segments[n, 2])
            dx, dy, dz = float(segments[n, 3]), float(segments[n, 4]), float(segments[n, 5])
            best = float(segments[n, 6])
            found = -1
            u = 0.0
            v = 0.0
            # The first stretch of a path leaves the camera: only what stands in its field can be met there.
            first = n == starts[p]
            for j in range(in_view.shape[0] if first else count):
                k = in_view[j] if first else j
                t, a, b = hit_flat(flats, k, ox, oy, oz, dx, dy, dz, 1e-5, best)
                if t < best:
                    best, found, u, v = t, k, a, b
            if found >= 0:
                seen[p] = (n - starts[p]) * 256 + found
                own = light[found]
                front = dx * flats[found, 9] + dy * flats[found, 10] + dz * flats[found, 11] < 0.0
                if own >= 0:
                    if front:
                        value = face_profile(shape, found, u, v) * beam(flats, shape, found, -dx, -dy, -dz)
                        for c in range(3):
                            layers[1 + own, p, c] += segments[n, 7 + c] * value * gain[found, c]
                else:
                    side = 0 if front else 1
                    for i in range(lights):
                        for c in range(3):
                            value = _card_value(cells, card_luminance, found, side, i, u, v, c)
                            layers[1 + i, p, c] += segments[n, 7 + c] * value
                    for c in range(3):
                        layers[ROOM, p, c] += segments[n, 7 + c] * albedo[found, c] * room
                break
            h = segment_hit[n]
            if h >= 0:
                for i in range(lights):
                    for c in range(3):
                        layers[1 + i, p, c] += hits[h, 6 + c] * illuminance[h, i, c] * inv_pi
                for c in range(3):
                    layers[ROOM, p, c] += hits[h, 6 + c] * room_illuminance * inv_pi
            if math.isinf(segments[n, 6]):
                for c in range(3):
                    layers[ROOM, p, c] += segments[n, 7 + c] * room


def gather(
    movables: Movables, lights: int, in_view: Ints, traced: Traced, illuminance: NDArray[np.float32],
    begin: int, end: int, layers: NDArray[np.float32], seen: NDArray[np.int32],
) -> None:  # fmt: skip
    """Walk the paths of samples begin..end; write what they meet to layers (1 + lights, samples, 3).

    in_view: numbers of the movables that reach into the camera's field (see stands_in_field).
    illuminance (m, lights, 3) belongs to traced.hits. The room layer is for an illuminance of 1 lux everywhere.
    seen (samples,): the movable a path ended on and after how many events (events * 256 + number), -1 for none.
    """
    _gather(
        *movables, lights, 1.0 / math.pi, in_view, traced.segments, traced.segment_hit, traced.starts, traced.hits,
        illuminance, 1.0, begin, end, layers, seen,
    )  # fmt: skip


def stands_in_field(
    movables: Movables, *, eye: Array, basis: tuple[Array, Array, Array], half_width: float, half_height: float
) -> Ints:
    """Numbers of the movables of which some part may lie in the camera's field of view, (n,) int64.

    A thing is left out when all its corners lie beyond one side of the field, or behind the lens.
    """
    flats = movables.flats[: len(movables.light)]
    su, sv = flats[:, 12, None] * flats[:, 3:6], flats[:, 13, None] * flats[:, 6:9]
    corners = flats[:, None, 0:3] + np.stack([-su - sv, su - sv, su + sv, sv - su], axis=1) - eye
    x, y, z = (corners @ axis for axis in basis)
    beyond = np.stack([x > half_width * z, x < -half_width * z, y > half_height * z, y < -half_height * z, z < 0])
    return np.flatnonzero(~beyond.all(axis=2).any(axis=0))
