"""Light that glass bends and gathers on the table: refractions of bottle and glass beside and before them.

From places on a small light a lattice of rays is sent through everything clear; each mesh of the lattice carries its light
to where its corners land, so the pattern is smooth however strongly it is gathered. A ray follows what glass lets through,
or total reflection; what glass mirrors by the way is left out.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import BODY, BOUNDS, FLAT, MEDIUM, SAMPLE
from fotaxis.core.constants import SURFACE_OFFSET_M
from fotaxis.core.geometry.planar import BALL, hit_flat
from fotaxis.core.kernel import kernel, leaf
from fotaxis.core.materials.fresnel import reflectance
from fotaxis.core.materials.material import CLEAR, KIND
from fotaxis.core.render.arrays.emitters import Emitters, beam_factor, face_area, place_on, transmittance
from fotaxis.core.render.arrays.static_scene import StaticScene, nearest_surface
from fotaxis.core.render.arrays.surface_hit import surface_hit_at
from fotaxis.core.values import Array

OFFSET = SURFACE_OFFSET_M
MOST_EVENTS = 24
LEAST_SHARE = 1e-3


class Lattice(NamedTuple):
    """Columns and rows of a lattice of rays, and of the table's field: its left and back edge and the width of a cell, metres."""

    columns: int
    rows: int
    left: float
    back: float
    cell: float


@leaf
def _air(
    emitters: Emitters, skip: int, x: float, y: float, z: float, dx: float, dy: float, dz: float, length: float, share: Array
) -> bool:
    """Does light get along a way in air past the movable things? Veils dim share (3,)."""
    for j in range(emitters.light.shape[0]):
        if j == skip:
            continue
        t, _, _ = hit_flat(emitters.flats, j, x, y, z, dx, dy, dz, OFFSET, length - OFFSET)
        if t < length - OFFSET:
            if emitters.veil[j, 1] <= 0.0:
                return False
            for c in range(3):
                share[c] *= transmittance(emitters.flats, emitters.veil, j, c, dx, dy, dz)
    return True


@leaf
def _land(
    scene: StaticScene,
    emitters: Emitters,
    k: int,
    x: float,
    y: float,
    z: float,
    dx: float,
    dy: float,
    dz: float,
    share: Array,
) -> tuple[int, float, float]:
    """Follow one ray from light k: its route (0 where it does not come through glass to the table), and x, z there."""
    flats = scene.flats.shape[0]
    medium = 0
    route = 0
    share[0] = share[1] = share[2] = 1.0
    for _ in range(MOST_EVENTS):
        t, surface, part, u, v = nearest_surface(scene, medium, x, y, z, dx, dy, dz, OFFSET)
        if surface < 0:
            return 0, 0.0, 0.0
        if medium == 0:
            if not _air(emitters, k, x, y, z, dx, dy, dz, t, share):
                return 0, 0.0, 0.0
        else:
            for c in range(3):
                share[c] *= math.exp(-scene.media[medium, MEDIUM.ABSORPTION + c] * t)
        x, y, z = x + t * dx, y + t * dy, z + t * dz
        if surface == 0:
            return (route if dy < 0.0 else 0), x, z
        spot = surface_hit_at(scene, surface, part, u, v, x, y, z)
        if surface < flats or scene.skins[spot.skin, KIND] != CLEAR:
            return 0, 0.0, 0.0
        nx, ny, nz = spot.nx, spot.ny, spot.nz
        front = spot.gx * dx + spot.gy * dy + spot.gz * dz <= 0.0
        if not front:
            nx, ny, nz = -nx, -ny, -nz
        facing = nx * dx + ny * dy + nz * dz
        if facing >= -1e-6:
            return 0, 0.0, 0.0
        ahead = int(scene.media_of[surface, 1 if front else 0])
        ratio = scene.media[ahead, MEDIUM.INDEX] / scene.media[medium, MEDIUM.INDEX]
        mirrored = reflectance(-facing, ratio)
        if mirrored >= 1.0:
            dx, dy, dz = dx - 2.0 * facing * nx, dy - 2.0 * facing * ny, dz - 2.0 * facing * nz
            route = (route * 8191 + 2 * surface + 2) % 1_000_003
        else:
            inverse = 1.0 / ratio
            into = math.sqrt(max(0.0, 1.0 - inverse * inverse * (1.0 - facing * facing)))
            scale = -inverse * facing - into
            dx, dy, dz = inverse * dx + scale * nx, inverse * dy + scale * ny, inverse * dz + scale * nz
            for c in range(3):
                share[c] *= 1.0 - mirrored
            medium = ahead
            route = (route * 8191 + 2 * surface + 1) % 1_000_003
        if max(share[0], max(share[1], share[2])) < LEAST_SHARE:
            return 0, 0.0, 0.0
    return 0, 0.0, 0.0


@kernel
def _send(
    scene: StaticScene, emitters: Emitters, k: int, place: Array, directions: Array, begin: int, end: int, route: NDArray[np.int64],
    landed: Array, shares: Array,
) -> None:  # fmt: skip
    share = np.empty(3)
    for i in range(begin, end):
        dx, dy, dz = directions[i, 0], directions[i, 1], directions[i, 2]
        route[i], landed[i, 0], landed[i, 1] = _land(scene, emitters, k, place[0], place[1], place[2], dx, dy, dz, share)
        for c in range(3):
            shares[i, c] = share[c]


@leaf
def _drop(field: Array, x: float, y: float, red: float, green: float, blue: float) -> None:
    """Give light at a place, in cells' widths, to the four cells around it."""
    i, j = math.floor(x - 0.5), math.floor(y - 0.5)
    a, b = x - 0.5 - i, y - 0.5 - j
    for dj in range(2):
        for di in range(2):
            if 0 <= i + di < field.shape[1] and 0 <= j + dj < field.shape[0]:
                part = (a if di else 1.0 - a) * (b if dj else 1.0 - b)
                field[j + dj, i + di, 0] += part * red
                field[j + dj, i + di, 1] += part * green
                field[j + dj, i + di, 2] += part * blue


@leaf
def _spread_triangle(
    field: Array, ax: float, ay: float, bx: float, by: float, cx: float, cy: float, red: float, green: float, blue: float
) -> None:
    """Share light out evenly over a triangle, given in cells' widths: cut into small ones, or over the cells it covers."""
    area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
    if abs(area) < LARGE:
        n = 1 + math.ceil(math.sqrt(abs(area)))
        part = 1.0 / (n * n)
        for i in range(n):
            for j in range(n - i):
                for flip in range(2 if i + j < n - 1 else 1):
                    u, v = (i + (1.0 + flip) / 3.0) / n, (j + (1.0 + flip) / 3.0) / n
                    x, y = ax + u * (bx - ax) + v * (cx - ax), ay + u * (by - ay) + v * (cy - ay)
                    _drop(field, x, y, red * part, green * part, blue * part)
        return
    x0, x1 = max(0.0, min(ax, min(bx, cx))), min(float(field.shape[1]), max(ax, max(bx, cx)))
    y0, y1 = max(0.0, min(ay, min(by, cy))), min(float(field.shape[0]), max(ay, max(by, cy)))
    each = 2.0 / abs(area)
    for j in range(math.floor(y0), math.ceil(y1)):
        for i in range(math.floor(x0), math.ceil(x1)):
            px, py = i + 0.5, j + 0.5
            a = ((bx - px) * (cy - py) - (cx - px) * (by - py)) / area
            b = ((cx - px) * (ay - py) - (ax - px) * (cy - py)) / area
            if a >= 0.0 and b >= 0.0 and a + b <= 1.0:
                field[j, i, 0] += red * each
                field[j, i, 1] += green * each
                field[j, i, 2] += blue * each


LARGE = 400.0
"""Triangles of twice this many cells are shared out cell by cell."""


@kernel
def _deposit(
    route: NDArray[np.int64], landed: Array, shares: Array, light: Array, lattice: Lattice, field: Array, loose: Array
) -> None:
    """Spread the light of every triangle of the lattice over where its corners land; what has no common way to `loose`."""
    columns, rows, left, back, cell = lattice
    for row in range(rows - 1):
        for column in range(columns - 1):
            a = row * columns + column
            for half in range(2):
                p, q, r = (a, a + 1, a + columns) if half == 0 else (a + columns + 1, a + 1, a + columns)
                whole = 0.5 * (light[p] + light[q] + light[r]) / 3.0
                if whole <= 0.0:
                    continue
                if route[p] == route[q] == route[r] and route[p] != 0:
                    _spread_triangle(
                        field, (landed[p, 0] - left) / cell, (landed[p, 1] - back) / cell, (landed[q, 0] - left) / cell,
                        (landed[q, 1] - back) / cell, (landed[r, 0] - left) / cell, (landed[r, 1] - back) / cell,
                        whole * (shares[p, 0] + shares[q, 0] + shares[r, 0]) / 3.0,
                        whole * (shares[p, 1] + shares[q, 1] + shares[r, 1]) / 3.0,
                        whole * (shares[p, 2] + shares[q, 2] + shares[r, 2]) / 3.0,
                    )  # fmt: skip
                    continue
                # Where the way changes within a mesh each corner takes its own third.
                for one in (p, q, r):
                    if route[one] != 0:
                        third = whole / 3.0
                        _drop(
                            loose, (landed[one, 0] - left) / cell, (landed[one, 1] - back) / cell, third * shares[one, 0],
                            third * shares[one, 1], third * shares[one, 2],
                        )  # fmt: skip


@kernel
def _take_shadow(
    scene: StaticScene, emitters: Emitters, k: int, place: Array, directions: Array, light: Array, product: int, lattice: Lattice,
    field: Array,
) -> None:  # fmt: skip
    """Take away from the table the light that a product stands in the way of, by the straight directions past it."""
    columns, rows, left, back, cell = lattice
    flats = scene.flats.shape[0]
    met = np.zeros(directions.shape[0])
    at = np.zeros((directions.shape[0], 2))
    share = np.empty(3)
    for i in range(directions.shape[0]):
        dx, dy, dz = directions[i, 0], directions[i, 1], directions[i, 2]
        if dy >= -1e-4 or light[i] <= 0.0:
            continue
        down = -place[1] / dy
        at[i, 0], at[i, 1] = place[0] + down * dx, place[2] + down * dz
        t, surface, _, _, _ = nearest_surface(scene, 0, place[0], place[1], place[2], dx, dy, dz, OFFSET)
        if surface < flats or not t < down or int(scene.bodies[surface - flats, BODY.PRODUCT]) != product:
            continue
        share[0] = share[1] = share[2] = 1.0
        # What a flag keeps from the table anyway is not taken away again; a net's part only once.
        if _air(emitters, k, place[0], place[1], place[2], dx, dy, dz, down, share):
            met[i] = share[1]
    for row in range(rows - 1):
        for column in range(columns - 1):
            a = row * columns + column
            for half in range(2):
                p, q, r = (a, a + 1, a + columns) if half == 0 else (a + columns + 1, a + 1, a + columns)
                if light[p] <= 0.0 or light[q] <= 0.0 or light[r] <= 0.0 or met[p] + met[q] + met[r] == 0.0:
                    continue
                if directions[p, 1] >= -1e-4 or directions[q, 1] >= -1e-4 or directions[r, 1] >= -1e-4:
                    continue
                taken = -0.5 * (light[p] * met[p] + light[q] * met[q] + light[r] * met[r]) / 3.0
                _spread_triangle(
                    field, (at[p, 0] - left) / cell, (at[p, 1] - back) / cell, (at[q, 0] - left) / cell, (at[q, 1] - back) / cell,
                    (at[r, 0] - left) / cell, (at[r, 1] - back) / cell, taken, taken, taken,
                )  # fmt: skip


def rays_at(place: Array, bounds: Array, *, columns: int, rows: int) -> tuple[Array, Array]:
    """A lattice of rays from a place over an upright cylinder: unit directions (rows * columns, 3) and the solid angle of each.

    bounds (5,): axis x, z, radius, lowest and highest y, metres.
    """
    middle = np.array([bounds[BOUNDS.X], (bounds[BOUNDS.LOW] + bounds[BOUNDS.HIGH]) / 2, bounds[BOUNDS.Z]])
    ahead = middle - place
    away = float(np.linalg.norm(ahead))
    ahead /= away
    side = np.cross(ahead, [0.0, 1.0, 0.0])
    side = np.array([1.0, 0.0, 0.0]) if np.linalg.norm(side) < 1e-6 else side / np.linalg.norm(side)
    up = np.cross(side, ahead)
    # Seen from near by the body is larger than across its middle.
    near = away / max(away - bounds[BOUNDS.RADIUS], 0.3 * away)
    half_w = 1.03 * near * bounds[BOUNDS.RADIUS]
    half_h = (
        1.03
        * near
        * ((bounds[BOUNDS.HIGH] - bounds[BOUNDS.LOW]) / 2 * math.hypot(up[1], 0.0) + bounds[BOUNDS.RADIUS] * abs(ahead[1]))
    )
    x, y = np.linspace(-half_w, half_w, columns), np.linspace(-half_h, half_h, rows)
    to = away * ahead + x[None, :, None] * side + y[:, None, None] * up
    distance = np.linalg.norm(to, axis=2)
    cell = (2 * half_w / (columns - 1)) * (2 * half_h / (rows - 1))
    solid = cell * away / distance**3
    return (to / distance[..., None]).reshape(-1, 3), solid.ravel()


@kernel
def _given(
    emitters: Emitters, k: int, sample: int, place: Array, directions: Array, solid: Array, each: float, out: Array
) -> None:
    u, v = emitters.samples[k, sample, SAMPLE.U], emitters.samples[k, sample, SAMPLE.V]
    n0, n1, n2 = emitters.flats[k, FLAT.NX], emitters.flats[k, FLAT.NY], emitters.flats[k, FLAT.NZ]
    ball = emitters.flats[k, FLAT.SHAPE] == BALL
    for i in range(len(directions)):
        dx, dy, dz = directions[i, 0], directions[i, 1], directions[i, 2]
        leaves = 1.0 if ball else dx * n0 + dy * n1 + dz * n2
        out[i] = 0.0
        if leaves > 0.0:
            out[i] = (
                each
                * leaves
                * solid[i]
                * beam_factor(emitters, k, u, v, dx, dy, dz)
                * emitters.samples[k, sample, SAMPLE.LUMINANCE]
            )


def places_sent_from(emitters: Emitters, k: int, most: int) -> list[int]:
    """Numbers of about so many of light k's samples, evenly chosen."""
    parts = int(emitters.parts[k])
    step = max(1, parts // most)
    return list(range(step // 2, parts, step))


def add_caustic(
    scene: StaticScene, emitters: Emitters, k: int, product: int, bounds: Array, sample: int, weight: float, *, lattice: Lattice,
    field: Array, loose: Array,
) -> None:  # fmt: skip
    """Add what a place of light k sends through a clear product to the table, and take away what the product stands in the way of.

    sample: of the light, standing for `weight` of its face. field, loose (h, w, 3): lumen (or lumen seconds) a cell over the
    light's gain, cells of `cell` metres from (left, back) to the right and front; loose: the part whose place is only roughly known.
    Surface 0 must be the table's top. bounds (5,): the cylinder around the product.
    """
    u, v = emitters.samples[k, sample, SAMPLE.U], emitters.samples[k, sample, SAMPLE.V]
    place = np.array(place_on(emitters.flats, k, u, v))
    directions, solid = rays_at(place, bounds, columns=lattice.columns, rows=lattice.rows)
    each = face_area(emitters.flats, k, bounds[BOUNDS.X], bounds[BOUNDS.LOW], bounds[BOUNDS.Z]) * weight
    light = np.empty(len(directions))
    _given(emitters, k, sample, place, directions, solid, each, light)
    if not light.any():
        return
    route, landed, shares = (
        np.zeros(len(directions), np.int64),
        np.zeros((len(directions), 2)),
        np.zeros((len(directions), 3)),
    )
    _send(scene, emitters, k, place, directions, 0, len(directions), route, landed, shares)
    _deposit(route, landed, shares, light, lattice, field, loose)
    _take_shadow(scene, emitters, k, place, directions, light, product, lattice, field)
