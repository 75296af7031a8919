"""Light at the nodes of the fine grids, and what the hits of a traced picture show of it."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from fotaxis.core.columns import GATHER
from fotaxis.core.render.arrays.path_records import GLOSSY, TracedPaths
from fotaxis.core.render.final.caustics import Caustics
from fotaxis.core.render.final.quality import LIT, TRACED, ProgressCallback, RenderQuality
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
from fotaxis.core.render.lighting import Lighting, patterned
from fotaxis.core.render.parallel import RenderCancelled
from fotaxis.core.render.passes import gathered_light, light_at_hits, small_bands, white_radiance
from fotaxis.core.render.preview.traced_scene import FINE_GATHER, TracedScene
from fotaxis.core.render.tracing.trace import trace_gather_points
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array

GATHER_AT_ONCE = 4000
"""Fine gather points are traced and forgotten in lots of this many, so that they need little memory."""

UNSURE, DIM = 0.02, 0.03
"""A blurred mirror whose two halves of directions are off their mean by more than the first part of it is followed along more
(RenderQuality.gloss), and so are those NEAR pixels beside it, whose halves may agree by chance; what is darker than the
second part of the layer's brightest counts as so bright."""

NEAR = 1.5


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
