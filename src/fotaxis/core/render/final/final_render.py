"""The picture for a hand at rest: fine light on matte surfaces, edge pixels traced again several times."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from fotaxis.core.camera.camera import picture_size
from fotaxis.core.columns import GATHER
from fotaxis.core.kernel import kernel
from fotaxis.core.render.arrays.emitters import HAS_LOBE
from fotaxis.core.render.arrays.path_records import GLOSSY, TracedPaths
from fotaxis.core.render.final.caustics import Caustics, caustics
from fotaxis.core.render.final.edges import EDGE_FLOOR, MUCH, edges, lone_pixels
from fotaxis.core.render.final.slipped_through import slipped_through
from fotaxis.core.render.grids.gather_grid import (
    GatherGrid,
    between,
    interreflection,
    with_gather_points,
    with_interreflection,
    without_outliers,
)
from fotaxis.core.render.grids.irradiance_grid import locate
from fotaxis.core.render.grids.refinement import (
    GOBO_TIMES,
    TIMES,
    RefinedNodes,
    beside_creases,
    found_again,
    refine,
    steep_hits,
)
from fotaxis.core.render.layers import Layers
from fotaxis.core.render.lighting import FINE, FINEST, Detail, Lighting, lighting, patterned
from fotaxis.core.render.parallel import RenderCancelled, in_bands
from fotaxis.core.render.passes import (
    gathered_light,
    light_at_hits,
    polarised,
    shaded,
    small_bands,
    table_nodes,
    trace_samples,
    white_radiance,
)
from fotaxis.core.render.preview.traced_scene import FINE_GATHER, TracedScene, layers_of, trace_scene
from fotaxis.core.render.tracing.trace import trace_gather_points
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array, Picture, lattice

EDGE_CUT = 0.0015
"""As trace.CUT, for samples of edge pixels: what two clear surfaces mirror one after the other is still above it."""

GATHER_AT_ONCE = 4000
"""Fine gather points are traced and forgotten in lots of this many, so that they need little memory."""

UNSURE, DIM = 0.02, 0.03
"""A blurred mirror whose two halves of directions are off their mean by more than the first part of it is followed along more
(RenderQuality.gloss), and so are those NEAR pixels beside it, whose halves may agree by chance; what is darker than the
second part of the layer's brightest counts as so bright."""

NEAR = 1.5

HARDLY_SPLIT = 4
"""Paths with at most so many segments cost little to follow."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RenderQuality:
    """How many samples a picture at rest takes.

    Pixels of a light narrower than they are take `thin` samples. Edge pixels that differ much from a neighbour are traced again
    with `plain` samples where their paths hardly split and so cost little, with `strong` where they do, the others with `weak`;
    where these differ much from each other, with `more`
    beside them: a line thinner than a pixel may slip between few samples. texture: in pixels of a relief or pattern; inner:
    directions from a place inside glass; gloss: more directions from a blurred mirror where the first ones disagree; detail: of
    what lights matte places.
    """

    thin: int
    plain: int
    strong: int
    weak: int
    more: int
    texture: int
    inner: int
    gloss: int
    detail: Detail


SCREEN = RenderQuality(thin=89, plain=21, strong=5, weak=5, more=0, texture=5, inner=400, gloss=0, detail=FINE)

FINAL = RenderQuality(thin=377, plain=34, strong=5, weak=5, more=8, texture=8, inner=900, gloss=640, detail=FINEST)


@dataclass(frozen=True, kw_only=True)
class FinalShading:
    """Light for a hand at rest, at the nodes of the fine grids."""

    plan: Plan
    stage: TracedScene
    lit: Lighting
    on_matte: Lighting
    direct: NDArray[np.float32]
    table: NDArray[np.float32]
    quality: RenderQuality
    watch: ProgressCallback
    caustics: Caustics | None = None
    kept: list[tuple[RefinedNodes, NDArray[np.float32]]] = field(default_factory=list)

    def check(self, done: float) -> None:
        """Tell how far the picture is. Raises RenderCancelled when it is not wanted any more."""
        if not self.watch(done):
            raise RenderCancelled

    def prepare(self) -> None:
        """Work out what several threads will read, before they do."""
        _ = self.nodes, self.from_table, self.stage.fine_gather

    @cached_property
    def from_table(self) -> NDArray[np.float32]:
        """What the nodes of the grid show of the light by way of the table, (g, 1 + lights, 3)."""
        return white_radiance(self.table)

    @cached_property
    def nodes(self) -> NDArray[np.float32]:
        """What the nodes of the grid, then those of the gather points, show, (g, 1 + lights, 3)."""
        shown = white_radiance(self.direct + self.table)
        return np.concatenate([shown, self._fan_light(shown)])

    def shown(self, traced: TracedPaths, *, at_hits: bool) -> NDArray[np.float32]:
        """What every hit of a traced picture shows at colour 1, (m, 1 + lights, 3).

        at_hits: light that bends between nodes is taken from closer ones, which are kept; without it (for more samples of the same
        picture) from those kept, and from others only where no node lies between two creases.
        """
        grid = self.stage.fine_grid
        scene = self.stage.scene
        at = with_gather_points(
            scene, locate(scene, grid, traced), traced, self.stage.fine_gather, first_node=len(grid.places)
        )
        arriving = light_at_hits(at, self.nodes)
        fine = patterned(self.plan)

        def put(hits: NDArray[np.int64], direct: NDArray[np.float32]) -> None:
            arriving[hits, 1:] = direct / np.float32(np.pi) + light_at_hits(at.part(hits), self.from_table)[:, 1:]

        for near, light in () if at_hits else self.kept:
            again, where = found_again(scene, grid, traced, near)
            put(again, light_at_hits(where, light))
        if at_hits:
            bent = steep_hits(scene, grid, at, traced, self.direct, fine)
        else:
            bent = beside_creases(scene, grid, traced, both=True)
        if len(bent):
            near = refine(scene, grid, traced, bent, times=GOBO_TIMES if at_hits and fine.any() else TIMES)
            light = (self.caustics or self.on_matte).direct(near.places)
            put(bent, light_at_hits(near.at, light))
            if at_hits:
                self.kept.append((near, light))
        if self.caustics:
            self.caustics.add(traced.hits, arriving)
        return arriving

    def _fan_light(self, shown: NDArray[np.float32]) -> NDArray[np.float32]:
        """What blurred mirrors and places inside glass show at their nodes.

        Of the mirrors' nodes only those are computed whose light does not follow from wider nodes around them.
        """
        stage, scene = self.stage, self.stage.scene
        gather_points = stage.fine_gather
        out = np.zeros((len(gather_points.rows), 1 + self.lit.lights, 3), np.float32)
        rows = stage.traced.gather_points[gather_points.rows]
        mirror = rows[:, GATHER.KIND] == GLOSSY
        if mirror.any():
            around: NDArray[np.float32] | None = None
            wider = None
            for grid in stage.wider_gathers:
                around, wider = self._from_wider(shown, stage.traced.gather_points[grid.rows], wider, around), grid
            out[mirror] = self._from_wider(shown, rows[mirror], wider, around)
        inner = np.flatnonzero(~mirror)
        if len(inner):
            spread_out = trace_gather_points(
                scene, rows[inner], rays=FINE_GATHER[1], inner_rays=self.quality.inner, bands=small_bands
            )
            light = gathered_light(self.lit, stage.fine_grid, shown, rows[inner], spread_out, rays=FINE_GATHER[1])
            out[inner] = with_interreflection(interreflection(scene, spread_out, gather_points, inner), light)
        return without_outliers(gather_points, out)

    def _from_wider(
        self, shown: NDArray[np.float32], rows: Array, wider: GatherGrid | None, around: NDArray[np.float32] | None
    ) -> NDArray[np.float32]:
        """What blurred mirrors show: from the light around, at the nodes of a wider grid, where it runs straight; else computed."""
        if wider is None or around is None:
            return self._mirrors_show(shown, rows)
        node, weight = wider.find(self.stage.scene, rows)
        out, even = between(wider, around, node, weight)
        out[~even] = self._mirrors_show(shown, rows[~even])
        return out

    def _mirrors_show(self, shown: NDArray[np.float32], rows: Array) -> NDArray[np.float32]:
        """What blurred mirrors show, (f, 1 + lights, 3): by two halves of the directions, and by many more where these disagree."""
        if not self.quality.gloss:
            return self._seen_by(shown, rows, FINE_GATHER[1], 0.0)
        half = FINE_GATHER[1] // 2
        one, other = (self._seen_by(shown, rows, half, turn) for turn in (0.0, 0.5))
        mean = (one + other) / np.float32(2)
        level = mean.sum(axis=2)
        floor = DIM * level.max(axis=0, initial=0.0)
        unsure = np.abs(one - other).sum(axis=2) > 2 * UNSURE * np.maximum(level, floor)
        rough = np.flatnonzero(unsure.any(axis=1))
        if len(rough):
            places = rows[:, [GATHER.U, GATHER.V]]
            apart, _ = cKDTree(places[rough]).query(places, distance_upper_bound=NEAR)
            rough = np.flatnonzero(np.isfinite(apart))
            more = self.quality.gloss
            share = np.float32(more / (more + 2 * half))
            mean[rough] += share * (self._seen_by(shown, rows[rough], more, 0.25) - mean[rough])
        return mean

    def _seen_by(self, shown: NDArray[np.float32], rows: Array, rays: int, turn: float) -> NDArray[np.float32]:
        """What blurred mirrors show by so many directions, in lots, (f, 1 + lights, 3)."""
        out = np.zeros((len(rows), 1 + self.lit.lights, 3), np.float32)
        at_once = max(1, GATHER_AT_ONCE * FINE_GATHER[1] // rays)
        for begin in range(0, len(rows), at_once):
            self.check(TRACED + (LIT - TRACED) * begin / len(rows))
            lot = rows[begin : begin + at_once]
            spread_out = trace_gather_points(self.stage.scene, lot, rays=rays, inner_rays=0, bands=small_bands, turn=turn)
            out[begin : begin + at_once] = gathered_light(self.lit, self.stage.fine_grid, shown, lot, spread_out, rays=rays)
        return out


ProgressCallback = Callable[[float], bool]
"""Is told now and then what share of a picture is done, 0..1, and says whether it is still wanted."""

TRACED, LIT, EDGED = 0.2, 0.4, 0.9
"""About what share of the work is done when the paths are traced, when everything is lit, and when edges are smoothed; pixels that
stand alone take the rest."""


def never_cancel(done: float) -> bool:
    """A picture that is wanted whatever happens."""
    return True


def render_final(
    stage: TracedScene, plan: Plan, *, quality: RenderQuality = FINAL, watch: ProgressCallback = never_cancel
) -> Layers:
    """Layers for a hand at rest: fine light on matte surfaces; edge pixels traced again several times.

    Raises RenderCancelled when watch says no.
    """
    scene = render_scene_layers(stage, plan, quality=quality, watch=watch)
    return layers_of(plan, stage, scene.lit, scene.flat)


@dataclass(frozen=True, slots=True, kw_only=True)
class SceneLayers:
    """Layers before the lens has made anything of them, (1 + lights, pixels, 3), and the light they were made with."""

    flat: Picture
    lit: Lighting


def render_scene_layers(
    stage: TracedScene, plan: Plan, *, quality: RenderQuality = FINAL, watch: ProgressCallback = never_cancel
) -> SceneLayers:
    """As relight_fine, without what the lens makes of it: aperture, focus, shades and glare do not count."""
    lit = lighting(plan, stage.scene, FINE)
    # What shows through lobes is looked at from some of a light's places: evenly chosen among the fewer.
    shines = bool((lit.emitters.lobes[:, HAS_LOBE] > 0).any())
    on_matte = lit if shines or quality.detail == FINE else lighting(plan, stage.scene, quality.detail)
    bent = caustics(plan, on_matte)
    fine = FinalShading(
        plan=plan, stage=stage, lit=lit, on_matte=on_matte, watch=watch, caustics=bent,
        direct=(bent or on_matte).direct(stage.fine_grid.places),
        table=table_nodes(lit, stage.fine_table_grid, stage.fine_grid), quality=quality,
    )  # fmt: skip
    flat, seen = shaded(lit, stage.seen(plan), fine.shown(stage.traced, at_hits=True))
    edge, strong, texture = edges(stage, seen, flat)
    slipped = slipped_through(stage.traced, lit.emitters, width=stage.width)
    edge, strong = edge | slipped, strong | slipped
    plain = np.diff(stage.traced.starts) <= HARDLY_SPLIT
    q = quality
    kinds = (
        (slipped & plain, q.thin, 0),
        (strong & plain & ~slipped, q.plain, 0),
        (strong & ~plain, q.strong, q.more),
        (edge & ~strong, q.weak, q.more),
        (texture & ~edge, q.texture, 0),
    )
    fine.prepare()
    _smooth(
        fine, flat, [lot for chosen, *how in kinds for lot in _lots(np.flatnonzero(chosen), EDGES_AT_ONCE, *how)], LIT, EDGED
    )
    if q.more:
        lone = np.flatnonzero(lone_pixels(flat, height=stage.height, width=stage.width))
        _smooth(fine, flat, _lots(lone, LONE_AT_ONCE, LONE_SAMPLES * q.plain, 0), EDGED, 1.0)
    return SceneLayers(flat=flat, lit=lit)


Lot = tuple[NDArray[np.int64], int, int]
"""Pixels, samples of each, and how many more beside them, see _smoothed."""


def _lots(pixels: NDArray[np.int64], at_once: int, samples: int, more: int) -> list[Lot]:
    return [(pixels[begin : begin + at_once], samples, more) for begin in range(0, len(pixels), at_once)]


def _smooth(fine: FinalShading, flat: Picture, lots: list[Lot], begin: float, end: float) -> None:
    """Sample the pixels of some lots again, into flat (1 + lights, pixels, 3); begin, end: parts of the work done before and after."""
    whole = sum(len(some) * (samples + more) for some, samples, more in lots)
    done, turn = 0, threading.Lock()

    def work(first: int, last: int) -> None:
        nonlocal done
        for some, samples, more in lots[first:last]:
            with turn:
                fine.check(begin + (end - begin) * done / whole)
            flat[:, some] = _smoothed(fine, some, samples, more)
            with turn:
                done += len(some) * (samples + more)

    in_bands(work, len(lots), least=1)


LONE_SAMPLES, LONE_AT_ONCE = 2, 400
"""In files pixels that outshine all around them, and those around, take so many times the samples of a plain edge: a small lamp
that glass mirrors is met by few of the first."""

EDGES_AT_ONCE = 4_000
"""Edge pixels are smoothed in lots of this many, one a core, and whether the picture is still wanted is asked before each."""


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


def _smoothed(fine: FinalShading, pixels: NDArray[np.int64], samples: int, more: int) -> Picture:
    """Mean over samples in each pixel, with `more` beside them where these differ much, (1 + lights, pixels, 3)."""
    first = _sampled(fine, pixels, samples)
    mean, span = sample_means(first, samples)
    if not more:
        return mean
    whole = mean.sum(axis=2)
    floor = EDGE_FLOOR * np.maximum(whole.max(axis=1, initial=0.0), 1e-20)
    rough = np.flatnonzero((span > MUCH * whole + floor[:, None]).any(axis=0))
    if len(rough):
        others, _ = sample_means(_sampled(fine, pixels[rough], more), more)
        mean[:, rough] = (samples * mean[:, rough] + more * others) / np.float32(samples + more)
    return mean


def _sampled(fine: FinalShading, pixels: NDArray[np.int64], count: int) -> Picture:
    """Samples on a lattice in each pixel, one pixel's after the other's, (1 + lights, pixels * count, 3)."""
    stage, plan = fine.stage, fine.plan
    ox, oy = lattice(count)
    x = (pixels % stage.width)[:, None] + ox
    y = (pixels // stage.width)[:, None] + oy
    traced = trace_samples(
        plan, stage.scene, np.stack([x.ravel(), y.ravel()], axis=1), stage.width, stage.height, cut=EDGE_CUT
    )
    return shaded(fine.lit, polarised(plan, traced), fine.shown(traced, at_hits=False))[0]


def predict(plan: Plan, *, long_side: int, quality: RenderQuality = FINAL) -> Layers:
    """Layers of a plan in one call, in the best quality unless another is wanted."""
    width, height = picture_size(ratio=plan.camera.crop_ratio, long_side=long_side)
    return render_final(trace_scene(plan, width=width, height=height), plan, quality=quality)
