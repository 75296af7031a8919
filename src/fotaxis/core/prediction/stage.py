"""Trace once, relight at once, mix without tracing."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.camera.exposure import Exposure, encode_srgb
from fotaxis.core.camera.view import picture_size
from fotaxis.core.kernel import kernel
from fotaxis.core.optics import relight, shading
from fotaxis.core.optics.lightgrid import InGrid, LightGrid, bent_hits, lay_grid, locate, refined, spread
from fotaxis.core.optics.still import Ints, Still
from fotaxis.core.optics.trace import Traced, trace
from fotaxis.core.prediction.arrange import SUBJECT, still_set
from fotaxis.core.prediction.bands import in_bands
from fotaxis.core.prediction.lighting import DRAFT, FINE, Lighting, lighting
from fotaxis.core.prediction.plan import Plan
from fotaxis.core.values import Array, Picture, lattice

ROOM_KEY = "room"
DRAFT_NODES = 10
PIXELS_PER_NODE = 10
"""The fine light grid has about this many pixels of the picture's long side between nodes."""

NODES_PER_TABLE_NODE = 3
"""Light by way of the table changes slowly over the product: its own grid is this much coarser."""

SUBSAMPLES = 21
"""Edge pixels are traced again with this many samples, on a lattice."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """A plan's still part traced for one picture size; lights may be moved without making it anew.

    is_product (height, width) bool: pixels that see the product itself.
    """

    still: Still
    traced: Traced
    draft_grid: LightGrid
    in_draft_grid: InGrid
    fine_grid: LightGrid
    draft_table_grid: LightGrid
    fine_table_grid: LightGrid
    is_product: NDArray[np.bool_]
    width: int
    height: int


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
    c = plan.camera
    return (plan.subject, plan.table, plan.riser, plan.background, c)


def set_stage(plan: Plan, *, width: int, height: int) -> Stage:
    """Trace the still part of a plan for a picture of width x height pixels."""
    still = still_set(plan)
    y, x = np.mgrid[0:height, 0:width]
    samples = np.stack([x.ravel() + 0.5, y.ravel() + 0.5], axis=1)
    traced = _trace(plan, still, samples, width, height)
    draft = lay_grid(still, traced, nodes=DRAFT_NODES)
    fine = lay_grid(still, traced, nodes=max(DRAFT_NODES, max(width, height) // PIXELS_PER_NODE))
    return Stage(
        still=still, traced=traced, draft_grid=draft, in_draft_grid=locate(draft, traced), fine_grid=fine,
        draft_table_grid=lay_grid(still, traced, nodes=max(2, DRAFT_NODES // NODES_PER_TABLE_NODE)),
        fine_table_grid=lay_grid(still, traced, nodes=fine.nodes // NODES_PER_TABLE_NODE),
        is_product=(traced.first >> 6 == len(still.flats) + SUBJECT).reshape(height, width), width=width, height=height,
    )  # fmt: skip


def _trace(plan: Plan, still: Still, samples: Array, width: int, height: int) -> Traced:
    half_w, half_h = plan.camera.half_field
    return trace(
        still, eye=plan.camera.place.array(), basis=plan.camera.basis(), half_width=half_w, half_height=half_h,
        samples=samples, width=width, height=height, bands=in_bands,
    )  # fmt: skip


def relight_draft(stage: Stage, plan: Plan) -> Layers:
    """Layers while something is dragged: mirror images exact per pixel, light on matte surfaces from a coarse grid.

    The plain way; `follow` gives the same picture faster and is held to this one by the tests.
    """
    lit = lighting(plan, stage.still, DRAFT)
    nodes = _draft_nodes(stage, lit)
    arriving = _spread(stage.draft_grid, stage.in_draft_grid, nodes)
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
    at_hits = InGrid(corner=stage.in_draft_grid.corner[hits], part=stage.in_draft_grid.part[hits])
    read, _ = _gather(plan, movables, part, _spread(stage.draft_grid, at_hits, nodes))
    summed, in_view = shading.as_one_light(movables, gains[1:]), _in_view(plan, movables)
    light = np.tensordot(gains[1:].astype(np.float32), nodes, axes=(0, 1))
    grid, at = stage.draft_grid, stage.in_draft_grid
    out = np.empty((stage.height * stage.width, 3), np.uint8)
    in_bands(
        lambda a, b: relight.paint(
            summed, in_view, stage.traced, light, grid.nodes, at.corner, at.part, gains[0], CURVE, a, b, out
        ),
        len(out),
    )
    return out.reshape(stage.height, stage.width, 3), read


def relight_fine(stage: Stage, plan: Plan, *, smooth_edges: bool = True) -> Layers:
    """Layers for a hand at rest: fine light on matte surfaces; edge pixels traced again SUBSAMPLES times."""
    lit = lighting(plan, stage.still, FINE)
    direct = lit.direct(stage.fine_grid.places)
    table = _table_nodes(lit, stage.fine_table_grid, stage.fine_grid)
    nodes = direct + table
    arriving = _light_finely(stage, lit, direct, table)
    flat, seen = _gather(plan, lit.movables, stage.traced, arriving)
    if smooth_edges:
        edges = np.flatnonzero(_edges(stage, seen))
        if len(edges):
            flat[:, edges] = _supersampled(stage, plan, lit.movables, nodes, edges)
    return _layers(plan, stage, flat, stage.traced.lost_share)


def _edges(stage: Stage, seen: NDArray[np.int32]) -> NDArray[np.bool_]:
    """Pixels whose neighbour sees other things, or the same in another order, (pixels,) bool."""
    edge = np.zeros((stage.height, stage.width), bool)
    for numbers in (stage.traced.route, seen):
        n = numbers.reshape(stage.height, stage.width)
        across, down = n[:, 1:] != n[:, :-1], n[1:] != n[:-1]
        edge[:, 1:] |= across
        edge[:, :-1] |= across
        edge[1:] |= down
        edge[:-1] |= down
    return edge.ravel()


def _supersampled(
    stage: Stage, plan: Plan, movables: shading.Movables, nodes: NDArray[np.float32], pixels: NDArray[np.int64]
) -> Picture:
    """Mean of SUBSAMPLES samples in each pixel, (1 + lights, pixels, 3)."""
    ox, oy = lattice(SUBSAMPLES)
    x = (pixels % stage.width)[:, None] + ox
    y = (pixels // stage.width)[:, None] + oy
    samples = np.stack([x.ravel(), y.ravel()], axis=1)
    traced = _trace(plan, stage.still, samples, stage.width, stage.height)
    arriving = _spread(stage.fine_grid, locate(stage.fine_grid, traced), nodes)
    flat, _ = _gather(plan, movables, traced, arriving)
    return flat.reshape(len(flat), len(pixels), SUBSAMPLES, 3).mean(axis=2)


def _spread(grid: LightGrid, at: InGrid, nodes: NDArray[np.float32]) -> NDArray[np.float32]:
    """Light at hits, bilinear between nodes, (hits, lights, 3)."""
    arriving = np.empty((len(at.corner), *nodes.shape[1:]), np.float32)
    in_bands(lambda a, b: spread(nodes, grid.nodes, at.corner, at.part, a, b, arriving), len(at.corner))
    return arriving


def _draft_nodes(stage: Stage, lit: Lighting) -> NDArray[np.float32]:
    return lit.direct(stage.draft_grid.places) + _table_nodes(lit, stage.draft_table_grid, stage.draft_grid)


def _table_nodes(lit: Lighting, coarse: LightGrid, grid: LightGrid) -> NDArray[np.float32]:
    """Light by way of the table at the nodes of a grid, from a coarser one."""
    if lit.table is None:
        return np.zeros((len(grid.places), lit.lights, 3), np.float32)
    return refined(lit.from_table(coarse.places), nodes=coarse.nodes, to=grid.nodes)


def _light_finely(
    stage: Stage, lit: Lighting, direct: NDArray[np.float32], table: NDArray[np.float32]
) -> NDArray[np.float32]:
    """Light at every hit: from the fine grid where it is smooth, direct light computed at the hit where it bends."""
    at = locate(stage.fine_grid, stage.traced)
    arriving = _spread(stage.fine_grid, at, direct + table)
    bent = bent_hits(stage.fine_grid, at, direct)
    if len(bent):
        part = InGrid(corner=at.corner[bent], part=at.part[bent])
        exact = lit.direct(np.ascontiguousarray(stage.traced.hits[bent]))
        arriving[bent] = exact + _spread(stage.fine_grid, part, table)
    return arriving


def _in_view(plan: Plan, movables: shading.Movables) -> Ints:
    half_w, half_h = plan.camera.half_field
    return relight.stands_in_field(
        movables, eye=plan.camera.place.array(), basis=plan.camera.basis(), half_width=half_w, half_height=half_h
    )


def _gather(
    plan: Plan, movables: shading.Movables, traced: Traced, arriving: NDArray[np.float32]
) -> tuple[Picture, NDArray[np.int32]]:
    count, lights = len(traced.starts) - 1, arriving.shape[1]
    in_view = _in_view(plan, movables)
    flat = np.empty((1 + lights, count, 3), np.float32)
    seen = np.empty(count, np.int32)
    in_bands(lambda a, b: relight.gather(movables, lights, in_view, traced, arriving, a, b, flat, seen), count)
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
