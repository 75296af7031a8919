"""Light from panels, heads and cards on matte surfaces, with what stands in between.

An even rectangle has Lambert's closed form. Shadows and gradients enter as a ratio: the face is cut into cells,
and the closed form is weighted by the share of the cells' light that arrives. A gridded disc is summed over cells.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.constants import SURFACE_OFFSET_M
from fotaxis.core.geometry.flat import DISC, hit_flat
from fotaxis.core.kernel import kernel, leaf
from fotaxis.core.optics.fresnel import reflectance
from fotaxis.core.optics.illuminance import rectangle_form
from fotaxis.core.optics.material import CLEAR, KIND
from fotaxis.core.optics.still import IS_CLEAR, Ints, Still, hit_body, spot_at
from fotaxis.core.values import Array

OFFSET = 2 * SURFACE_OFFSET_M
LEAST_BOUNCE = 0.05
"""A card that reflects less than this throws no light on other things; it still shades them and is seen as it is."""


class Movables(NamedTuple):
    """Everything that may be moved while the picture is watched: panels, heads, cards.

    flats (k + still, 24)      see geometry.flat; the movable things first, then the still flats, which only shade
    light (k,) int64           the light it is the face of, -1 for a card
    gain (k, 3)                luminance at the middle of the face, linear Rec. 709, cd s/m2 (flash) or cd/m2
    shape (k, 4)               profile kind 0 even, 1 core, 2 ramp; stops lost at the edge; tangent of the grid's
                               half angle (0: no grid); front only (1) or both sides (0)
    albedo (k, 3)              diffuse reflectance of a card; 0 for lights
    cells (k, 2) int64         columns and rows of a card's cells; for a light their product is the number of samples
    samples (k, cells, 3)      places of equal share, u and v -1..1, and the luminance there relative to the face's middle
    card_luminance (k, 2, lights, rows * columns, 3)   per card and side (front, back), filled by light_cards
    """

    flats: Array
    light: Ints
    gain: Array
    shape: Array
    albedo: Array
    cells: Ints
    samples: Array
    card_luminance: Array


@leaf
def face_profile(shape: Array, k: int, u: float, v: float) -> float:
    """Luminance at a place on face k relative to its middle; u, v -1..1."""
    kind = shape[k, 0]
    if kind == 0.0:
        return 1.0
    if kind == 1.0:
        return 2.0 ** (-shape[k, 1] * min(1.0, 0.5 * (u * u + v * v)))
    return 2.0 ** (-shape[k, 1] * 0.5 * (1.0 + u))


@leaf
def grid_transmission(tangent: float, tangent_half: float) -> float:
    """Share of a honeycomb's cells seen open at an angle off its axis, given as tangents.

        T = 2/pi (acos x - x sqrt(1 - x^2)),  x = tan(angle) / tan(half the nominal angle);  0 for x >= 1

    The overlap of the two ends of a round cell.  Limits: 1 on the axis.  tangent_half 0 means no grid: always 1.
    """
    if tangent_half <= 0.0:
        return 1.0
    x = tangent / tangent_half
    if x >= 1.0:
        return 0.0
    return (math.acos(x) - x * math.sqrt(1.0 - x * x)) * 2.0 / math.pi


@leaf
def beam(flats: Array, shape: Array, k: int, dx: float, dy: float, dz: float) -> float:
    """What the grid of face k lets out along a unit direction away from it; 0 behind the face."""
    c = dx * flats[k, 9] + dy * flats[k, 10] + dz * flats[k, 11]
    if c <= 0.0:
        return 0.0
    if shape[k, 2] <= 0.0:
        return 1.0
    return grid_transmission(math.sqrt(max(0.0, 1.0 - c * c)) / c, shape[k, 2])


@leaf
def face_density(flats: Array, cells: Ints, k: int, distance: float, leaves: float) -> float:
    """Directions per steradian to the samples of face k, seen from a distance; leaves: cosine at the face."""
    area = 4.0 * flats[k, 12] * flats[k, 13]
    if flats[k, 14] == DISC:
        area *= 0.25 * math.pi
    return cells[k, 0] * cells[k, 1] * distance * distance / (max(leaves, 1e-9) * area)


@leaf
def _one_side(flats: Array, j: int, k: int, px: float, py: float, pz: float) -> bool:
    """Do the place and the whole of face k lie on one side of flat j, or the place in its plane?"""
    nx, ny, nz = flats[j, 9], flats[j, 10], flats[j, 11]
    place = (px - flats[j, 0]) * nx + (py - flats[j, 1]) * ny + (pz - flats[j, 2]) * nz
    if abs(place) < OFFSET:
        return True
    middle = (flats[k, 0] - flats[j, 0]) * nx + (flats[k, 1] - flats[j, 1]) * ny + (flats[k, 2] - flats[j, 2]) * nz
    reach = flats[k, 12] * abs(flats[k, 3] * nx + flats[k, 4] * ny + flats[k, 5] * nz)
    reach += flats[k, 13] * abs(flats[k, 6] * nx + flats[k, 7] * ny + flats[k, 8] * nz)
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


@leaf
def suspects(flats: Array, bounds: Array, k: int, px: float, py: float, pz: float, found: Ints) -> tuple[int, int]:
    """Numbers of the flats, then of the bodies, that may stand between a place and face k; written to `found`."""
    n = 0
    wide = plan_reach(flats, k)
    tall = flats[k, 12] * abs(flats[k, 4]) + flats[k, 13] * abs(flats[k, 7])
    qx, qy, qz = flats[k, 0], flats[k, 1], flats[k, 2]
    low, high = min(py, qy - tall), max(py, qy + tall)
    for j in range(flats.shape[0]):
        if j == k or _one_side(flats, j, k, px, py, pz):
            continue
        up = flats[j, 12] * abs(flats[j, 4]) + flats[j, 13] * abs(flats[j, 7])
        if flats[j, 1] - up > high or flats[j, 1] + up < low:
            continue
        if near_in_plan(px, pz, qx, qz, wide, flats[j, 0], flats[j, 2], plan_reach(flats, j)):
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
    still: Still, flats: Array, found: Ints, n: int, m: int,
    px: float, py: float, pz: float, dx: float, dy: float, dz: float, length: float, passed: Array,
) -> bool:  # fmt: skip
    """Does light get from a place to the point `length` away along a unit direction? Its shares R, G, B in passed[1:4].

    found[:n] flats, found[n:m] bodies: the suspects. Glass dims by Fresnel and absorption on a straight way.
    passed (4,): scratch space.
    """
    t_max = length - OFFSET
    for i in range(n):
        t, _, _ = hit_flat(flats, found[i], px, py, pz, dx, dy, dz, OFFSET, t_max)
        if t < t_max:
            return False
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
    return True


@leaf
def way_to_sample(
    flats: Array, samples: Array, k: int, cell: int, px: float, py: float, pz: float
) -> tuple[float, float, float, float]:
    """Unit direction and distance from a place to a sample of face k."""
    u = samples[k, cell, 0] * flats[k, 12]
    v = samples[k, cell, 1] * flats[k, 13]
    dx = flats[k, 0] + u * flats[k, 3] + v * flats[k, 6] - px
    dy = flats[k, 1] + u * flats[k, 4] + v * flats[k, 7] - py
    dz = flats[k, 2] + u * flats[k, 5] + v * flats[k, 8] - pz
    d = math.sqrt(dx * dx + dy * dy + dz * dz)
    return dx / d, dy / d, dz / d, d


@leaf
def _arriving(
    still: Still, things: Movables, lights: int, px: float, py: float, pz: float, nx: float, ny: float, nz: float,
    coat: float, entry: float, cards: bool, found: Ints, corners: Array, passed: Array, scratch: Array, out: Array,
) -> None:  # fmt: skip
    """Add the illuminance at a place from every light (and by way of cards) to out (lights, 3).

    Under a coat (index, 0 for none) light counts by what enters there over what enters on average (1 / entry).
    found, corners (4, 3), passed (4,), scratch (lights, 3): the caller's scratch space.
    """
    flats, light, gain, shape = things.flats, things.light, things.gain, things.shape
    albedo, cells, samples, card_luminance = things.albedo, things.cells, things.samples, things.card_luminance
    for k in range(light.shape[0]):
        is_card = light[k] < 0
        if is_card and (not cards or albedo[k, 0] + albedo[k, 1] + albedo[k, 2] < 3.0 * LEAST_BOUNCE):
            continue
        toward = (px - flats[k, 0]) * flats[k, 9] + (py - flats[k, 1]) * flats[k, 10] + (pz - flats[k, 2]) * flats[k, 11]
        side = 0
        if toward <= OFFSET:
            if not is_card or toward >= -OFFSET:
                continue
            side = 1
        n, m = suspects(flats, still.bounds, k, px, py, pz, found)
        disc = flats[k, 14] == DISC
        if m == 0 and not is_card and not disc and shape[k, 0] == 0.0 and coat <= 0.0:
            whole = rectangle_form(flats, k, px, py, pz, nx, ny, nz, corners)
            for c in range(3):
                out[light[k], c] += whole * gain[k, c]
            continue
        count = cells[k, 0] * cells[k, 1]
        all_sum = 0.0
        scratch[:] = 0.0
        for cell in range(count):
            dx, dy, dz, d = way_to_sample(flats, samples, k, cell, px, py, pz)
            falls = nx * dx + ny * dy + nz * dz
            leaves = abs(flats[k, 9] * dx + flats[k, 10] * dy + flats[k, 11] * dz)
            if falls <= 0.0 or leaves <= 0.0:
                continue
            form = falls * leaves / (d * d)
            all_sum += form
            lets_out = beam(flats, shape, k, -dx, -dy, -dz) if shape[k, 2] > 0.0 else 1.0
            if lets_out <= 0.0:
                continue
            passed[1] = passed[2] = passed[3] = 1.0
            if m > 0 and not passes(still, flats, found, n, m, px, py, pz, dx, dy, dz, d, passed):
                continue
            if coat > 0.0:
                form *= (1.0 - reflectance(falls, coat)) * entry
            if is_card:
                for i in range(lights):
                    for c in range(3):
                        scratch[i, c] += form * passed[1 + c] * card_luminance[k, side, i, cell, c]
            else:
                form *= lets_out * samples[k, cell, 2]
                for c in range(3):
                    scratch[0, c] += form * passed[1 + c]
        if all_sum <= 0.0:
            continue
        if disc:
            whole = math.pi * flats[k, 12] * flats[k, 13] * all_sum / count
        else:
            whole = rectangle_form(flats, k, px, py, pz, nx, ny, nz, corners)
        if is_card:
            for i in range(lights):
                for c in range(3):
                    out[i, c] += whole * scratch[i, c] / all_sum
        else:
            for c in range(3):
                out[light[k], c] += whole * scratch[0, c] / all_sum * gain[k, c]


@kernel
def _light_cards(still: Still, things: Movables, lights: int) -> None:
    flats, albedo = things.flats, things.albedo
    corners = np.empty((4, 3))
    passed = np.empty(4)
    scratch = np.empty((lights, 3))
    out = np.empty((lights, 3))
    found = np.empty(flats.shape[0] + still.bounds.shape[0], np.int64)
    for k in range(things.light.shape[0]):
        if things.light[k] >= 0 or albedo[k, 0] + albedo[k, 1] + albedo[k, 2] <= 0.0:
            continue
        for cell in range(2 * things.cells[k, 0] * things.cells[k, 1]):
            side = cell % 2
            sign = 1.0 - 2.0 * side
            u = things.samples[k, cell // 2, 0] * flats[k, 12]
            v = things.samples[k, cell // 2, 1] * flats[k, 13]
            out[:] = 0.0
            _arriving(
                still, things, lights,
                flats[k, 0] + u * flats[k, 3] + v * flats[k, 6],
                flats[k, 1] + u * flats[k, 4] + v * flats[k, 7],
                flats[k, 2] + u * flats[k, 5] + v * flats[k, 8],
                sign * flats[k, 9], sign * flats[k, 10], sign * flats[k, 11], 0.0, 1.0, False, found, corners, passed, scratch,
                out,
            )  # fmt: skip
            for i in range(lights):
                for c in range(3):
                    things.card_luminance[k, side, i, cell // 2, c] = out[i, c] * albedo[k, c] / math.pi


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
            places[p, 6], places[p, 7], True, found, corners, passed, scratch, sums,
        )  # fmt: skip
        for i in range(lights):
            for c in range(3):
                out[p, i, c] = sums[i, c]


def light_cards(still: Still, movables: Movables, lights: int) -> None:
    """Fill card_luminance: one bounce, albedo times illuminance over pi at the middle of every cell, both sides."""
    if lights:
        _light_cards(still, movables, lights)


def light_places(
    still: Still, movables: Movables, lights: int, places: NDArray[np.float32], begin: int, end: int,
    out: NDArray[np.float32],
) -> None:  # fmt: skip
    """Illuminance at places (n, 8: place, normal, coat index, entry factor) into out (n, lights, 3), rows begin..end.

    lux s per light at full power for flash, lux for continuous light.
    """
    _light_places(still, movables, lights, places, begin, end, out)


def as_one_light(movables: Movables, gains: Array) -> Movables:
    """The same things with all lights, each times its gain, seen as light 0; their card_luminance must be filled.

    gains (lights,) float64.
    """
    shines = movables.light >= 0
    gain = movables.gain.copy()
    gain[shines] *= gains[movables.light[shines], None]
    cards = np.einsum("kslcx,l->kscx", movables.card_luminance, gains)[:, :, None]
    return movables._replace(light=np.where(shines, 0, -1), gain=gain, card_luminance=cards)
