"""Lines on what mirrors blurred: where the face's exact image must end so that the line is read where it was wished for."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from fotaxis.core.frames.readings.edge import EdgeLine
from fotaxis.core.frames.readings.reading import rows_between
from fotaxis.core.proposals.ways import BLUR, product_edges, surface_at
from fotaxis.core.render.arrays.static_scene import StaticScene
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array

SHARP_RAD = np.radians(0.5)
ACROSS, ROWS = 81, 8
FROM, TO = 0.05, 0.995
LEAST_WIDE = 0.01
NARROWEST = 0.4
"""A line narrower than the lobe cannot be had: where a sliver of a face is asked for, it is as wide as the line."""


def aimed_ends(
    plan: Plan, scene: StaticScene, is_product: NDArray[np.bool_], line: EdgeLine, *, near: float, far: float
) -> tuple[float, float]:
    """Parts of the half width where the exact image of a face ends, whose blurred image is read from near to far; those themselves
    on what mirrors sharply, and where too little of the product is seen."""
    height, width = is_product.shape
    rows = np.array([(row + 0.5, first, last) for row, first, last in rows_between(is_product, line.low, line.high)])
    if len(rows) < ROWS:
        return near, far
    rows = rows[np.linspace(0, len(rows) - 1, ROWS).astype(int)]
    edges = product_edges(plan, scene, rows, width, height)
    part = np.linspace(FROM, TO, ACROSS)
    outward = -1.0 if line.left else 1.0
    middle, half = edges.mean(axis=1, keepdims=True), np.diff(edges, axis=1) / 2
    x = middle + outward * part * half
    on = surface_at(plan, scene, x, np.broadcast_to(rows[:, :1], x.shape), width, height)
    there = on.there & on.of_product & on.mirrors
    if there.mean() < 0.3:
        return near, far
    blur = float(np.median(on.blur_rad[there])) / BLUR
    if blur < SHARP_RAD:
        return near, far
    angle = np.arctan2(outward * on.onward[..., 0], on.onward[..., 2])
    known = there.any(axis=0)
    if known.sum() < ACROSS // 2:
        return near, far
    turned = np.nanmedian(np.where(there, np.unwrap(angle, axis=1), np.nan)[:, known], axis=0)
    gloss = np.nanmedian(np.where(there, on.gloss, np.nan)[:, known], axis=0)
    return corrected(part[known], turned, gloss, blur, near=near, far=far)


def corrected(part: Array, angle: Array, gloss: Array, roughness: float, *, near: float, far: float) -> tuple[float, float]:
    """The same of known places across: part of the half width, the angle (rad) a way on from there goes, how much is mirrored.

    What is read: gloss times the share of the lobe that meets the face, cut at half its brightest. roughness: GGX alpha.
    Limits:     the face is tall against the lobe.
    """
    fine = np.linspace(float(part[0]), float(part[-1]), 400)
    angles, mirrored = np.interp(fine, part, angle), np.interp(fine, part, gloss)

    def read(ends: Array) -> tuple[float, float]:
        inner, outer = np.interp(ends, part, angle)
        seen = mirrored * (lobe_share(outer - angles, roughness) - lobe_share(inner - angles, roughness))
        bright = np.flatnonzero(seen >= seen.max() / 2)
        return _crossing(fine, seen, int(bright[0]), -1), _crossing(fine, seen, int(bright[-1]), 1)

    def off(ends: Array) -> Array:
        begin, end = read(np.array([ends[0], max(ends[1], ends[0] + LEAST_WIDE)]))
        return np.array([begin - near, end - far])

    low, high = float(part[0]), float(part[-1])
    start = np.clip(np.array([near, far]), low + 1e-3, high - 1e-3)
    solved = least_squares(off, start, bounds=(low, high), diff_step=1e-3)
    begin, end = float(solved.x[0]), float(solved.x[1])
    if np.abs(off(solved.x)).max() > np.abs(off(start)).max() or end - begin < NARROWEST * (far - near):
        return near, far
    return begin, end


def lobe_share(off_rad: Array, roughness: float) -> Array:
    """The part of what a blurred mirror shows along one direction that comes from below an angle off the mirrored way.

        (1 + t / sqrt(1 + t^2)) / 2,   t = tan(angle / 2) / alpha

    Source:     slopes of GGX along one axis, the other integrated out; Heitz 2014, Understanding the masking-shadowing function.
    """
    t = np.tan(np.clip(off_rad, -3.0, 3.0) / 2) / roughness
    share: Array = (1 + t / np.sqrt(1 + t * t)) / 2
    return share


def _crossing(places: Array, seen: Array, at: int, step: int) -> float:
    """Where a profile falls to half its brightest beside its last place above it."""
    beside = at + step
    if not 0 <= beside < len(places):
        return float(places[at])
    half = seen.max() / 2
    part = (seen[at] - half) / max(float(seen[at] - seen[beside]), 1e-12)
    return float(places[at] + part * (places[beside] - places[at]))
