"""Which pixels the lens's opening makes soft, and how what is out of focus is cleaned of grain."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import correlate1d, maximum_filter, minimum_filter

from fotaxis.core.columns import SEGMENT
from fotaxis.core.kernel import kernel
from fotaxis.core.render.arrays.emitters import Emitters
from fotaxis.core.render.arrays.path_records import TracedPaths
from fotaxis.core.render.final.edges import EDGE_FLOOR
from fotaxis.core.render.final.sampling import BAYER, HARDLY_SPLIT, Sampler
from fotaxis.core.render.lens.defocus import Defocus
from fotaxis.core.render.lens.discs import TILE
from fotaxis.core.render.lens.through_lens import circles_of, meets
from fotaxis.core.render.parallel import in_bands
from fotaxis.core.render.shading.first_hits import NO_FIRST_HITS, nearest_emitter
from fotaxis.core.values import Array, Picture

LEAST_SHARE = 0.02
"""What carries less of a pixel does not make it soft."""

PAIRS, RIM = 2, 0.85
"""Pairs of opposite places in the lens's opening, so far from its middle, that tell whether it makes a pixel soft: what changes
evenly across it stays as it is."""

AROUND = 5
"""Pixels each way around, its own among them, whose samples speak for a pixel."""

SOFTENED, SOFTENED_IN_GLASS = 0.02, 0.06
"""A pixel is soft where a pair's mean differs by more than this part from what it shows through a pin's opening."""

TRIED_CUT = 0.006
"""As trace.CUT, of those pairs."""

SLIGHT_PX = 1.5
"""Circles of confusion below this radius take no more samples than an edge."""

TENTS = ((3.5, np.array([1.0, 2.0, 1.0]) / 4), (8.0, np.array([1.0, 2.0, 2.0, 2.0, 1.0]) / 8))
"""From what radius of its circle of confusion, in pixels, a pixel is averaged with those about it, and how: over two or four each
way, the two at the ends look through places of one kind; so narrow that it does not show."""


@kernel
def _farthest(
    emitters: Emitters, segments: NDArray[np.float32], starts: NDArray[np.int64], begin: int, end: int, out: NDArray[np.float32]
) -> None:  # fmt: skip
    count = emitters.light.shape[0]
    everything = np.empty(0, np.int64)
    for p in range(begin, end):
        first = starts[p]
        out[p] = 0.0
        if first >= starts[p + 1]:
            continue
        length = float(segments[first, SEGMENT.LENGTH])
        if not length < math.inf:
            continue
        x = segments[first, SEGMENT.OX] + length * segments[first, SEGMENT.DX]
        y = segments[first, SEGMENT.OY] + length * segments[first, SEGMENT.DY]
        z = segments[first, SEGMENT.OZ] + length * segments[first, SEGMENT.DZ]
        for n in range(first + 1, starts[p + 1]):
            weight = max(segments[n, SEGMENT.RED], max(segments[n, SEGMENT.GREEN], segments[n, SEGMENT.BLUE]))
            if weight < LEAST_SHARE:
                continue
            _, _, _, t = nearest_emitter(emitters, count, everything, NO_FIRST_HITS, segments, n, False)
            if t < math.inf:
                dx, dy, dz = segments[n, SEGMENT.OX] - x, segments[n, SEGMENT.OY] - y, segments[n, SEGMENT.OZ] - z
                out[p] = max(out[p], length + math.sqrt(dx * dx + dy * dy + dz * dz) + t)


def _farthest_seen(emitters: Emitters, traced: TracedPaths) -> NDArray[np.float32]:
    """How far off the farthest is that each pixel of a traced picture shows by way of a mirror or glass, metres along the way; 0 for
    nothing."""
    out = np.empty(len(traced.starts) - 1, np.float32)
    in_bands(lambda a, b: _farthest(emitters, traced.segments, traced.starts, a, b, out), len(out))
    return out


@dataclass(frozen=True, slots=True, kw_only=True)
class Soft:
    """Pixels that the lens's opening makes soft, the least radius of a circle of confusion in and next to each, pixels, and where
    all are slight; (height, width)."""

    pixels: NDArray[np.bool_]
    radius: NDArray[np.float32]
    slight: NDArray[np.bool_]

    @property
    def shared(self) -> NDArray[np.bool_]:
        """Soft pixels where nothing is in focus: they cover the opening together with those about them."""
        return self.pixels & (self.radius >= TENTS[0][0])

    def cleaned(self, flat: Picture) -> Picture:
        """Layers (1 + lights, pixels, 3) in which pixels that cover the opening together share what they saw."""
        shape = self.pixels.shape
        layers = flat.reshape(-1, *shape, 3)
        out = layers.copy()
        for least, tent in TENTS:
            # Not where the mean would lack one side: it would move the picture to the other.
            inside = minimum_filter(self.radius >= least, len(tent), mode="constant")
            some = self.pixels & inside
            for layer, mean in zip(layers, out, strict=True):
                for c in range(3):
                    mean[some, c] = _around(layer[..., c], tent)[some]
        return out.reshape(flat.shape)


def _around(values: NDArray[np.float32], tent: Array) -> NDArray[np.float32]:
    """Means across and down; nothing lies outside."""
    across: NDArray[np.float32] = correlate1d(values, tent, axis=1, mode="constant")
    down: NDArray[np.float32] = correlate1d(across, tent, axis=0, mode="constant")
    return down


def soft_pixels(sampler: Sampler, flat: Picture) -> Soft | None:
    """Where the opening of the lens changes a picture (1 + lights, pixels, 3) made through a pin's; None where nowhere."""
    fine = sampler.fine
    plan, stage = fine.plan, fine.stage
    if plan.camera.focus_m is None:
        return None
    shape = stage.height, stage.width
    near = meets(plan, fine.lit, stage.traced).depth
    far = np.maximum(_farthest_seen(fine.lit.emitters, stage.traced), np.where(np.isfinite(near), near, 0))

    depths = near, np.where(far > 0, far, near)
    circles = [circles_of(plan, depth, width=stage.width, height=stage.height) for depth in depths]
    pictures = flat.reshape(-1, *shape, 3)
    busy = np.zeros(shape, bool)
    for circle in circles:
        spread = Defocus(circle)
        if spread.needed:
            tiles = np.repeat(np.repeat(spread.busy(pictures), TILE, axis=0), TILE, axis=1)
            busy |= tiles[: shape[0], : shape[1]]
    tried = np.flatnonzero(busy)
    if not len(tried):
        return None
    soft = np.zeros(shape, bool)
    soft.ravel()[tried[_differs(sampler, flat, tried)]] = True
    pixels = maximum_filter(soft, AROUND) & busy
    low, high = np.minimum(*np.abs(circles)), np.maximum(*np.abs(circles))
    slight = maximum_filter(high, AROUND) < SLIGHT_PX
    return Soft(pixels=pixels, radius=minimum_filter(low, 3), slight=slight)


TRIED_AT_ONCE = 50_000


def _differs(sampler: Sampler, flat: Picture, pixels: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Which of some pixels look otherwise over the lens's opening than through a pin's."""
    out = np.zeros(len(pixels), bool)
    floor = EDGE_FLOOR * np.maximum(flat.sum(axis=2).max(axis=1, initial=0.0), 1e-20)
    width, starts = sampler.fine.stage.width, sampler.fine.stage.traced.starts
    begins = range(0, len(pixels), TRIED_AT_ONCE // PAIRS)
    apart = np.arange(2 * PAIRS) * math.pi / PAIRS

    def work(first: int, last: int) -> None:
        for begin in begins[first:last]:
            some = pixels[begin : begin + begins.step]
            x, y = some % width, some // width
            angle = (BAYER[y % 4, x % 4] * (math.pi / PAIRS / BAYER.size))[:, None] + apart
            places = np.empty((len(some), 2 * PAIRS, 4))
            places[..., 0], places[..., 1] = (x + 0.5)[:, None], (y + 0.5)[:, None]
            places[..., 2], places[..., 3] = RIM * np.cos(angle), RIM * np.sin(angle)
            seen = sampler.at(places.reshape(-1, 4), 1, TRIED_CUT).reshape(len(flat), len(some), 2, PAIRS, 3).sum(axis=4)
            own = flat[:, some].sum(axis=2)[:, :, None]
            split = np.diff(starts)[some] > HARDLY_SPLIT
            part = np.where(split, SOFTENED_IN_GLASS, SOFTENED)[None, :, None]
            limit = part * np.maximum(seen.max(axis=2), own) + floor[:, None, None]
            out[begin : begin + len(some)] = (np.abs(seen.mean(axis=2) - own) > limit).any(axis=(0, 2))

    in_bands(work, len(begins), least=1)
    return out
