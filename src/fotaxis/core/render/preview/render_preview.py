"""The picture that follows the hand: all lights as one from the beginning, and what of it is read."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.render.lens.through_lens import (
    finished,
    glare,
    hazed,
    lens_effects,
    meets,
    node_values,
    quickly_blurred,
)
from fotaxis.core.render.lighting import Lighting, behind_emitters, draft_detail, draft_lighting, lit_by, mixed_emitters
from fotaxis.core.render.mirrored import MirrorSamples, luminance_of
from fotaxis.core.render.parallel import in_bands
from fotaxis.core.render.passes import light_at_hits, shaded
from fotaxis.core.render.preview.preview_cache import PreviewCache
from fotaxis.core.render.preview.traced_scene import Draft, TracedScene, draft_nodes
from fotaxis.core.render.shading import first_hits, shade_paths
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array, Picture


class Preview(NamedTuple):
    """A picture that follows the hand: (height, width, 3) uint8; linear levels at the pixels that are read, (n, 3) float32; and what
    the product mirrors at the places that were asked for, luminance (m,)."""

    picture: NDArray[np.uint8]
    read: NDArray[np.float32]
    mirrored: Array


def render_preview(
    stage: TracedScene, plan: Plan, *, gains: Array, pixels: NDArray[np.int64], drag: PreviewCache | None = None,
    places: MirrorSamples | None = None,
) -> Preview:  # fmt: skip
    """What relight_draft and develop give, faster: the picture, and what is read of it.

    gains (1 + lights,): factor of every layer; pixels (n,): row * width + column of each that is read; drag: what is kept between
    pictures; places: where it is told what the product mirrors. Light adds up: all lights are one from the beginning.
    """
    draft = stage.draft(plan)
    room = float(gains[0])
    lit = _draft_lit(stage, plan, gains[1:], drag)
    nodes = draft_nodes(stage, draft, lit, drag)
    light = room * nodes[:, 0] + nodes[:, 1]
    in_view, traced = lit.in_view, stage.seen(plan)
    levels = np.empty((stage.height * stage.width, 3), np.float32)
    met = drag.met if drag else first_hits.NO_FIRST_HITS
    lobes = drag.lobe_cache(lit.emitters) if drag else shade_paths.NO_LOBE_CACHE
    behind = behind_emitters(plan, lit, size=(stage.width, stage.height))
    in_bands(
        lambda a, b: shade_paths.shade_mixed(
            lit.emitters, in_view, behind, met, lobes, traced, light, draft.at, room, a, b, levels
        ),
        len(levels),
    )
    picture, read = _through_lens(stage, plan, lit, levels, room, pixels, behind, met)
    return Preview(picture, read, _mirrored(stage, plan, draft, lit, light, room, places) if places else NOTHING_MIRRORED)


NOTHING_MIRRORED: Array = np.empty(0)


def _mirrored(
    stage: TracedScene,
    plan: Plan,
    draft: Draft,
    lit: Lighting,
    light: NDArray[np.float32],
    room: float,
    places: MirrorSamples,
) -> Array:
    """Luminance that the product mirrors at some places, all lights as one; light: what the draft's nodes show."""
    levels = np.empty((len(places.zone), 3), np.float32)
    at = places.at(stage.scene, draft.grid, stage.draft_gather)
    paths, everywhere = places.seen(plan), np.ones(len(levels), np.bool_)
    in_bands(
        lambda a, b: shade_paths.shade_mixed(
            lit.emitters, lit.in_view, everywhere, first_hits.NO_FIRST_HITS, shade_paths.NO_LOBE_CACHE, paths, light, at, room, a,
            b, levels,
        ),
        len(levels),
    )  # fmt: skip
    return luminance_of(levels)


def mirrored_layers(stage: TracedScene, plan: Plan, places: MirrorSamples) -> Array:
    """Luminance that the product mirrors of every light at full power, and of the room before them, (1 + lights, n)."""
    lit = draft_lighting(plan, stage.scene)
    draft = stage.draft(plan)
    nodes = draft_nodes(stage, draft, lit)
    flat, _ = shaded(lit, places.seen(plan), light_at_hits(places.at(stage.scene, draft.grid, stage.draft_gather), nodes))
    return luminance_of(flat)


def _draft_lit(stage: TracedScene, plan: Plan, gains: Array, drag: PreviewCache | None) -> Lighting:
    """The lighting of a picture that follows the hand, from what its drag has kept."""
    if drag is None:
        return draft_lighting(plan, stage.scene, gains=gains)
    detail = draft_detail(plan)
    emitters = mixed_emitters(plan, stage.scene, detail, gains)
    drag.update(stage.traced, stage.draft_spread, emitters)
    return lit_by(
        plan, stage.scene, emitters, detail, lights=1, light_faces=lambda nodes: drag.light_faces(stage.scene, nodes),
        direct=drag.direct,
    )  # fmt: skip


def _through_lens(
    stage: TracedScene,
    plan: Plan,
    lit: Lighting,
    levels: NDArray[np.float32],
    room: float,
    pixels: NDArray[np.int64],
    behind: NDArray[np.bool_],
    known: first_hits.FirstHits,
) -> tuple[NDArray[np.uint8], NDArray[np.float32]]:
    """The picture and the pixels that are read as the lens shows them; lit: all lights as one."""
    width, height = stage.width, stage.height
    gains = np.array([room, 1.0])
    field = hazed(plan, lit)
    depth, spread = (
        stage.focus(plan, lit, behind, known) if field is not None or plan.camera.focus_m is not None else (None, None)
    )

    def veil_of(hazy: Picture) -> NDArray[np.float32]:
        numbers, part = stage.some
        flat = hazy.reshape(1, -1, 3)[:, numbers]
        met, about = meets(plan, lit, part), stage.surround(plan)
        return glare(plan, lit, part, flat, met, about, gains=gains, reach=stage.reach(plan))

    pictures, veil = lens_effects(
        plan, levels.reshape(1, height, width, 3), haze=field, depth=depth, spread=spread, veil_of=veil_of, blur=quickly_blurred,
        gains=gains,
    )  # fmt: skip
    read = pictures[0].reshape(-1, 3)[pixels]
    if veil is not None:
        read = read + node_values(veil, pixels, width=width, height=height)[0]
    return finished(pictures[0], None if veil is None else veil[0], plan.tone), read
