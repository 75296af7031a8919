"""Trace once, relight at once while something is dragged."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix

from fotaxis.core.camera.filters import BeforeLens
from fotaxis.core.columns import GATHER
from fotaxis.core.keys import ROOM_KEY
from fotaxis.core.render.arrays.pack_static_scene import SUBJECT, pack_static_scene
from fotaxis.core.render.arrays.path_records import GLOSSY, TracedPaths
from fotaxis.core.render.arrays.static_scene import StaticScene
from fotaxis.core.render.grids.gather_grid import (
    GatherGrid,
    gather_grid,
    interreflection,
    with_gather_points,
    with_interreflection,
    without_outliers,
)
from fotaxis.core.render.grids.irradiance_grid import (
    GridWeights,
    IrradianceGrid,
    SeenSurfaces,
    lay_grid,
    locate,
    seen_surfaces,
)
from fotaxis.core.render.layers import Layers
from fotaxis.core.render.lens.defocus import Defocus
from fotaxis.core.render.lens.through_lens import (
    as_seen,
    defocus,
    depth_behind,
    first_directions,
    glare_reach,
    look_about,
    meets,
    some_pixels,
)
from fotaxis.core.render.lighting import Lighting, draft_lighting
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
from fotaxis.core.render.preview.preview_cache import PreviewCache
from fotaxis.core.render.shading import first_hits
from fotaxis.core.render.tracing.trace import CUT, trace_gather_points
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array, Picture

DRAFT_NODES = ((2, 24), (4, 18), (7, 14), (1000, 10))
SHINY_COUNTS, SHEET_COUNTS = 6, 2
"""While something is dragged: up to so many lights and cards light is worked out at so many nodes across a surface; a shiny card
costs as much as six, a sheet as two."""

LEAST_TABLE_NODES, DRAFT_PER_TABLE_NODE = 5, 4
"""Then light by way of the table is worked out at so many fewer nodes, and at so many at least."""

KEPT_TURNS = 2
SPANNED = 0.97
"""Of what is seen of a surface, each way, a draft's nodes span this share."""

LEAST_NODES = 25
"""So many nodes at least across a surface in a picture at rest, however small: the rim of a pool of light is not smaller in it."""


PIXELS_PER_NODE = 16
"""The fine light grid has about this many pixels of the picture's long side between nodes."""

NODES_PER_TABLE_NODE = 2
"""Light by way of the table changes slowly over the product: its own grid is this much coarser."""

DRAFT_GATHER = (6.0, 32, 48)

FINE_GATHER = (1.0, 128)
"""Pixels between the nodes of blurred mirrors, directions from each; of the draft also directions from a node inside glass."""

WIDER_GATHERS = (6.0, 2.5)
"""Pixels between the nodes of blurred mirrors that are computed first, where the mirror is as blurred as gather_grid.SHARP; then
those closer together."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Draft:
    """A coarse grid, where the hits and those of the gather points lie in it, and a coarser one for light by way of the table."""

    grid: IrradianceGrid
    at: GridWeights
    gather_at: GridWeights
    table_grid: IrradianceGrid


@dataclass(frozen=True, kw_only=True)
class TracedScene:
    """A plan's still part traced for one picture size; lights may be moved without making it anew.

    Grids for a hand at rest are made when they are first asked for.
    """

    scene: StaticScene
    traced: TracedPaths
    draft_gather: GatherGrid
    draft_spread: TracedPaths
    width: int
    height: int
    _seen: dict[float, TracedPaths] = field(default_factory=dict)
    _drafts: dict[int, Draft] = field(default_factory=dict)
    _reaches: dict[tuple[BeforeLens, float], Array] = field(default_factory=dict)
    _surround: list[TracedPaths] = field(default_factory=list)
    _depth: list[NDArray[np.float32]] = field(default_factory=list)
    _focus: dict[float, tuple[NDArray[np.float32], Defocus | None]] = field(default_factory=dict)

    def draft(self, plan: Plan) -> Draft:
        """The coarse grid for as many things as a plan has."""
        finishes = [card.finish for card in plan.cards]
        costs = [SHINY_COUNTS if f.gloss.green else SHEET_COUNTS if f.passed else 1 for f in finishes]
        nodes = next(nodes for most, nodes in DRAFT_NODES if len(plan.lights) + sum(costs) <= most)
        if nodes not in self._drafts:
            grid = lay_grid(self.scene, self._draft_seen, nodes=nodes)
            coarse = lay_grid(self.scene, self._draft_seen, nodes=max(LEAST_TABLE_NODES, nodes // DRAFT_PER_TABLE_NODE))
            located = locate(self.scene, grid, self.traced)
            at = with_gather_points(self.scene, located, self.traced, self.draft_gather, first_node=len(grid.places))
            self._drafts[nodes] = Draft(
                grid=grid, at=at, gather_at=locate(self.scene, grid, self.draft_spread), table_grid=coarse
            )  # fmt: skip
        return self._drafts[nodes]

    def surround(self, plan: Plan) -> TracedPaths:
        """What the lens has around the frame, see through_lens.look_about."""
        if not self._surround:
            self._surround.append(look_about(plan, self.scene))
        return self._surround[0]

    def reach(self, plan: Plan) -> Array:
        """How the glare of some pixels and of the surround reaches over the picture, see through_lens.glare_reach."""
        key = plan.before_lens, plan.exposure.f_number
        if key not in self._reaches:
            self._reaches.clear()
            self._reaches[key] = glare_reach(plan, first_directions(self.some[1], self.surround(plan)))
        return self._reaches[key]

    def focus(
        self, plan: Plan, lit: Lighting, behind: NDArray[np.bool_], known: first_hits.FirstHits
    ) -> tuple[NDArray[np.float32], Defocus | None]:
        """Depths of all pixels and their circles of confusion; kept per aperture while nothing movable stands in the frame.

        behind: see view_frustum.behind_emitters; known: of the segments from the picture before.
        """
        n = plan.exposure.f_number
        clear = not len(lit.in_view)
        if clear and n in self._focus:
            return self._focus[n]
        if not self._depth:
            self._depth.append(meets(plan, replace(lit, in_view=lit.in_view[:0]), self.traced).depth)
        depth = self._depth[0] if clear else depth_behind(plan, lit, self.traced, self._depth[0], behind, known)
        found = depth, defocus(plan, depth, width=self.width, height=self.height)
        if clear:
            self._focus.clear()
            self._focus[n] = found
        return found

    def seen(self, plan: Plan) -> TracedPaths:
        """The traced picture through the polariser as the plan has it turned; the last few are kept."""
        polariser = plan.before_lens.polariser
        if polariser is None:
            return self.traced
        if polariser.axis_rad not in self._seen:
            if len(self._seen) >= KEPT_TURNS:
                self._seen.pop(next(iter(self._seen)))
            self._seen[polariser.axis_rad] = polarised(plan, self.traced)
        return self._seen[polariser.axis_rad]

    @cached_property
    def some(self) -> tuple[NDArray[np.int64], TracedPaths]:
        """Some evenly spread pixels and their paths; where these lead, no polariser changes."""
        numbers = some_pixels(self.width, self.height)
        return numbers, self.traced.part(numbers)[0]

    @cached_property
    def draft_returns(self) -> list[csr_matrix | Array]:
        """What comes back to the places inside glass, see gather_grid.interreflection."""
        every = np.arange(len(self.draft_gather.rows))
        return interreflection(self.scene, self.draft_spread, self.draft_gather, every)

    @cached_property
    def is_product(self) -> NDArray[np.bool_]:
        """Pixels that see the product itself, (height, width) bool."""
        return (self.traced.product == SUBJECT).reshape(self.height, self.width)

    @cached_property
    def fine_gather(self) -> GatherGrid:
        """Nodes of blurred mirrors, close together."""
        return gather_grid(self.scene, self.traced.gather_points, spacing=FINE_GATHER[0])

    @cached_property
    def wider_gathers(self) -> tuple[GatherGrid, ...]:
        """Nodes of blurred mirrors alone, wider apart: between those that show much the same none need be computed."""
        mirrors = np.flatnonzero(self.traced.gather_points[:, GATHER.KIND] == GLOSSY)
        return tuple(
            gather_grid(self.scene, self.traced.gather_points, spacing=spacing, among=mirrors) for spacing in WIDER_GATHERS
        )

    @cached_property
    def _draft_seen(self) -> SeenSurfaces:
        return seen_surfaces(self.scene, self.traced, self.draft_spread, share=SPANNED)

    @cached_property
    def _fine_seen(self) -> SeenSurfaces:
        return seen_surfaces(self.scene, self.traced, self.draft_spread, whole_meshes=True)

    @cached_property
    def fine_grid(self) -> IrradianceGrid:
        """Grid over everything matte that is seen, directly or in a blurred mirror."""
        nodes = max(LEAST_NODES, max(self.width, self.height) // PIXELS_PER_NODE)
        return lay_grid(self.scene, self._fine_seen, nodes=nodes)

    @cached_property
    def fine_table_grid(self) -> IrradianceGrid:
        """The same, coarser, for light by way of the table."""
        return lay_grid(self.scene, self._fine_seen, nodes=self.fine_grid.nodes // NODES_PER_TABLE_NODE)


def static_part(plan: Plan) -> tuple[object, ...]:
    """What a stage depends on; equal values mean the same stage serves. Exposure and lights are not in it."""
    polarised = plan.before_lens.polariser is not None
    return (plan.product, plan.others, plan.table, plan.riser, plan.background, plan.camera, polarised)


def trace_scene(plan: Plan, *, width: int, height: int, cut: float = CUT) -> TracedScene:
    """Trace the still part of a plan for a picture of width x height pixels; cut: see trace.CUT."""
    scene = pack_static_scene(plan)
    traced = trace_samples(plan, scene, _middles(width, height), width, height, cut=cut)
    spacing, rays, inner_rays = DRAFT_GATHER
    gather_points = gather_grid(scene, traced.gather_points, spacing=spacing)
    spread_out = trace_gather_points(
        scene, traced.gather_points[gather_points.rows], rays=rays, inner_rays=inner_rays, bands=small_bands
    )
    return TracedScene(
        scene=scene, traced=traced, draft_gather=gather_points, draft_spread=spread_out, width=width, height=height
    )  # fmt: skip


@lru_cache(maxsize=4)
def _middles(width: int, height: int) -> Array:
    """Middles of all pixels, (pixels, 2)."""
    y, x = np.mgrid[0:height, 0:width]
    return np.stack([x.ravel() + 0.5, y.ravel() + 0.5], axis=1)


def relight_draft(stage: TracedScene, plan: Plan) -> Layers:
    """Layers while something is dragged: mirror images exact per pixel, light on matte surfaces from a coarse grid.

    The plain routine; render_preview gives the same picture faster and is held to this one by the tests.
    """
    lit = draft_lighting(plan, stage.scene)
    draft = stage.draft(plan)
    arriving = light_at_hits(draft.at, draft_nodes(stage, draft, lit))
    traced = stage.seen(plan)
    flat, _ = shaded(lit, traced, arriving)
    return layers_of(plan, stage, lit, flat)


def draft_nodes(stage: TracedScene, draft: Draft, lit: Lighting, drag: PreviewCache | None = None) -> NDArray[np.float32]:
    """What the nodes of the coarse grid and of the draft's gather points show, (g, 1 + lights, 3)."""
    grid = draft.grid
    direct, from_table = (drag.direct, drag.from_table) if drag else (Lighting.direct, Lighting.from_table)
    shown = white_radiance(direct(lit, grid.places) + table_nodes(lit, draft.table_grid, grid, from_table=from_table))
    if not len(stage.draft_gather.rows):
        return shown
    light = gathered_light(
        lit, grid, shown, stage.traced.gather_points[stage.draft_gather.rows], stage.draft_spread,
        rays=DRAFT_GATHER[1], at=draft.gather_at,
        met=drag.gather_met if drag else first_hits.NO_FIRST_HITS, gloss=drag.add_gloss if drag else None,
    )  # fmt: skip
    return np.concatenate([shown, without_outliers(stage.draft_gather, with_interreflection(stage.draft_returns, light))])


def draft_shown(stage: TracedScene, plan: Plan, lit: Lighting) -> NDArray[np.float32]:
    """What the nodes of a plan's draft show, (g, 1 + lights, 3)."""
    return draft_nodes(stage, stage.draft(plan), lit)


def layers_of(
    plan: Plan, stage: TracedScene, lit: Lighting, flat: Picture, *, hazy: bool = False, focused: bool = False
) -> Layers:
    """The layers of a scene (1 + lights, pixels, 3) as the lens shows them; hazy, focused: see through_lens.as_seen."""
    keys = (ROOM_KEY, *(light.key for light in plan.lights))
    pictures = as_seen(
        plan, lit, stage.seen(plan), flat, lambda: stage.surround(plan), width=stage.width, height=stage.height, hazy=hazy,
        focused=focused,
    )  # fmt: skip
    return Layers(keys=keys, pictures=pictures, lost_share=stage.traced.lost_share)
