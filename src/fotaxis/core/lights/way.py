"""The way of a lamp that is moved while the shutter is open."""

from __future__ import annotations

import numpy as np

from fotaxis.core.lights.fixtures import FULL_TURN, Lamp, Stance
from fotaxis.core.values import Array, Point


def way_lengths(lamp: Lamp) -> Array:
    """Lengths of the parts of a lamp's way, (points,), metres."""
    places = np.array([stance.place.array() for stance in (lamp.stance, *lamp.way)])
    lengths: Array = np.linalg.norm(np.diff(places, axis=0), axis=1)
    return lengths


def _ends(lamp: Lamp) -> Array:
    """At what part of its way, 0 to 1, each of its points is reached at an even pace, (points,); where a lamp only turns every point
    counts as much."""
    lengths = way_lengths(lamp)
    if lengths.sum() <= 0:
        lengths = np.ones(len(lengths))
    ends: Array = np.cumsum(lengths) / lengths.sum()
    return ends


def on_way(lamp: Lamp, part: float) -> Stance:
    """How a lamp stands at a part of its way, 0 to 1."""
    stances, ends = (lamp.stance, *lamp.way), np.concatenate([[0.0], _ends(lamp)])
    i = min(max(int(np.searchsorted(ends, part)) - 1, 0), len(lamp.way) - 1)
    span = ends[i + 1] - ends[i]
    return _between(stances[i], stances[i + 1], (part - ends[i]) / span if span > 0 else 1.0)


def lit_way(lamp: Lamp) -> list[Stance]:
    """Where a moved lamp begins to shine, the points on its way, and where it ends."""
    begin, end = lamp.lit
    between = [stance for stance, at in zip(lamp.way, _ends(lamp), strict=True) if begin < at < end]
    return [on_way(lamp, begin), *between, on_way(lamp, end)]


def _between(begin: Stance, end: Stance, part: float) -> Stance:
    """A stance on the straight way from one to another; it turns the shorter way round."""
    turn = (end.turn_rad - begin.turn_rad + FULL_TURN / 2) % FULL_TURN - FULL_TURN / 2
    place = begin.place.array() * (1 - part) + end.place.array() * part
    turned = (begin.turn_rad + part * turn + FULL_TURN / 2) % FULL_TURN - FULL_TURN / 2
    return Stance(
        place=Point(x_m=float(place[0]), y_m=float(place[1]), z_m=float(place[2])),
        turn_rad=turned,
        tilt_rad=begin.tilt_rad * (1 - part) + end.tilt_rad * part,
    )
