"""What moves about the product as the kernels read it: faces that shine, throw light on, or let it through."""

from __future__ import annotations

import math
from typing import NamedTuple

from fotaxis.core.columns import FLAT, PROFILE, SAMPLE
from fotaxis.core.geometry.planar import BALL, CUT, DISC
from fotaxis.core.geometry.rays import Direction
from fotaxis.core.kernel import inlined, leaf
from fotaxis.core.lights.gradients import face_gradient
from fotaxis.core.render.arrays.static_scene import Ints
from fotaxis.core.values import Array

DIRECTION_SETS = 144
"""So many sets of directions of a lobe, one for each sample of a face."""

BEAM_STEPS = 256
"""A beam is tabulated over sqrt(1 - cos of the angle off its axis), 0..1: fine near the axis."""

STRAIGHT, STRAIGHT_TIGHT, GLOSS, GLOSS_TIGHT, HAS_LOBE = 0, 1, 2, 5, 6
LOBE_COLUMNS = 7
LEAST_BOUNCE = 0.05
"""A card that reflects less than this throws no light on other things; it still shades them and is seen as it is."""

MANY_SAMPLES = 144
"""Samples of a light looked at where a sheet is seen; from one of a sheet's many samples as many as there are rays."""

MIRROR_TIGHT = 1e9
"""A lobe tighter than this is a mirror: one direction, exactly."""


class Emitters(NamedTuple):
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
    veil (k, 3)                share let through unspread at normal incidence (nets, gels), 0 for what is no veil; of a lamp that
                               is moved: the share of the exposure that it is not there
    sweep (k, 3)               how far a moved lamp is carried while its face stands for it, metres, half before and half after
    parts (k,) int64           samples of the face
    cells (k, 2) int64         columns and rows of the lattice on which a thing's luminance is kept
    samples (k, most, 3)       places of equal share, u and v -1..1, and the luminance there relative to the face's middle
    shown (k, 2, lights, cells, 3)   luminance by diffuse reflection and transmission, front and back, filled by light_faces
    sampled (k, 2, most, lights, 3)  the same at its samples, for what it lights, filled likewise (see
    card_radiance.sample_card_radiance)
    rays (4,) int64            directions of a lobe, from a sample of a sheet and where it is seen; about how many samples of a light
                               are looked at, likewise (through a sheet; in a shiny card as many as directions)
    lobe_directions (w, 145, most, 3), lobe_rows (k, 2) int64
                               those directions as cosine to the lobe's middle and the part of the sine along two axes
                               square to it: 144 sets for samples, the last where it is seen; row of the straight and the
                               mirrored lobe of a face
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
    sweep: Array
    parts: Ints
    cells: Ints
    samples: Array
    shown: Array
    sampled: Array
    open: Array
    rays: Ints
    lobe_directions: Array
    lobe_rows: Ints


@leaf
def face_profile(shape: Array, k: int, u: float, v: float) -> float:
    """Luminance at a place on face k relative to its middle; u, v -1..1."""
    level = face_gradient(shape[k, PROFILE.KIND], shape[k, PROFILE.STOPS], u, v)
    if shape[k, PROFILE.WRINKLES] > 0.0:
        level *= 1.0 + shape[k, PROFILE.WRINKLES] * _wrinkle(
            u * shape[k, PROFILE.HALF_WIDTH], v * shape[k, PROFILE.HALF_HEIGHT]
        )
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
    flats: Array, gates: Array, gate_of: Array, g: int, k: int, place: tuple[float, float], c: float, along: Direction
) -> float:
    """What the gate of a projecting head lets through: where its image lies that a ray from a place on its lens adds to.

        q = tangent of the direction + place on the lens / distance of the sharp image

    The image is reversed: what is left in the gate is right in the image.
    """
    u, v = place
    dx, dy, dz = along
    rim, sharp = gate_of[g, 0], gate_of[g, 1]
    a = (dx * flats[k, FLAT.AX] + dy * flats[k, FLAT.AY] + dz * flats[k, FLAT.AZ]) / c + u * flats[
        k, FLAT.HALF_WIDTH
    ] / sharp
    b = (dx * flats[k, FLAT.UX] + dy * flats[k, FLAT.UY] + dz * flats[k, FLAT.UZ]) / c + v * flats[
        k, FLAT.HALF_HEIGHT
    ] / sharp
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
def beam_factor(emitters: Emitters, k: int, u: float, v: float, dx: float, dy: float, dz: float) -> float:
    """What face k lets out at a place on it along a unit direction away from it; 0 behind a flat face, 1 all round a ball."""
    flats, shape, beams = emitters.flats, emitters.shape, emitters.beams
    if flats[k, FLAT.SHAPE] == BALL:
        return 1.0
    c = dx * flats[k, FLAT.NX] + dy * flats[k, FLAT.NY] + dz * flats[k, FLAT.NZ]
    if c <= 0.0:
        return 0.0
    if shape[k, PROFILE.BEAM] <= 0.0:
        return 1.0
    at = math.sqrt(max(0.0, 1.0 - c)) * BEAM_STEPS
    i = min(int(at), BEAM_STEPS - 1)
    part = at - i
    level = beams[k, i] * (1.0 - part) + beams[k, i + 1] * part
    if shape[k, PROFILE.GATE] <= 0.0:
        return level
    gate = int(shape[k, PROFILE.GATE]) - 1
    return level * _gated(flats, emitters.gates, emitters.gate_of, gate, k, (u, v), c, Direction(dx, dy, dz))


@inlined
def sample_luminance(emitters: Emitters, k: int, s: int, dx: float, dy: float, dz: float) -> float:
    """What sample s of light k sends back along the unit direction towards it, relative to the middle of its face."""
    samples = emitters.samples
    let_out = beam_factor(emitters, k, samples[k, s, SAMPLE.U], samples[k, s, SAMPLE.V], -dx, -dy, -dz)
    return let_out * samples[k, s, SAMPLE.LUMINANCE]


@leaf
def transmittance(flats: Array, veil: Array, k: int, c: int, dx: float, dy: float, dz: float) -> float:
    """What veil k lets through of channel c along a unit direction: its share to the power 1 / cosine."""
    return veil[k, c] ** (1.0 / max(abs(dx * flats[k, FLAT.NX] + dy * flats[k, FLAT.NY] + dz * flats[k, FLAT.NZ]), 1e-3))


@leaf
def place_on(flats: Array, k: int, u: float, v: float) -> tuple[float, float, float]:
    """A place on flat face k in the world, u and v -1..1."""
    u *= flats[k, FLAT.HALF_WIDTH]
    v *= flats[k, FLAT.HALF_HEIGHT]
    return (
        flats[k, FLAT.X] + u * flats[k, FLAT.AX] + v * flats[k, FLAT.UX], flats[k, FLAT.Y] + u * flats[k,
        FLAT.AY] + v * flats[k, FLAT.UY],
        flats[k, FLAT.Z] + u * flats[k, FLAT.AZ] + v * flats[k, FLAT.UZ],
    )  # fmt: skip


@leaf
def sideways(x: float, y: float, z: float, u: float, v: float) -> tuple[float, float, float]:
    """A way of u and v along two axes square to a unit direction and to each other.   Source: Duff et al. 2017."""
    sign = 1.0 if z >= 0.0 else -1.0
    a = -1.0 / (sign + z)
    b = x * y * a
    return u * (1.0 + sign * x * x * a) + v * b, u * sign * b + v * (sign + y * y * a), -u * sign * x - v * y


@leaf
def direction_to_sample(
    flats: Array, samples: Array, k: int, cell: int, px: float, py: float, pz: float
) -> tuple[float, float, float, float, float]:
    """Unit direction and distance from a place to a sample of face k, and the cosine there, below 0 seen from behind.

    Of a ball the samples lie on the disc that covers it as seen from the place.
    """
    cx, cy, cz = flats[k, FLAT.X] - px, flats[k, FLAT.Y] - py, flats[k, FLAT.Z] - pz
    if flats[k, FLAT.SHAPE] == BALL:
        far2 = cx * cx + cy * cy + cz * cz
        radius = flats[k, FLAT.HALF_WIDTH]
        far = math.sqrt(far2)
        wx, wy, wz = cx / far, cy / far, cz / far
        radius *= far / math.sqrt(max(far2 - radius * radius, 1e-12))
        dx, dy, dz = sideways(wx, wy, wz, samples[k, cell, SAMPLE.U] * radius, samples[k, cell, SAMPLE.V] * radius)
        dx, dy, dz = cx + dx, cy + dy, cz + dz
        d = math.sqrt(dx * dx + dy * dy + dz * dz)
        return dx / d, dy / d, dz / d, d, far / d
    x, y, z = place_on(flats, k, samples[k, cell, SAMPLE.U], samples[k, cell, SAMPLE.V])
    dx, dy, dz = x - px, y - py, z - pz
    d = math.sqrt(dx * dx + dy * dy + dz * dz)
    return dx / d, dy / d, dz / d, d, -(flats[k, FLAT.NX] * dx + flats[k, FLAT.NY] * dy + flats[k, FLAT.NZ] * dz) / d


@leaf
def below_horizon(flats: Array, k: int, px: float, py: float, pz: float, nx: float, ny: float, nz: float) -> bool:
    """Does all of face k lie behind the plane of a place with this normal? Never says yes wrongly."""
    cx, cy, cz = flats[k, FLAT.X] - px, flats[k, FLAT.Y] - py, flats[k, FLAT.Z] - pz
    along = cx * nx + cy * ny + cz * nz
    if along >= 0.0:
        return False
    w, h = flats[k, FLAT.HALF_WIDTH], flats[k, FLAT.HALF_HEIGHT]
    if flats[k, FLAT.SHAPE] == BALL:
        # The disc that covers it, see way_to_sample, is at most so much wider from twice its radius on.
        return cx * cx + cy * cy + cz * cz > 4.0 * w * w and along + 1.16 * w <= 0.0
    across = abs(flats[k, FLAT.AX] * nx + flats[k, FLAT.AY] * ny + flats[k, FLAT.AZ] * nz)
    up = abs(flats[k, FLAT.UX] * nx + flats[k, FLAT.UY] * ny + flats[k, FLAT.UZ] * nz)
    return along + w * across + h * up <= 0.0


@leaf
def face_area(flats: Array, k: int, px: float, py: float, pz: float) -> float:
    """Area that a face's samples stand for, seen from a place, square metres."""
    area = 4.0 * flats[k, FLAT.HALF_WIDTH] * flats[k, FLAT.HALF_HEIGHT]
    if flats[k, FLAT.SHAPE] == DISC:
        return area * 0.25 * math.pi
    if flats[k, FLAT.SHAPE] == CUT:
        return area * flats[k, FLAT.AREA]
    if flats[k, FLAT.SHAPE] == BALL:
        cx, cy, cz = flats[k, FLAT.X] - px, flats[k, FLAT.Y] - py, flats[k, FLAT.Z] - pz
        far2 = cx * cx + cy * cy + cz * cz
        return area * 0.25 * math.pi * far2 / max(far2 - flats[k, FLAT.HALF_WIDTH] * flats[k, FLAT.HALF_WIDTH], 1e-12)
    return area


@leaf
def face_density(flats: Array, count: Ints, k: int, distance: float, leaves: float) -> float:
    """Directions per steradian to the samples of face k, seen from a distance; leaves: cosine at the face."""
    area = 4.0 * flats[k, FLAT.HALF_WIDTH] * flats[k, FLAT.HALF_HEIGHT]
    if flats[k, FLAT.SHAPE] == CUT:
        area *= flats[k, FLAT.AREA]
    elif flats[k, FLAT.SHAPE] != 0.0:
        area *= 0.25 * math.pi
    return count[k] * distance * distance / (max(leaves, 1e-9) * area)
