"""Where heads look in plan and side: the axis of each, and how wide its beam is, as far as the product or the table."""

from __future__ import annotations

import math
from functools import lru_cache
from itertools import pairwise

import numpy as np

from fotaxis.core.geometry import orientation
from fotaxis.core.lights.beam_patterns import Shaping
from fotaxis.core.lights.fixtures import Lamp
from fotaxis.core.scene.checks import is_far
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array
from fotaxis.web.views.svg_canvas import Paper, draw_line

FARTHEST_M = 4.0
PAST_M = 0.25
"""Beams are drawn so far past the product's axis, where they do not meet the table before."""

HALF_POWER = 0.5
WIDEST_RAD = math.radians(75.0)
"""A beam wider than this lights all round: only its axis is drawn."""


@lru_cache(maxsize=256)
def half_beam_rad(shaping: Shaping) -> float:
    """Angle off the axis at which a head's intensity, its grid and snoot included, is half of that on it; inf for a wider one."""
    angles = np.linspace(0, WIDEST_RAD, 600)
    intensity = shaping.off_axis(angles) * np.cos(angles)
    low = np.flatnonzero(intensity < HALF_POWER * intensity[0])
    return float(angles[low[0]]) if len(low) else math.inf


def beam_reach_m(place: Array, way: Array) -> float:
    """How far a beam is drawn from a place (3,) along a unit way: to the table or a little past the product's axis."""
    flat = float(np.hypot(way[0], way[2]))
    nearest = -(place[0] * way[0] + place[2] * way[2]) / max(flat * flat, 1e-9)
    reach = nearest + PAST_M / max(flat, 0.25) if nearest > 0 else 0.5
    if way[1] < -1e-6 and place[1] > 0:
        reach = min(reach, place[1] / -way[1])
    return float(min(max(reach, 0.1), FARTHEST_M))


def beams(plan: Plan, paper: Paper, view: str, *, selected: str) -> list[str]:
    """Axis and half-power edges of every head that is on, in one drawing."""
    out = []
    for light in plan.lights:
        if not isinstance(light, Lamp) or light.head.ball or not light.emission.on or is_far(light):
            continue
        across, up, front = orientation.axes(turn_rad=light.stance.turn_rad, tilt_rad=light.stance.tilt_rad)
        place, half = light.stance.place.array(), half_beam_rad(light.shaping)
        ways = [front]
        if half < WIDEST_RAD:
            aside = across if view == "floor" else up
            ways += [math.cos(half) * front + side * math.sin(half) * aside for side in (1, -1)]
        kind = "beam chosen" if light.key == selected else "beam"
        for way in ways:
            end = place + beam_reach_m(place, way) * way
            (a, b), (c, d) = (_on(paper, at, view) for at in (place, end))
            out.append(draw_line(a, b, c, d, kind if way is front else f"{kind} edge"))
        out += _pool(paper, pool_on_table(plan, light), view, f"{kind} pool")
    return out


AROUND = 48


def pool_on_table(plan: Plan, light: Lamp) -> Array:
    """Where the edge of a head's beam meets the table's top, (n, 3) metres in order; (0, 3) where it is wider than half the space, or
    misses the table.

    Source:     the cone of half power cut by the plane of the top.
    """
    half, table = half_beam_rad(light.shaping), plan.table
    if table is None or half >= WIDEST_RAD:
        return np.empty((0, 3))
    across, up, front = orientation.axes(turn_rad=light.stance.turn_rad, tilt_rad=light.stance.tilt_rad)
    angle = np.linspace(0, 2 * math.pi, AROUND, endpoint=False)[:, None]
    ways = math.cos(half) * front + math.sin(half) * (np.cos(angle) * across + np.sin(angle) * up)
    place = light.stance.place.array()
    falls = np.where(ways[:, 1] < -1e-6, place[1] / np.maximum(-ways[:, 1], 1e-9), np.inf)
    met = place + np.minimum(falls, FARTHEST_M)[:, None] * ways
    on = (
        (falls < FARTHEST_M) & (place[1] > 0) & (np.abs(met[:, 0] - table.x_m) < table.width_m / 2)
        & (np.abs(met[:, 2] - table.z_m) < table.depth_m / 2)
    )  # fmt: skip
    pool: Array = met[on]
    return pool


def _pool(paper: Paper, pool: Array, view: str, kind: str) -> list[str]:
    """A pool as it lies on the table: its outline from above, from the side how far it reaches."""
    if len(pool) < 3:
        return []
    at = [_on(paper, place, view) for place in pool]
    if view == "floor":
        return [draw_line(*a, *b, kind) for a, b in zip(at, [*at[1:], at[0]], strict=True)] if len(pool) == AROUND else [
            draw_line(*a, *b, kind) for a, b in pairwise(at)
        ]  # fmt: skip
    ends = min(at), max(at)
    return [draw_line(*ends[0], *ends[1], kind)]


def _on(paper: Paper, at: Array, view: str) -> tuple[float, float]:
    x, y, z = (100 * float(v) for v in at)
    return (paper.x(x), paper.y(-z)) if view == "floor" else (paper.x(z), paper.y(y))
