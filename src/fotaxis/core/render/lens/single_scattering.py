"""Light that haze scatters towards the lens: single scattering, forward-peaked."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import FLAT
from fotaxis.core.geometry.planar import BALL
from fotaxis.core.geometry.rays import Direction, Ray
from fotaxis.core.kernel import kernel, leaf
from fotaxis.core.render.arrays.emitters import Emitters, direction_to_sample, face_area, sample_luminance
from fotaxis.core.render.arrays.receiver import Occluders
from fotaxis.core.render.arrays.static_scene import StaticScene
from fotaxis.core.render.transport.direct import scatters_light
from fotaxis.core.render.transport.lobe_radiance import add_sent_radiance
from fotaxis.core.render.transport.occlusion import possible_occluders, transmits
from fotaxis.core.values import Array, Picture


@leaf
def henyey_greenstein(cosine: float, forward: float) -> float:
    """Share per steradian scattered at an angle off the light's way; cosine 1 straight on; forward -1..1, 0 even.

        p = (1 - g^2) / (4 pi (1 + g^2 - 2 g cos)^(3/2))

    Adds up to 1 over the sphere.   Source: Henyey & Greenstein 1941.
    """
    g2 = forward * forward
    return (1.0 - g2) / (4.0 * math.pi * (1.0 + g2 - 2.0 * forward * cosine) ** 1.5)


@kernel
def _scattered_light(
    scene: StaticScene,
    emitters: Emitters,
    lights: int,
    eye: Array,
    places: Array,
    forward: float,
    begin: int,
    end: int,
    out: Array,
) -> None:
    flats, light = emitters.flats, emitters.light
    passed = np.empty(4)
    factor = np.empty(3)
    found = np.empty(flats.shape[0] + scene.bounds.shape[0], np.int64)
    for p in range(begin, end):
        x, y, z = places[p, 0], places[p, 1], places[p, 2]
        tx, ty, tz = eye[0] - x, eye[1] - y, eye[2] - z
        scale = 1.0 / math.sqrt(tx * tx + ty * ty + tz * tz)
        tx, ty, tz = tx * scale, ty * scale, tz * scale
        out[p] = 0.0
        for k in range(light.shape[0]):
            is_card = light[k] < 0
            if is_card and not scatters_light(emitters, k):
                continue
            toward = (
                (x - flats[k, FLAT.X]) * flats[k, FLAT.NX]
                + (y - flats[k, FLAT.Y]) * flats[k, FLAT.NY]
                + (z - flats[k, FLAT.Z]) * flats[k, FLAT.NZ]
            )
            if toward <= 0.0 and not is_card and flats[k, FLAT.SHAPE] != BALL:
                continue
            n, m = possible_occluders(flats, scene.bounds, k, x, y, z, found)
            each = face_area(flats, k, x, y, z) / emitters.parts[k]
            for s in range(emitters.parts[k]):
                dx, dy, dz, d, leaves = direction_to_sample(flats, emitters.samples, k, s, x, y, z)
                leaves = abs(leaves)
                if leaves <= 0.0:
                    continue
                form = each * leaves / (d * d) * henyey_greenstein(-(dx * tx + dy * ty + dz * tz), forward)
                if not is_card:
                    form *= sample_luminance(emitters, k, s, dx, dy, dz)
                if form <= 0.0:
                    continue
                passed[1] = passed[2] = passed[3] = 1.0
                ray = Ray(x, y, z, dx, dy, dz)
                if m > 0 and not transmits(scene, flats, emitters.veil, Occluders(found, n, m), ray, d, passed):
                    continue
                for c in range(3):
                    factor[c] = passed[1 + c]
                side = 0 if toward > 0.0 else 1
                add_sent_radiance(emitters, k, s, side, Direction(dx, dy, dz), lights, form, factor, out[p])


def scattered_light(
    scene: StaticScene,
    emitters: Emitters,
    lights: int,
    eye: Array,
    places: Array,
    forward: float,
    begin: int,
    end: int,
    out: Array,
) -> None:
    """Light scattered towards the eye at places (n, 3), rows begin..end of out (n, lights, 3), per metre and unit of scattering
    coefficient: lux s per steradian for flash, lux per steradian for continuous light."""
    _scattered_light(scene, emitters, lights, eye, places, forward, begin, end, out)


class HazeNodes(NamedTuple):
    """Light scattered up to each step through a haze, at nodes of the picture, (steps + 1, rows, columns, n, 3), and the optical
    depth of the whole haze."""

    field: NDArray[np.float32]
    thickness: float


@leaf
def _between(place: float, nodes: int) -> tuple[int, float]:
    """The node before a place 0..1 across a picture, and how far on to the next it lies."""
    at = min(max(place * nodes - 0.5, 0.0), nodes - 1.0)
    node = min(int(at), nodes - 2)
    return node, at - node


@kernel
def add_haze(
    pictures: Picture, places: NDArray[np.float32], part: NDArray[np.float32], haze: HazeNodes, begin: int, end: int, out: Picture
) -> None:  # fmt: skip
    """Samples begin..end of pictures (n, samples, 3) behind haze, to out.

    places (samples, 2): where in the picture, 0..1 to the right and down; part (samples,): how far through the haze each sees, 0..1.
    """
    field, thickness = haze
    steps, rows, columns = field.shape[0] - 1, field.shape[1], field.shape[2]
    for p in range(begin, end):
        q, a = _between(places[p, 0], columns)
        r, b = _between(places[p, 1], rows)
        at = part[p] * steps
        s = min(int(at), steps - 1)
        f = at - s
        left = math.exp(-thickness * part[p])
        for i in range(pictures.shape[0]):
            for c in range(3):
                low = (field[s, r, q, i, c] * (1.0 - a) + field[s, r, q + 1, i, c] * a) * (1.0 - b)
                low += (field[s, r + 1, q, i, c] * (1.0 - a) + field[s, r + 1, q + 1, i, c] * a) * b
                high = (field[s + 1, r, q, i, c] * (1.0 - a) + field[s + 1, r, q + 1, i, c] * a) * (1.0 - b)
                high += (field[s + 1, r + 1, q, i, c] * (1.0 - a) + field[s + 1, r + 1, q + 1, i, c] * a) * b
                out[i, p, c] = pictures[i, p, c] * left + low * (1.0 - f) + high * f
