"""Shapes a tape describes in a few numbers: box, can, sphere, tube, sweep of paper."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from fotaxis.core.geometry.mesh import Mesh
from fotaxis.core.geometry.profile import Outline, Profile
from fotaxis.core.values import Array

EDGE_STEPS = 8
FACE_STEPS = 8
ARC_SEGMENTS = 160
TUBE_AROUND = 64
TUBE_ALONG = 40


@lru_cache(maxsize=64)
def rounded_box(*, width_m: float, height_m: float, depth_m: float, edge_m: float) -> Mesh:
    """A box standing on y = 0, centred on its axis, every edge rounded to a radius; normals exact at the corners of its mesh.

    Points of a cube's faces are moved onto the box whose inner box is smaller by the radius; the normal points away from
    the inner box. Holds for: 0 <= edge <= half the smallest side.
    """
    half = np.array([width_m, height_m, depth_m]) / 2
    edge = min(edge_m, half.min() * 0.999)
    inner = half - edge
    # Along each axis: the rounded ends in equal angles, the flat part in equal steps.
    angle = np.linspace(0, math.pi / 4, EDGE_STEPS // 2 + 1)
    lines = []
    for k in range(3):
        flat = np.linspace(-inner[k], inner[k], FACE_STEPS + 1)
        bend = edge * np.tan(angle) if edge > 0 else np.empty(0)
        # On a face the rounded rim is laid out by tangent, so that both faces meet at 45 degrees.
        lines.append(np.concatenate([-inner[k] - bend[:0:-1], flat, inner[k] + bend[1:]]) if edge > 0 else flat)
    vertices, normals, triangles = [], [], []
    count = 0
    for axis in range(3):
        a, b = (axis + 1) % 3, (axis + 2) % 3
        for sign in (-1.0, 1.0):
            u, v = np.meshgrid(lines[a], lines[b], indexing="ij")
            p = np.empty((*u.shape, 3))
            p[..., axis], p[..., a], p[..., b] = sign * half[axis], u, v
            core = np.clip(p, -inner, inner)
            away = p - core
            if edge > 0:
                normal = away / np.linalg.norm(away, axis=-1, keepdims=True)
                p = core + edge * normal
            else:
                normal = np.zeros_like(p)
                normal[..., axis] = sign
            n, m = u.shape
            index = count + np.arange(n * m).reshape(n, m)
            quads = np.stack([index[:-1, :-1], index[1:, :-1], index[1:, 1:], index[:-1, 1:]], axis=-1).reshape(-1, 4)
            if sign < 0:
                quads = quads[:, ::-1]
            vertices.append(p.reshape(-1, 3))
            normals.append(normal.reshape(-1, 3))
            triangles += [quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]]
            count += n * m
    places = np.concatenate(vertices) + np.array([0.0, half[1], 0.0])
    return Mesh(vertices=places, normals=np.concatenate(normals), triangles=np.concatenate(triangles).astype(np.int64))


@lru_cache(maxsize=64)
def sphere_outline(*, radius_m: float) -> Outline:
    """A sphere standing on y = 0, with exact normals."""
    a = np.linspace(0, math.pi, ARC_SEGMENTS + 1)
    y, r = radius_m * (1 - np.cos(a)), radius_m * np.sin(a)
    r[0] = r[-1] = 0.0
    normal = np.stack([-np.cos(a), np.sin(a)], axis=1)
    return Outline(points=np.stack([y, r], axis=1), normals=np.stack([normal[:-1], normal[1:]], axis=1))


def can_profile(*, diameter_m: float, height_m: float, neck_m: float) -> Profile:
    """A drawn can: rounded foot, straight wall, shoulder drawn in by `neck_m` per side, rim."""
    r = diameter_m / 2
    n = min(neck_m, 0.4 * r)
    foot, shoulder = min(0.006, height_m / 8), max(min(0.012, height_m / 6), n)
    points = [(0.0, r - 0.6 * foot), (0.3 * foot, r - 0.25 * foot), (foot, r)]
    points += [(height_m * k / 4, r) for k in (1, 2, 3)]
    points += [(height_m - shoulder - 0.002, r)]
    if n > 0:
        points += [(height_m - 0.002 - shoulder / 2, r - n / 2), (height_m - 0.002, r - n)]
    points += [(height_m, r - n)]
    return Profile(heights_m=tuple(h for h, _ in points), radii_m=tuple(x for _, x in points))


@lru_cache(maxsize=64)
def tube(*, diameter_m: float, length_m: float, crimp_m: float) -> Mesh:
    """A filled tube standing on its cap's end, round below and pressed flat at the top over the last `crimp_m`.

    The cross-section is an ellipse whose girth stays that of the circle (Ramanujan 1914) as its depth goes to nothing.
    """
    radius = diameter_m / 2
    s = np.linspace(0, 1, TUBE_ALONG + 1)
    y = length_m * s
    top = length_m - crimp_m
    flat = 1.0 - np.clip(y / top, 0, 1) ** 1.5
    depth = np.maximum(radius * flat, 0.0007)
    wide = np.array([_half_width(d, radius) for d in depth])
    a = np.linspace(0, 2 * math.pi, TUBE_AROUND, endpoint=False)
    ring = np.stack(
        [wide[:, None] * np.sin(a), np.broadcast_to(y[:, None], (len(s), len(a))), depth[:, None] * np.cos(a)], axis=-1
    )
    n, m = len(s), len(a)
    index = np.arange(n * m).reshape(n, m)
    right = np.roll(index, -1, axis=1)
    sides = np.stack([index[:-1], right[:-1], right[1:], index[1:]], axis=-1).reshape(-1, 4)
    vertices = np.concatenate([ring.reshape(-1, 3), [[0.0, 0.0, 0.0], [0.0, length_m, 0.0]]])
    foot = np.stack([np.full(m, n * m), right[0], index[0]], axis=1)
    lid = np.stack([np.full(m, n * m + 1), index[-1], right[-1]], axis=1)
    return Mesh.smooth(vertices, np.concatenate([sides[:, [0, 1, 2]], sides[:, [0, 2, 3]], foot, lid]))


def _half_width(depth: float, radius: float) -> float:
    """Half width of the ellipse with half depth `depth` and the girth of a circle of `radius`."""
    low, high = radius, radius * math.pi / 2
    for _ in range(40):
        a = (low + high) / 2
        h = ((a - depth) / (a + depth)) ** 2
        girth = math.pi * (a + depth) * (1 + 3 * h / (10 + math.sqrt(4 - 3 * h)))
        low, high = (a, high) if girth < 2 * math.pi * radius else (low, a)
    return (low + high) / 2


@lru_cache(maxsize=32)
def sweep(
    *,
    width_m: float,
    front_m: float,
    back_m: float,
    height_m: float,
    bend_m: float,
    drop_m: float = 0.0,
    front_bend_m: float = 0.1,
) -> Mesh:
    """A roll of paper: flat on y = 0 from `front_m` before the axis to the bend, then up to `height_m`.

    The upright part stands `back_m` behind the axis; the bend is a quarter circle of radius `bend_m`. With `drop_m` it hangs down so
    far at its front edge, over a quarter circle of radius `front_bend_m`.
    """
    over = min(front_bend_m, drop_m * 0.9, (front_m + back_m) * 0.4) if drop_m > 0 else 0.0
    bend = min(bend_m, height_m * 0.9, (front_m + back_m) * 0.9)
    a = np.linspace(0, math.pi / 2, 25)
    flat_z = np.linspace(front_m - over, -back_m + bend, 25)
    line, before = [], []
    if over:
        hanging, t = np.linspace(-drop_m, -over, 9)[:-1], np.linspace(0, math.pi / 2, 17)[:-1]
        line.append(np.stack([np.full(len(hanging), front_m), hanging], axis=1))
        line.append(np.stack([front_m - over + over * np.cos(t), -over + over * np.sin(t)], axis=1))
        before = [np.tile([[0.0, 1.0]], (len(hanging), 1)), np.stack([-np.sin(t), np.cos(t)], axis=1)]
    line.append(np.stack([flat_z, np.zeros(25)], axis=1))
    line.append(np.stack([-back_m + bend - bend * np.sin(a), bend - bend * np.cos(a)], axis=1)[1:])
    up = np.linspace(bend, height_m, 17)[1:]
    line.append(np.stack([np.full(len(up), -back_m), up], axis=1))
    points = np.concatenate(line)
    tangent = np.concatenate([*before, np.tile([[-1.0, 0.0]], (25, 1)), np.stack([-np.cos(a), np.sin(a)], axis=1)[1:],
                              np.tile([[0.0, 1.0]], (len(up), 1))])  # fmt: skip
    x = np.linspace(-width_m / 2, width_m / 2, 25)
    n, m = len(points), len(x)
    vertices = np.empty((n, m, 3))
    vertices[..., 0], vertices[..., 1], vertices[..., 2] = x, points[:, 1:2], points[:, 0:1]
    normals = np.empty((n, m, 3))
    normals[..., 0], normals[..., 1], normals[..., 2] = 0.0, -tangent[:, 0:1], tangent[:, 1:2]
    index = np.arange(n * m).reshape(n, m)
    quads = np.stack([index[:-1, :-1], index[:-1, 1:], index[1:, 1:], index[1:, :-1]], axis=-1).reshape(-1, 4)
    return Mesh(
        vertices=vertices.reshape(-1, 3), normals=normals.reshape(-1, 3),
        triangles=np.concatenate([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]]).astype(np.int64),
    )  # fmt: skip


def footprint(outline: Array) -> Array:
    """Convex outline of points (n, 2), (m, 2)."""
    points = np.unique(np.round(outline, 9), axis=0)
    if len(points) < 3:
        return points

    def half(rows: Array) -> list[Array]:
        chain: list[Array] = []
        for p in rows:
            while len(chain) > 1:
                a, b = chain[-1] - chain[-2], p - chain[-2]
                if a[0] * b[1] - a[1] * b[0] > 0:
                    break
                chain.pop()
            chain.append(p)
        return chain

    lower, upper = half(points), half(points[::-1])
    return np.array(lower[:-1] + upper[:-1])
