"""Light of every pixel spread over its circle of confusion, row by row, far layers first."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.kernel import kernel, leaf
from fotaxis.core.values import Array, Picture

SHARP_PX = 0.5
"""Circles of confusion below this radius are not seen."""


MOST_PX = 120.0


LAYERS = 10
"""Five depths behind the focus, the sharp ones, four before it: each reaches twice as far out of focus as the one before."""


SHARP_LAYER = 5


@leaf
def _half_run(radius: float, rows: int) -> float:
    """Half the width of a disc's run of pixels so many rows from its middle: the mean over the row's height."""
    total = 0.0
    for part in range(4):
        y = rows + (part - 1.5) * 0.25
        rest = radius * radius - y * y
        if rest > 0.0:
            total += math.sqrt(rest)
    return 0.25 * total


@kernel
def _discs(steps: int, per_px: int, rows: int) -> tuple[Array, NDArray[np.float32]]:
    """Of discs of radius i / per_px: the pixels they cover as they are spread, (steps,), and half their runs, (steps, rows)."""
    areas = np.ones(steps)
    runs = np.zeros((steps, rows), np.float32)
    for i in range(1, steps):
        for row in range(rows):
            runs[i, row] = _half_run(i / per_px, row)
        areas[i] = max(4.0 * runs[i].sum() - 2.0 * runs[i, 0], 1e-6)
    return areas, runs


PER_PX = 8


@leaf
def _add_run(line: Array, low: int, high: int, left: float, right: float, c: int, value: float) -> None:
    """Add a run from left to right (pixel edges, clipped to low..high) to a line of differences."""
    for side in range(2):
        edge = left if side == 0 else right
        sign = value if side == 0 else -value
        edge = min(max(edge, float(low)), float(high))
        i = int(edge)
        part = edge - i
        line[i, c] += sign * (1.0 - part)
        line[i + 1, c] += sign * part


@leaf
def _fill_own(over: Array, low: int, high: int, pictures: Picture, y: int, whole: NDArray[np.bool_]) -> None:
    """Within one surface nothing lies behind: what of it is nearer than the focus lets through its own light, not what is beside."""
    channels = over.shape[1] - 1
    for x in range(low, high):
        if over[x, channels] > 0.5 or not whole[y // TILE, x // TILE]:
            continue
        over[x, channels] = 1.0
        for c in range(channels):
            over[x, c] = pictures[c // 3, y, x, c % 3]


@leaf
def _fill(over: Array, low: int, high: int, channels: int) -> None:
    """What lies behind things before the focus is not in the picture: taken from beside them in the row, nearest most."""
    begin = low
    while begin < high:
        if over[begin, channels] > 0.5:
            begin += 1
            continue
        end = begin
        while end < high and over[end, channels] <= 0.5:
            end += 1
        before, behind = begin > low, end < high
        if before or behind:
            for x in range(begin, end):
                part = (x - begin + 1.0) / (end - begin + 1.0) if before and behind else (0.0 if before else 1.0)
                for c in range(channels + 1):
                    a = over[begin - 1, c] if before else 0.0
                    b = over[end, c] if behind else 0.0
                    over[x, c] = a * (1.0 - part) + b * part
        begin = end


class Circles(NamedTuple):
    """Circle of confusion of every pixel (h, w), its layer of depth (h, w), how far each row of a layer reaches (layers, h), pixels,
    and tiles within reach of which depth changes by one layer at most.
    """

    radius: NDArray[np.float32]
    layer: NDArray[np.int8]
    reach: NDArray[np.int64]
    whole: NDArray[np.bool_]


class Discs(NamedTuple):
    """Areas of discs by radius, and half their width by distance from the middle, see _discs."""

    areas: Array
    runs: NDArray[np.float32]


@kernel
def blur_rows(
    pictures: Picture, circles: Circles, discs: Discs, busy: NDArray[np.bool_], last: int, begin: int, end: int, out: Picture
) -> None:
    radius, layer, reach, whole = circles
    areas, runs = discs
    farthest = 0
    for depth in range(LAYERS):
        for y in range(reach.shape[1]):
            farthest = max(farthest, reach[depth, y])
    count, height, width = pictures.shape[0], pictures.shape[1], pictures.shape[2]
    channels = count * 3
    line = np.zeros((width + 2, channels + 1))
    over = np.zeros((width, channels + 1))
    for y in range(begin, end):
        low, high = width, -1
        for x in range(width):
            if busy[y // TILE, x // TILE]:
                low, high = min(low, x), x
        for i in range(count):
            for x in range(width):
                for c in range(3):
                    out[i, y, x, c] = pictures[i, y, x, c]
        if high < 0:
            continue
        # Only what can reach the busy part of the row is spread.
        left, right = max(0, low - farthest), min(width, high + 1 + farthest)
        over[:] = 0.0
        for depth in range(last):
            if depth == SHARP_LAYER + 1:
                _fill_own(over, left, right, pictures, y, whole)
                _fill(over, left, right, channels)
            some = False
            for source in range(height):
                away = abs(source - y)
                if away > reach[depth, source]:
                    continue
                for x in range(left, right):
                    if layer[source, x] != depth:
                        continue
                    size = abs(radius[source, x])
                    half, weight = 0.5, 1.0
                    if depth == SHARP_LAYER:
                        if away > 0:
                            continue
                    else:
                        step = int(size * PER_PX + 0.5)
                        half = runs[step, away]
                        if half <= 0.0:
                            continue
                        weight = 1.0 / areas[step]
                    if not some:
                        some = True
                        line[:] = 0.0
                    middle = x + 0.5
                    _add_run(line, left, right, middle - half, middle + half, channels, weight)
                    for i in range(count):
                        for c in range(3):
                            value = pictures[i, source, x, c]
                            if value != 0.0:
                                _add_run(line, left, right, middle - half, middle + half, i * 3 + c, weight * value)
            if not some:
                continue
            for x in range(left, right):
                if x > left:
                    for c in range(channels + 1):
                        line[x, c] += line[x - 1, c]
                covers = line[x, channels]
                if covers <= 1e-6:
                    continue
                # What lies farthest goes on behind what hides it; what is nearer covers as much as reaches here.
                share = min(1.0, covers) if over[x, channels] > 0.0 else min(1.0, 20.0 * covers)
                for c in range(channels):
                    over[x, c] = over[x, c] * (1.0 - share) + share * line[x, c] / covers
                over[x, channels] = over[x, channels] * (1.0 - share) + share
        for x in range(low, high + 1):
            if not busy[y // TILE, x // TILE]:
                continue
            covers = max(over[x, channels], 1e-6)
            for i in range(count):
                for c in range(3):
                    out[i, y, x, c] = over[x, i * 3 + c] / covers


TILE = 8


@lru_cache(maxsize=1)
def disc_table() -> Discs:
    return Discs(*_discs(int(MOST_PX * PER_PX) + 2, PER_PX, int(MOST_PX) + 2))
