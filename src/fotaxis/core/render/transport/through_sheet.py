"""Lamps that show through a sheet: their light on a place where few of the sheet's own samples would see them.

A sheet is looked at in so many places; where what it lets straight through is spread so little that a lamp shows in fewer than a few
of them, each would throw a disc of its own. There the places on the sheet are found from the lamp: about the straight way to each of
its samples, as far off it as the spread takes them.
"""

from __future__ import annotations

import math

from fotaxis.core.columns import FLAT, SAMPLE
from fotaxis.core.geometry.planar import BALL, hit_flat
from fotaxis.core.geometry.rays import Ray
from fotaxis.core.kernel import leaf
from fotaxis.core.materials.bsdf import coat_entry
from fotaxis.core.render.arrays.emitters import (
    STRAIGHT,
    STRAIGHT_TIGHT,
    Emitters,
    beam_factor,
    direction_to_sample,
    face_area,
    sideways,
)
from fotaxis.core.render.arrays.receiver import Occluders, Receiver
from fotaxis.core.render.arrays.static_scene import StaticScene
from fotaxis.core.render.transport.card_radiance import cell_at
from fotaxis.core.render.transport.lobe_radiance import MANY_FACES
from fotaxis.core.render.transport.occlusion import OFFSET, transmits
from fotaxis.core.values import GOLDEN_ANGLE, Array

AT_REST_RAYS = 8
"""Directions of a lobe from a sheet's samples in a picture at rest; a drag has fewer, and keeps to the sheet's samples."""

LEAST_TIGHT = 8.0
"""Lobes wider than this (20 degrees) are no small angles any more."""

FEW = 12.0
"""A lamp that shows in fewer of a sheet's samples than this throws discs."""


@leaf
def lights_shown(emitters: Emitters, k: int, at: Receiver) -> int:
    """The lights that are to be looked for through sheet k from a place, bit j for face j; 0 where its own samples do, and while
    something is dragged.

    The spread s takes a way through the sheet, d from the place and D from the lamp, so far off the straight one: s / (1 / d + 1 / D).
    """
    tight = emitters.lobes[k, STRAIGHT_TIGHT]
    if emitters.lobes[k, STRAIGHT] <= 0.0 or tight < LEAST_TIGHT or emitters.rays[0] < AT_REST_RAYS:
        return 0
    flats = emitters.flats
    nx, ny, nz = flats[k, FLAT.NX], flats[k, FLAT.NY], flats[k, FLAT.NZ]
    own = (at.x - flats[k, FLAT.X]) * nx + (at.y - flats[k, FLAT.Y]) * ny + (at.z - flats[k, FLAT.Z]) * nz
    area = 4.0 * flats[k, FLAT.HALF_WIDTH] * flats[k, FLAT.HALF_HEIGHT] / emitters.parts[k]
    found = 0
    for j in range(min(emitters.light.shape[0], MANY_FACES)):
        if emitters.light[j] < 0 or j == k:
            continue
        other = (flats[j, FLAT.X] - flats[k, FLAT.X]) * nx + (flats[j, FLAT.Y] - flats[k, FLAT.Y]) * ny
        other += (flats[j, FLAT.Z] - flats[k, FLAT.Z]) * nz
        if own * other >= 0.0:
            continue
        dx, dy, dz = flats[j, FLAT.X] - at.x, flats[j, FLAT.Y] - at.y, flats[j, FLAT.Z] - at.z
        whole = math.sqrt(dx * dx + dy * dy + dz * dz)
        part = own / (own - other)
        # How wide the lamp and its spread lie on the sheet, seen from the place.
        wide = whole * part * (1.0 - part) / math.sqrt(tight) + part * flats[j, FLAT.HALF_WIDTH]
        if math.pi * wide * wide < FEW * area:
            found |= 1 << j
    return found


@leaf
def add_light_through(
    scene: StaticScene, emitters: Emitters, k: int, j: int, at: Receiver, among: Occluders, passed: Array, out: Array
) -> None:
    """Add what light j gives a place straight through sheet k, spread, to out (lights, 3).

    Every sample of the light takes a way of its own through the sheet, drawn from the lobe (Box and Muller): so each stands for the
    same share of the light, as it would without the sheet, times the share let through. What lies off the sheet is lost.
    Holds for:  a spread of small angles.
    """
    flats, samples, count = emitters.flats, emitters.samples, emitters.parts[j]
    nx, ny, nz = flats[k, FLAT.NX], flats[k, FLAT.NY], flats[k, FLAT.NZ]
    own = (at.x - flats[k, FLAT.X]) * nx + (at.y - flats[k, FLAT.Y]) * ny + (at.z - flats[k, FLAT.Z]) * nz
    spread = 1.0 / math.sqrt(emitters.lobes[k, STRAIGHT_TIGHT])
    area = face_area(flats, j, at.x, at.y, at.z) / count
    for s in range(count):
        dx, dy, dz, whole, leaves = direction_to_sample(flats, samples, j, s, at.x, at.y, at.z)
        into = dx * nx + dy * ny + dz * nz
        if leaves <= 0.0 or into * own >= 0.0:
            continue
        first = -own / into
        if first <= OFFSET or first >= whole - OFFSET:
            continue
        off = spread * first * (whole - first) / whole * math.sqrt(-2.0 * math.log(1.0 - (s + 0.5) / count))
        ox, oy, oz = sideways(dx, dy, dz, off * math.cos(GOLDEN_ANGLE * s), off * math.sin(GOLDEN_ANGLE * s))
        back = (ox * nx + oy * ny + oz * nz) / into
        x, y, z = first * dx + ox - back * dx, first * dy + oy - back * dy, first * dz + oz - back * dz
        near = math.sqrt(x * x + y * y + z * z)
        wx, wy, wz = x / near, y / near, z / near
        falls = at.nx * wx + at.ny * wy + at.nz * wz
        if falls <= 0.0:
            continue
        t, u, v = hit_flat(flats, k, at.x, at.y, at.z, wx, wy, wz, OFFSET, near + 10.0 * OFFSET)
        if not t < near + 10.0 * OFFSET:
            continue
        passed[1] = passed[2] = passed[3] = 1.0
        if among.end > 0 and not transmits(
            scene, flats, emitters.veil, among, Ray(at.x, at.y, at.z, wx, wy, wz), near, passed
        ):
            continue
        cell, _, _, _, _, _ = cell_at(emitters.cells, k, u, v)
        lx, ly, lz = whole * dx - x, whole * dy - y, whole * dz - z
        rest = math.sqrt(lx * lx + ly * ly + lz * lz)
        lets_out = samples[j, s, SAMPLE.LUMINANCE]
        if flats[j, FLAT.SHAPE] != BALL:
            lets_out *= beam_factor(
                emitters, j, samples[j, s, SAMPLE.U], samples[j, s, SAMPLE.V], -lx / rest, -ly / rest, -lz / rest
            )
        form = falls * coat_entry(at.coat, at.entry, falls) * leaves * area / (whole * whole)
        form *= lets_out * emitters.open[k, j, cell] * emitters.lobes[k, STRAIGHT]
        for c in range(3):
            out[emitters.light[j], c] += form * passed[1 + c] * emitters.gain[j, c]
