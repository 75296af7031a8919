"""Steps that the draft and the picture at rest share: trace samples, light their nodes, walk their paths."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.render.arrays.path_records import TracedPaths
from fotaxis.core.render.arrays.static_scene import StaticScene
from fotaxis.core.render.grids.irradiance_grid import GridWeights, IrradianceGrid, interpolate, interpolate_to, locate
from fotaxis.core.render.lighting import Lighting, LightPlaces
from fotaxis.core.render.parallel import in_bands
from fotaxis.core.render.shading import first_hits, shade_paths
from fotaxis.core.render.tracing.trace import CUT, CameraRays, trace
from fotaxis.core.render.transport.rough_specular import add_rough_specular
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array, Picture


def small_bands(work: Callable[[int, int], object], count: int) -> list[object]:
    """Bands for samples that cost much each."""
    return in_bands(work, count, least=16)


def trace_samples(
    plan: Plan, scene: StaticScene, samples: Array, width: int, height: int, *, cut: float = CUT, each: int = 1
) -> TracedPaths:
    """Trace samples of a plan's picture, (p, 2) or (p, 4), see trace; each: how many stand for one pixel."""
    half_w, half_h = plan.camera.half_field
    right, up, middle = plan.camera.to_frame()
    lens = plan.camera.focal_length_m / plan.exposure.f_number / 2
    pixel = 2 * half_w / width / math.sqrt(each)
    camera = CameraRays(
        plan.camera.place.array(), right, up, middle, *plan.camera.from_frame(), half_w, half_h, width, height, lens,
        np.array(plan.camera.focus_plane), pixel,
    )  # fmt: skip
    return trace(
        scene, camera, samples=samples, bands=in_bands, cut=cut,
        polarised=plan.before_lens.polariser is not None,
    )  # fmt: skip


def polarised(plan: Plan, traced: TracedPaths) -> TracedPaths:
    """TracedPaths paths as the polariser of a plan shows them; the same without one."""
    polariser = plan.before_lens.polariser
    return traced.through_polariser(polariser.axis_rad) if polariser else traced


def light_at_hits(at: GridWeights, nodes: NDArray[np.float32]) -> NDArray[np.float32]:
    """Light at hits from that of their nodes, (hits, layers, 3)."""
    arriving = np.zeros((len(at.node), *nodes.shape[1:]), np.float32)
    if len(nodes):
        in_bands(lambda a, b: interpolate(nodes, at.node, at.weight, a, b, arriving), len(at.node))
    return arriving


def white_radiance(arriving: NDArray[np.float32]) -> NDArray[np.float32]:
    """Illuminance at nodes (g, lights, 3) as what a white place there shows: over pi, the room's 1 lux before it."""
    shown = np.empty((len(arriving), 1 + arriving.shape[1], 3), np.float32)
    shown[:, 0] = 1.0 / np.pi
    np.multiply(arriving, np.float32(1.0 / np.pi), out=shown[:, 1:])
    return shown


AddRoughGloss = Callable[[Lighting, Array, int, NDArray[np.float32]], None]


def add_rough_gloss(lit: Lighting, gather_points: Array, rays: int, light: NDArray[np.float32]) -> None:
    """Add to light (f, 1 + lights, 3) what blurred mirrors show of the lights' samples, see rough_specular.add_rough_specular."""
    in_bands(
        lambda a, b: add_rough_specular(lit.scene, lit.emitters, gather_points, rays, a, b, light),
        len(gather_points),
        least=32,
    )


def gathered_light(
    lit: Lighting, grid: IrradianceGrid, shown: NDArray[np.float32], gather_points: Array, spread_out: TracedPaths, *, rays: int,
    at: GridWeights | None = None, met: first_hits.FirstHits = first_hits.NO_FIRST_HITS, gloss: AddRoughGloss | None = None,
) -> NDArray[np.float32]:  # fmt: skip
    """What gather points show, (f, 1 + lights, 3): by their directions, traced as spread_out, and of the lights' samples.

    shown: what the nodes of `grid` show; rays: directions of a blurred mirror; at: where its hits lie in the grid, if known; gloss:
    what else than the kernel itself may add the lights' samples.
    """
    at = at or locate(lit.scene, grid, spread_out)
    flat, _ = shaded(lit, spread_out, light_at_hits(at, shown), from_camera=False, met=met)
    light = np.ascontiguousarray(flat.transpose(1, 0, 2))
    if lit.lights:
        (gloss or add_rough_gloss)(lit, gather_points, rays, light)
    return light


def table_nodes(
    lit: Lighting, coarse: IrradianceGrid, grid: IrradianceGrid, *, from_table: LightPlaces = Lighting.from_table
) -> NDArray[np.float32]:
    """Light by way of the table at the nodes of a grid, from a coarser one; at the corners of meshes as it is."""
    if lit.table is None or not lit.lights:
        return np.zeros((len(grid.places), lit.lights, 3), np.float32)
    light = from_table(lit, coarse.places)
    on_grids = interpolate_to(light, nodes=coarse.nodes, to=grid.nodes, grids=grid.grids)
    return np.concatenate([on_grids, light[coarse.grids * coarse.nodes**2 :]])


def shaded(
    lit: Lighting,
    traced: TracedPaths,
    arriving: NDArray[np.float32],
    *,
    from_camera: bool = True,
    met: first_hits.FirstHits = first_hits.NO_FIRST_HITS,
) -> tuple[Picture, NDArray[np.int32]]:
    """Walk all paths. from_camera: they begin at the camera, where only what stands in its field can be met first."""
    count, layers = len(traced.starts) - 1, arriving.shape[1]
    in_view = lit.in_view if from_camera else None
    flat = np.empty((layers, count, 3), np.float32)
    seen = np.empty(count, np.int32)
    in_bands(
        lambda a, b: shade_paths.shade_per_light(lit.emitters, layers - 1, in_view, traced, arriving, a, b, flat, seen, met), count,
        least=512 if from_camera else 32,
    )  # fmt: skip
    return flat, seen
