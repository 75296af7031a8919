"""Rays and directions as kernels hand them to each other."""

from __future__ import annotations

from typing import NamedTuple


class Ray(NamedTuple):
    """Origin in metres and unit direction."""

    ox: float
    oy: float
    oz: float
    dx: float
    dy: float
    dz: float


class Direction(NamedTuple):
    """A unit direction."""

    x: float
    y: float
    z: float
