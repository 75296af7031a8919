"""Light from panels, heads, cards and sheets on matte surfaces, with what stands in between (see occlusion).

An even rectangle has Lambert's closed form. Shadows and gradients enter as a ratio: the face is cut into cells,
and the closed form is weighted by the share of the cells' light that arrives. Discs and balls are summed over samples.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import FLAT, NODE, PLACE, PROFILE, SAMPLE
from fotaxis.core.geometry.planar import BALL, RECTANGLE, hit_flat
from fotaxis.core.kernel import inlined, kernel, leaf
from fotaxis.core.materials.fresnel import reflectance
from fotaxis.core.render.arrays.emitters import (
    GLOSS,
    GLOSS_TIGHT,
    HAS_LOBE,
    LEAST_BOUNCE,
    MIRROR_TIGHT,
    STRAIGHT,
    Emitters,
    beam_factor,
    below_horizon,
    direction_to_sample,
    face_area,
    place_on,
)
from fotaxis.core.render.arrays.static_scene import Ints, StaticScene
from fotaxis.core.render.transport.card_radiance import add_lobe_radiance, add_sample_radiance, add_sent_radiance
from fotaxis.core.render.transport.illuminance import rectangle_form
from fotaxis.core.render.transport.occlusion import OFFSET, possible_occluders, transmits
from fotaxis.core.values import Array


@leaf
def scatters_light(emitters: Emitters, k: int) -> bool:
    """Does a thing that is no light throw on enough of what falls on it to count?"""
    most = 0.0
    for c in range(3):
        most += emitters.albedo[k, c] + emitters.through[k, c] + emitters.lobes[k, GLOSS + c] + emitters.lobes[k, STRAIGHT]
    return most >= 3.0 * LEAST_BOUNCE


@inlined
def contributes(emitters: Emitters, k: int, from_lights: bool, from_things: bool) -> bool:
    """Does face k count: a light that is on, or a thing that throws on light?"""
    if emitters.light[k] < 0:
        return from_things and scatters_light(emitters, k)
    return from_lights and (emitters.gain[k, 0] != 0.0 or emitters.gain[k, 1] != 0.0 or emitters.gain[k, 2] != 0.0)


@leaf
def _add_all(
    scene: StaticScene, emitters: Emitters, lights: int, px: float, py: float, pz: float, nx: float, ny: float, nz: float,
    coat: float, entry: float, from_lights: bool, from_things: bool, found: Ints, corners: Array, passed: Array, weights: Array,
    out: Array,
) -> None:  # fmt: skip
    """Add the illuminance at a place from every light, or by way of cards and sheets, or both, to out (lights, 3).

    Under a coat (index, 0 for none) light counts by what enters there over what enters on average (1 / entry).
    found, corners (4, 3), passed (4,), weights (samples, 3): the caller's scratch space.
    """
    for k in range(emitters.light.shape[0]):
        if emitters.light[k] < 0 and emitters.lobes[k, GLOSS_TIGHT] >= MIRROR_TIGHT:
            add_by_mirror_card(
                scene, emitters, lights, k, px, py, pz, nx, ny, nz, coat, entry, from_lights, from_things, found, passed, weights,
                out,
            )  # fmt: skip
        elif contributes(emitters, k, from_lights, from_things):
            add_from_face(
                scene, emitters, lights, k, px, py, pz, nx, ny, nz, coat, entry, found, corners, passed, weights, out
            )


@leaf
def side_towards(flats: Array, is_card: bool, k: int, px: float, py: float, pz: float) -> int:
    """The side of face k that looks at a place: 0 the front, 1 the back of a card, -1 none or the place in its plane."""
    if flats[k, FLAT.SHAPE] == BALL:
        return 0
    toward = (
        (px - flats[k, FLAT.X]) * flats[k, FLAT.NX]
        + (py - flats[k, FLAT.Y]) * flats[k, FLAT.NY]
        + (pz - flats[k, FLAT.Z]) * flats[k, FLAT.NZ]
    )
    if toward > OFFSET:
        return 0
    return 1 if is_card and toward < -OFFSET else -1


@leaf
def side_seen(emitters: Emitters, k: int, px: float, py: float, pz: float, nx: float, ny: float, nz: float) -> int:
    """The side of face k that a place with this normal sees, as side_towards tells it."""
    side = side_towards(emitters.flats, emitters.light[k] < 0, k, px, py, pz)
    return -1 if side < 0 or below_horizon(emitters.flats, k, px, py, pz, nx, ny, nz) else side


@leaf
def sample_weights(
    scene: StaticScene, emitters: Emitters, k: int, side: int, px: float, py: float, pz: float, nx: float, ny: float, nz: float,
    coat: float, entry: float, n: int, m: int, found: Ints, corners: Array, passed: Array, weights: Array,
) -> bool:  # fmt: skip
    """How much of what face k sends out at each of its samples arrives at a place, to weights (samples, 3); False for none.

    Illuminance is the sum of weights times luminance at the samples. found[:n] flats, found[n:m] bodies may stand in between.
    """
    flats, shape, samples = emitters.flats, emitters.shape, emitters.samples
    count = emitters.parts[k]
    all_sum = 0.0
    some = False
    for cell in range(count):
        weights[cell, 0] = weights[cell, 1] = weights[cell, 2] = 0.0
        dx, dy, dz, d, leaves = direction_to_sample(flats, samples, k, cell, px, py, pz)
        falls = nx * dx + ny * dy + nz * dz
        leaves = abs(leaves)
        if falls <= 0.0 or leaves <= 0.0:
            continue
        form = falls * leaves / (d * d)
        all_sum += form
        lets_out = (
            beam_factor(emitters, k, samples[k, cell, SAMPLE.U], samples[k, cell, SAMPLE.V], -dx, -dy, -dz)
            if shape[k, PROFILE.BEAM] > 0.0
            else 1.0
        )
        if lets_out <= 0.0:
            continue
        passed[1] = passed[2] = passed[3] = 1.0
        if m > 0 and not transmits(scene, flats, emitters.veil, found, n, m, px, py, pz, dx, dy, dz, d, passed):
            continue
        if coat > 0.0:
            form *= (1.0 - reflectance(falls, coat)) * entry
        form *= lets_out
        some = True
        for c in range(3):
            weights[cell, c] = form * passed[1 + c]
    if not some:
        return False
    if flats[k, FLAT.SHAPE] == RECTANGLE:
        scale = _card_form(flats, k, side, px, py, pz, nx, ny, nz, corners) / all_sum
    else:
        scale = face_area(flats, k, px, py, pz) / count
    for cell in range(count):
        for c in range(3):
            weights[cell, c] *= scale
    return True


@leaf
def add_weighted(emitters: Emitters, k: int, side: int, weights: Array, out: Array) -> None:
    """Add to out (lights, 3) what face k sends out at its samples, seen from a side, times weights (samples, 3)."""
    light, gain, samples = emitters.light, emitters.gain, emitters.samples
    for cell in range(emitters.parts[k]):
        if light[k] >= 0:
            for c in range(3):
                out[light[k], c] += weights[cell, c] * samples[k, cell, SAMPLE.LUMINANCE] * gain[k, c]
        else:
            add_sample_radiance(emitters.sampled, k, side, cell, 1.0, weights[cell], out)


@leaf
def add_from_face(
    scene: StaticScene, emitters: Emitters, lights: int, k: int, px: float, py: float, pz: float, nx: float, ny: float, nz: float,
    coat: float, entry: float, found: Ints, corners: Array, passed: Array, weights: Array, out: Array,
) -> None:  # fmt: skip
    """As _arriving, from face k alone."""
    flats, light, gain, shape, samples = emitters.flats, emitters.light, emitters.gain, emitters.shape, emitters.samples
    side = side_seen(emitters, k, px, py, pz, nx, ny, nz)
    if side < 0:
        return
    n, m = possible_occluders(flats, scene.bounds, k, px, py, pz, found)
    is_card = light[k] < 0
    if (
        m == 0
        and not is_card
        and flats[k, FLAT.SHAPE] == RECTANGLE
        and shape[k, PROFILE.KIND] == 0.0
        and shape[k, PROFILE.BEAM] == 0.0
        and coat <= 0.0
    ):
        whole = rectangle_form(flats, k, px, py, pz, nx, ny, nz, corners)
        for c in range(3):
            out[light[k], c] += whole * gain[k, c]
        return
    if not sample_weights(
        scene, emitters, k, side, px, py, pz, nx, ny, nz, coat, entry, n, m, found, corners, passed, weights
    ):
        return
    add_weighted(emitters, k, side, weights, out)
    for cell in range(emitters.parts[k] if emitters.lobes[k, HAS_LOBE] > 0.0 else 0):
        if weights[cell, 0] + weights[cell, 1] + weights[cell, 2] > 0.0:
            dx, dy, dz, _, _ = direction_to_sample(flats, samples, k, cell, px, py, pz)
            u, v = samples[k, cell, SAMPLE.U], samples[k, cell, SAMPLE.V]
            add_lobe_radiance(emitters, k, u, v, dx, dy, dz, lights, 1.0, weights[cell], False, cell, out)


@leaf
def add_by_mirror_card(
    scene: StaticScene, emitters: Emitters, lights: int, k: int, px: float, py: float, pz: float, nx: float, ny: float, nz: float,
    coat: float, entry: float, from_lights: bool, from_things: bool, found: Ints, passed: Array, weights: Array, out: Array,
) -> None:  # fmt: skip
    """As _arriving, by way of mirror card k: every face lights the place's mirror image behind it, where the way crosses it."""
    flats, light, samples = emitters.flats, emitters.light, emitters.samples
    mx, my, mz = flats[k, FLAT.NX], flats[k, FLAT.NY], flats[k, FLAT.NZ]
    gap = (px - flats[k, FLAT.X]) * mx + (py - flats[k, FLAT.Y]) * my + (pz - flats[k, FLAT.Z]) * mz
    if abs(gap) <= OFFSET:
        return
    ix, iy, iz = px - 2.0 * gap * mx, py - 2.0 * gap * my, pz - 2.0 * gap * mz
    dim = weights[0]
    for j in range(light.shape[0]):
        is_card = light[j] < 0
        if j == k or not (from_things and scatters_light(emitters, j) if is_card else from_lights):
            continue
        if is_card and emitters.lobes[j, GLOSS_TIGHT] >= MIRROR_TIGHT:
            continue
        area = face_area(flats, j, ix, iy, iz) / emitters.parts[j]
        for cell in range(emitters.parts[j]):
            dx, dy, dz, d, leaves = direction_to_sample(flats, samples, j, cell, ix, iy, iz)
            along = dx * mx + dy * my + dz * mz
            if along * gap <= 0.0 or (leaves <= 0.0 and not is_card):
                continue
            first, _, _ = hit_flat(flats, k, ix, iy, iz, dx, dy, dz, OFFSET, d - OFFSET)
            if not first < d:
                continue
            wx, wy, wz = dx - 2.0 * along * mx, dy - 2.0 * along * my, dz - 2.0 * along * mz
            falls = nx * wx + ny * wy + nz * wz
            if falls <= 0.0:
                continue
            n, m = possible_occluders(flats, scene.bounds, k, px, py, pz, found)
            passed[1] = passed[2] = passed[3] = 1.0
            if m > 0 and not transmits(scene, flats, emitters.veil, found, n, m, px, py, pz, wx, wy, wz, first, passed):
                continue
            form = falls * abs(leaves) / (d * d) * area
            if coat > 0.0:
                form *= (1.0 - reflectance(falls, coat)) * entry
            red, green, blue = passed[1], passed[2], passed[3]
            qx, qy, qz = ix + first * dx, iy + first * dy, iz + first * dz
            n, m = possible_occluders(flats, scene.bounds, j, qx, qy, qz, found)
            passed[1] = passed[2] = passed[3] = 1.0
            if m > 0 and not transmits(scene, flats, emitters.veil, found, n, m, qx, qy, qz, dx, dy, dz, d - first, passed):
                continue
            dim[0] = passed[1] * red * emitters.lobes[k, GLOSS]
            dim[1] = passed[2] * green * emitters.lobes[k, GLOSS + 1]
            dim[2] = passed[3] * blue * emitters.lobes[k, GLOSS + 2]
            if not is_card:
                form *= (
                    beam_factor(emitters, j, samples[j, cell, SAMPLE.U], samples[j, cell, SAMPLE.V], -dx, -dy, -dz)
                    * samples[j, cell, SAMPLE.LUMINANCE]
                )
            add_sent_radiance(emitters, j, cell, 0 if leaves > 0.0 else 1, dx, dy, dz, lights, form, dim, out)


@leaf
def _card_form(
    flats: Array, k: int, side: int, px: float, py: float, pz: float, nx: float, ny: float, nz: float, corners: Array
) -> float:
    """As illuminance.rectangle_form, from the side of the face that looks at the place."""
    if side == 0:
        return rectangle_form(flats, k, px, py, pz, nx, ny, nz, corners)
    # Seen from behind: the place and its normal mirrored at the face's plane see its front.
    gap = (
        (px - flats[k, FLAT.X]) * flats[k, FLAT.NX]
        + (py - flats[k, FLAT.Y]) * flats[k, FLAT.NY]
        + (pz - flats[k, FLAT.Z]) * flats[k, FLAT.NZ]
    )
    along = nx * flats[k, FLAT.NX] + ny * flats[k, FLAT.NY] + nz * flats[k, FLAT.NZ]
    return rectangle_form(
        flats, k, px - 2.0 * gap * flats[k, FLAT.NX], py - 2.0 * gap * flats[k, FLAT.NY], pz - 2.0 * gap * flats[k, FLAT.NZ],
        nx - 2.0 * along * flats[k, FLAT.NX], ny - 2.0 * along * flats[k, FLAT.NY], nz - 2.0 * along * flats[k, FLAT.NZ], corners,
    )  # fmt: skip


@kernel
def _illuminate_cards(
    scene: StaticScene, emitters: Emitters, lights: int, nodes: Array, bounced: bool, begin: int, end: int, out: Array
) -> None:
    flats = emitters.flats
    corners = np.empty((4, 3))
    passed = np.empty(4)
    weights = np.empty((emitters.samples.shape[1], 3))
    front = np.empty((lights, 3))
    back = np.empty((lights, 3))
    found = np.empty(flats.shape[0] + scene.bounds.shape[0], np.int64)
    for node in range(begin, end):
        k, cell = int(nodes[node, NODE.FACE]), int(nodes[node, NODE.CELL])
        x, y, z = place_on(flats, k, nodes[node, NODE.U], nodes[node, NODE.V])
        nx, ny, nz = flats[k, FLAT.NX], flats[k, FLAT.NY], flats[k, FLAT.NZ]
        front[:] = 0.0
        back[:] = 0.0
        first = not bounced
        _add_all(
            scene, emitters, lights, x, y, z, nx, ny, nz, 0.0, 1.0, first, bounced, found, corners, passed, weights, front
        )
        _add_all(
            scene, emitters, lights, x, y, z, -nx, -ny, -nz, 0.0, 1.0, first, bounced, found, corners, passed, weights, back
        )
        for i in range(lights):
            for c in range(3):
                a, b = emitters.albedo[k, c] / math.pi, emitters.through[k, c] / math.pi
                out[node, 0, i, c] = a * front[i, c] + b * back[i, c]
                out[node, 1, i, c] = a * back[i, c] + b * front[i, c]
        if emitters.lobes[k, HAS_LOBE] > 0.0 and not bounced:
            mirrors = emitters.lobes[k, GLOSS_TIGHT] >= MIRROR_TIGHT
            for j in range(emitters.light.shape[0]):
                if j != k and (mirrors or contributes(emitters, j, True, False)):
                    emitters.open[k, j, cell] = visible_share(scene, emitters, j, x, y, z, found, passed)


@leaf
def visible_share(
    scene: StaticScene, emitters: Emitters, j: int, x: float, y: float, z: float, found: Ints, passed: Array
) -> float:
    """Share of the samples of face j that a place sees, dimmed ones in part."""
    n, m = possible_occluders(emitters.flats, scene.bounds, j, x, y, z, found)
    if m == 0:
        return 1.0
    total = 0.0
    for s in range(emitters.parts[j]):
        dx, dy, dz, d, _ = direction_to_sample(emitters.flats, emitters.samples, j, s, x, y, z)
        if transmits(scene, emitters.flats, emitters.veil, found, n, m, x, y, z, dx, dy, dz, d, passed):
            total += passed[2]
    return total / emitters.parts[j]


@kernel
def _illuminate_places(
    scene: StaticScene, emitters: Emitters, lights: int, places: NDArray[np.float32], begin: int, end: int,
    out: NDArray[np.float32],
) -> None:  # fmt: skip
    corners = np.empty((4, 3))
    passed = np.empty(4)
    weights = np.empty((emitters.samples.shape[1], 3))
    sums = np.empty((lights, 3))
    found = np.empty(emitters.flats.shape[0] + scene.bounds.shape[0], np.int64)
    for p in range(begin, end):
        sums[:] = 0.0
        _add_all(
            scene, emitters, lights, places[p, PLACE.X], places[p, PLACE.Y], places[p, PLACE.Z], places[p, PLACE.NX], places[p, PLACE.NY], places[p, PLACE.NZ],
            places[p, PLACE.COAT], places[p, PLACE.ENTRY], True, True, found, corners, passed, weights, sums,
        )  # fmt: skip
        for i in range(lights):
            for c in range(3):
                out[p, i, c] = sums[i, c]


def illuminate_cards(
    scene: StaticScene, emitters: Emitters, lights: int, nodes: Array, *, bounced: bool, begin: int, end: int, out: Array
) -> None:
    """Light places on cards and sheets: out (n, 2, lights, 3) gets what places `nodes` (n, 4: face, u, v, cell) show, front
    and back, by diffuse reflection and transmission, rows begin..end.

    bounced: by what other cards and sheets show (Emitters.shown); else by the lights, and Emitters.open is filled.
    """
    _illuminate_cards(scene, emitters, lights, nodes, bounced, begin, end, out)


def illuminate_places(
    scene: StaticScene, emitters: Emitters, lights: int, places: NDArray[np.float32], begin: int, end: int,
    out: NDArray[np.float32],
) -> None:  # fmt: skip
    """Illuminance at places (n, 8: place, normal, coat index, entry factor) into out (n, lights, 3), rows begin..end.

    lux s per light at full power for flash, lux for continuous light.
    """
    _illuminate_places(scene, emitters, lights, places, begin, end, out)
