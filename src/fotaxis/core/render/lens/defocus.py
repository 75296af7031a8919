"""Things before and behind the plane of focus, spread over their circles of confusion.

A pixel's light is spread over a disc as wide as its circle. Pixels are parted by how far out of focus they are and laid
over one another from the far to the near, each by how much of a place it covers: a sharp edge stays sharp before a soft
background, and a soft edge lets through what is behind.
"""

from __future__ import annotations

import math
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter, minimum_filter

from fotaxis.core.kernel import kernel, leaf
from fotaxis.core.render.lens.discs import LAYERS, MOST_PX, SHARP_LAYER, SHARP_PX, TILE, Circles, blur_rows, disc_table
from fotaxis.core.values import Array, Picture


def circle_radius_px(
    depth_m: NDArray[np.floating], *, focal_length_m: float, f_number: float, focus_per_m: float | Array, image_m: float,
    pixel_m: float,
) -> NDArray[np.float32]:  # fmt: skip
    """Radius of the circle of confusion of things at a depth, pixels; below 0 before the plane of focus, same shape.

        c = f / N * v * (1 / d - 1 / z)        z depth, d focus there, v sensor, all from the lens along its axis; radius c / 2

    focus_per_m: 1 / d, one for all or one for each depth.

    depth inf is allowed.  Source: thin-lens geometry.
    """
    most = focal_length_m / f_number * image_m / 2 / pixel_m
    out = np.empty(depth_m.shape, np.float32)
    near = np.broadcast_to(np.asarray(focus_per_m, np.float32), depth_m.shape)
    _radii(np.ascontiguousarray(depth_m, np.float32).ravel(), most, np.ascontiguousarray(near).ravel(), out.ravel())
    return out


@kernel
def _radii(depth: NDArray[np.float32], most: float, focus: NDArray[np.float32], out: NDArray[np.float32]) -> None:
    for i in range(depth.shape[0]):
        off = float(focus[i]) - 1.0 / max(float(depth[i]), 1e-3)
        out[i] = min(max(most * off, -MOST_PX), MOST_PX)


@kernel
def least_around(radius: NDArray[np.float32]) -> NDArray[np.float32]:
    """The radius of what is sharpest in 3 x 3 pixels: an edge pixel shows a part of what its middle missed, which must not be spread
    with what lies behind it."""
    height, width = radius.shape
    out = np.empty_like(radius)
    for y in range(height):
        for x in range(width):
            best = radius[y, x]
            for j in range(max(0, y - 1), min(height, y + 2)):
                for i in range(max(0, x - 1), min(width, x + 2)):
                    if abs(radius[j, i]) < abs(best):
                        best = radius[j, i]
            out[y, x] = best
    return out


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
        blur_rows(small, half._circles, disc_table(), busy, SHARP_LAYER, begin, end, out)

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
    def _depths(self) -> tuple[NDArray[np.int8], NDArray[np.int8]]:
        """The farthest and the nearest layer within reach of every tile."""
        height, width = self._layer.shape
        depths = np.empty((-(-height // TILE), -(-width // TILE), 2), np.int8)
        _tile_depths(self._layer, depths)
        size = self._tiles_within
        return minimum_filter(depths[..., 0], size), maximum_filter(depths[..., 1], size)

    @cached_property
    def _among(self) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
        """Tiles within reach of which something lies behind the focus, and of which what lies before it reaches over others."""
        far, near = self._depths
        return far < SHARP_LAYER, (far != near) & (near > SHARP_LAYER)

    @cached_property
    def _circles(self) -> Circles:
        far, near = self._depths
        return Circles(self.radius, self._layer, self._reach, near - far <= 1)

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
        blur_rows(pictures, self._circles, disc_table(), busy, LAYERS, begin, end, out)
