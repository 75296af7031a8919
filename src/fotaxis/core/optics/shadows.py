"""What stands in the way of light: which things may, and what of the light gets past them."""

from __future__ import annotations

import math

from fotaxis.core.constants import SURFACE_OFFSET_M
from fotaxis.core.geometry.flat import BALL, hit_flat
from fotaxis.core.kernel import inlined, leaf
from fotaxis.core.optics.faces import veil_share
from fotaxis.core.optics.fresnel import reflectance
from fotaxis.core.optics.material import CLEAR, KIND
from fotaxis.core.optics.still import IS_CLEAR, Ints, Still, hit_body, spot_at
from fotaxis.core.values import Array

OFFSET = 2 * SURFACE_OFFSET_M


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
def heights_between(flats: Array, k: int, py: float) -> tuple[float, float]:
    """The heights between a place and face k, lowest and highest."""
    tall = flats[k, 12] * abs(flats[k, 4]) + flats[k, 13] * abs(flats[k, 7])
    return min(py, flats[k, 1] - tall), max(py, flats[k, 1] + tall)


@leaf
def may_stand_between(
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
    low, high = heights_between(flats, k, py)
    for j in range(flats.shape[0]):
        if may_stand_between(flats, j, k, px, py, pz, wide, low, high):
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
