"""Light from panels, heads, cards and sheets on matte surfaces, with what stands in between (see shadows).

An even rectangle has Lambert's closed form. Shadows and gradients enter as a ratio: the face is cut into cells,
and the closed form is weighted by the share of the cells' light that arrives. Discs and balls are summed over samples.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.geometry.flat import BALL, RECTANGLE, hit_flat
from fotaxis.core.kernel import inlined, kernel, leaf
from fotaxis.core.optics.faces import (
    GLOSS,
    GLOSS_TIGHT,
    HAS_LOBE,
    MIRROR_TIGHT,
    STRAIGHT,
    Movables,
    beam,
    below_horizon,
    face_area,
    place_on,
    way_to_sample,
)
from fotaxis.core.optics.fresnel import reflectance
from fotaxis.core.optics.illuminance import rectangle_form
from fotaxis.core.optics.shadows import OFFSET, passes, suspects
from fotaxis.core.optics.shown import add_lobes, add_sampled, add_sent
from fotaxis.core.optics.still import Ints, Still
from fotaxis.core.values import Array

LEAST_BOUNCE = 0.05
"""A card that reflects less than this throws no light on other things; it still shades them and is seen as it is."""


@leaf
def throws_light(things: Movables, k: int) -> bool:
    """Does a thing that is no light throw on enough of what falls on it to count?"""
    most = 0.0
    for c in range(3):
        most += things.albedo[k, c] + things.through[k, c] + things.lobes[k, GLOSS + c] + things.lobes[k, STRAIGHT]
    return most >= 3.0 * LEAST_BOUNCE


@inlined
def gives(things: Movables, k: int, from_lights: bool, from_things: bool) -> bool:
    """Does face k count: a light that is on, or a thing that throws on light?"""
    if things.light[k] < 0:
        return from_things and throws_light(things, k)
    return from_lights and (things.gain[k, 0] != 0.0 or things.gain[k, 1] != 0.0 or things.gain[k, 2] != 0.0)


@leaf
def _arriving(
    still: Still, things: Movables, lights: int, px: float, py: float, pz: float, nx: float, ny: float, nz: float,
    coat: float, entry: float, from_lights: bool, from_things: bool, found: Ints, corners: Array, passed: Array, weights: Array,
    out: Array,
) -> None:  # fmt: skip
    """Add the illuminance at a place from every light, or by way of cards and sheets, or both, to out (lights, 3).

    Under a coat (index, 0 for none) light counts by what enters there over what enters on average (1 / entry).
    found, corners (4, 3), passed (4,), weights (samples, 3): the caller's scratch space.
    """
    for k in range(things.light.shape[0]):
        if things.light[k] < 0 and things.lobes[k, GLOSS_TIGHT] >= MIRROR_TIGHT:
            by_mirror(
                still, things, lights, k, px, py, pz, nx, ny, nz, coat, entry, from_lights, from_things, found, passed, weights,
                out,
            )  # fmt: skip
        elif gives(things, k, from_lights, from_things):
            from_face(still, things, lights, k, px, py, pz, nx, ny, nz, coat, entry, found, corners, passed, weights, out)


@leaf
def side_towards(flats: Array, is_card: bool, k: int, px: float, py: float, pz: float) -> int:
    """The side of face k that looks at a place: 0 the front, 1 the back of a card, -1 none or the place in its plane."""
    if flats[k, 14] == BALL:
        return 0
    toward = (px - flats[k, 0]) * flats[k, 9] + (py - flats[k, 1]) * flats[k, 10] + (pz - flats[k, 2]) * flats[k, 11]
    if toward > OFFSET:
        return 0
    return 1 if is_card and toward < -OFFSET else -1


@leaf
def side_seen(things: Movables, k: int, px: float, py: float, pz: float, nx: float, ny: float, nz: float) -> int:
    """The side of face k that a place with this normal sees, as side_towards tells it."""
    side = side_towards(things.flats, things.light[k] < 0, k, px, py, pz)
    return -1 if side < 0 or below_horizon(things.flats, k, px, py, pz, nx, ny, nz) else side


@leaf
def sample_weights(
    still: Still, things: Movables, k: int, side: int, px: float, py: float, pz: float, nx: float, ny: float, nz: float,
    coat: float, entry: float, n: int, m: int, found: Ints, corners: Array, passed: Array, weights: Array,
) -> bool:  # fmt: skip
    """How much of what face k sends out at each of its samples arrives at a place, to weights (samples, 3); False for none.

    Illuminance is the sum of weights times luminance at the samples. found[:n] flats, found[n:m] bodies may stand in between.
    """
    flats, shape, samples = things.flats, things.shape, things.samples
    count = things.parts[k]
    all_sum = 0.0
    some = False
    for cell in range(count):
        weights[cell, 0] = weights[cell, 1] = weights[cell, 2] = 0.0
        dx, dy, dz, d, leaves = way_to_sample(flats, samples, k, cell, px, py, pz)
        falls = nx * dx + ny * dy + nz * dz
        leaves = abs(leaves)
        if falls <= 0.0 or leaves <= 0.0:
            continue
        form = falls * leaves / (d * d)
        all_sum += form
        lets_out = beam(things, k, samples[k, cell, 0], samples[k, cell, 1], -dx, -dy, -dz) if shape[k, 2] > 0.0 else 1.0
        if lets_out <= 0.0:
            continue
        passed[1] = passed[2] = passed[3] = 1.0
        if m > 0 and not passes(still, flats, things.veil, found, n, m, px, py, pz, dx, dy, dz, d, passed):
            continue
        if coat > 0.0:
            form *= (1.0 - reflectance(falls, coat)) * entry
        form *= lets_out
        some = True
        for c in range(3):
            weights[cell, c] = form * passed[1 + c]
    if not some:
        return False
    if flats[k, 14] == RECTANGLE:
        scale = _card_form(flats, k, side, px, py, pz, nx, ny, nz, corners) / all_sum
    else:
        scale = face_area(flats, k, px, py, pz) / count
    for cell in range(count):
        for c in range(3):
            weights[cell, c] *= scale
    return True


@leaf
def add_weighed(things: Movables, k: int, side: int, weights: Array, out: Array) -> None:
    """Add to out (lights, 3) what face k sends out at its samples, seen from a side, times weights (samples, 3)."""
    light, gain, samples = things.light, things.gain, things.samples
    for cell in range(things.parts[k]):
        if light[k] >= 0:
            for c in range(3):
                out[light[k], c] += weights[cell, c] * samples[k, cell, 2] * gain[k, c]
        else:
            add_sampled(things.sampled, k, side, cell, 1.0, weights[cell], out)


@leaf
def from_face(
    still: Still, things: Movables, lights: int, k: int, px: float, py: float, pz: float, nx: float, ny: float, nz: float,
    coat: float, entry: float, found: Ints, corners: Array, passed: Array, weights: Array, out: Array,
) -> None:  # fmt: skip
    """As _arriving, from face k alone."""
    flats, light, gain, shape, samples = things.flats, things.light, things.gain, things.shape, things.samples
    side = side_seen(things, k, px, py, pz, nx, ny, nz)
    if side < 0:
        return
    n, m = suspects(flats, still.bounds, k, px, py, pz, found)
    is_card = light[k] < 0
    if m == 0 and not is_card and flats[k, 14] == RECTANGLE and shape[k, 0] == 0.0 and shape[k, 2] == 0.0 and coat <= 0.0:
        whole = rectangle_form(flats, k, px, py, pz, nx, ny, nz, corners)
        for c in range(3):
            out[light[k], c] += whole * gain[k, c]
        return
    if not sample_weights(
        still, things, k, side, px, py, pz, nx, ny, nz, coat, entry, n, m, found, corners, passed, weights
    ):
        return
    add_weighed(things, k, side, weights, out)
    for cell in range(things.parts[k] if things.lobes[k, HAS_LOBE] > 0.0 else 0):
        if weights[cell, 0] + weights[cell, 1] + weights[cell, 2] > 0.0:
            dx, dy, dz, _, _ = way_to_sample(flats, samples, k, cell, px, py, pz)
            u, v = samples[k, cell, 0], samples[k, cell, 1]
            add_lobes(things, k, u, v, dx, dy, dz, lights, 1.0, weights[cell], False, cell, out)


@leaf
def by_mirror(
    still: Still, things: Movables, lights: int, k: int, px: float, py: float, pz: float, nx: float, ny: float, nz: float,
    coat: float, entry: float, from_lights: bool, from_things: bool, found: Ints, passed: Array, weights: Array, out: Array,
) -> None:  # fmt: skip
    """As _arriving, by way of mirror card k: every face lights the place's mirror image behind it, where the way crosses it."""
    flats, light, samples = things.flats, things.light, things.samples
    mx, my, mz = flats[k, 9], flats[k, 10], flats[k, 11]
    gap = (px - flats[k, 0]) * mx + (py - flats[k, 1]) * my + (pz - flats[k, 2]) * mz
    if abs(gap) <= OFFSET:
        return
    ix, iy, iz = px - 2.0 * gap * mx, py - 2.0 * gap * my, pz - 2.0 * gap * mz
    dim = weights[0]
    for j in range(light.shape[0]):
        is_card = light[j] < 0
        if j == k or not (from_things and throws_light(things, j) if is_card else from_lights):
            continue
        if is_card and things.lobes[j, GLOSS_TIGHT] >= MIRROR_TIGHT:
            continue
        area = face_area(flats, j, ix, iy, iz) / things.parts[j]
        for cell in range(things.parts[j]):
            dx, dy, dz, d, leaves = way_to_sample(flats, samples, j, cell, ix, iy, iz)
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
            n, m = suspects(flats, still.bounds, k, px, py, pz, found)
            passed[1] = passed[2] = passed[3] = 1.0
            if m > 0 and not passes(still, flats, things.veil, found, n, m, px, py, pz, wx, wy, wz, first, passed):
                continue
            form = falls * abs(leaves) / (d * d) * area
            if coat > 0.0:
                form *= (1.0 - reflectance(falls, coat)) * entry
            red, green, blue = passed[1], passed[2], passed[3]
            qx, qy, qz = ix + first * dx, iy + first * dy, iz + first * dz
            n, m = suspects(flats, still.bounds, j, qx, qy, qz, found)
            passed[1] = passed[2] = passed[3] = 1.0
            if m > 0 and not passes(still, flats, things.veil, found, n, m, qx, qy, qz, dx, dy, dz, d - first, passed):
                continue
            dim[0] = passed[1] * red * things.lobes[k, GLOSS]
            dim[1] = passed[2] * green * things.lobes[k, GLOSS + 1]
            dim[2] = passed[3] * blue * things.lobes[k, GLOSS + 2]
            if not is_card:
                form *= beam(things, j, samples[j, cell, 0], samples[j, cell, 1], -dx, -dy, -dz) * samples[j, cell, 2]
            add_sent(things, j, cell, 0 if leaves > 0.0 else 1, dx, dy, dz, lights, form, dim, out)


@leaf
def _card_form(
    flats: Array, k: int, side: int, px: float, py: float, pz: float, nx: float, ny: float, nz: float, corners: Array
) -> float:
    """As illuminance.rectangle_form, from the side of the face that looks at the place."""
    if side == 0:
        return rectangle_form(flats, k, px, py, pz, nx, ny, nz, corners)
    # Seen from behind: the place and its normal mirrored at the face's plane see its front.
    gap = (px - flats[k, 0]) * flats[k, 9] + (py - flats[k, 1]) * flats[k, 10] + (pz - flats[k, 2]) * flats[k, 11]
    along = nx * flats[k, 9] + ny * flats[k, 10] + nz * flats[k, 11]
    return rectangle_form(
        flats, k, px - 2.0 * gap * flats[k, 9], py - 2.0 * gap * flats[k, 10], pz - 2.0 * gap * flats[k, 11],
        nx - 2.0 * along * flats[k, 9], ny - 2.0 * along * flats[k, 10], nz - 2.0 * along * flats[k, 11], corners,
    )  # fmt: skip


@kernel
def _light_faces(
    still: Still, things: Movables, lights: int, nodes: Array, bounced: bool, begin: int, end: int, out: Array
) -> None:
    flats = things.flats
    corners = np.empty((4, 3))
    passed = np.empty(4)
    weights = np.empty((things.samples.shape[1], 3))
    front = np.empty((lights, 3))
    back = np.empty((lights, 3))
    found = np.empty(flats.shape[0] + still.bounds.shape[0], np.int64)
    for node in range(begin, end):
        k, cell = int(nodes[node, 0]), int(nodes[node, 3])
        x, y, z = place_on(flats, k, nodes[node, 1], nodes[node, 2])
        nx, ny, nz = flats[k, 9], flats[k, 10], flats[k, 11]
        front[:] = 0.0
        back[:] = 0.0
        first = not bounced
        _arriving(
            still, things, lights, x, y, z, nx, ny, nz, 0.0, 1.0, first, bounced, found, corners, passed, weights, front
        )
        _arriving(
            still, things, lights, x, y, z, -nx, -ny, -nz, 0.0, 1.0, first, bounced, found, corners, passed, weights, back
        )
        for i in range(lights):
            for c in range(3):
                a, b = things.albedo[k, c] / math.pi, things.through[k, c] / math.pi
                out[node, 0, i, c] = a * front[i, c] + b * back[i, c]
                out[node, 1, i, c] = a * back[i, c] + b * front[i, c]
        if things.lobes[k, HAS_LOBE] > 0.0 and not bounced:
            mirrors = things.lobes[k, GLOSS_TIGHT] >= MIRROR_TIGHT
            for j in range(things.light.shape[0]):
                if j != k and (mirrors or gives(things, j, True, False)):
                    things.open[k, j, cell] = reaches(still, things, j, x, y, z, found, passed)


@leaf
def reaches(still: Still, things: Movables, j: int, x: float, y: float, z: float, found: Ints, passed: Array) -> float:
    """Share of the samples of face j that a place sees, dimmed ones in part."""
    n, m = suspects(things.flats, still.bounds, j, x, y, z, found)
    if m == 0:
        return 1.0
    total = 0.0
    for s in range(things.parts[j]):
        dx, dy, dz, d, _ = way_to_sample(things.flats, things.samples, j, s, x, y, z)
        if passes(still, things.flats, things.veil, found, n, m, x, y, z, dx, dy, dz, d, passed):
            total += passed[2]
    return total / things.parts[j]


@kernel
def _light_places(
    still: Still, things: Movables, lights: int, places: NDArray[np.float32], begin: int, end: int,
    out: NDArray[np.float32],
) -> None:  # fmt: skip
    corners = np.empty((4, 3))
    passed = np.empty(4)
    weights = np.empty((things.samples.shape[1], 3))
    sums = np.empty((lights, 3))
    found = np.empty(things.flats.shape[0] + still.bounds.shape[0], np.int64)
    for p in range(begin, end):
        sums[:] = 0.0
        _arriving(
            still, things, lights, places[p, 0], places[p, 1], places[p, 2], places[p, 3], places[p, 4], places[p, 5],
            places[p, 6], places[p, 7], True, True, found, corners, passed, weights, sums,
        )  # fmt: skip
        for i in range(lights):
            for c in range(3):
                out[p, i, c] = sums[i, c]


def light_faces(
    still: Still, movables: Movables, lights: int, nodes: Array, *, bounced: bool, begin: int, end: int, out: Array
) -> None:
    """Light places on cards and sheets: out (n, 2, lights, 3) gets what places `nodes` (n, 4: face, u, v, cell) show, front
    and back, by diffuse reflection and transmission, rows begin..end.

    bounced: by what other cards and sheets show (Movables.shown); else by the lights, and Movables.open is filled.
    """
    _light_faces(still, movables, lights, nodes, bounced, begin, end, out)


def light_places(
    still: Still, movables: Movables, lights: int, places: NDArray[np.float32], begin: int, end: int,
    out: NDArray[np.float32],
) -> None:  # fmt: skip
    """Illuminance at places (n, 8: place, normal, coat index, entry factor) into out (n, lights, 3), rows begin..end.

    lux s per light at full power for flash, lux for continuous light.
    """
    _light_places(still, movables, lights, places, begin, end, out)
