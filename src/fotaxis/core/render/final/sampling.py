"""Pixels of a picture at rest sampled again: several places in each, through the middle of the lens or all over its opening."""

from __future__ import annotations

import math
import threading
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.kernel import kernel
from fotaxis.core.render.arrays.path_records import TracedPaths
from fotaxis.core.render.final.edges import EDGE_FLOOR, MUCH
from fotaxis.core.render.final.final_shading import FinalShading
from fotaxis.core.render.lens.haze_field import HazeField
from fotaxis.core.render.lens.through_lens import meets
from fotaxis.core.render.parallel import in_bands
from fotaxis.core.render.passes import polarised, shaded, trace_samples
from fotaxis.core.values import GOLDEN_ANGLE, Array, Picture, lattice

EDGE_CUT = 0.0015
"""As trace.CUT, for samples of edge pixels: what two clear surfaces mirror one after the other is still above it."""

MIXED = 6
"""Lots are taken in an order that mixes their kinds: those in glass cost most, and no processor is to be left with them at the end."""

LENS_CUT = 0.003
"""As trace.CUT, for samples all over the lens's opening: what they show is soft, and they are many."""

HARDLY_SPLIT = 4
"""Paths with at most so many segments cost little to follow."""

Opening = Literal["middle", "whole", "shared"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Lot:
    """Some pixels (p,), how many samples of each, how many more where these differ much, and how they look through the lens.

    opening: through its middle, all over it, or all over it by 4 x 4 pixels together, which are to be averaged.
    """

    pixels: NDArray[np.int64]
    samples: int
    more: int = 0
    opening: Opening = "middle"


def lots(chosen: NDArray[np.bool_], at_once: int, samples: int, *, more: int = 0, opening: Opening = "middle") -> list[Lot]:
    """Chosen pixels in lots of so many samples, one a core."""
    pixels = np.flatnonzero(chosen)
    each = max(1, at_once // max(samples, 1))
    return [
        Lot(pixels=pixels[begin : begin + each], samples=samples, more=more, opening=opening)
        for begin in range(0, len(pixels), each)
    ]


BAYER = np.array([[0, 8, 2, 10], [12, 4, 14, 6], [3, 11, 1, 9], [15, 7, 13, 5]])
"""Turns of the pixels of four rows and columns: of any two rows and columns they are spread evenly too.   Source: Bayer 1973."""


def through_opening(pixels: NDArray[np.int64], count: int, *, width: int, shared: bool) -> Array:
    """Samples of pixels (p,) and of the lens's opening, one pixel's after the other's, (p * count, 4), see trace.

    shared: each of 4 x 4 pixels looks through other places of the opening; together they cover it so much closer.
    Source: spiral of even density, Vogel 1979; interleaved sampling, Keller & Heidrich 2001.
    """
    x, y = pixels % width, pixels // width
    turn = BAYER[y % 4, x % 4][:, None] if shared else np.full((len(pixels), 1), 7.5)
    step = next(n for n in (7, 5, 3, 1) if math.gcd(n, count) == 1)
    place = np.arange(count) * step % count  # not in the row of the places in the pixel
    off = np.sqrt((place + (turn + 0.5) / BAYER.size) / count)
    angle = place * GOLDEN_ANGLE + (turn - 7.5) * GOLDEN_ANGLE
    return np.column_stack(
        [_within(pixels, count, width=width), (off * np.cos(angle)).ravel(), (off * np.sin(angle)).ravel()]
    )


@dataclass(frozen=True, kw_only=True)
class Sampler:
    """Samples a picture at rest: with its light, and what haze before it adds."""

    fine: FinalShading
    haze: HazeField | None

    def hazed(self, traced: TracedPaths, flat: Picture, places: NDArray[np.float32]) -> Picture:
        """Samples (n, samples, 3) behind the haze, if there is any; places (samples, 2): 0..1 to the right and down."""
        if self.haze is None:
            return flat
        return self.haze.applied(flat, places, meets(self.fine.plan, self.fine.lit, traced).depth)

    def at(self, places: Array, each: int, cut: float = EDGE_CUT) -> Picture:
        """Samples (s, 2) or (s, 4) of the picture, see trace, so many of each pixel: (1 + lights, s, 3)."""
        fine = self.fine
        stage, plan = fine.stage, fine.plan
        traced = trace_samples(plan, stage.scene, places, stage.width, stage.height, cut=cut, each=each)
        shown = fine.shown(traced, at_hits=False)
        middle = places.shape[1] == 2
        flat, _ = shaded(fine.lit, polarised(plan, traced), shown, from_camera=middle)
        return self.hazed(traced, flat, (places[:, :2] / (stage.width, stage.height)).astype(np.float32))

    def run(self, flat: Picture, todo: list[Lot], begin: float, end: float) -> None:
        """Sample the pixels of some lots again, into flat (1 + lights, pixels, 3); begin, end: parts of the work done before and
        after."""
        whole = sum(len(lot.pixels) * (lot.samples + lot.more) for lot in todo)
        todo = [lot for first in range(MIXED) for lot in todo[first::MIXED]]
        done, turn = 0, threading.Lock()

        def work(first: int, last: int) -> None:
            nonlocal done
            for lot in todo[first:last]:
                with turn:
                    self.fine.check(begin + (end - begin) * done / whole)
                flat[:, lot.pixels] = self._smoothed(lot)
                with turn:
                    done += len(lot.pixels) * (lot.samples + lot.more)

        in_bands(work, len(todo), least=1)

    def _smoothed(self, lot: Lot) -> Picture:
        """Mean over samples in each pixel, with more beside them where these differ much, (1 + lights, pixels, 3)."""
        width = self.fine.stage.width
        if lot.opening != "middle":
            places = through_opening(lot.pixels, lot.samples, width=width, shared=lot.opening == "shared")
            return sample_means(self.at(places, lot.samples, LENS_CUT), lot.samples)[0]
        mean, span = sample_means(self.at(_within(lot.pixels, lot.samples, width=width), lot.samples), lot.samples)
        if not lot.more:
            return mean
        whole = mean.sum(axis=2)
        floor = EDGE_FLOOR * np.maximum(whole.max(axis=1, initial=0.0), 1e-20)
        rough = np.flatnonzero((span > MUCH * whole + floor[:, None]).any(axis=0))
        if len(rough):
            others, _ = sample_means(self.at(_within(lot.pixels[rough], lot.more, width=width), lot.more), lot.more)
            mean[:, rough] = (lot.samples * mean[:, rough] + lot.more * others) / np.float32(lot.samples + lot.more)
        return mean


def _within(pixels: NDArray[np.int64], count: int, *, width: int) -> Array:
    """Places on a lattice in each pixel, one pixel's after the other's, (pixels * count, 2)."""
    ox, oy = lattice(count)
    x, y = (pixels % width)[:, None] + ox, (pixels // width)[:, None] + oy
    return np.stack([x.ravel(), y.ravel()], axis=1)


@kernel
def _sample_means(flat: Picture, count: int, mean: Picture, span: NDArray[np.float32]) -> None:
    for i in range(mean.shape[0]):
        for p in range(mean.shape[1]):
            red = green = blue = np.float32(0.0)
            low, high = np.float32(np.inf), np.float32(-np.inf)
            for n in range(p * count, (p + 1) * count):
                r, g, b = flat[i, n, 0], flat[i, n, 1], flat[i, n, 2]
                red += r
                green += g
                blue += b
                low, high = min(low, r + g + b), max(high, r + g + b)
            mean[i, p, 0], mean[i, p, 1], mean[i, p, 2] = red / count, green / count, blue / count
            span[i, p] = high - low


def sample_means(flat: Picture, count: int) -> tuple[Picture, NDArray[np.float32]]:
    """Means of `count` samples each of layers (n, pixels * count, 3), and between what the sums of their channels lie: (n, pixels, 3)
    and (n, pixels)."""
    mean = np.empty((len(flat), flat.shape[1] // count, 3), np.float32)
    span = np.empty(mean.shape[:2], np.float32)
    _sample_means(flat, count, mean, span)
    return mean, span
