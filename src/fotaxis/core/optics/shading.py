"""Light from panels, heads, cards and sheets on matte surfaces, with what stands in between.

An even rectangle has Lambert's closed form. Shadows and gradients enter as a ratio: the face is cut into cells,
and the closed form is weighted by the share of the cells' light that arrives. Discs and balls are summed over samples.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.constants import SURFACE_OFFSET_M
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
    face_area,
    place_on,
    veil_share,
    way_to_sample,
)
from fotaxis.core.optics.fresnel import reflectance
from fotaxis.core.optics.illuminance import rectangle_form
from fotaxis.core.optics.material import CLEAR, KIND
from fotaxis.core.optics.shown import add_lobes, add_sampled, add_sent
from fotaxis.core.optics.still import IS_CLEAR, Ints, Still, hit_body, spot_at
from fotaxis.core.values import Array

OFFSET = 2 * SURFACE_OFFSET_M
LEAST_BOUNCE = 0.05
"""A card that reflects less than this throws no light on other things; it still shades them and is seen as it is."""


@leaf
def _one_side(flats: Array, j: int, k: int, px: float, py: float, pz: float) -> bool:
    """Do the place and the whole of face k lie on one side of flat j, or the place in its plane?"""
    nx, ny, nz = flats[j, 9], flats[j, 10], flats[j, 11]
    if flats[j, 14] == BALL:
        return False
    place = (px - flats[j, 0]) * nx + (py - flats[j, 1]) * ny + (pz - flats[j, 2]) * nz
    if abs(place) < OFFSET:
        return True
    middle = (flats[k, 0] - flats[j, 0]) * nx + (flats[k, 1] - flats[j, 1]) * ny + (flats[k, 2] - flats[j, 2]) * nz
    reach = flats[k, 12] * abs(flats[k, 3] * nx + flats[k, 4] * ny + flats[k, 5] * nz)
    reach += flats[k, 13] * abs(flats[k, 6] * nx + flats[k, 7] * ny + flats[k, 8] * nz)
    if flats[k, 14] == BALL:
        reach = flats[k, 12]
    if place > 0.0:
        return middle - reach >= 0.0
    return middle + reach <= 0.0


@leaf
def near_in_plan(px: float, pz: float, qx: float, qz: float, half: float, cx: float, cz: float, radius: float) -> bool:
    """Seen from above, may a circle touch the wedge that widens from p to +-half around q? Never says no wrongly."""
    dx, dz = qx - px, qz - pz
    d2 = dx * dx + dz * dz
    if d2 < 1e-18:
        return True
    s = min(1.0, max(0.0, ((cx - px) * dx + (cz - pz) * dz) / d2))
    ex, ez = px + s * dx - cx, pz + s * dz - cz
    bound = radius + half * min(1.0, s + (radius + half) / math.sqrt(d2))
    return ex * ex + ez * ez <= bound * bound


@leaf
def plan_reach(flats: Array, k: int) -> float:
    """How far flat k extends from its middle as seen from above, metres; never too little."""
    return flats[k, 12] * math.hypot(flats[k, 3], flats[k, 5]) + flats[k, 13] * math.hypot(flats[k, 6], flats[k, 8])


@inlined
def _between(flats: Array, k: int, py: float) -> tuple[float, float]:
    """The heights between a place and face k, lowest and highest."""
    tall = flats[k, 12] * abs(flats[k, 4]) + flats[k, 13] * abs(flats[k, 7])
    return min(py, flats[k, 1] - tall), max(py, flats[k, 1] + tall)


@leaf
def _may_stand_between(
    flats: Array, j: int, k: int, px: float, py: float, pz: float, wide: float, low: float, high: float
) -> bool:
    """May flat j stand between a place and face k, which reaches so wide and lies between these heights?"""
    if j == k or _one_side(flats, j, k, px, py, pz):
        return False
    up = flats[j, 12] * abs(flats[j, 4]) + flats[j, 13] * abs(flats[j, 7])
    if flats[j, 1] - up > high or flats[j, 1] + up < low:
        return False
    return near_in_plan(px, pz, flats[k, 0], flats[k, 2], wide, flats[j, 0], flats[j, 2], plan_reach(flats, j))


@leaf
def suspects(flats: Array, bounds: Array, k: int, px: float, py: float, pz: float, found: Ints) -> tuple[int, int]:
    """Numbers of the flats, then of the bodies, that may stand between a place and face k; written to `found`."""
    n = 0
    wide = plan_reach(flats, k)
    qx, qz = flats[k, 0], flats[k, 2]
    low, high = _between(flats, k, py)
    for j in range(flats.shape[0]):
        if _may_stand_between(flats, j, k, px, py, pz, wide, low, high):
            found[n] = j
            n += 1
    m = n
    for s in range(bounds.shape[0]):
        if bounds[s, 3] > high or bounds[s, 4] < low:
            continue
        if near_in_plan(px, pz, qx, qz, wide, bounds[s, 0], bounds[s, 1], bounds[s, 2]):
            found[m] = s
            m += 1
    return n, m


@leaf
def _add_crossings(
    still: Still, s: int, px: float, py: float, pz: float, dx: float, dy: float, dz: float, t_max: float, passed: Array
) -> bool:
    """Count every crossing of clear body s into passed (share, then optical depth R, G, B); True where a skin blocks.

    The way is taken as straight. Crossing from medium a to b at t adds (a - b) t to the depth, whatever the order.
    """
    surface = still.flats.shape[0] + s
    begin = OFFSET
    for _ in range(8):
        t, part, u, v = hit_body(still, s, px, py, pz, dx, dy, dz, begin, t_max)
        if not t < t_max:
            return False
        spot = spot_at(still, surface, part, u, v, px + t * dx, py + t * dy, pz + t * dz)
        if still.skins[spot.skin, KIND] != CLEAR:
            return True
        into = spot.gx * dx + spot.gy * dy + spot.gz * dz < 0.0
        before = still.media_of[surface, 0 if into else 1]
        after = still.media_of[surface, 1 if into else 0]
        low = min(still.media[before, 0], still.media[after, 0])
        high = max(still.media[before, 0], still.media[after, 0])
        cosine = abs(spot.nx * dx + spot.ny * dy + spot.nz * dz)
        passed[0] *= 1.0 - reflectance(cosine, high / low)
        for c in range(3):
            passed[1 + c] += (still.media[before, 1 + c] - still.media[after, 1 + c]) * t
        begin = t + OFFSET
    return False


@leaf
def passes(
    still: Still, flats: Array, veil: Array, found: Ints, n: int, m: int,
    px: float, py: float, pz: float, dx: float, dy: float, dz: float, length: float, passed: Array,
) -> bool:  # fmt: skip
    """Does light get from a place to the point `length` away along a unit direction? Its shares R, G, B in passed[1:4].

    found[:n] flats, found[n:m] bodies: the suspects. Glass dims by Fresnel and absorption on a straight way; a net or gel lets
    its share to the power 1 / cos through. passed (4,): scratch space.
    """
    t_max = length - OFFSET
    red = green = blue = 1.0
    for i in range(n):
        k = found[i]
        t, _, _ = hit_flat(flats, k, px, py, pz, dx, dy, dz, OFFSET, t_max)
        if t < t_max:
            if k >= veil.shape[0] or veil[k, 0] + veil[k, 1] + veil[k, 2] <= 0.0:
                return False
            red *= veil_share(flats, veil, k, 0, dx, dy, dz)
            green *= veil_share(flats, veil, k, 1, dx, dy, dz)
            blue *= veil_share(flats, veil, k, 2, dx, dy, dz)
    passed[0] = 1.0
    passed[1] = passed[2] = passed[3] = 0.0
    glass = False
    for i in range(n, m):
        s = found[i]
        if still.bodies[s, IS_CLEAR] > 0.0:
            glass = True
            if _add_crossings(still, s, px, py, pz, dx, dy, dz, t_max, passed):
                return False
            continue
        t, _, _, _ = hit_body(still, s, px, py, pz, dx, dy, dz, OFFSET, t_max)
        if t < t_max:
            return False
    for c in range(1, 4):
        passed[c] = passed[0] * math.exp(-max(0.0, passed[c])) if glass else 1.0
    passed[1] *= red
    passed[2] *= green
    passed[3] *= blue
    return True


@leaf
def throws_light(things: Movables, k: int) -> bool:
    """Does a thing that is no light throw on enough of what falls on it to count?"""
    most = 0.0
    for c in range(3):
        most += things.albedo[k, c] + things.through[k, c] + things.lobes[k, GLOSS + c] + things.lobes[k, STRAIGHT]
    return most >= 3.0 * LEAST_BOUNCE


@inlined
def _gives(things: Movables, k: int, from_lights: bool, from_things: bool) -> bool:
    """Does face k count: a light that is on, or a thing that throws on light?"""
    if things.light[k] < 0:
        return from_things and throws_light(things, k)
    return from_lights and (things.gain[k, 0] != 0.0 or things.gain[k, 1] != 0.0 or things.gain[k, 2] != 0.0)


@leaf
def _arriving(
    still: Still, things: Movables, lights: int, px: float, py: float, pz: float, nx: float, ny: float, nz: float,
    coat: float, entry: float, from_lights: bool, from_things: bool, found: Ints, corners: Array, passed: Array, scratch: Array,
    out: Array,
) -> None:  # fmt: skip
    """Add the illuminance at a place from every light, or by way of cards and sheets, or both, to out (lights, 3).

    Under a coat (index, 0 for none) light counts by what enters there over what enters on average (1 / entry).
    found, corners (4, 3), passed (4,), scratch (lights, 3): the caller's scratch space.
    """
    for k in range(things.light.shape[0]):
        if things.light[k] < 0 and things.lobes[k, GLOSS_TIGHT] >= MIRROR_TIGHT:
            _by_mirror(
                still, things, lights, k, px, py, pz, nx, ny, nz, coat, entry, from_lights, from_things, found, passed, scratch,
                out,
            )  # fmt: skip
        elif _gives(things, k, from_lights, from_things):
            _from_face(still, things, lights, k, px, py, pz, nx, ny, nz, coat, entry, found, corners, passed, scratch, out)


@leaf
def _from_face(
    still: Still, things: Movables, lights: int, k: int, px: float, py: float, pz: float, nx: float, ny: float, nz: float,
    coat: float, entry: float, found: Ints, corners: Array, passed: Array, scratch: Array, out: Array,
) -> None:  # fmt: skip
    """As _arriving, from face k alone."""
    flats, light, gain, shape, samples = things.flats, things.light, things.gain, things.shape, things.samples
    is_card = light[k] < 0
    side = 0
    if flats[k, 14] != BALL:
        toward = (px - flats[k, 0]) * flats[k, 9] + (py - flats[k, 1]) * flats[k, 10] + (pz - flats[k, 2]) * flats[k, 11]
        if toward <= OFFSET:
            if not is_card or toward >= -OFFSET:
                return
            side = 1
    n, m = suspects(flats, still.bounds, k, px, py, pz, found)
    is_rectangle = flats[k, 14] == RECTANGLE
    if m == 0 and not is_card and is_rectangle and shape[k, 0] == 0.0 and shape[k, 2] == 0.0 and coat <= 0.0:
        whole = rectangle_form(flats, k, px, py, pz, nx, ny, nz, corners)
        for c in range(3):
            out[light[k], c] += whole * gain[k, c]
        return
    count = things.parts[k]
    all_sum = 0.0
    scratch[:] = 0.0
    for cell in range(count):
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
        if is_card:
            u, v = samples[k, cell, 0], samples[k, cell, 1]
            add_sampled(things.sampled, k, side, cell, form, passed[1:4], scratch)
            if things.lobes[k, HAS_LOBE] > 0.0:
                add_lobes(things, k, u, v, dx, dy, dz, lights, form, passed[1:4], False, cell, scratch)
        else:
            form *= lets_out * samples[k, cell, 2]
            for c in range(3):
                scratch[0, c] += form * passed[1 + c]
    if all_sum <= 0.0:
        return
    if is_rectangle:
        whole = _card_form(flats, k, side, px, py, pz, nx, ny, nz, corners)
    else:
        whole = face_area(flats, k, px, py, pz) * all_sum / count
    if is_card:
        for i in range(lights):
            for c in range(3):
                out[i, c] += whole * scratch[i, c] / all_sum
    else:
        for c in range(3):
            out[light[k], c] += whole * scratch[0, c] / all_sum * gain[k, c]


@leaf
def _by_mirror(
    still: Still, things: Movables, lights: int, k: int, px: float, py: float, pz: float, nx: float, ny: float, nz: float,
    coat: float, entry: float, from_lights: bool, from_things: bool, found: Ints, passed: Array, scratch: Array, out: Array,
) -> None:  # fmt: skip
    """As _arriving, by way of mirror card k: every face lights the place's mirror image behind it, where the way crosses it."""
    flats, light, samples = things.flats, things.light, things.samples
    mx, my, mz = flats[k, 9], flats[k, 10], flats[k, 11]
    gap = (px - flats[k, 0]) * mx + (py - flats[k, 1]) * my + (pz - flats[k, 2]) * mz
    if abs(gap) <= OFFSET:
        return
    ix, iy, iz = px - 2.0 * gap * mx, py - 2.0 * gap * my, pz - 2.0 * gap * mz
    dim = scratch[0]
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
    scratch = np.empty((lights, 3))
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
            still, things, lights, x, y, z, nx, ny, nz, 0.0, 1.0, first, bounced, found, corners, passed, scratch, front
        )
        _arriving(
            still, things, lights, x, y, z, -nx, -ny, -nz, 0.0, 1.0, first, bounced, found, corners, passed, scratch, back
        )
        for i in range(lights):
            for c in range(3):
                a, b = things.albedo[k, c] / math.pi, things.through[k, c] / math.pi
                out[node, 0, i, c] = a * front[i, c] + b * back[i, c]
                out[node, 1, i, c] = a * back[i, c] + b * front[i, c]
        if things.lobes[k, HAS_LOBE] > 0.0 and not bounced:
            for j in range(things.light.shape[0]):
                if j != k:
                    things.open[k, j, cell] = _reaches(still, things, j, x, y, z, found, passed)


@leaf
def _reaches(still: Still, things: Movables, j: int, x: float, y: float, z: float, found: Ints, passed: Array) -> float:
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
    scratch = np.empty((lights, 3))
    sums = np.empty((lights, 3))
    found = np.empty(things.flats.shape[0] + still.bounds.shape[0], np.int64)
    for p in range(begin, end):
        sums[:] = 0.0
        _arriving(
            still, things, lights, places[p, 0], places[p, 1], places[p, 2], places[p, 3], places[p, 4], places[p, 5],
            places[p, 6], places[p, 7], True, True, found, corners, passed, scratch, sums,
        )  # fmt: skip
        for i in range(lights):
            for c in range(3):
                out[p, i, c] = sums[i, c]


class Before(NamedTuple):
    """What places got from every face in the picture before, for all lights as one.

    moved (m,) int64: flats that have moved since, or may move; stale (faces,) bool: faces that show something else than then.
    light (places, faces, 3); lasts (places, faces) bool: no moved flat may have stood between.
    """

    moved: Ints
    stale: NDArray[np.bool_]
    light: NDArray[np.float32]
    lasts: NDArray[np.bool_]


@kernel
def _light_places_again(
    still: Still,
    things: Movables,
    places: NDArray[np.float32],
    before: Before,
    begin: int,
    end: int,
    out: NDArray[np.float32],
) -> None:
    flats = things.flats
    corners = np.empty((4, 3))
    passed = np.empty(4)
    scratch = np.empty((1, 3))
    one = np.empty((1, 3))
    found = np.empty(flats.shape[0] + still.bounds.shape[0], np.int64)
    for p in range(begin, end):
        x, y, z = float(places[p, 0]), float(places[p, 1]), float(places[p, 2])
        nx, ny, nz = float(places[p, 3]), float(places[p, 4]), float(places[p, 5])
        coat, entry = float(places[p, 6]), float(places[p, 7])
        for k in range(things.light.shape[0]):
            mirror = things.light[k] < 0 and things.lobes[k, GLOSS_TIGHT] >= MIRROR_TIGHT
            if not mirror and not _gives(things, k, True, True):
                continue
            clear = not mirror
            wide = plan_reach(flats, k)
            low, high = _between(flats, k, y)
            for m in before.moved:
                clear = clear and m != k and not _may_stand_between(flats, m, k, x, y, z, wide, low, high)
            if not (clear and before.lasts[p, k] and not before.stale[k]):
                one[:] = 0.0
                if mirror:
                    _by_mirror(
                        still, things, 1, k, x, y, z, nx, ny, nz, coat, entry, True, True, found, passed, scratch, one
                    )
                else:
                    _from_face(still, things, 1, k, x, y, z, nx, ny, nz, coat, entry, found, corners, passed, scratch, one)
                for c in range(3):
                    before.light[p, k, c] = one[0, c]
                before.lasts[p, k] = clear
            for c in range(3):
                out[p, 0, c] += before.light[p, k, c]


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


def light_places_again(
    still: Still, movables: Movables, places: NDArray[np.float32], before: Before, begin: int, end: int,
    out: NDArray[np.float32],
) -> None:  # fmt: skip
    """As light_places with one light, out (n, 1, 3), taking from `before` what cannot have changed, and keeping the rest there."""
    _light_places_again(still, movables, places, before, begin, end, out)
