"""What moves about the product as the kernels read it: faces that shine, throw light on, or let it through."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from fotaxis.core.geometry.flat import AREA, BALL, CUT, DISC, hit_flat
from fotaxis.core.kernel import inlined, kernel, leaf
from fotaxis.core.optics.still import Ints
from fotaxis.core.values import Array

BEAM_STEPS = 256
"""A beam is tabulated over sqrt(1 - cos of the angle off its axis), 0..1: fine near the axis."""

STRAIGHT, STRAIGHT_TIGHT, GLOSS, GLOSS_TIGHT, HAS_LOBE = 0, 1, 2, 5, 6
LOBE_COLUMNS = 7
MIRROR_TIGHT = 1e9
"""A lobe tighter than this is a mirror: one direction, exactly."""
MANY = 144
"""Samples of a light looked at where a sheet is seen; from one of a sheet's many samples as many as there are rays."""


class Movables(NamedTuple):
    """Everything that may be moved while the picture is watched: lights, cards, sheets, nets.

    flats (k + still, 24)      see geometry.flat; the movable things first, then the still flats, which only shade
    light (k,) int64           the light it is the face of, -1 for a thing that only throws light on
    gain (k, 3)                luminance at the middle of the face, linear Rec. 709, cd s/m2 (flash) or cd/m2
    shape (k, 7)               profile kind 0 even, 1 core, 2 ramp; stops lost at the edge; 1 when it has a beam; depth of
                               wrinkles; half width and height that they count from; 1 + the row of its gate, 0 for none
    beams (k, 257)             luminance off the axis relative to that on it, see beam
    gates (g, 97, 97), gate_of (g, 2)   what projecting heads let through over the tangents of the direction off the axis, see
                               gated; tangent at the table's rim, distance at which its image is sharp
    albedo (k, 3)              diffuse reflectance of a card or sheet, both sides; 0 for lights
    through (k, 3)             diffuse transmittance of a sheet
    lobes (k, 7)               share let straight through but spread, its tightness; share mirrored but spread R, G, B, its
                               tightness; 1 when there is either. Tightness: kappa of the lobe, see lobe
    veil (k, 3)                share let through unspread at normal incidence (nets, gels), 0 for what is no veil
    parts (k,) int64           samples of the face
    cells (k, 2) int64         columns and rows of the lattice on which a thing's luminance is kept
    samples (k, most, 3)       places of equal share, u and v -1..1, and the luminance there relative to the face's middle
    shown (k, 2, lights, cells, 3)   luminance by diffuse reflection and transmission, front and back, filled by light_faces
    sampled (k, 2, most, lights, 3)  the same at its samples, for what it lights, filled likewise (see sample_shown)
    rays (2,) int64            directions of a lobe, from a sample of a sheet and where it is seen
    open (k, k, cells)         share of face j's light that reaches a cell of face k, for faces with a lobe, filled likewise
    """

    flats: Array
    light: Ints
    gain: Array
    shape: Array
    beams: Array
    gates: Array
    gate_of: Array
    albedo: Array
    through: Array
    lobes: Array
    veil: Array
    parts: Ints
    cells: Ints
    samples: Array
    shown: Array
    sampled: Array
    open: Array
    rays: Ints


@leaf
def face_profile(shape: Array, k: int, u: float, v: float) -> float:
    """Luminance at a place on face k relative to its middle; u, v -1..1."""
    kind = shape[k, 0]
    level = 1.0
    if kind == 1.0:
        level = 2.0 ** (-shape[k, 1] * min(1.0, 0.5 * (u * u + v * v)))
    elif kind == 2.0:
        level = 2.0 ** (-shape[k, 1] * 0.5 * (1.0 + u))
    if shape[k, 3] > 0.0:
        level *= 1.0 + shape[k, 3] * _wrinkle(u * shape[k, 4], v * shape[k, 5])
    return level


@leaf
def _wrinkle(x: float, y: float) -> float:
    """Folds of a cloth at a place in metres, about -0.35..0.35, 0 on average."""
    turn = 2.0 * math.pi
    a = math.sin(turn * (5.0 * x + 0.35 * math.sin(turn * 2.1 * y + 0.4)))
    b = math.sin(turn * (3.3 * y + 0.45 * math.sin(turn * 1.7 * x)) + 1.2)
    c = math.sin(turn * (8.1 * x + 6.3 * y + 0.2 * math.sin(turn * 4.0 * y)))
    return 0.16 * a * abs(a) + 0.12 * b * abs(b) + 0.06 * c


@leaf
def _gated(
    flats: Array, gates: Array, gate_of: Array, g: int, k: int, u: float, v: float, c: float, dx: float, dy: float, dz: float
) -> float:
    """What the gate of a projecting head lets through: where its image lies that a ray from a place on its lens adds to.

        q = tangent of the direction + place on the lens / distance of the sharp image

    The image is reversed: what is left in the gate is right in the image.
    """
    rim, sharp = gate_of[g, 0], gate_of[g, 1]
    a = (dx * flats[k, 3] + dy * flats[k, 4] + dz * flats[k, 5]) / c + u * flats[k, 12] / sharp
    b = (dx * flats[k, 6] + dy * flats[k, 7] + dz * flats[k, 8]) / c + v * flats[k, 13] / sharp
    steps = gates.shape[1] - 1
    # Seen from behind the head, `across` counts to the left: the image's right comes from the gate's left.
    x, y = (1.0 + a / rim) * 0.5 * steps, (1.0 - b / rim) * 0.5 * steps
    if x < 0.0 or y < 0.0 or x >= steps or y >= steps:
        return 0.0
    i, j = int(x), int(y)
    x -= i
    y -= j
    low = gates[g, j, i] * (1.0 - x) + gates[g, j, i + 1] * x
    high = gates[g, j + 1, i] * (1.0 - x) + gates[g, j + 1, i + 1] * x
    return low * (1.0 - y) + high * y


@inlined
def beam(things: Movables, k: int, u: float, v: float, dx: float, dy: float, dz: float) -> float:
    """What face k lets out at a place on it along a unit direction away from it; 0 behind a flat face, 1 all round a ball."""
    flats, shape, beams = things.flats, things.shape, things.beams
    if flats[k, 14] == BALL:
        return 1.0
    c = dx * flats[k, 9] + dy * flats[k, 10] + dz * flats[k, 11]
    if c <= 0.0:
        return 0.0
    if shape[k, 2] <= 0.0:
        return 1.0
    at = math.sqrt(max(0.0, 1.0 - c)) * BEAM_STEPS
    i = min(int(at), BEAM_STEPS - 1)
    part = at - i
    level = beams[k, i] * (1.0 - part) + beams[k, i + 1] * part
    return (
        level
        if shape[k, 6] <= 0.0
        else level * _gated(flats, things.gates, things.gate_of, int(shape[k, 6]) - 1, k, u, v, c, dx, dy, dz)
    )


@leaf
def veil_share(flats: Array, veil: Array, k: int, c: int, dx: float, dy: float, dz: float) -> float:
    """What veil k lets through of channel c along a unit direction: its share to the power 1 / cosine."""
    return veil[k, c] ** (1.0 / max(abs(dx * flats[k, 9] + dy * flats[k, 10] + dz * flats[k, 11]), 1e-3))


@leaf
def place_on(flats: Array, k: int, u: float, v: float) -> tuple[float, float, float]:
    """A place on flat face k in the world, u and v -1..1."""
    u *= flats[k, 12]
    v *= flats[k, 13]
    return (
        flats[k, 0] + u * flats[k, 3] + v * flats[k, 6], flats[k, 1] + u * flats[k, 4] + v * flats[k, 7],
        flats[k, 2] + u * flats[k, 5] + v * flats[k, 8],
    )  # fmt: skip


@leaf
def _aside(x: float, y: float, z: float, u: float, v: float) -> tuple[float, float, float]:
    """A way of u and v along two axes square to a unit direction and to each other.   Source: Duff et al. 2017."""
    sign = 1.0 if z >= 0.0 else -1.0
    a = -1.0 / (sign + z)
    b = x * y * a
    return u * (1.0 + sign * x * x * a) + v * b, u * sign * b + v * (sign + y * y * a), -u * sign * x - v * y


@leaf
def way_to_sample(
    flats: Array, samples: Array, k: int, cell: int, px: float, py: float, pz: float
) -> tuple[float, float, float, float, float]:
    """Unit direction and distance from a place to a sample of face k, and the cosine there, below 0 seen from behind.

    Of a ball the samples lie on the disc that covers it as seen from the place.
    """
    cx, cy, cz = flats[k, 0] - px, flats[k, 1] - py, flats[k, 2] - pz
    if flats[k, 14] == BALL:
        far2 = cx * cx + cy * cy + cz * cz
        radius = flats[k, 12]
        far = math.sqrt(far2)
        wx, wy, wz = cx / far, cy / far, cz / far
        radius *= far / math.sqrt(max(far2 - radius * radius, 1e-12))
        dx, dy, dz = _aside(wx, wy, wz, samples[k, cell, 0] * radius, samples[k, cell, 1] * radius)
        dx, dy, dz = cx + dx, cy + dy, cz + dz
        d = math.sqrt(dx * dx + dy * dy + dz * dz)
        return dx / d, dy / d, dz / d, d, far / d
    x, y, z = place_on(flats, k, samples[k, cell, 0], samples[k, cell, 1])
    dx, dy, dz = x - px, y - py, z - pz
    d = math.sqrt(dx * dx + dy * dy + dz * dz)
    return dx / d, dy / d, dz / d, d, -(flats[k, 9] * dx + flats[k, 10] * dy + flats[k, 11] * dz) / d


@leaf
def face_area(flats: Array, k: int, px: float, py: float, pz: float) -> float:
    """Area that a face's samples stand for, seen from a place, square metres."""
    area = 4.0 * flats[k, 12] * flats[k, 13]
    if flats[k, 14] == DISC:
        return area * 0.25 * math.pi
    if flats[k, 14] == CUT:
        return area * flats[k, AREA]
    if flats[k, 14] == BALL:
        cx, cy, cz = flats[k, 0] - px, flats[k, 1] - py, flats[k, 2] - pz
        far2 = cx * cx + cy * cy + cz * cz
        return area * 0.25 * math.pi * far2 / max(far2 - flats[k, 12] * flats[k, 12], 1e-12)
    return area


@leaf
def face_density(flats: Array, count: Ints, k: int, distance: float, leaves: float) -> float:
    """Directions per steradian to the samples of face k, seen from a distance; leaves: cosine at the face."""
    area = 4.0 * flats[k, 12] * flats[k, 13]
    if flats[k, 14] == CUT:
        area *= flats[k, AREA]
    elif flats[k, 14] != 0.0:
        area *= 0.25 * math.pi
    return count[k] * distance * distance / (max(leaves, 1e-9) * area)


@leaf
def lobe(tight: float, cosine: float) -> float:
    """Share per steradian of light spread around a direction, at an angle off it.

        kappa / (2 pi (1 - exp(-2 kappa))) exp(kappa (cos - 1)),  kappa = 1 / spread^2

    Adds up to 1 over the sphere.   Source: von Mises-Fisher distribution, Fisher 1953.
    """
    return tight / (2.0 * math.pi * (1.0 - math.exp(-2.0 * tight))) * math.exp(tight * (cosine - 1.0))


@leaf
def cell_at(cells: Ints, k: int, u: float, v: float) -> tuple[int, int, int, int, float, float]:
    """The four cells of face k around a place, and how far the place is towards the second and the third; held at the rim."""
    columns = cells[k, 0]
    rows = cells[k, 1]
    x = min(max((u + 1.0) * 0.5 * columns - 0.5, 0.0), columns - 1.0)
    y = min(max((v + 1.0) * 0.5 * rows - 0.5, 0.0), rows - 1.0)
    i = min(int(x), max(columns - 2, 0))
    j = min(int(y), max(rows - 2, 0))
    low = j * columns + i
    high = min(j + 1, rows - 1) * columns + i
    right = min(i + 1, columns - 1) - i
    return low, low + right, high, high + right, x - i, y - j


@leaf
def add_shown(
    things: Movables, k: int, side: int, u: float, v: float, lights: int, weight: float, factor: Array, out: Array
) -> None:
    """Add what face k shows by diffuse light at a place, times weight and factor (3,), to out (lights, 3)."""
    shown = things.shown
    a, b, c_, d, x, y = cell_at(things.cells, k, u, v)
    wa, wb, wc, wd = (1.0 - x) * (1.0 - y), x * (1.0 - y), (1.0 - x) * y, x * y
    for i in range(lights):
        for c in range(3):
            value = wa * shown[k, side, i, a, c] + wb * shown[k, side, i, b, c]
            value += wc * shown[k, side, i, c_, c] + wd * shown[k, side, i, d, c]
            out[i, c] += weight * factor[c] * value


@kernel
def sample_shown(things: Movables, lights: int) -> None:
    """Fill Movables.sampled from Movables.shown."""
    one = np.ones(3)
    for k in range(things.light.shape[0]):
        if things.light[k] >= 0:
            continue
        for side in range(2):
            for s in range(things.parts[k]):
                things.sampled[k, side, s] = 0.0
                u, v = things.samples[k, s, 0], things.samples[k, s, 1]
                add_shown(things, k, side, u, v, lights, 1.0, one, things.sampled[k, side, s])


@inlined
def add_sampled(sampled: Array, k: int, side: int, sample: int, weight: float, factor: Array, out: Array) -> None:
    """Add what face k shows by diffuse light at one of its samples, times weight and factor (3,), to out (lights, 3)."""
    for i in range(out.shape[0]):
        for c in range(3):
            out[i, c] += weight * factor[c] * sampled[k, side, sample, i, c]


@leaf
def _around(x: float, y: float, z: float, tight: float, part: float, turn: float) -> tuple[float, float, float]:
    """A unit direction of a lobe around a unit direction: `part` 0..1 of the lobe lies nearer to it, `turn` radians about it."""
    c = 1.0 + math.log(part + (1.0 - part) * math.exp(-2.0 * tight)) / tight
    s = math.sqrt(max(0.0, 1.0 - c * c))
    ax, ay, az = _aside(x, y, z, s * math.cos(turn), s * math.sin(turn))
    return c * x + ax, c * y + ay, c * z + az


@leaf
def _nearest_face(
    things: Movables, k: int, x: float, y: float, z: float, dx: float, dy: float, dz: float
) -> tuple[int, float, float, float]:
    """The face that a ray from face k meets first, nets aside, how far away, and where on it; -1 for none."""
    best, found, u, v = math.inf, -1, 0.0, 0.0
    for j in range(things.light.shape[0]):
        if j == k or things.veil[j, 1] > 0.0:
            continue
        t, a, b = hit_flat(things.flats, j, x, y, z, dx, dy, dz, 1e-5, best)
        if t < best:
            best, found, u, v = t, j, a, b
    return found, best, u, v


@leaf
def _looked_at(parts: Ints, j: int, most: int, turn: int) -> tuple[int, int, int]:
    """The first of face j's samples that is looked at, the step to the next, and how many there are, about `most`."""
    step = max(1, parts[j] // most)
    begin = turn % step
    return begin, step, (parts[j] - begin + step - 1) // step


@leaf
def _add_light(things: Movables, k: int, kind: int, j: int, part: float, factor: Array, out: Array) -> None:
    """Add a part of light j's luminance by way of face k's lobe."""
    for c in range(3):
        share = things.lobes[k, STRAIGHT] if kind == STRAIGHT else things.lobes[k, GLOSS + c]
        out[things.light[j], c] += part * share * factor[c] * things.gain[j, c]


@leaf
def _lobe_of_lights(
    things: Movables, k: int, kind: int, x: float, y: float, z: float, ax: float, ay: float, az: float, near: int,
    rays: int, most: int, turn: int, weight: float, factor: Array, out: Array,
) -> None:  # fmt: skip
    """Add what the samples of all lights give to a lobe of face k around a direction; kind STRAIGHT or GLOSS.

    The lobe's own directions find the rest (add_lobes): together by the balance heuristic, Veach & Guibas 1995.
    """
    flats, light, lobes, parts = things.flats, things.light, things.lobes, things.parts
    tight = lobes[k, STRAIGHT_TIGHT if kind == STRAIGHT else GLOSS_TIGHT]
    n0, n1, n2 = flats[k, 9], flats[k, 10], flats[k, 11]
    side = ax * n0 + ay * n1 + az * n2
    for j in range(light.shape[0]):
        if light[j] < 0 or j == k:
            continue
        clear = things.open[k, j, near]
        if clear <= 0.0:
            continue
        begin, step, used = _looked_at(parts, j, most, turn)
        area = face_area(flats, j, x, y, z)
        for s in range(begin, parts[j], step):
            wx, wy, wz, d, leaves = way_to_sample(flats, things.samples, j, s, x, y, z)
            if leaves <= 0.0 or (wx * n0 + wy * n1 + wz * n2) * side <= 0.0:
                continue
            spread = lobe(tight, wx * ax + wy * ay + wz * az)
            part = weight * clear * spread / (rays * spread + used * d * d / (leaves * area))
            part *= (
                beam(things, j, things.samples[j, s, 0], things.samples[j, s, 1], -wx, -wy, -wz) * things.samples[j, s, 2]
            )
            _add_light(things, k, kind, j, part, factor, out)


@leaf
def _add_mirrored(
    things: Movables, k: int, x: float, y: float, z: float, ax: float, ay: float, az: float, near: int, lights: int,
    weight: float, factor: Array, out: Array,
) -> None:  # fmt: skip
    """Add what mirror card k shows of the thing that lies along one direction, as add_shown does."""
    flats = things.flats
    j, _, u, v = _nearest_face(things, k, x, y, z, ax, ay, az)
    if j < 0:
        return
    clear = things.open[k, j, near]
    facing = ax * flats[j, 9] + ay * flats[j, 10] + az * flats[j, 11]
    if things.light[j] >= 0:
        if facing < 0.0 or flats[j, 14] == BALL:
            part = weight * clear * beam(things, j, u, v, -ax, -ay, -az) * face_profile(things.shape, j, u, v)
            _add_light(things, k, GLOSS, j, part, factor, out)
        return
    share = weight * clear * things.lobes[k, GLOSS + 1]
    add_shown(things, j, 0 if facing < 0.0 else 1, u, v, lights, share, factor, out)
    if things.lobes[j, STRAIGHT] > 0.0:
        px, py, pz = place_on(flats, j, u, v)
        behind, _, _, _, _, _ = cell_at(things.cells, j, u, v)
        _lobe_of_lights(things, j, STRAIGHT, px, py, pz, ax, ay, az, behind, 0, MANY, 0, share, factor, out)


@leaf
def add_lobes(
    things: Movables, k: int, u: float, v: float, dx: float, dy: float, dz: float, lights: int,
    weight: float, factor: Array, finely: bool, turn: int, out: Array,
) -> None:  # fmt: skip
    """Add what face k lets straight through and mirrors, spread, along a ray that meets it at u, v, as add_shown does.

        L = share * integral of L_in lobe(angle to the ray going on, or mirrored) over the directions light comes from

    finely: with all samples, for what is seen; else with a few, and `turn` says which, for sums over many rays.
    What is met through another sheet's lobe is counted once more, by the lights' samples alone.
    """
    flats, light, lobes, parts = things.flats, things.light, things.lobes, things.parts
    x, y, z = place_on(flats, k, u, v)
    into = dx * flats[k, 9] + dy * flats[k, 10] + dz * flats[k, 11]
    near, _, _, _, _, _ = cell_at(things.cells, k, u, v)
    rays = things.rays[1 if finely else 0]
    most = MANY if finely else rays
    for kind in (STRAIGHT, GLOSS):
        tight = lobes[k, STRAIGHT_TIGHT if kind == STRAIGHT else GLOSS_TIGHT]
        if tight <= 0.0:
            continue
        ax, ay, az = dx, dy, dz
        if kind == GLOSS:
            ax, ay, az = dx - 2.0 * into * flats[k, 9], dy - 2.0 * into * flats[k, 10], dz - 2.0 * into * flats[k, 11]
        if tight >= MIRROR_TIGHT:
            _add_mirrored(things, k, x, y, z, ax, ay, az, near, lights, weight, factor, out)
            continue
        _lobe_of_lights(things, k, kind, x, y, z, ax, ay, az, near, rays, most, turn, weight, factor, out)
        side = ax * flats[k, 9] + ay * flats[k, 10] + az * flats[k, 11]
        for i in range(rays):
            wx, wy, wz = _around(ax, ay, az, tight, (i + 0.5) / rays, 2.399963 * i + 1.618034 * turn)
            if (wx * flats[k, 9] + wy * flats[k, 10] + wz * flats[k, 11]) * side <= 0.0:
                continue
            j, d, a, b = _nearest_face(things, k, x, y, z, wx, wy, wz)
            if j < 0:
                continue
            if light[j] >= 0:
                leaves = 1.0
                if flats[j, 14] != BALL:
                    leaves = -(wx * flats[j, 9] + wy * flats[j, 10] + wz * flats[j, 11])
                if leaves <= 0.0:
                    continue
                _, _, used = _looked_at(parts, j, most, turn)
                spread = lobe(tight, wx * ax + wy * ay + wz * az)
                part = weight * spread / (rays * spread + used * d * d / (leaves * face_area(flats, j, x, y, z)))
                part *= beam(things, j, a, b, -wx, -wy, -wz) * face_profile(things.shape, j, a, b)
                _add_light(things, k, kind, j, part, factor, out)
                continue
            other = 0 if wx * flats[j, 9] + wy * flats[j, 10] + wz * flats[j, 11] < 0.0 else 1
            share = lobes[k, STRAIGHT] if kind == STRAIGHT else lobes[k, GLOSS + 1]
            add_shown(things, j, other, a, b, lights, weight * share / rays, factor, out)
            if lobes[j, STRAIGHT] > 0.0:
                px, py, pz = place_on(flats, j, a, b)
                behind, _, _, _, _, _ = cell_at(things.cells, j, a, b)
                _lobe_of_lights(
                    things, j, STRAIGHT, px, py, pz, wx, wy, wz, behind, 0, most, turn + i, weight * share / rays, factor, out,
                )  # fmt: skip


def as_one_light(movables: Movables, gains: Array) -> Movables:
    """The same things with all lights, each times its gain, seen as light 0; `shown` must be filled.

    gains (lights,) float64.
    """
    shines = movables.light >= 0
    gain = movables.gain.copy()
    gain[shines] *= gains[movables.light[shines], None]
    shown = np.einsum("kslcx,l->kscx", movables.shown, gains)[:, :, None]
    sampled = np.einsum("ksmlx,l->ksmx", movables.sampled, gains)[:, :, :, None]
    return movables._replace(light=np.where(shines, 0, -1), gain=gain, shown=shown, sampled=sampled)
