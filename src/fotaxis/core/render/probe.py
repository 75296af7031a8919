"""What is seen at one spot of the picture, by what way, and where the picture shows a thing's mirror image."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import HIT, SEGMENT
from fotaxis.core.constants import REC709_LUMINANCE
from fotaxis.core.keys import BACKGROUND_KEY, PRODUCT_KEY, RISER_KEY, ROOM_KEY, TABLE_KEY
from fotaxis.core.render.arrays.emitters import Emitters
from fotaxis.core.render.arrays.pack_emitters import face_keys, pack_emitters
from fotaxis.core.render.arrays.pack_static_scene import surface_owners
from fotaxis.core.render.arrays.path_records import LEAVES_SET, SKINS_PER_SURFACE, VARIANTS, TracedPaths
from fotaxis.core.render.lighting import DRAFT, Lighting, draft_lighting
from fotaxis.core.render.lighting import in_view as view_of
from fotaxis.core.render.parallel import in_bands
from fotaxis.core.render.passes import light_at_hits
from fotaxis.core.render.preview.traced_scene import TracedScene, draft_shown
from fotaxis.core.render.shading import first_hits, mirror_masks, shade_paths
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array

SHOWN_FAR_M = 0.6
"""Of a way that leaves the set so much is shown."""

ON_TOP_M = 2e-3
LEAST_SHARE = 0.01
"""What makes less of a spot's light is not told."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Contribution:
    """One thing that a spot shows.

    key: of a light, card or thing on the set, or table, riser, background, room; by: what mirrors or refracts it on the way from
    the camera, nearest first, empty where it is seen itself; level: its luminance there, grey 0.18; way (n, 3): from the lens
    to it, metres.
    """

    key: str
    by: tuple[str, ...]
    level: float
    way: Array


@dataclass(frozen=True, slots=True, kw_only=True)
class SeenThing:
    """Everything a spot shows, strongest first, and what lies there itself ('' where nothing does), with the name of its zone."""

    here: str
    zone: str
    level: float
    parts: tuple[Contribution, ...]


@dataclass(frozen=True, kw_only=True)
class PixelProbe:
    """A plan lit as for a draft, to be looked at in many spots."""

    plan: Plan
    stage: TracedScene
    lit: Lighting
    nodes: NDArray[np.float32]
    gains: Array


def probe_pixel(stage: TracedScene, plan: Plan, *, gains: Array) -> PixelProbe:
    """Light a plan once for many spots. gains (1 + lights,): factor of every layer."""
    lit = draft_lighting(plan, stage.scene, gains=gains[1:])
    return PixelProbe(plan=plan, stage=stage, lit=lit, nodes=draft_shown(stage, plan, lit), gains=np.array([gains[0], 1.0]))


def seen_at(looked: PixelProbe, *, x: float, y: float) -> SeenThing:
    """What is seen at parts x, y (0..1 from the upper left corner) of the picture."""
    stage, plan = looked.stage, looked.plan
    column, row = min(int(x * stage.width), stage.width - 1), min(int(y * stage.height), stage.height - 1)
    pixel = np.array([row * stage.width + column])
    paths, hits = stage.seen(plan).part(pixel)
    ends = _ends(looked, paths)
    levels = _levels(looked, paths, hits, [n for n, _ in ends])
    owners, faces = surface_owners(plan), face_keys(plan)
    found: dict[tuple[str, tuple[str, ...]], Contribution] = {}
    for (n, face), level in zip(ends, levels, strict=True):
        chain = [a for a in range(n) if a + paths.skip[a] > n] + [n]
        way = _way(looked, paths, chain)
        by = tuple(owner_at(plan, place) for place in way[1:-1])
        hit = int(paths.segment_hit[n])
        key = (
            faces[face]
            if face >= 0
            else ROOM_KEY
            if hit == LEAVES_SET
            else owners[int(paths.hits[hit, HIT.SURFACE]) // VARIANTS]
        )
        by = _once(by[:-1] if face < 0 and by and hit >= 0 and by[-1] == key else by)
        old = found.get((key, by))
        kept = way if old is None or level > old.level else old.way
        found[key, by] = Contribution(key=key, by=by, level=level + (old.level if old else 0.0), way=kept)
    whole = sum(part.level for part in found.values())
    parts = sorted(found.values(), key=lambda part: -part.level)
    first = int(paths.first[0])
    here = owners[first // SKINS_PER_SURFACE] if first >= 0 else ""
    zone = _zone(plan, here, stage.scene.skins[first % SKINS_PER_SURFACE]) if here else ""
    if parts and not parts[0].by and parts[0].key in faces:
        here, zone = parts[0].key, ""
    return SeenThing(here=here, zone=zone, level=whole, parts=tuple(p for p in parts if p.level >= LEAST_SHARE * whole))


def _zone(plan: Plan, owner: str, skin: Array) -> str:
    """Name of the zone of a product that has this skin, '' for its body."""
    product = next((s for s in plan.products if owner == (PRODUCT_KEY if s is plan.product else s.key)), None)
    bands = product.bands if product else ()
    return next((band.name for band in bands if np.array_equal(band.skin.row(), skin)), "")


def _once(names: tuple[str, ...]) -> tuple[str, ...]:
    """Without repetitions of what stands beside each other: glass bends a ray at both of its faces."""
    return tuple(name for i, name in enumerate(names) if i == 0 or names[i - 1] != name)


def _ends(looked: PixelProbe, paths: TracedPaths) -> list[tuple[int, int]]:
    """Segments at whose end something is seen, and the face there, -1 for a surface or the room."""
    emitters, found = looked.lit.emitters, []
    count, in_view = len(emitters.light), looked.lit.in_view
    n = 0
    while n < len(paths.segments):
        face = -1
        if paths.segments[n, SEGMENT.LENGTH] > 0:
            face = first_hits.nearest_emitter(emitters, count, in_view, first_hits.NO_FIRST_HITS, paths.segments, n, n == 0)[
                0
            ]
        if face >= 0 or paths.segment_hit[n] != -1:
            found.append((n, face))
        n += int(paths.skip[n]) if face >= 0 else 1
    return found


def _levels(looked: PixelProbe, paths: TracedPaths, hits: NDArray[np.int64], ends: list[int]) -> list[float]:
    """Luminance that each of some segments brings."""
    if not ends:
        return []
    count = len(ends)
    alone = replace(
        paths, segments=paths.segments[ends], segment_hit=paths.segment_hit[ends], skip=np.ones(count, np.int32),
        starts=np.arange(count + 1, dtype=np.int64),
    )  # fmt: skip
    light = light_at_hits(looked.stage.draft(looked.plan).at.part(hits), looked.nodes)
    lights, every = looked.lit.lights, np.arange(len(looked.lit.emitters.light))
    flat, seen = np.empty((1 + lights, count, 3), np.float32), np.empty(count, np.int32)
    shade_paths.shade_per_light(looked.lit.emitters, lights, every, alone, light, 0, count, flat, seen)
    levels = np.tensordot(looked.gains, flat, axes=(0, 0)) @ np.array(REC709_LUMINANCE)
    return [float(level) for level in levels]


def _way(looked: PixelProbe, paths: TracedPaths, chain: list[int]) -> Array:
    """The places a way passes, from the lens to its end, (n, 3) metres."""
    places = [paths.segments[n, SEGMENT.ORIGIN].astype(float) for n in chain]
    last = chain[-1]
    emitters = looked.lit.emitters
    _, _, _, far = first_hits.nearest_emitter(
        emitters, len(emitters.light), np.arange(len(emitters.light)), first_hits.NO_FIRST_HITS, paths.segments, last, True
    )
    far = far if math.isfinite(far) else SHOWN_FAR_M
    places.append(places[-1] + far * paths.segments[last, SEGMENT.DIRECTION])
    kept = [places[0]]
    for place in places[1:]:
        if np.linalg.norm(place - kept[-1]) > 1e-6:
            kept.append(place)
    return np.array(kept)


def owner_at(plan: Plan, place: Array) -> str:
    """Key of the thing whose surface a place on the way of a ray is."""
    x, y, z = (float(v) for v in place)
    if plan.background and z <= -plan.background.distance_m + ON_TOP_M:
        return BACKGROUND_KEY
    if plan.table and y <= ON_TOP_M:
        return TABLE_KEY
    if plan.riser and y <= plan.riser.height_m + ON_TOP_M and math.hypot(x, z) <= plan.riser.diameter_m / 2 + ON_TOP_M:
        return RISER_KEY
    near = min(plan.products, key=lambda s: math.hypot(x - s.x_m, z - s.z_m) - s.reach_m)
    return PRODUCT_KEY if near is plan.product else near.key


def mirror_images(stage: TracedScene, plan: Plan) -> dict[str, NDArray[np.bool_]]:
    """Where the picture shows each light, card or sheet mirrored or refracted, (height, width) bool; things it shows alone."""
    emitters: Emitters = pack_emitters(
        plan, stage.scene, cells=DRAFT.light, card_cells=DRAFT.card, sheet=DRAFT.sheet, rays=DRAFT.rays
    )
    traced = stage.seen(plan)
    faces, count = len(emitters.light), len(traced.starts) - 1
    masks = np.zeros((faces, count), bool)
    in_view = view_of(plan, emitters)
    in_bands(lambda a, b: mirror_masks.mirror_mask(emitters, in_view, traced, a, b, masks), count)
    out: dict[str, NDArray[np.bool_]] = {}
    for key, mask in zip(face_keys(plan), masks, strict=True):
        if mask.any():
            out[key] = out.get(key, np.zeros(count, bool)) | mask
    return {key: mask.reshape(stage.height, stage.width) for key, mask in out.items()}
