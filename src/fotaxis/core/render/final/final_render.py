"""The picture for a hand at rest: fine light on matte surfaces, edge pixels and what is out of focus sampled again."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fotaxis.core.camera.camera import picture_size
from fotaxis.core.render.arrays.emitters import HAS_LOBE
from fotaxis.core.render.final.caustics import caustics
from fotaxis.core.render.final.depth_of_field import soft_pixels
from fotaxis.core.render.final.edges import edges, lone_pixels
from fotaxis.core.render.final.final_shading import FinalShading
from fotaxis.core.render.final.quality import EDGED, FINAL, LIT, ProgressCallback, RenderQuality, never_cancel
from fotaxis.core.render.final.sampling import HARDLY_SPLIT, Lot, Sampler, lots
from fotaxis.core.render.final.slipped_through import slipped_through
from fotaxis.core.render.layers import Layers
from fotaxis.core.render.lens.haze_field import pixel_places
from fotaxis.core.render.lens.through_lens import hazed
from fotaxis.core.render.lighting import FINE, Lighting, lighting
from fotaxis.core.render.passes import shaded, table_nodes
from fotaxis.core.render.preview.traced_scene import TracedScene, layers_of, trace_scene
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Picture

SAMPLES_AT_ONCE = 6_000
"""Pixels are sampled in lots of so many samples, one a core, and whether the picture is still wanted is asked before each."""


def render_final(
    stage: TracedScene, plan: Plan, *, quality: RenderQuality = FINAL, watch: ProgressCallback = never_cancel
) -> Layers:
    """Layers for a hand at rest: fine light on matte surfaces; edge pixels traced again several times.

    Raises RenderCancelled when watch says no.
    """
    scene = render_scene_layers(stage, plan, quality=quality, watch=watch)
    return layers_of(plan, stage, scene.lit, scene.flat, hazy=True, focused=scene.focused)


@dataclass(frozen=True, slots=True, kw_only=True)
class SceneLayers:
    """Layers of a scene through its haze, (1 + lights, pixels, 3), the light they were made with, and whether what is out of focus
    is soft in them."""

    flat: Picture
    lit: Lighting
    focused: bool


def render_scene_layers(
    stage: TracedScene, plan: Plan, *, quality: RenderQuality = FINAL, watch: ProgressCallback = never_cancel
) -> SceneLayers:
    """As render_final, without shades and glare; without aperture and focus too where the quality takes no samples through the lens's
    opening."""
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
    sampler = Sampler(fine=fine, haze=hazed(plan, lit))
    flat = sampler.hazed(stage.traced, flat, pixel_places(stage.width, stage.height))
    edge, strong, texture = edges(stage, seen, flat)
    slipped = slipped_through(stage.traced, lit.emitters, width=stage.width)
    edge, strong = edge | slipped, strong | slipped
    plain = np.diff(stage.traced.starts) <= HARDLY_SPLIT
    q = quality
    fine.prepare()
    soft = soft_pixels(sampler, flat) if q.lens else None
    todo: list[Lot] = []
    if soft is not None:
        through, shared = soft.pixels.ravel(), soft.shared.ravel()
        edge, strong, texture, slipped = (chosen & ~through for chosen in (edge, strong, texture, slipped))
        slight = soft.slight.ravel()
        for some, many, few in ((plain, q.lens, q.plain), (~plain, q.lens // 3, q.strong + q.more)):
            todo += lots(through & some & slight, SAMPLES_AT_ONCE, few, opening="whole")
            todo += lots(through & some & ~slight & ~shared, SAMPLES_AT_ONCE, many, opening="whole")
            todo += lots(through & some & ~slight & shared, SAMPLES_AT_ONCE, many, opening="shared")
    kinds = (
        (slipped & plain, q.thin, 0),
        (strong & plain & ~slipped, q.plain, 0),
        (strong & ~plain, q.strong, q.more),
        (edge & ~strong, q.weak, q.more),
        (texture & ~edge, q.texture, 0),
    )
    for chosen, samples, more in kinds:
        todo += lots(chosen, SAMPLES_AT_ONCE, samples, more=more)
    sampler.run(flat, todo, LIT, EDGED)
    if soft is not None:
        flat = soft.cleaned(flat)
    if q.more:  # a small lamp that glass mirrors is met by few of the first samples: more for these pixels and those around
        alone = lone_pixels(flat, height=stage.height, width=stage.width)
        through, shared = (m.ravel() for m in (soft.pixels, soft.shared)) if soft else (np.zeros_like(alone),) * 2
        again = lots(alone & ~through, SAMPLES_AT_ONCE, q.plain)
        again += lots(alone & through & ~shared, SAMPLES_AT_ONCE, q.lens, opening="whole")
        sampler.run(flat, again, EDGED, 1.0)
    return SceneLayers(flat=flat, lit=lit, focused=q.lens > 0)


def predict(plan: Plan, *, long_side: int, quality: RenderQuality = FINAL) -> Layers:
    """Layers of a plan in one call, in the best quality unless another is wanted."""
    width, height = picture_size(ratio=plan.camera.crop_ratio, long_side=long_side)
    return render_final(trace_scene(plan, width=width, height=height), plan, quality=quality)
