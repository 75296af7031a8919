"""What cards and sheets show: light they throw on, kept in cells, let straight through, or mirror."""

from __future__ import annotations

import numpy as np

from fotaxis.core.columns import SAMPLE
from fotaxis.core.kernel import inlined, kernel, leaf
from fotaxis.core.render.arrays.emitters import (
    Emitters,
)
from fotaxis.core.render.arrays.static_scene import Ints
from fotaxis.core.values import Array


@inlined
def is_static(moved: Ints, k: int) -> bool:
    """Is face k none of those that moved?"""
    stay = True
    for m in moved:
        stay = stay and m != k
    return stay


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
def add_card_radiance(
    emitters: Emitters, k: int, side: int, u: float, v: float, lights: int, weight: float, factor: Array, out: Array
) -> None:
    """Add what face k shows by diffuse light at a place, times weight and factor (3,), to out (lights, 3)."""
    shown = emitters.shown
    a, b, c_, d, x, y = cell_at(emitters.cells, k, u, v)
    wa, wb, wc, wd = (1.0 - x) * (1.0 - y), x * (1.0 - y), (1.0 - x) * y, x * y
    for i in range(lights):
        for c in range(3):
            value = wa * shown[k, side, i, a, c] + wb * shown[k, side, i, b, c]
            value += wc * shown[k, side, i, c_, c] + wd * shown[k, side, i, d, c]
            out[i, c] += weight * factor[c] * value


@kernel
def sample_card_radiance(emitters: Emitters, lights: int) -> None:
    """Fill Emitters.sampled from Emitters.shown."""
    one = np.ones(3)
    for k in range(emitters.light.shape[0]):
        if emitters.light[k] >= 0:
            continue
        for side in range(2):
            for s in range(emitters.parts[k]):
                emitters.sampled[k, side, s] = 0.0
                u, v = emitters.samples[k, s, SAMPLE.U], emitters.samples[k, s, SAMPLE.V]
                add_card_radiance(emitters, k, side, u, v, lights, 1.0, one, emitters.sampled[k, side, s])


@inlined
def add_sample_radiance(sampled: Array, k: int, side: int, sample: int, weight: float, factor: Array, out: Array) -> None:
    """Add what face k shows by diffuse light at one of its samples, times weight and factor (3,), to out (lights, 3)."""
    for i in range(out.shape[0]):
        for c in range(3):
            out[i, c] += weight * factor[c] * sampled[k, side, sample, i, c]


def mix_lights(emitters: Emitters, gains: Array) -> Emitters:
    """The same things with all lights, each times its gain, as light 0; what cards and sheets show is still to be filled.

    gains (lights,) float64.
    """
    shines = emitters.light >= 0
    gain = emitters.gain.copy()
    gain[shines] *= gains[emitters.light[shines], None]
    faces, _, _, cells, _ = emitters.shown.shape
    return emitters._replace(
        light=np.where(shines, 0, -1), gain=gain, shown=np.zeros((faces, 2, 1, cells, 3)),
        sampled=np.zeros((faces, 2, emitters.sampled.shape[2], 1, 3)),
    )  # fmt: skip
