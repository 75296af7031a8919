"""What is seen at one spot of the picture, by what way, and where the picture shows a thing's mirror image."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import GATHER, HIT, SEGMENT
from fotaxis.core.constants import REC709_LUMINANCE
from fotaxis.core.keys import BACKGROUND_KEY, PRODUCT_KEY, RISER_KEY, ROOM_KEY, TABLE_KEY
from fotaxis.core.render.arrays.emitters import Emitters
from fotaxis.core.render.arrays.pack_emitters import face_keys, pack_emitters
from fotaxis.core.render.arrays.pack_static_scene import surface_owners
from fotaxis.core.render.arrays.path_records import GATHERED, GLOSSY, LEAVES_SET, SKINS_PER_SURFACE, VARIANTS, TracedPaths
from fotaxis.core.render.grids.irradiance_grid import locate
from fotaxis.core.render.lighting import DRAFT, Lighting, draft_lighting
from fotaxis.core.render.lighting import in_view as view_of
from fotaxis.core.render.mirrored import zone_name
from fotaxis.core.render.parallel import in_bands
from fotaxis.core.render.passes import light_at_hits, small_bands
from fotaxis.core.render.preview.traced_scene import TracedScene, draft_shown
from fotaxis.core.render.shading import first_hits, mirror_masks, shade_paths
from fotaxis.core.render.tracing.trace import trace_gather_points
from fotaxis.core.render.transport.rough_specular import add_rough_specular
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
    lamp_gains: Array


def probe_pixel(stage: TracedScene, plan: Plan, *, gains: Array) -> PixelProbe:
    """Light a plan once for many spots. gains (1 + lights,): factor of every layer."""
    lit = draft_lighting(plan, stage.scene, gains=gains[1:])
    return PixelProbe(
        plan=plan,
        stage=stage,
        lit=lit,
        nodes=draft_shown(stage, plan, lit),
        gains=np.array([gains[0], 1.0]),
        lamp_gains=gains[1:],
    )


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

    def add(key: str, by: tuple[str, ...], level: float, way: Array) -> None:
        old = found.get((key, by))
        kept = way if old is None or level > old.level else old.way
        found[key, by] = Contribution(key=key, by=by, level=level + (old.level if old else 0.0), way=kept)

    for (n, face), level in zip(ends, levels, strict=True):
        chain = [a for a in range(n) if a + paths.skip[a] > n] + [n]
        way = _way(looked, paths, chain)
        by = tuple(owner_at(plan, place) for place in way[1:-1])
        hit = int(paths.segment_hit[n])
        if face < 0 and hit >= 0 and _is_blurred(paths, hit):
            _add_blurred(looked, paths, hit, by, way, add)
            continue
        key = (
            faces[face]
            if face >= 0
            else ROOM_KEY
            if hit == LEAVES_SET
            else owners[int(paths.hits[hit, HIT.SURFACE]) // VARIANTS]
        )
        by = _once(by[:-1] if face < 0 and by and hit >= 0 and by[-1] == key else by)
        add(key, by, level, way)
    whole = sum(part.level for part in found.values())
    parts = sorted(found.values(), key=lambda part: -part.level)
    first = int(paths.first[0])
    here = owners[first // SKINS_PER_SURFACE] if first >= 0 else ""
    zone = zone_name(plan, here, stage.scene.skins[first % SKINS_PER_SURFACE]) if here else ""
    if parts and not parts[0].by and parts[0].key in faces:
        here, zone = parts[0].key, ""
    return SeenThing(here=here, zone=zone, level=whole, parts=tuple(p for p in parts if p.level >= LEAST_SHARE * whole))


BLURRED_RAYS = 256
"""Directions by which a blurred mirror is asked what it shows."""

AddPart = Callable[[str, tuple[str, ...], float, Array], None]


def _is_blurred(paths: TracedPaths, hit: int) -> bool:
    row = paths.hits[hit]
    if row[HIT.KIND] != GATHERED:
        return False
    return bool(paths.gather_points[int(row[HIT.U]), GATHER.KIND] == GLOSSY)


def _add_blurred(looked: PixelProbe, paths: TracedPaths, hit: int, by: tuple[str, ...], way: Array, add: AddPart) -> None:
    """Add everything that a blurred mirror shows, by its directions and by the lights' samples, as the picture adds it up."""
    stage, plan = looked.stage, looked.plan
    point = paths.gather_points[[int(paths.hits[hit, HIT.U])]]
    share = paths.hits[hit, HIT.COLOUR].astype(np.float64) * np.array(REC709_LUMINANCE)
    spot = point[0, [GATHER.X, GATHER.Y, GATHER.Z]].astype(np.float64)
    by = _once((*by, owner_at(plan, spot)))
    owners, faces = surface_owners(plan), face_keys(plan)
    rays = trace_gather_points(stage.scene, point, rays=BLURRED_RAYS, inner_rays=1, bands=small_bands)
    draft = stage.draft(plan)
    light = light_at_hits(locate(stage.scene, draft.grid, rays), looked.nodes)
    ends = _ends(looked, rays, from_camera=False)
    for (n, face), colour in zip(ends, _colours(looked, rays, light, [n for n, _ in ends], from_camera=False), strict=True):
        end = int(rays.segment_hit[n])
        key = (
            faces[face]
            if face >= 0
            else ROOM_KEY
            if end == LEAVES_SET
            else owners[int(rays.hits[end, HIT.SURFACE]) // VARIANTS]
        )
        add(key, by, float(colour @ share), np.vstack([way, way[-1] + SHOWN_FAR_M * rays.segments[n, SEGMENT.DIRECTION]]))
    lit = draft_lighting(plan, stage.scene)
    sampled = np.zeros((1, 1 + lit.lights, 3), np.float32)
    if lit.lights:
        add_rough_specular(lit.scene, lit.emitters, point, BLURRED_RAYS, 0, 1, sampled)
    for i, one in enumerate(plan.lights):
        level = looked.lamp_gains[i] * float(sampled[0, 1 + i].astype(np.float64) @ share)
        if level > 0:
            add(one.key, by, level, np.vstack([way, one.stance.place.array()]))


def _once(names: tuple[str, ...]) -> tuple[str, ...]:
    """Without repetitions of what stands beside each other: glass bends a ray at both of its faces."""
    return tuple(name for i, name in enumerate(names) if i == 0 or names[i - 1] != name)


def _ends(looked: PixelProbe, paths: TracedPaths, *, from_camera: bool = True) -> list[tuple[int, int]]:
    """Segments at whose end something is seen, and the face there, -1 for a surface or the room."""
    emitters, found = looked.lit.emitters, []
    count, in_view = len(emitters.light), looked.lit.in_view
    n = 0
    while n < len(paths.segments):
        face = -1
        if paths.segments[n, SEGMENT.LENGTH] > 0:
            first = from_camera and n == 0
            met = first_hits.nearest_emitter(emitters, count, in_view, first_hits.NO_FIRST_HITS, paths.segments, n, first)
            face = met[0]
        if face >= 0 or paths.segment_hit[n] != -1:
            found.append((n, face))
        n += int(paths.skip[n]) if face >= 0 else 1
    return found


def _levels(looked: PixelProbe, paths: TracedPaths, hits: NDArray[np.int64], ends: list[int]) -> list[float]:
    """Luminance that each of some segments brings."""
    light = light_at_hits(looked.stage.draft(looked.plan).at.part(hits), looked.nodes)
    colours = _colours(looked, paths, light, ends)
    return [float(level) for level in colours @ np.array(REC709_LUMINANCE)]


def _colours(
    looked: PixelProbe, paths: TracedPaths, light: NDArray[np.float32], ends: list[int], *, from_camera: bool = True
) -> Array:
    """Linear R, G, B that each of some segments brings, (n, 3); light: what the paths' hits show."""
    if not ends:
        return np.empty((0, 3))
    count = len(ends)
    alone = replace(
        paths, segments=paths.segments[ends], segment_hit=paths.segment_hit[ends], skip=np.ones(count, np.int32),
        starts=np.arange(count + 1, dtype=np.int64),
    )  # fmt: skip
    lights, every = looked.lit.lights, np.arange(len(looked.lit.emitters.light))
    flat, seen = np.empty((1 + lights, count, 3), np.float32), np.empty(count, np.int32)
    shade_paths.shade_per_light(
        looked.lit.emitters, lights, every if from_camera else None, alone, light, 0, count, flat, seen
    )
    found: Array = np.tensordot(looked.gains, flat, axes=(0, 0))
    return found


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
