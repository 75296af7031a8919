"""Things before and behind the plane of focus, spread over their circles of confusion.

A pixel's light is spread over a disc as wide as its circle. Pixels are parted by how far out of focus they are and laid
over one another from the far to the near, each by how much of a place it covers: a sharp edge stays sharp before a soft
background, and a soft edge lets through what is behind.
"""

from __future__ import annotations

import math
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter, minimum_filter

from fotaxis.core.kernel import kernel, leaf
from fotaxis.core.values import Array, Picture

SHARP_PX = 0.5
"""Circles of confusion below this radius are not seen."""

MOST_PX = 120.0
LAYERS = 10
"""Five depths behind the focus, the sharp ones, four before it: each reaches twice as far out of focus as the one before."""
SHARP_LAYER = 5


def circle_radius_px(
    depth_m: NDArray[np.floating], *, focal_length_m: float, f_number: float, focus_m: float, pixel_m: float
) -> NDArray[np.float32]:
    """Radius of the circle of confusion of things at a depth, pixels; below 0 before the plane of focus, same shape.

        c = f / N * f / (d - f) * (z - d) / z        z depth, d focus, both from the lens along its axis; radius c / 2

    depth inf is allowed.  Source: thin-lens geometry.
    """
    most = focal_length_m / f_number * focal_length_m / (focus_m - focal_length_m) / 2 / pixel_m
    out = np.empty(depth_m.shape, np.float32)
    _radii(np.ascontiguousarray(depth_m, np.float32).ravel(), most, focus_m, out.ravel())
    return out


@kernel
def _radii(depth: NDArray[np.float32], most: float, focus: float, out: NDArray[np.float32]) -> None:
    for i in range(depth.shape[0]):
        off = 1.0 - focus / max(float(depth[i]), 1e-3)
        out[i] = min(max(most * off, -MOST_PX), MOST_PX)


@kernel
def _layers(radius: NDArray[np.float32], layer: NDArray[np.int8], reach: NDArray[np.int64]) -> None:
    for y in range(radius.shape[0]):
        for x in range(radius.shape[1]):
            size = abs(radius[y, x])
            depth = SHARP_LAYER
            if size >= SHARP_PX:
                step = 0
                limit = 2.0 * SHARP_PX
                while size >= limit and step < SHARP_LAYER - 1:
                    step += 1
                    limit *= 2.0
                depth = SHARP_LAYER - 1 - step if radius[y, x] > 0.0 else min(SHARP_LAYER + 1 + step, LAYERS - 1)
            layer[y, x] = depth
            reach[depth, y] = max(reach[depth, y], math.ceil(size + 0.5))


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


@kernel
def _blur_rows(
    pictures: Picture, radius: NDArray[np.float32], layer: NDArray[np.int8], reach: NDArray[np.int64], areas: Array,
    runs: NDArray[np.float32], busy: NDArray[np.bool_], last: int, begin: int, end: int, out: Picture,
) -> None:  # fmt: skip
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
CHANGED, DIM = 0.01, 0.001
"""Where spreading changes a picture by less than these parts of its brightest, there and anywhere, it looks the same spread or not."""


@leaf
def _bend(value: float, gap: int, last: Array, most: int) -> float:
    """How far a value lies off the straight line of those before it, per pixel of the gap since; 0 across more than `most`.

    last (3,): the last value, the slope there, 1 when it is known; brought up to date.
    """
    bend = 0.0
    if gap <= most and last[2] > 0.0:
        bend = abs(value - last[0] - last[1] * gap) / gap
    last[2] = 1.0 if gap == 1 or (gap <= most and last[2] > 0.0) else 0.0
    if gap == 1:
        last[1] = value - last[0]
    last[0] = value
    return bend


@kernel
def _tile_bends(
    pictures: Picture, layer: NDArray[np.int8], step: int, most: int, bends: NDArray[np.float32], tops: NDArray[np.float32]
) -> None:
    """The sharpest bend across and down and the brightest of what is not sharp in every tile, (rows, columns, n) each.

    Of every step-th pixel; tiles are of TILE x TILE of those.
    """
    count, height, width = pictures.shape[0], -(-pictures.shape[1] // step), -(-pictures.shape[2] // step)
    last = np.empty(3)
    for i in range(count):
        for down in range(2):
            for a in range(width if down else height):
                last[:] = 0.0
                before = -2 * most
                for b in range(height if down else width):
                    y, x = (b, a) if down else (a, b)
                    j, k = y * step, x * step
                    if layer[j, k] == SHARP_LAYER:
                        continue
                    value = pictures[i, j, k, 0] + pictures[i, j, k, 1] + pictures[i, j, k, 2]
                    bend = _bend(value, b - before, last, most)
                    before = b
                    ty, tx = y // TILE, x // TILE
                    bends[ty, tx, i] = max(bends[ty, tx, i], np.float32(bend))
                    tops[ty, tx, i] = max(tops[ty, tx, i], value)


@kernel
def _tile_depths(layer: NDArray[np.int8], depths: NDArray[np.int8]) -> None:
    """The far- and nearmost depth in every tile, (rows, columns, 2)."""
    depths[..., 0], depths[..., 1] = LAYERS, -1
    for y in range(layer.shape[0]):
        for x in range(layer.shape[1]):
            ty, tx = y // TILE, x // TILE
            depths[ty, tx, 0] = min(depths[ty, tx, 0], layer[y, x])
            depths[ty, tx, 1] = max(depths[ty, tx, 1], layer[y, x])


@lru_cache(maxsize=1)
def _disc_table() -> tuple[Array, NDArray[np.float32]]:
    return _discs(int(MOST_PX * PER_PX) + 2, PER_PX, int(MOST_PX) + 2)


@kernel
def _halve_radius(radius: NDArray[np.float32], out: NDArray[np.float32]) -> None:
    """Half the radius of what lies behind the focus, in pixels twice as wide; 0 where nothing does."""
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            total, count = 0.0, 0
            for j in range(2 * y, min(radius.shape[0], 2 * y + 2)):
                for i in range(2 * x, min(radius.shape[1], 2 * x + 2)):
                    if radius[j, i] >= SHARP_PX:
                        total += radius[j, i]
                        count += 1
            out[y, x] = max(SHARP_PX, 0.5 * total / count) if count else 0.0


@kernel
def _halve(picture: NDArray[np.float32], radius: NDArray[np.float32], begin: int, end: int, out: Picture) -> None:
    """Rows begin..end of a picture of half the size: the mean of what lies behind the focus."""
    for y in range(begin, end):
        for x in range(out.shape[2]):
            red = green = blue = np.float32(0.0)
            count = 0
            for j in range(2 * y, min(picture.shape[0], 2 * y + 2)):
                for i in range(2 * x, min(picture.shape[1], 2 * x + 2)):
                    if radius[j, i] >= SHARP_PX:
                        red += picture[j, i, 0]
                        green += picture[j, i, 1]
                        blue += picture[j, i, 2]
                        count += 1
            scale = np.float32(1.0 / max(count, 1))
            out[0, y, x, 0], out[0, y, x, 1], out[0, y, x, 2] = red * scale, green * scale, blue * scale


@kernel
def _join(
    picture: NDArray[np.float32], radius: NDArray[np.float32], half: Picture, half_radius: NDArray[np.float32],
    busy: NDArray[np.bool_], begin: int, end: int, out: NDArray[np.float32],
) -> None:  # fmt: skip
    """Rows begin..end: what lies behind, in busy tiles, from the spread picture of half the size; all else is left alone."""
    rows, columns = half.shape[1], half.shape[2]
    for y in range(begin, end):
        b = min(max(0.5 * y - 0.25, 0.0), rows - 1.0)
        r = min(int(b), max(rows - 2, 0))
        b -= r
        for x in range(picture.shape[1]):
            if not busy[y // (2 * TILE), x // (2 * TILE)] or radius[y, x] < SHARP_PX:
                continue
            a = min(max(0.5 * x - 0.25, 0.0), columns - 1.0)
            q = min(int(a), max(columns - 2, 0))
            a -= q
            red = green = blue = whole = 0.0
            for j in range(2):
                for i in range(2):
                    v, u = min(r + j, rows - 1), min(q + i, columns - 1)
                    weight = (b if j else 1.0 - b) * (a if i else 1.0 - a)
                    if weight <= 0.0 or half_radius[v, u] <= 0.0:
                        continue
                    whole += weight
                    red += weight * half[0, v, u, 0]
                    green += weight * half[0, v, u, 1]
                    blue += weight * half[0, v, u, 2]
            if whole <= 0.0:
                red, green, blue, whole = picture[y, x, 0], picture[y, x, 1], picture[y, x, 2], 1.0
            out[y, x, 0], out[y, x, 1], out[y, x, 2] = red / whole, green / whole, blue / whole


class Defocus:
    """Spreads pictures over circles of confusion of given radii (height, width) float32, pixels, see circle_radius_px."""

    def __init__(self, radius: NDArray[np.float32]) -> None:
        self.radius = radius
        self._layer: NDArray[np.int8] = np.empty(radius.shape, np.int8)
        self._reach = np.full((LAYERS, len(radius)), -1)
        _layers(radius, self._layer, self._reach)

    @property
    def needed(self) -> bool:
        """Is anything out of focus by more than can be seen?"""
        return bool(self._reach[:SHARP_LAYER].max() > 0 or self._reach[SHARP_LAYER + 1 :].max() > 0)

    @property
    def only_behind(self) -> bool:
        """Is everything that is out of focus behind it?"""
        return bool(self._reach[SHARP_LAYER + 1 :].max() <= 0)

    @cached_property
    def half(self) -> Defocus:
        """The same for a picture of half the size, of what lies behind the focus alone."""
        height, width = self.radius.shape
        radius = np.empty(((height + 1) // 2, (width + 1) // 2), np.float32)
        _halve_radius(self.radius, radius)
        return Defocus(radius)

    def behind_rows(
        self, picture: NDArray[np.float32], small: Picture, busy: NDArray[np.bool_], begin: int, end: int, out: Picture
    ) -> None:
        """Rows begin..end of a picture (h, w, 3) at half its size, what lies behind the focus alone, spread where it is busy, to
        out (1, h / 2, w / 2, 3). small, alike: scratch space of the caller's own."""
        half = self.half
        far = half.reach_px
        _halve(picture, self.radius, max(0, begin - far), min(small.shape[1], end + far), small)
        _blur_rows(small, half.radius, half._layer, half._reach, *_disc_table(), busy, SHARP_LAYER, begin, end, out)

    def join(
        self,
        picture: NDArray[np.float32],
        soft: Picture,
        busy: NDArray[np.bool_],
        begin: int,
        end: int,
        out: NDArray[np.float32],
    ) -> None:
        """Put what lies behind into rows begin..end of out (h, w, 3), a copy of a picture, from its spread half, where it is busy."""
        _join(picture, self.radius, soft, self.half.radius, busy, begin, end, out)

    @cached_property
    def reach_px(self) -> int:
        """How far the widest circle reaches."""
        return int(self._reach.max())

    @cached_property
    def _among(self) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
        """Tiles within reach of which something lies behind the focus, and of which what lies before it reaches over others."""
        height, width = self._layer.shape
        depths = np.empty((-(-height // TILE), -(-width // TILE), 2), np.int8)
        _tile_depths(self._layer, depths)
        size = self._tiles_within
        far, near = minimum_filter(depths[..., 0], size), maximum_filter(depths[..., 1], size)
        return far < SHARP_LAYER, (far != near) & (near > SHARP_LAYER)

    @property
    def _tiles_within(self) -> int:
        return 2 * -(-self.reach_px // TILE) + 1

    def busy(self, pictures: Picture) -> NDArray[np.bool_]:
        """Tiles of TILE x TILE pixels of pictures (n, height, width, 3) that spreading may change.

        A disc of radius r changes what is smooth by r^2 / 8 times its second derivatives, an edge by half its height at most.
        """
        return self._busy(pictures, self._layer, 1)

    def half_busy(self, picture: NDArray[np.float32]) -> NDArray[np.bool_]:
        """Tiles of a picture (h, w, 3) at half its size that spreading may change, seen by every other pixel of it."""
        return self.half._busy(picture[None], self._layer, 2)

    def _busy(self, pictures: Picture, layer: NDArray[np.int8], step: int) -> NDArray[np.bool_]:
        """As busy, of every step-th pixel of larger pictures and their layers."""
        behind, before = self._among
        bends = np.zeros((*behind.shape, len(pictures)), np.float32)
        tops = np.zeros_like(bends)
        _tile_bends(pictures, layer, step, 2 * self.reach_px, bends, tops)
        size = self._tiles_within
        brightest = tops.max(axis=(0, 1), initial=0.0)
        limit = CHANGED * maximum_filter(tops, (size, size, 1)) + DIM * brightest
        change = maximum_filter(bends, (size, size, 1)) * max(0.5, self.reach_px**2 / 8)
        # What is even behind sharp things stays as it is; things before the focus reach over what is behind them.
        busy: NDArray[np.bool_] = ((change > limit).any(axis=2) & behind) | before
        return busy

    def rows(self, pictures: Picture, busy: NDArray[np.bool_], begin: int, end: int, out: Picture) -> None:
        """Rows begin..end of pictures (n, height, width, 3), spread where it is busy, to out of the same shape."""
        _blur_rows(pictures, self.radius, self._layer, self._reach, *_disc_table(), busy, LAYERS, begin, end, out)
