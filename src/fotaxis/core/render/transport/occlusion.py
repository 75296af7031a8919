"""What stands in the way of light: which things may, and what of the light gets past them."""

from __future__ import annotations

import math

from fotaxis.core.columns import BODY, BOUNDS, FLAT, MEDIUM
from fotaxis.core.constants import SURFACE_OFFSET_M
from fotaxis.core.geometry.planar import BALL, hit_flat
from fotaxis.core.geometry.rays import Ray
from fotaxis.core.kernel import inlined, leaf
from fotaxis.core.materials.fresnel import reflectance
from fotaxis.core.materials.material import CLEAR, KIND
from fotaxis.core.render.arrays.emitters import transmittance
from fotaxis.core.render.arrays.receiver import Occluders
from fotaxis.core.render.arrays.static_scene import Ints, StaticScene, hit_body
from fotaxis.core.render.arrays.surface_hit import surface_hit_at
from fotaxis.core.values import Array

OFFSET = 2 * SURFACE_OFFSET_M


@leaf
def _one_side(flats: Array, j: int, k: int, px: float, py: float, pz: float) -> bool:
    """Do the place and the whole of face k lie on one side of flat j, or the place in its plane?"""
    nx, ny, nz = flats[j, FLAT.NX], flats[j, FLAT.NY], flats[j, FLAT.NZ]
    if flats[j, FLAT.SHAPE] == BALL:
        return False
    place = (px - flats[j, FLAT.X]) * nx + (py - flats[j, FLAT.Y]) * ny + (pz - flats[j, FLAT.Z]) * nz
    if abs(place) < OFFSET:
        return True
    middle = (
        (flats[k, FLAT.X] - flats[j, FLAT.X]) * nx
        + (flats[k, FLAT.Y] - flats[j, FLAT.Y]) * ny
        + (flats[k, FLAT.Z] - flats[j, FLAT.Z]) * nz
    )
    reach = flats[k, FLAT.HALF_WIDTH] * abs(flats[k, FLAT.AX] * nx + flats[k, FLAT.AY] * ny + flats[k, FLAT.AZ] * nz)
    reach += flats[k, FLAT.HALF_HEIGHT] * abs(flats[k, FLAT.UX] * nx + flats[k, FLAT.UY] * ny + flats[k, FLAT.UZ] * nz)
    if flats[k, FLAT.SHAPE] == BALL:
        reach = flats[k, FLAT.HALF_WIDTH]
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
    return flats[k, FLAT.HALF_WIDTH] * math.hypot(flats[k, FLAT.AX], flats[k, FLAT.AZ]) + flats[
        k, FLAT.HALF_HEIGHT
    ] * math.hypot(flats[k, FLAT.UX], flats[k, FLAT.UZ])


@inlined
def heights_between(flats: Array, k: int, py: float) -> tuple[float, float]:
    """The heights between a place and face k, lowest and highest."""
    tall = flats[k, FLAT.HALF_WIDTH] * abs(flats[k, FLAT.AY]) + flats[k, FLAT.HALF_HEIGHT] * abs(flats[k, FLAT.UY])
    return min(py, flats[k, FLAT.Y] - tall), max(py, flats[k, FLAT.Y] + tall)


@leaf
def may_stand_between(
    flats: Array, j: int, k: int, px: float, py: float, pz: float, wide: float, low: float, high: float
) -> bool:
    """May flat j stand between a place and face k, which reaches so wide and lies between these heights?"""
    if j == k or _one_side(flats, j, k, px, py, pz):
        return False
    up = flats[j, FLAT.HALF_WIDTH] * abs(flats[j, FLAT.AY]) + flats[j, FLAT.HALF_HEIGHT] * abs(flats[j, FLAT.UY])
    if flats[j, FLAT.Y] - up > high or flats[j, FLAT.Y] + up < low:
        return False
    return near_in_plan(
        px, pz, flats[k, FLAT.X], flats[k, FLAT.Z], wide, flats[j, FLAT.X], flats[j, FLAT.Z], plan_reach(flats, j)
    )


@leaf
def possible_occluders(flats: Array, bounds: Array, k: int, px: float, py: float, pz: float, found: Ints) -> tuple[int, int]:
    """Numbers of the flats, then of the bodies, that may stand between a place and face k; written to `found`."""
    n = 0
    wide = plan_reach(flats, k)
    qx, qz = flats[k, FLAT.X], flats[k, FLAT.Z]
    low, high = heights_between(flats, k, py)
    for j in range(flats.shape[0]):
        if may_stand_between(flats, j, k, px, py, pz, wide, low, high):
            found[n] = j
            n += 1
    m = n
    for s in range(bounds.shape[0]):
        if bounds[s, BOUNDS.LOW] > high or bounds[s, BOUNDS.HIGH] < low:
            continue
        if near_in_plan(px, pz, qx, qz, wide, bounds[s, BOUNDS.X], bounds[s, BOUNDS.Z], bounds[s, BOUNDS.RADIUS]):
            found[m] = s
            m += 1
    return n, m


@leaf
def _add_crossings(
    scene: StaticScene, s: int, px: float, py: float, pz: float, dx: float, dy: float, dz: float, t_max: float, passed: Array
) -> bool:
    """Count every crossing of clear body s into passed (share, then optical depth R, G, B); True where a skin blocks.

    The way is taken as straight. Crossing from medium a to b at t adds (a - b) t to the depth, whatever the order.
    """
    surface = scene.flats.shape[0] + s
    begin = OFFSET
    for _ in range(8):
        t, part, u, v = hit_body(scene, s, px, py, pz, dx, dy, dz, begin, t_max)
        if not t < t_max:
            return False
        spot = surface_hit_at(scene, surface, part, u, v, px + t * dx, py + t * dy, pz + t * dz)
        if scene.skins[spot.skin, KIND] != CLEAR:
            return True
        into = spot.gx * dx + spot.gy * dy + spot.gz * dz < 0.0
        before = scene.media_of[surface, 0 if into else 1]
        after = scene.media_of[surface, 1 if into else 0]
        low = min(scene.media[before, MEDIUM.INDEX], scene.media[after, MEDIUM.INDEX])
        high = max(scene.media[before, MEDIUM.INDEX], scene.media[after, MEDIUM.INDEX])
        cosine = abs(spot.nx * dx + spot.ny * dy + spot.nz * dz)
        passed[0] *= 1.0 - reflectance(cosine, high / low)
        for c in range(3):
            passed[1 + c] += (scene.media[before, MEDIUM.ABSORPTION + c] - scene.media[after, MEDIUM.ABSORPTION + c]) * t
        begin = t + OFFSET
    return False


@leaf
def transmits(
    scene: StaticScene, flats: Array, veil: Array, among: Occluders, ray: Ray, length: float, passed: Array
) -> bool:
    """Does light get from a ray's origin to the point `length` metres along it? Its shares R, G, B in passed[1:4].

    Only `among` is tested. Glass dims by Fresnel and absorption on a straight way; a net or gel lets its share to the power
    1 / cos through. passed (4,): scratch space.
    """
    found, n, m = among.found, among.flats, among.end
    px, py, pz, dx, dy, dz = ray
    t_max = length - OFFSET
    red = green = blue = 1.0
    for i in range(n):
        k = found[i]
        t, _, _ = hit_flat(flats, k, px, py, pz, dx, dy, dz, OFFSET, t_max)
        if t < t_max:
            if k >= veil.shape[0] or veil[k, 0] + veil[k, 1] + veil[k, 2] <= 0.0:
                return False
            red *= transmittance(flats, veil, k, 0, dx, dy, dz)
            green *= transmittance(flats, veil, k, 1, dx, dy, dz)
            blue *= transmittance(flats, veil, k, 2, dx, dy, dz)
    passed[0] = 1.0
    passed[1] = passed[2] = passed[3] = 0.0
    glass = False
    for i in range(n, m):
        s = found[i]
        if scene.bodies[s, BODY.CLEAR] > 0.0:
            glass = True
            if _add_crossings(scene, s, px, py, pz, dx, dy, dz, t_max, passed):
                return False
            continue
        t, _, _, _ = hit_body(scene, s, px, py, pz, dx, dy, dz, OFFSET, t_max)
        if t < t_max:
            return False
    for c in range(1, 4):
        passed[c] = passed[0] * math.exp(-max(0.0, passed[c])) if glass else 1.0
    passed[1] *= red
    passed[2] *= green
    passed[3] *= blue
    return True
