"""What stands in the gate of a projecting head: blades and patterned masks."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter

from fotaxis.core.errors import DomainError
from fotaxis.core.limits import require_finite, require_positive
from fotaxis.core.values import Array

GOBO_NODES = 97
RIM = 1.25
"""A gate is tabulated out to so many of its radii."""

FINER = 6
OPEN_GATE, WINDOW, SLATS, LEAVES, DOTS = "open", "window", "slats", "leaves", "dots"
MASKS = (OPEN_GATE, WINDOW, SLATS, LEAVES, DOTS)


@dataclass(frozen=True, slots=True, kw_only=True)
class Gate:
    """blades: how far each is pushed in from the left, right, top and bottom of the gate, as seen from behind the lamp, in
    parts of the gate's width; mask: a pattern of MASKS; focus_m: where the image is sharp; blur: of the lens itself, in parts
    of the gate's radius. What is pushed in from the left darkens the image's right.
    """

    blades: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    mask: str = OPEN_GATE
    focus_m: float = 2.0
    blur: float = 0.02

    def __post_init__(self) -> None:
        for blade in self.blades:
            require_finite("a blade", blade, low=0, high=1)
        if self.mask not in MASKS:
            raise DomainError(f"there is no mask {self.mask[:20]!r}; use one of: {', '.join(MASKS)}.")
        require_positive("the spot's focus", self.focus_m, high=50, unit="m")
        require_finite("the spot's blur", self.blur, low=0, high=1)

    def table(self) -> Array:
        """What it lets through, (97, 97), rows upwards, columns from left to right over -1.25..1.25 of its radius."""
        return _table(self)


@lru_cache(maxsize=64)
def _table(gate: Gate) -> Array:
    steps = (GOBO_NODES - 1) * FINER
    at = (np.arange(steps) + 0.5) / steps * 2 * RIM - RIM
    x, y = at[None, :] + 0 * at[:, None], at[:, None] + 0 * at[None, :]
    left, right, top, bottom = gate.blades
    open_: NDArray[np.bool_] = x * x + y * y <= 1
    open_ &= (x >= 2 * left - 1) & (x <= 1 - 2 * right) & (y <= 1 - 2 * top) & (y >= 2 * bottom - 1)
    open_ &= _pattern(gate.mask, x, y)
    fine = gaussian_filter(open_.astype(float), max(gate.blur / (2 * RIM) * steps, FINER / 2))
    # Nodes lie at the corners of the cells that the fine lattice fills.
    corners = np.pad(fine, FINER // 2, mode="edge")
    whole = corners.reshape(GOBO_NODES, FINER, GOBO_NODES, FINER).mean(axis=(1, 3))
    whole.setflags(write=False)
    return whole


def _pattern(mask: str, x: Array, y: Array) -> NDArray[np.bool_]:
    """Where a mask is open."""
    if mask == WINDOW:
        inside = (np.abs(x) < 0.55) & (np.abs(y) < 0.75)
        bars = (np.abs(x) < 0.05) | (np.abs(np.abs(y) - 0.25) < 0.05)
        return inside & ~bars
    if mask == SLATS:
        slats: NDArray[np.bool_] = (y / 0.24) % 1.0 < 0.55
        return slats
    if mask == DOTS:
        row = np.floor(y / 0.3)
        dots: NDArray[np.bool_] = ((x / 0.3 + 0.5 * (row % 2)) % 1.0 - 0.5) ** 2 + ((y / 0.3) % 1.0 - 0.5) ** 2 < 0.1
        return dots
    if mask == LEAVES:
        shade = np.zeros(x.shape, bool)
        for n in range(34):
            angle, away = 2.399963 * n, math.sqrt((n + 0.5) / 34)
            cx, cy, turn = away * math.cos(angle), away * math.sin(angle), 1.9 * n
            u = (x - cx) * math.cos(turn) + (y - cy) * math.sin(turn)
            v = (y - cy) * math.cos(turn) - (x - cx) * math.sin(turn)
            long = 0.16 + 0.05 * (n % 3)
            shade |= np.abs(v) < 0.35 * long * (1 - (u / long) ** 2)
        return ~shade
    return np.ones(x.shape, bool)
