"""Haze behind the product: where light falls into it from behind it glows, and dims what lies beyond."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.camera.haze import Haze
from fotaxis.core.render.lens.single_scattering import HazeNodes, add_haze, scattered_light
from fotaxis.core.render.lighting import Lighting
from fotaxis.core.render.parallel import in_bands
from fotaxis.core.values import Array, Picture

STEPS = 6
NODES = 9
"""Haze is worked out at so many places across the shorter side of the picture, in so many steps through it."""

ROOM_PER_STERADIAN = 1 / math.pi
"""Even light of 1 lux on every plane comes in equally from everywhere, at this luminance."""


@dataclass(frozen=True, kw_only=True)
class HazeField:
    """Light scattered by haze up to each of its steps, at nodes of the picture: (steps + 1, rows, columns, 1 + lights, 3)."""

    haze: Haze
    aim_distance_m: float
    values: NDArray[np.float32]

    def part(self, depth: NDArray[np.float32]) -> NDArray[np.float32]:
        """How far through the haze something at a depth is seen, 0..1."""
        h = self.haze
        part: NDArray[np.float32] = np.clip((depth - self.aim_distance_m - h.begin_m) / (h.end_m - h.begin_m), 0, 1)
        return part.astype(np.float32)

    def applied(
        self, pictures: Picture, places: NDArray[np.float32], depth: NDArray[np.float32], weights: Array | None = None
    ) -> Picture:
        """Samples of pictures (n, samples, 3) seen through the haze.

        places (samples, 2): where in the picture, 0..1 to the right and down; depth (samples,): metres along the lens's axis;
        weights (1 + lights,): where n is 1, what each layer counts in it.
        """
        h = self.haze
        values = self.values
        if weights is not None:
            values = np.tensordot(values, weights.astype(np.float32), axes=(3, 0))[:, :, :, None, :]
        part = self.part(depth)
        out = np.empty_like(pictures)
        nodes = HazeNodes(np.ascontiguousarray(values), h.thickness_per_m * (h.end_m - h.begin_m))
        in_bands(lambda a, b: add_haze(pictures, places, part, nodes, a, b, out), len(part), least=4096)
        return out


@lru_cache(maxsize=4)
def pixel_places(width: int, height: int) -> NDArray[np.float32]:
    """Where in a picture its pixels' middles are, 0..1 to the right and down, (pixels, 2)."""
    y, x = np.mgrid[0:height, 0:width]
    places: NDArray[np.float32] = np.stack([(x + 0.5) / width, (y + 0.5) / height], axis=2).reshape(-1, 2).astype(np.float32)
    return places


def haze_field(
    haze: Haze, lit: Lighting, *, eye: Array, basis: tuple[Array, Array, Array], half_field: tuple[float, float],
    aim_distance_m: float, ratio: float,
) -> HazeField:  # fmt: skip
    """Light that haze scatters towards the lens over the picture, from every light and the room."""
    rows, columns = (round(NODES / ratio), NODES) if ratio <= 1 else (NODES, round(NODES * ratio))
    right, up, ahead = basis
    x = (2 * (np.arange(columns) + 0.5) / columns - 1) * half_field[0]
    y = (1 - 2 * (np.arange(rows) + 0.5) / rows) * half_field[1]
    rays = ahead + y[:, None, None] * up + x[None, :, None] * right
    step = (haze.end_m - haze.begin_m) / STEPS
    depths = aim_distance_m + haze.begin_m + (np.arange(STEPS) + 0.5) * step
    places = (eye + depths[:, None, None, None] * rays).reshape(-1, 3)
    arriving = np.zeros((len(places), max(lit.lights, 1), 3))
    if lit.lights:
        in_bands(
            lambda a, b: scattered_light(lit.scene, lit.emitters, lit.lights, eye, places, haze.forward, a, b, arriving),
            len(places), least=16,
        )  # fmt: skip
    by_step = arriving[:, : lit.lights].reshape(STEPS, rows, columns, lit.lights, 3)
    room = np.full((STEPS, rows, columns, 1, 3), ROOM_PER_STERADIAN)
    left = np.exp(-haze.thickness_per_m * step * (np.arange(STEPS) + 0.5))[:, None, None, None, None]
    longer = np.linalg.norm(rays, axis=2)[None, :, :, None, None]
    each = np.concatenate([room, by_step], axis=3) * left * haze.thickness_per_m * step * longer
    values = np.concatenate([np.zeros((1, *each.shape[1:])), np.cumsum(each, axis=0)])
    return HazeField(haze=haze, aim_distance_m=aim_distance_m, values=values.astype(np.float32))
