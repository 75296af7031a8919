"""Light that reaches the front of the lens, and what the camera meets first along each ray."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import FLAT, SEGMENT
from fotaxis.core.geometry.planar import BALL
from fotaxis.core.geometry.rays import Direction, Ray
from fotaxis.core.kernel import kernel
from fotaxis.core.materials.material import ALONG, CLEAR, COAT, KIND, METAL
from fotaxis.core.render.arrays.emitters import Emitters, direction_to_sample, face_area, sample_luminance
from fotaxis.core.render.arrays.path_records import SKINS_PER_SURFACE, TracedPaths
from fotaxis.core.render.arrays.receiver import Occluders
from fotaxis.core.render.arrays.static_scene import Ints, StaticScene
from fotaxis.core.render.shading.first_hits import NO_FIRST_HITS, FirstHits, View, nearest_emitter
from fotaxis.core.render.transport.lobe_radiance import add_sent_radiance
from fotaxis.core.render.transport.occlusion import possible_occluders, transmits
from fotaxis.core.values import Array

LEAST_MATTE = 0.1
"""A smooth flat gloss over less than this is focused on by what it mirrors."""


@kernel
def _lens_illuminance(
    scene: StaticScene, emitters: Emitters, lights: int, eye: Array, ahead: Array, directions: Array, out: Array
) -> int:
    flats, light = emitters.flats, emitters.light
    passed = np.empty(4)
    factor = np.empty(3)
    found = np.empty(flats.shape[0] + scene.bounds.shape[0], np.int64)
    n = 0
    for k in range(light.shape[0]):
        if emitters.veil[k, 1] > 0.0 and light[k] < 0:
            continue
        toward = (eye[0] - flats[k, FLAT.X]) * flats[k, FLAT.NX] + (eye[1] - flats[k, FLAT.Y]) * flats[k, FLAT.NY]
        toward += (eye[2] - flats[k, FLAT.Z]) * flats[k, FLAT.NZ]
        if light[k] >= 0 and flats[k, FLAT.SHAPE] != BALL and toward <= 0.0:
            continue
        side = 0 if toward > 0.0 else 1
        first, last = possible_occluders(flats, scene.bounds, k, eye[0], eye[1], eye[2], found)
        each = face_area(flats, k, eye[0], eye[1], eye[2]) / emitters.parts[k]
        for s in range(emitters.parts[k]):
            dx, dy, dz, d, leaves = direction_to_sample(flats, emitters.samples, k, s, eye[0], eye[1], eye[2])
            falls = dx * ahead[0] + dy * ahead[1] + dz * ahead[2]
            if falls <= 0.0 or leaves == 0.0:
                continue
            form = falls * abs(leaves) / (d * d) * each
            passed[1] = passed[2] = passed[3] = 1.0
            ray, among = Ray(eye[0], eye[1], eye[2], dx, dy, dz), Occluders(found, first, last)
            if last > 0 and not transmits(scene, flats, emitters.veil, among, ray, d, passed):
                continue
            directions[n, 0], directions[n, 1], directions[n, 2] = dx, dy, dz
            out[n] = 0.0
            for c in range(3):
                factor[c] = passed[1 + c]
            if light[k] >= 0:
                form *= sample_luminance(emitters, k, s, dx, dy, dz)
            add_sent_radiance(emitters, k, s, side, Direction(dx, dy, dz), lights, form, factor, out[n])
            n += 1
    return n


def lens_illuminance(
    scene: StaticScene, emitters: Emitters, lights: int, *, eye: Array, ahead: Array
) -> tuple[Array, Array]:
    """Light straight from lights, cards and sheets on a lens at `eye` facing `ahead`, one row per sample of a face.

    Returns unit directions (n, 3) towards the samples and illuminance (n, lights, 3), lux s or lux.
    """
    most = int(emitters.parts.sum())
    directions, out = np.empty((most, 3)), np.zeros((most, lights, 3))
    count = _lens_illuminance(scene, emitters, lights, eye, ahead, directions, out) if most and lights else 0
    return directions[:count], out[:count]


class CameraPaths(NamedTuple):
    """What of TracedPaths tells what each sample meets first; among (samples,): only these are looked at, empty for all."""

    segments: NDArray[np.float32]
    starts: NDArray[np.int64]
    first: NDArray[np.int32]
    among: NDArray[np.bool_]


@kernel
def _first_hit(
    scene: StaticScene, emitters: Emitters, view: View, paths: CameraPaths, ahead: Array, begin: int, end: int,
    found: NDArray[np.int32], depth: NDArray[np.float32],
) -> None:  # fmt: skip
    in_view, met_before = view.in_view, view.met
    segments, starts, first, among = paths
    flats = scene.flats.shape[0]
    count = emitters.light.shape[0]
    for p in range(begin, end):
        if among.shape[0] and not among[p]:
            continue
        n = starts[p]
        found[p] = -1
        depth[p] = np.inf
        if n >= starts[p + 1]:
            continue
        cosine = segments[n, SEGMENT.DX] * ahead[0] + segments[n, SEGMENT.DY] * ahead[1] + segments[n, SEGMENT.DZ] * ahead[2]
        met, _, _, t = nearest_emitter(emitters, count, in_view, met_before, segments, n, True)
        if met >= 0:
            found[p] = met
            depth[p] = t * cosine
            continue
        t = float(segments[n, SEGMENT.LENGTH])
        surface = first[p] // SKINS_PER_SURFACE if first[p] >= 0 else -1
        if 0 <= surface < flats and t < math.inf:
            skin = first[p] % SKINS_PER_SURFACE
            matte = max(scene.skins[skin, 0], max(scene.skins[skin, 1], scene.skins[skin, 2]))
            kind = scene.skins[skin, KIND]
            bare = kind == METAL or kind == CLEAR  # painted behind, a clear top is as dark as one of black gloss
            smooth = scene.skins[skin, ALONG] == 0.0 and (bare or scene.skins[skin, COAT] > 0.0)
            if smooth and (bare or matte < LEAST_MATTE):
                n += 1
                while n < starts[p + 1] and segments[n, SEGMENT.LENGTH] <= 0.0:
                    n += 1
                if n < starts[p + 1]:
                    _, _, _, more = nearest_emitter(emitters, count, in_view, met_before, segments, n, False)
                    t += more
        depth[p] = t * cosine


ALL = np.empty(0, np.bool_)


def first_hit(
    scene: StaticScene, emitters: Emitters, in_view: Ints, traced: TracedPaths, ahead: Array, begin: int, end: int,
    found: NDArray[np.int32], depth: NDArray[np.float32], met: FirstHits = NO_FIRST_HITS, among: NDArray[np.bool_] = ALL,
) -> None:  # fmt: skip
    """The movable thing each sample begin..end meets first, -1 for none, and the depth that is focused on, metres along the
    lens's axis, inf for nothing: of the thing itself, or in a dark mirror that lies flat, of what it mirrors.

    met: what is known of the segments of `traced` from the picture before; among (samples,): leave others as they are.
    """
    paths = CameraPaths(traced.segments, traced.starts, traced.first, among)
    _first_hit(scene, emitters, View(in_view, True, met, False, in_view[:0]), paths, ahead, begin, end, found, depth)
