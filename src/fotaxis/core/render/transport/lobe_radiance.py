"""What cards and sheets let straight through or mirror, spread over a lobe: worked out where it is looked at."""

from __future__ import annotations

import math
from typing import NamedTuple

from fotaxis.core.columns import FLAT, SAMPLE
from fotaxis.core.geometry.planar import BALL, hit_flat
from fotaxis.core.geometry.rays import Direction
from fotaxis.core.kernel import inlined, leaf
from fotaxis.core.render.arrays.emitters import (
    DIRECTION_SETS,
    GLOSS,
    GLOSS_TIGHT,
    HAS_LOBE,
    MANY_SAMPLES,
    MIRROR_TIGHT,
    STRAIGHT,
    STRAIGHT_TIGHT,
    Emitters,
    beam_factor,
    direction_to_sample,
    face_area,
    face_profile,
    place_on,
    sample_luminance,
    sideways,
)
from fotaxis.core.render.arrays.static_scene import Ints
from fotaxis.core.render.transport.card_radiance import add_card_radiance, cell_at
from fotaxis.core.values import Array

COUNTS = 12.0
"""What is weaker than e to minus this of a lobe's peak, 17 stops under it, is not looked at."""


MANY_FACES = 62


ALL = -1


class FaceRay(NamedTuple):
    """A ray that meets face k at u, v (-1..1) along a unit direction."""

    k: int
    u: float
    v: float
    dx: float
    dy: float
    dz: float


class Lobe(NamedTuple):
    """A lobe of face k (STRAIGHT or GLOSS) from a place on it, in metres, around a unit direction; near: the cell it lies in."""

    k: int
    kind: int
    x: float
    y: float
    z: float
    ax: float
    ay: float
    az: float
    near: int


class Looks(NamedTuple):
    """How finely a lobe is looked into: directions of its own, about how many samples of a light, and which of them (turn)."""

    rays: int
    most: int
    turn: int


@leaf
def fisher_lobe(tight: float, cosine: float) -> float:
    """Share per steradian of light spread around a direction, at an angle off it.

        kappa / (2 pi (1 - exp(-2 kappa))) exp(kappa (cos - 1)),  kappa = 1 / spread^2

    Adds up to 1 over the sphere.   Source: von Mises-Fisher distribution, Fisher 1953.
    """
    return tight / (2.0 * math.pi * (1.0 - math.exp(-2.0 * tight))) * math.exp(tight * (cosine - 1.0))


@inlined
def _reaches_lobe(
    flats: Array, j: int, k: int, x: float, y: float, z: float, ax: float, ay: float, az: float, tight: float
) -> bool:
    """May face j reach into a lobe of face k around a direction, where it counts? Never says no wrongly."""
    narrow = 1.0 - COUNTS / tight
    n0, n1, n2 = flats[k, FLAT.NX], flats[k, FLAT.NY], flats[k, FLAT.NZ]
    turn = -1.0 if ax * n0 + ay * n1 + az * n2 < 0.0 else 1.0
    cx, cy, cz = flats[j, FLAT.X] - x, flats[j, FLAT.Y] - y, flats[j, FLAT.Z] - z
    ball2 = flats[j, FLAT.HALF_WIDTH] * flats[j, FLAT.HALF_WIDTH] + flats[j, FLAT.HALF_HEIGHT] * flats[j, FLAT.HALF_HEIGHT]
    beyond = turn * (cx * n0 + cy * n1 + cz * n2)
    if beyond < 0.0 and beyond * beyond > ball2:
        return False
    far2 = cx * cx + cy * cy + cz * cz
    if far2 <= 4.0 * ball2:
        return True
    far, ball = math.sqrt(far2), math.sqrt(ball2)
    along = cx * ax + cy * ay + cz * az + ball
    return along >= narrow * (far - ball if along > 0.0 else far + ball)


@leaf
def in_lobe(emitters: Emitters, k: int, x: float, y: float, z: float, ax: float, ay: float, az: float, tight: float) -> int:
    """Which faces reach into a lobe of face k around a direction, where it counts: bit j for face j, beyond the 62nd all do.

    By the ball around each, so that a face costs no more than a few products; k itself and nets never count, nor what lies
    wholly on the other side of its plane.
    """
    found = 0
    for j in range(min(emitters.light.shape[0], MANY_FACES)):
        plain = emitters.veil[j, 1] <= 0.0 or emitters.light[j] >= 0
        if j != k and plain and _reaches_lobe(emitters.flats, j, k, x, y, z, ax, ay, az, tight):
            found |= 1 << j
    return found


@leaf
def lobes_undisturbed(emitters: Emitters, moved: Ints, cards: bool, ray: FaceRay) -> bool:
    """Do the lobes of the face that a ray meets show nothing that moved and, if told so, no card or sheet?"""
    flats, light = emitters.flats, emitters.light
    k, u, v, dx, dy, dz = ray
    x, y, z = place_on(flats, k, u, v)
    into = dx * flats[k, FLAT.NX] + dy * flats[k, FLAT.NY] + dz * flats[k, FLAT.NZ]
    for kind in (STRAIGHT, GLOSS):
        tight = emitters.lobes[k, STRAIGHT_TIGHT if kind == STRAIGHT else GLOSS_TIGHT]
        if tight <= 0.0:
            continue
        ax, ay, az = dx, dy, dz
        if kind == GLOSS:
            ax, ay, az = (
                dx - 2.0 * into * flats[k, FLAT.NX],
                dy - 2.0 * into * flats[k, FLAT.NY],
                dz - 2.0 * into * flats[k, FLAT.NZ],
            )
        for m in moved:
            if _reaches_lobe(flats, m, k, x, y, z, ax, ay, az, tight):
                return False
        for j in range(light.shape[0] if cards else 0):
            if light[j] < 0 and j != k and _reaches_lobe(flats, j, k, x, y, z, ax, ay, az, tight):
                return False
    return True


@inlined
def _is_in(faces: int, j: int) -> bool:
    return j >= MANY_FACES or (faces >> j) & 1 > 0


@leaf
def _nearest_face(
    emitters: Emitters, k: int, among: int, x: float, y: float, z: float, dx: float, dy: float, dz: float
) -> tuple[int, float, float, float]:
    """The face that a ray from face k meets first, nets aside, how far away, and where on it; -1 for none. among: see in_lobe."""
    best, found, u, v = math.inf, -1, 0.0, 0.0
    for j in range(emitters.light.shape[0]):
        if not _is_in(among, j) or j == k or (emitters.veil[j, 1] > 0.0 and emitters.light[j] < 0):
            continue
        t, a, b = hit_flat(emitters.flats, j, x, y, z, dx, dy, dz, 1e-5, best)
        if t < best:
            best, found, u, v = t, j, a, b
    return found, best, u, v


@leaf
def _sample_subset(parts: Ints, j: int, most: int, turn: int) -> tuple[int, int, int]:
    """The first of face j's samples that is looked at, the step to the next, and how many there are, about `most`."""
    step = max(1, parts[j] // most)
    begin = turn % step
    return begin, step, (parts[j] - begin + step - 1) // step


@leaf
def _add_light(emitters: Emitters, k: int, kind: int, j: int, part: float, factor: Array, out: Array) -> None:
    """Add a part of light j's luminance by way of face k's lobe."""
    for c in range(3):
        share = emitters.lobes[k, STRAIGHT] if kind == STRAIGHT else emitters.lobes[k, GLOSS + c]
        out[emitters.light[j], c] += part * share * factor[c] * emitters.gain[j, c]


@leaf
def _add_lights_in_lobe(
    emitters: Emitters, lobe: Lobe, among: int, looks: Looks, weight: float, factor: Array, out: Array
) -> None:
    """Add what the samples of all lights give to a lobe, to out (lights, 3).

    The lobe's own directions find the rest (add_lobe_radiance): together by the balance heuristic, Veach & Guibas 1995.
    """
    flats, light, lobes, parts = emitters.flats, emitters.light, emitters.lobes, emitters.parts
    k, x, y, z, ax, ay, az = lobe.k, lobe.x, lobe.y, lobe.z, lobe.ax, lobe.ay, lobe.az
    tight = lobes[k, STRAIGHT_TIGHT if lobe.kind == STRAIGHT else GLOSS_TIGHT]
    peak = fisher_lobe(tight, 1.0)
    n0, n1, n2 = flats[k, FLAT.NX], flats[k, FLAT.NY], flats[k, FLAT.NZ]
    side = ax * n0 + ay * n1 + az * n2
    for j in range(light.shape[0]):
        if light[j] < 0 or j == k or not _is_in(among, j):
            continue
        clear = emitters.open[k, j, lobe.near]
        if clear <= 0.0:
            continue
        begin, step, used = _sample_subset(parts, j, looks.most, looks.turn)
        area = face_area(flats, j, x, y, z)
        for s in range(begin, parts[j], step):
            wx, wy, wz, d, leaves = direction_to_sample(flats, emitters.samples, j, s, x, y, z)
            if leaves <= 0.0 or (wx * n0 + wy * n1 + wz * n2) * side <= 0.0:
                continue
            spread = peak * math.exp(tight * (wx * ax + wy * ay + wz * az - 1.0))
            part = weight * clear * spread / (looks.rays * spread + used * d * d / (leaves * area))
            part *= sample_luminance(emitters, j, s, wx, wy, wz)
            _add_light(emitters, k, lobe.kind, j, part, factor, out)


@inlined
def _add_lights_through(emitters: Emitters, ray: FaceRay, looks: Looks, weight: float, factor: Array, out: Array) -> None:
    """Add what the lights' samples give through the sheet that a ray meets, where it lets light straight through."""
    j, u, v, dx, dy, dz = ray
    if emitters.lobes[j, STRAIGHT] <= 0.0:
        return
    x, y, z = place_on(emitters.flats, j, u, v)
    near, _, _, _, _, _ = cell_at(emitters.cells, j, u, v)
    among = in_lobe(emitters, j, x, y, z, dx, dy, dz, emitters.lobes[j, STRAIGHT_TIGHT])
    _add_lights_in_lobe(emitters, Lobe(j, STRAIGHT, x, y, z, dx, dy, dz, near), among, looks, weight, factor, out)


@leaf
def _add_mirror_radiance(emitters: Emitters, lobe: Lobe, lights: int, weight: float, factor: Array, out: Array) -> None:
    """Add what a mirror card shows of the thing that lies along one direction, as add_card_radiance does."""
    flats, ax, ay, az = emitters.flats, lobe.ax, lobe.ay, lobe.az
    j, _, u, v = _nearest_face(emitters, lobe.k, ALL, lobe.x, lobe.y, lobe.z, ax, ay, az)
    if j < 0:
        return
    clear = emitters.open[lobe.k, j, lobe.near]
    facing = ax * flats[j, FLAT.NX] + ay * flats[j, FLAT.NY] + az * flats[j, FLAT.NZ]
    if emitters.light[j] >= 0:
        if facing < 0.0 or flats[j, FLAT.SHAPE] == BALL:
            part = weight * clear * beam_factor(emitters, j, u, v, -ax, -ay, -az) * face_profile(emitters.shape, j, u, v)
            _add_light(emitters, lobe.k, GLOSS, j, part, factor, out)
        return
    share = weight * clear * emitters.lobes[lobe.k, GLOSS + 1]
    add_card_radiance(emitters, j, 0 if facing < 0.0 else 1, u, v, lights, share, factor, out)
    _add_lights_through(emitters, FaceRay(j, u, v, ax, ay, az), Looks(0, MANY_SAMPLES, 0), share, factor, out)


@leaf
def add_lobe_radiance(
    emitters: Emitters, ray: FaceRay, lights: int, weight: float, factor: Array, finely: bool, turn: int, out: Array,
    straight_without: int = 0,
) -> None:  # fmt: skip
    """Add what the face that a ray meets lets straight through and mirrors, spread, as add_card_radiance does.

    straight_without: faces that are not looked for straight through, bit j for face j, see in_lobe.

        L = share * integral of L_in lobe(angle to the ray going on, or mirrored) over the directions light comes from

    finely: with all samples, for what is seen; else with a few, and `turn` says which, for sums over many rays.
    What is met through another sheet's lobe is counted once more, by the lights' samples alone.
    """
    flats, lobes = emitters.flats, emitters.lobes
    k, u, v, dx, dy, dz = ray
    x, y, z = place_on(flats, k, u, v)
    into = dx * flats[k, FLAT.NX] + dy * flats[k, FLAT.NY] + dz * flats[k, FLAT.NZ]
    near, _, _, _, _, _ = cell_at(emitters.cells, k, u, v)
    rays = emitters.rays[1 if finely else 0]
    for kind in (STRAIGHT, GLOSS):
        tight = lobes[k, STRAIGHT_TIGHT if kind == STRAIGHT else GLOSS_TIGHT]
        if tight <= 0.0:
            continue
        looks = Looks(rays, emitters.rays[3 if finely else 2 if kind == STRAIGHT else 0], turn)
        ax, ay, az = dx, dy, dz
        if kind == GLOSS:
            ax, ay, az = (
                dx - 2.0 * into * flats[k, FLAT.NX],
                dy - 2.0 * into * flats[k, FLAT.NY],
                dz - 2.0 * into * flats[k, FLAT.NZ],
            )
        lobe = Lobe(k, kind, x, y, z, ax, ay, az, near)
        if tight >= MIRROR_TIGHT:
            _add_mirror_radiance(emitters, lobe, lights, weight, factor, out)
            continue
        among = in_lobe(emitters, k, x, y, z, ax, ay, az, tight)
        if kind == STRAIGHT:
            among &= ~straight_without
        if among == 0 and emitters.light.shape[0] <= MANY_FACES:
            continue
        _add_lights_in_lobe(emitters, lobe, among, looks, weight, factor, out)
        _add_directions_of_lobe(emitters, lobe, among, looks, lights, weight, factor, finely, out)


@inlined
def _add_directions_of_lobe(
    emitters: Emitters, lobe: Lobe, among: int, looks: Looks, lights: int, weight: float, factor: Array, finely: bool,
    out: Array,
) -> None:  # fmt: skip
    """Add what directions drawn from a lobe meet: of lights the part that their samples leave, of cards and sheets all."""
    flats, light, lobes, parts = emitters.flats, emitters.light, emitters.lobes, emitters.parts
    k, kind, x, y, z, ax, ay, az = lobe.k, lobe.kind, lobe.x, lobe.y, lobe.z, lobe.ax, lobe.ay, lobe.az
    rays, turn = looks.rays, looks.turn
    tight = lobes[k, STRAIGHT_TIGHT if kind == STRAIGHT else GLOSS_TIGHT]
    side = ax * flats[k, FLAT.NX] + ay * flats[k, FLAT.NY] + az * flats[k, FLAT.NZ]
    peak = fisher_lobe(tight, 1.0)
    way = emitters.lobe_rows[k, 0 if kind == STRAIGHT else 1]
    row = DIRECTION_SETS if finely else turn % DIRECTION_SETS
    for i in range(rays):
        c = emitters.lobe_directions[way, row, i, 0]
        wx, wy, wz = sideways(ax, ay, az, emitters.lobe_directions[way, row, i, 1], emitters.lobe_directions[way, row, i, 2])
        wx, wy, wz = wx + c * ax, wy + c * ay, wz + c * az
        if (wx * flats[k, FLAT.NX] + wy * flats[k, FLAT.NY] + wz * flats[k, FLAT.NZ]) * side <= 0.0:
            continue
        j, d, a, b = _nearest_face(emitters, k, among, x, y, z, wx, wy, wz)
        if j < 0:
            continue
        facing = wx * flats[j, FLAT.NX] + wy * flats[j, FLAT.NY] + wz * flats[j, FLAT.NZ]
        if light[j] >= 0:
            leaves = 1.0 if flats[j, FLAT.SHAPE] == BALL else -facing
            if leaves <= 0.0:
                continue
            _, _, used = _sample_subset(parts, j, looks.most, turn)
            spread = peak * math.exp(tight * (c - 1.0))
            part = weight * spread / (rays * spread + used * d * d / (leaves * face_area(flats, j, x, y, z)))
            part *= beam_factor(emitters, j, a, b, -wx, -wy, -wz) * face_profile(emitters.shape, j, a, b)
            _add_light(emitters, k, kind, j, part, factor, out)
            continue
        share = weight * (lobes[k, STRAIGHT] if kind == STRAIGHT else lobes[k, GLOSS + 1]) / rays
        add_card_radiance(emitters, j, 0 if facing < 0.0 else 1, a, b, lights, share, factor, out)
        further = Looks(0, looks.most, turn + i)
        _add_lights_through(emitters, FaceRay(j, a, b, wx, wy, wz), further, share, factor, out)


@inlined
def add_sent_radiance(
    emitters: Emitters, k: int, s: int, side: int, way: Direction, lights: int, form: float, factor: Array, out: Array
) -> None:
    """Add what sample s of face k sends back along the unit direction towards it, times factor (3,), to out (lights, 3).

    form: what its luminance is multiplied by; for a light, times what its beam lets out that way. side: of a card or sheet.
    """
    if emitters.light[k] >= 0:
        for c in range(3):
            out[emitters.light[k], c] += form * factor[c] * emitters.gain[k, c]
        return
    u, v = emitters.samples[k, s, SAMPLE.U], emitters.samples[k, s, SAMPLE.V]
    add_card_radiance(emitters, k, side, u, v, lights, form, factor, out)
    if emitters.lobes[k, HAS_LOBE] > 0.0:
        add_lobe_radiance(emitters, FaceRay(k, u, v, way.x, way.y, way.z), lights, form, factor, False, s, out)
