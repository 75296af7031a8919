"""Trace once, relight at once, mix without tracing."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.camera.exposure import Exposure, encode_srgb
from fotaxis.core.camera.view import picture_size
from fotaxis.core.kernel import kernel
from fotaxis.core.optics import relight, shading
from fotaxis.core.optics.fannodes import FanNodes, between, calmed, fan_nodes, with_fans, with_returns
from fotaxis.core.optics.glosslight import gloss_light
from fotaxis.core.optics.lightnodes import InGrid, LightGrid, bent_hits, closer, lay_grid, locate, refined, spread
from fotaxis.core.optics.paths import GLOSS_FAN, Traced
from fotaxis.core.optics.still import Ints, Still
from fotaxis.core.optics.trace import CUT, trace, trace_fans
from fotaxis.core.prediction.bands import in_bands
from fotaxis.core.prediction.lighting import DRAFT, FINE, Lighting, lighting
from fotaxis.core.prediction.plan import Plan
from fotaxis.core.prediction.stillset import SUBJECT, still_set
from fotaxis.core.values import Array, Picture, lattice

ROOM_KEY = "room"
DRAFT_NODES = 10
PIXELS_PER_NODE = 16
"""The fine light grid has about this many pixels of the picture's long side between nodes."""

NODES_PER_TABLE_NODE = 2
"""Light by way of the table changes slowly over the product: its own grid is this much coarser."""

EDGE_CUT = 0.004
"""Samples of an edge pixel that carry less than this are followed by lot. Below trace.WORTH_AN_EDGE."""

MUCH = 0.18
"""Neighbours differ much when one lacks more than this part of the other in some layer, samples of a pixel when they span
more than this part of it."""

EDGE_CONTRAST = 0.03
"""An edge is smoothed where a layer differs between neighbours by more than this part of their brighter one."""

EDGE_FLOOR = 0.002
"""Likewise, as a part of the layer's brightest hundredth: differences in the dark do not show."""

DRAFT_FAN = (6.0, 32, 80)
FINE_FAN = (1.8, 128)
"""Pixels between the nodes of blurred mirrors, directions from each; of the draft also directions from a node inside glass."""

WIDE_FAN = 6.0
"""Pixels between the nodes of blurred mirrors that are computed first, where the mirror is as blurred as fannodes.SHARP."""

FANS_AT_ONCE = 4000
"""Fine fans are traced and forgotten in lots of this many, so that they need little memory."""


HARDLY_SPLIT = 4
"""Paths with at most so many stretches cost little to follow."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Quality:
    """How many samples a picture at rest takes.

    Edge pixels that differ much from a neighbour are traced again with `plain` samples where their paths hardly split and so
    cost little, with `strong` where they do, the others with `weak`; where these differ much from each other, with `more`
    beside them: a line thinner than a pixel may slip between few samples. texture: in pixels of a relief or pattern; inner:
    directions from a place inside glass.
    """

    plain: int
    strong: int
    weak: int
    more: int
    texture: int
    inner: int


SCREEN = Quality(plain=21, strong=5, weak=5, more=0, texture=5, inner=400)
FINAL = Quality(plain=55, strong=8, weak=5, more=13, texture=8, inner=900)


@dataclass(frozen=True, kw_only=True)
class Stage:
    """A plan's still part traced for one picture size; lights may be moved without making it anew.

    Grids for a hand at rest are made when they are first asked for.
    """

    still: Still
    traced: Traced
    draft_fans: FanNodes
    draft_spread: Traced
    draft_grid: LightGrid
    in_draft: InGrid
    draft_table_grid: LightGrid
    width: int
    height: int

    @cached_property
    def is_product(self) -> NDArray[np.bool_]:
        """Pixels that see the product itself, (height, width) bool."""
        return (self.traced.product == SUBJECT).reshape(self.height, self.width)

    @cached_property
    def fine_fans(self) -> FanNodes:
        """Nodes of blurred mirrors, close together."""
        return fan_nodes(self.still, self.traced.fans, spacing=FINE_FAN[0])

    @cached_property
    def wide_fans(self) -> FanNodes:
        """Nodes of blurred mirrors alone, wider apart: between those that show much the same none need be computed."""
        mirrors = np.flatnonzero(self.traced.fans[:, 13] == GLOSS_FAN)
        return fan_nodes(self.still, self.traced.fans, spacing=WIDE_FAN, among=mirrors)

    @cached_property
    def fine_grid(self) -> LightGrid:
        """Grid over everything matte that is seen, directly or in a blurred mirror."""
        nodes = max(DRAFT_NODES, max(self.width, self.height) // PIXELS_PER_NODE)
        return lay_grid(self.still, self.traced, self.draft_spread, nodes=nodes)

    @cached_property
    def fine_table_grid(self) -> LightGrid:
        """The same, coarser, for light by way of the table."""
        return lay_grid(self.still, self.traced, self.draft_spread, nodes=self.fine_grid.nodes // NODES_PER_TABLE_NODE)


@dataclass(frozen=True, slots=True, kw_only=True)
class Layers:
    """One linear picture per light at full power, and the room at 1 lux first.

    keys: 'room', then the lights' keys in build order.
    pictures (1 + lights, height, width, 3) float32, cd s/m2 for flash, cd/m2 for continuous light.
    lost_share: mean share of a pixel's light dropped by the tracer's cut-offs.
    """

    keys: tuple[str, ...]
    pictures: Picture
    lost_share: float

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in pixels."""
        return self.pictures.shape[2], self.pictures.shape[1]


def still_part(plan: Plan) -> tuple[object, ...]:
    """What a stage depends on; equal values mean the same stage serves. Exposure and lights are not in it."""
    return (plan.subject, plan.others, plan.table, plan.riser, plan.background, plan.camera)


def set_stage(plan: Plan, *, width: int, height: int) -> Stage:
    """Trace the still part of a plan for a picture of width x height pixels."""
    still = still_set(plan)
    traced = _trace(plan, still, _middles(width, height), width, height)
    spacing, rays, inner_rays = DRAFT_FAN
    fans = fan_nodes(still, traced.fans, spacing=spacing)
    spread_out = trace_fans(still, traced.fans[fans.rows], rays=rays, inner_rays=inner_rays, bands=_small_bands)
    grid = lay_grid(still, traced, spread_out, nodes=DRAFT_NODES)
    table_grid = lay_grid(still, traced, spread_out, nodes=max(2, DRAFT_NODES // NODES_PER_TABLE_NODE))
    at = with_fans(still, locate(still, grid, traced), traced, fans, first_node=len(grid.places))
    return Stage(
        still=still, traced=traced, draft_fans=fans, draft_spread=spread_out, draft_grid=grid, in_draft=at,
        draft_table_grid=table_grid, width=width, height=height,
    )  # fmt: skip


@lru_cache(maxsize=4)
def _middles(width: int, height: int) -> Array:
    """Middles of all pixels, (pixels, 2)."""
    y, x = np.mgrid[0:height, 0:width]
    return np.stack([x.ravel() + 0.5, y.ravel() + 0.5], axis=1)


def _small_bands(work: Callable[[int, int], object], count: int) -> list[object]:
    """Bands for samples that cost much each."""
    return in_bands(work, count, least=16)


def _trace(
    plan: Plan, still: Still, samples: Array, width: int, height: int, *, cut: float = CUT, by_lot: bool = False
) -> Traced:
    half_w, half_h = plan.camera.half_field
    return trace(
        still, eye=plan.camera.place.array(), basis=plan.camera.basis(), half_width=half_w, half_height=half_h,
        samples=samples, width=width, height=height, bands=in_bands, cut=cut, by_lot=by_lot,
    )  # fmt: skip


def relight_draft(stage: Stage, plan: Plan) -> Layers:
    """Layers while something is dragged: mirror images exact per pixel, light on matte surfaces from a coarse grid.

    The plain way; `follow` gives the same picture faster and is held to this one by the tests.
    """
    lit = lighting(plan, stage.still, DRAFT)
    arriving = _spread(stage.in_draft, _draft_nodes(stage, lit))
    flat, _ = _gather(plan, lit.movables, stage.traced, arriving)
    return _layers(plan, stage, flat, stage.traced.lost_share)


def follow(
    stage: Stage, plan: Plan, *, gains: Array, pixels: NDArray[np.int64]
) -> tuple[NDArray[np.uint8], NDArray[np.float32]]:
    """What relight_draft and develop give, faster: the picture, and the layers only at the pixels that are read.

    gains (1 + lights,): factor of every layer; pixels (n,): row * width + column of each.
    Returns (height, width, 3) uint8 and (1 + lights, n, 3) float32. The lights are summed before the paths are walked:
    light adds up, so only the few pixels that are read apart need every light by itself.
    """
    lit = lighting(plan, stage.still, DRAFT)
    movables = lit.movables
    nodes = _draft_nodes(stage, lit)
    part, hits = stage.traced.part(pixels)
    read, _ = _gather(plan, movables, part, _spread(stage.in_draft.part(hits), nodes))
    summed, in_view = shading.as_one_light(movables, gains[1:]), _in_view(plan, movables)
    light = np.tensordot(gains.astype(np.float32), nodes, axes=(0, 1))
    out = np.empty((stage.height * stage.width, 3), np.uint8)
    in_bands(
        lambda a, b: relight.paint(summed, in_view, stage.traced, light, stage.in_draft, gains[0], CURVE, a, b, out),
        len(out),
    )
    return out.reshape(stage.height, stage.width, 3), read


@dataclass(frozen=True, kw_only=True)
class _Fine:
    """Light for a hand at rest, at the nodes of the fine grids."""

    plan: Plan
    stage: Stage
    lit: Lighting
    direct: NDArray[np.float32]
    table: NDArray[np.float32]
    quality: Quality

    @cached_property
    def nodes(self) -> NDArray[np.float32]:
        """What the nodes of the grid, then those of the fans, show, (g, 1 + lights, 3)."""
        shown = _as_shown(self.direct + self.table)
        return np.concatenate([shown, self._fan_light(shown)])

    def shown(self, traced: Traced, *, at_hits: bool) -> NDArray[np.float32]:
        """What every hit of a traced picture shows at colour 1, (m, 1 + lights, 3).

        at_hits: light that bends between nodes is taken from closer ones.
        """
        grid = self.stage.fine_grid
        still = self.stage.still
        at = with_fans(still, locate(still, grid, traced), traced, self.stage.fine_fans, first_node=len(grid.places))
        arriving = _spread(at, self.nodes)
        if at_hits:
            bent = bent_hits(grid, at, traced, self.direct)
            if len(bent):
                near = closer(still, grid, traced, bent)
                direct = _spread(near.at, self.lit.direct(near.places))
                table = _spread(at.part(bent), _as_shown(self.table))
                arriving[bent, 1:] = direct / np.float32(np.pi) + table[:, 1:]
        return arriving

    def _fan_light(self, shown: NDArray[np.float32]) -> NDArray[np.float32]:
        """What blurred mirrors and places inside glass show at their nodes.

        Of the mirrors' nodes only those are computed whose light does not follow from wider nodes around them.
        """
        stage, still = self.stage, self.stage.still
        fans, wide = stage.fine_fans, stage.wide_fans
        out = np.zeros((len(fans.rows), 1 + self.lit.lights, 3), np.float32)
        rows = stage.traced.fans[fans.rows]
        mirror = rows[:, 13] == GLOSS_FAN
        around = self._mirrors_show(shown, stage.traced.fans[wide.rows])
        if len(around):
            node, weight = wide.find(still, rows[mirror])
            out[mirror], even = between(wide, around, node, weight)
            apart = np.flatnonzero(mirror)[~even]
            out[apart] = self._mirrors_show(shown, rows[apart])
        inner = np.flatnonzero(~mirror)
        if len(inner):
            spread_out = trace_fans(still, rows[inner], rays=FINE_FAN[1], inner_rays=self.quality.inner, bands=_small_bands)
            light = _fans_show(self.lit, stage.fine_grid, shown, rows[inner], spread_out, rays=FINE_FAN[1])
            out[inner] = with_returns(still, spread_out, fans, inner, light)
        return calmed(fans, out)

    def _mirrors_show(self, shown: NDArray[np.float32], rows: Array) -> NDArray[np.float32]:
        """What blurred mirrors show, in lots, (f, 1 + lights, 3)."""
        out = np.zeros((len(rows), 1 + self.lit.lights, 3), np.float32)
        for begin in range(0, len(rows), FANS_AT_ONCE):
            lot = rows[begin : begin + FANS_AT_ONCE]
            spread_out = trace_fans(self.stage.still, lot, rays=FINE_FAN[1], inner_rays=0, bands=_small_bands)
            out[begin : begin + FANS_AT_ONCE] = _fans_show(
                self.lit, self.stage.fine_grid, shown, lot, spread_out, rays=FINE_FAN[1]
            )
        return out


def relight_fine(stage: Stage, plan: Plan, *, quality: Quality = FINAL) -> Layers:
    """Layers for a hand at rest: fine light on matte surfaces; edge pixels traced again several times."""
    lit = lighting(plan, stage.still, FINE)
    fine = _Fine(
        plan=plan, stage=stage, lit=lit, direct=lit.direct(stage.fine_grid.places),
        table=_table_nodes(lit, stage.fine_table_grid, stage.fine_grid), quality=quality,
    )  # fmt: skip
    flat, seen = _gather(plan, lit.movables, stage.traced, fine.shown(stage.traced, at_hits=True))
    edge, strong, texture = _edges(stage, seen, flat)
    plain = np.diff(stage.traced.starts) <= HARDLY_SPLIT
    q = quality
    kinds = (
        (strong & plain, q.plain, 0),
        (strong & ~plain, q.strong, q.more),
        (edge & ~strong, q.weak, q.more),
        (texture & ~edge, q.texture, 0),
    )
    for pixels, samples, more in kinds:
        numbers = np.flatnonzero(pixels)
        for begin in range(0, len(numbers), EDGES_AT_ONCE):
            some = numbers[begin : begin + EDGES_AT_ONCE]
            flat[:, some] = _smoothed(fine, some, samples, more)
    return _layers(plan, stage, flat, stage.traced.lost_share)


EDGES_AT_ONCE = 20_000


def _edges(stage: Stage, seen: NDArray[np.int32], flat: Picture) -> tuple[NDArray[np.bool_], ...]:
    """Pixels whose neighbour sees other things, or the same in another order, and looks otherwise; those of them where it
    looks much otherwise; and pixels of a relief or pattern that look otherwise than a neighbour; (pixels,) bool each."""
    shape = stage.height, stage.width
    other_x, other_y = np.zeros((shape[0], shape[1] - 1), bool), np.zeros((shape[0] - 1, shape[1]), bool)
    fine = stage.traced.fine.reshape(shape)
    for numbers in (stage.traced.route, seen):
        n = numbers.reshape(shape)
        other_x |= n[:, 1:] != n[:, :-1]
        other_y |= n[1:] != n[:-1]
    fine_x, fine_y = fine[:, 1:] | fine[:, :-1], fine[1:] | fine[:-1]
    kinds = ((EDGE_CONTRAST, other_x, other_y), (MUCH, other_x, other_y), (EDGE_CONTRAST, fine_x, fine_y))
    edges = np.zeros((len(kinds), *shape), bool)
    for layer in flat:
        value = layer.sum(axis=1).reshape(shape)
        floor = EDGE_FLOOR * float(np.quantile(value[::3, ::3], 0.99)) if value.size > 9 else 0.0
        floor = max(floor, 1e-4 * float(value.max(initial=0.0)), 1e-20)
        step_x, step_y = np.abs(np.diff(value, axis=1)) - floor, np.abs(np.diff(value, axis=0)) - floor
        high_x, high_y = np.maximum(value[:, 1:], value[:, :-1]), np.maximum(value[1:], value[:-1])
        for edge, (contrast, where_x, where_y) in zip(edges, kinds, strict=True):
            across, down = where_x & (step_x > contrast * high_x), where_y & (step_y > contrast * high_y)
            edge[:, 1:] |= across
            edge[:, :-1] |= across
            edge[1:] |= down
            edge[:-1] |= down
    return tuple(edges.reshape(len(kinds), -1))


def _smoothed(fine: _Fine, pixels: NDArray[np.int64], samples: int, more: int) -> Picture:
    """Mean over samples in each pixel, with `more` beside them where these differ much, (1 + lights, pixels, 3)."""
    first = _sampled(fine, pixels, samples)
    mean = first.mean(axis=2)
    if not more:
        return mean
    value, whole = first.sum(axis=3), mean.sum(axis=2)
    floor = EDGE_FLOOR * np.maximum(whole.max(axis=1, initial=0.0), 1e-20)
    rough = np.flatnonzero((np.ptp(value, axis=2) > MUCH * whole + floor[:, None]).any(axis=0))
    if len(rough):
        others = _sampled(fine, pixels[rough], more).sum(axis=2)
        mean[:, rough] = (samples * mean[:, rough] + others) / np.float32(samples + more)
    return mean


def _sampled(fine: _Fine, pixels: NDArray[np.int64], count: int) -> Picture:
    """Samples on a lattice in each pixel, (1 + lights, pixels, count, 3)."""
    stage, plan = fine.stage, fine.plan
    ox, oy = lattice(count)
    x = (pixels % stage.width)[:, None] + ox
    y = (pixels // stage.width)[:, None] + oy
    traced = _trace(
        plan, stage.still, np.stack([x.ravel(), y.ravel()], axis=1), stage.width, stage.height, cut=EDGE_CUT, by_lot=True
    )
    flat, _ = _gather(plan, fine.lit.movables, traced, fine.shown(traced, at_hits=False))
    return flat.reshape(len(flat), len(pixels), count, 3)


def _spread(at: InGrid, nodes: NDArray[np.float32]) -> NDArray[np.float32]:
    """Light at hits from that of their nodes, (hits, layers, 3)."""
    arriving = np.zeros((len(at.node), *nodes.shape[1:]), np.float32)
    if len(nodes):
        in_bands(lambda a, b: spread(nodes, at.node, at.weight, a, b, arriving), len(at.node))
    return arriving


def _as_shown(arriving: NDArray[np.float32]) -> NDArray[np.float32]:
    """Illuminance at nodes (g, lights, 3) as what a white place there shows: over pi, the room's 1 lux before it."""
    shown = np.empty((len(arriving), 1 + arriving.shape[1], 3), np.float32)
    shown[:, 0] = 1.0 / np.pi
    np.multiply(arriving, np.float32(1.0 / np.pi), out=shown[:, 1:])
    return shown


def _draft_nodes(stage: Stage, lit: Lighting) -> NDArray[np.float32]:
    """What the nodes of the coarse grid and of the draft's fans show, (g, 1 + lights, 3)."""
    arriving = lit.direct(stage.draft_grid.places) + _table_nodes(lit, stage.draft_table_grid, stage.draft_grid)
    shown = _as_shown(arriving)
    if not len(stage.draft_fans.rows):
        return shown
    rows = stage.traced.fans[stage.draft_fans.rows]
    light = _fans_show(lit, stage.draft_grid, shown, rows, stage.draft_spread, rays=DRAFT_FAN[1])
    every = np.arange(len(light))
    light = calmed(stage.draft_fans, with_returns(stage.still, stage.draft_spread, stage.draft_fans, every, light))
    return np.concatenate([shown, light])


def _fans_show(
    lit: Lighting, grid: LightGrid, shown: NDArray[np.float32], fans: Array, spread_out: Traced, *, rays: int
) -> NDArray[np.float32]:
    """What fans show, (f, 1 + lights, 3): by their directions, traced as spread_out, and of the lights' samples.

    shown: what the nodes of `grid` show; rays: directions of a blurred mirror.
    """
    flat, _ = _gather(None, lit.movables, spread_out, _spread(locate(lit.still, grid, spread_out), shown))
    light = np.ascontiguousarray(flat.transpose(1, 0, 2))
    if lit.lights:
        in_bands(lambda a, b: gloss_light(lit.still, lit.movables, fans, rays, a, b, light), len(fans), least=32)
    return light


def _table_nodes(lit: Lighting, coarse: LightGrid, grid: LightGrid) -> NDArray[np.float32]:
    """Light by way of the table at the nodes of a grid, from a coarser one; at the corners of meshes as it is."""
    if lit.table is None:
        return np.zeros((len(grid.places), lit.lights, 3), np.float32)
    light = lit.from_table(coarse.places)
    on_grids = refined(light, nodes=coarse.nodes, to=grid.nodes, grids=grid.grids)
    return np.concatenate([on_grids, light[coarse.grids * coarse.nodes**2 :]])


def _in_view(plan: Plan, movables: shading.Movables) -> Ints:
    half_w, half_h = plan.camera.half_field
    return relight.stands_in_field(
        movables, eye=plan.camera.place.array(), basis=plan.camera.basis(), half_width=half_w, half_height=half_h
    )


def _gather(
    plan: Plan | None, movables: shading.Movables, traced: Traced, arriving: NDArray[np.float32]
) -> tuple[Picture, NDArray[np.int32]]:
    """Walk all paths; plan: None for paths that do not begin at its camera."""
    count, layers = len(traced.starts) - 1, arriving.shape[1]
    in_view = _in_view(plan, movables) if plan else None
    flat = np.empty((layers, count, 3), np.float32)
    seen = np.empty(count, np.int32)
    in_bands(
        lambda a, b: relight.gather(movables, layers - 1, in_view, traced, arriving, a, b, flat, seen), count,
        least=32 if plan is None else 512,
    )  # fmt: skip
    return flat, seen


def _layers(plan: Plan, stage: Stage, flat: Picture, lost: float) -> Layers:
    keys = (ROOM_KEY, *(light.key for light in plan.lights))
    return Layers(keys=keys, pictures=flat.reshape(-1, stage.height, stage.width, 3), lost_share=lost)


def layer_gains(plan: Plan, *, exposure: Exposure | None = None) -> Array:
    """What each layer is multiplied by in the planned picture, (1 + lights,) float64; 0 for a light that is off.

    Raises DomainError when a flash is on and the shutter is faster than sync.
    """
    exposure = exposure or plan.exposure
    gains = [exposure.layer_gain(power_stops=0.0, continuous=True) * plan.room_lux]
    for light in plan.lights:
        e = light.emission
        gains.append(exposure.layer_gain(power_stops=e.power_stops, continuous=e.continuous) if e.on else 0.0)
    return np.array(gains)


@kernel
def _develop(
    pictures: Picture, gains: NDArray[np.float32], curve: NDArray[np.uint8], begin: int, end: int, out: NDArray[np.uint8]
) -> None:
    """Weighted sum of pixels begin..end of all layers, through the output curve indexed by square root."""
    top = np.float32(curve.shape[0] - 1)
    for p in range(begin, end):
        for c in range(3):
            level = np.float32(0.0)
            for i in range(pictures.shape[0]):
                level += gains[i] * pictures[i, p, c]
            level = min(np.float32(1.0), max(np.float32(0.0), level))
            out[p, c] = curve[int(np.sqrt(level) * top + np.float32(0.5))]


CURVE = encode_srgb(((np.arange(4096) / 4095) ** 2).astype(np.float32))


def develop(layers: Layers, gains: Array) -> NDArray[np.uint8]:
    """The picture as the camera's file would show it, (height, width, 3) uint8 sRGB, within half a step of exact."""
    flat = layers.pictures.reshape(len(gains), -1, 3)
    out = np.empty(flat.shape[1:], np.uint8)
    in_bands(lambda a, b: _develop(flat, gains.astype(np.float32), CURVE, a, b, out), len(out))
    return out.reshape(layers.pictures.shape[1:])


def mixed(layers: Layers, gains: Array) -> Picture:
    """Linear levels of the planned picture, (height, width, 3) float32, grey 0.18, not clipped."""
    return np.tensordot(gains.astype(np.float32), layers.pictures, axes=1)


def predict(plan: Plan, *, long_side: int) -> Layers:
    """Best-quality layers of a plan in one call."""
    width, height = picture_size(ratio=plan.camera.crop_ratio, long_side=long_side)
    return relight_fine(set_stage(plan, width=width, height=height), plan)
