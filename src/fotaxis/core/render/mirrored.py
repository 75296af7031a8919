"""What the product's own surface mirrors at places of the picture, without its matte skin and without what is seen through it.

A line on glass or metal is a mirror image; a pale label, paper seen through glass and the background beside the product are not.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import GATHER, HIT, SEGMENT
from fotaxis.core.constants import REC709_LUMINANCE
from fotaxis.core.keys import BACKGROUND_KEY, PRODUCT_KEY
from fotaxis.core.materials.material import BACK, CLEAR, COAT, KIND, METAL
from fotaxis.core.render.arrays.emitters import Emitters
from fotaxis.core.render.arrays.pack_emitters import face_keys
from fotaxis.core.render.arrays.pack_static_scene import SUBJECT, surface_owners
from fotaxis.core.render.arrays.path_records import GATHERED, GLOSSY, MATTE, SKINS_PER_SURFACE, VARIANTS, TracedPaths
from fotaxis.core.render.arrays.static_scene import StaticScene
from fotaxis.core.render.grids.gather_grid import GatherGrid, with_gather_points
from fotaxis.core.render.grids.irradiance_grid import GridWeights, IrradianceGrid, locate
from fotaxis.core.render.passes import polarised, trace_samples
from fotaxis.core.render.shading import first_hits
from fotaxis.core.render.tracing.trace import PREVIEW_CUT
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array

SAME_PLACE_M = 5e-6
"""Segments that begin so close to where another ends go on from there."""

NOTHING = ""
"""What a mirror image shows where it looks past everything on the set."""


@dataclass(frozen=True, kw_only=True)
class MirrorSamples:
    """Places of a picture traced for what the product mirrors there; nothing in it depends on a light.

    paths: what is mirrored, all other weights 0; ends (n, 3): where a place's ray meets something first, metres; zone (n,): its
    surface and skin there, -1 off the product; bare (n,): a skin that mirrors; clear (n,): of glass; root (n,): the segment that
    leaves it mirrored, -1 for none.
    """

    paths: TracedPaths
    ends: Array
    zone: NDArray[np.int64]
    bare: NDArray[np.bool_]
    clear: NDArray[np.bool_]
    root: NDArray[np.int64]
    _seen: dict[float, TracedPaths] = field(default_factory=dict)
    _at: dict[int, GridWeights] = field(default_factory=dict)

    @property
    def on_product(self) -> NDArray[np.bool_]:
        return self.zone >= 0

    def seen(self, plan: Plan) -> TracedPaths:
        """The paths through the polariser as the plan has it turned."""
        polariser = plan.before_lens.polariser
        if polariser is None:
            return self.paths
        if polariser.axis_rad not in self._seen:
            self._seen.clear()
            self._seen[polariser.axis_rad] = polarised(plan, self.paths)
        return self._seen[polariser.axis_rad]

    def at(self, scene: StaticScene, grid: IrradianceGrid, gather: GatherGrid) -> GridWeights:
        """Where the hits take their light from a draft's grid and its gather points."""
        if grid.nodes not in self._at:
            located = locate(scene, grid, self.paths)
            self._at[grid.nodes] = with_gather_points(scene, located, self.paths, gather, first_node=len(grid.places))
        return self._at[grid.nodes]


def trace_mirrored(plan: Plan, scene: StaticScene, places: Array, *, width: int, height: int) -> MirrorSamples:
    """Trace places (n, 2) of a picture of width x height pixels, in parts of its width and height from the upper left corner."""
    samples = places * np.array([width, height], np.float64)
    traced = trace_samples(plan, scene, samples, width, height, cut=PREVIEW_CUT)
    first = traced.starts[:-1]
    long = np.minimum(traced.segments[first, SEGMENT.LENGTH].astype(np.float64), 1e3)
    ends = traced.segments[first, SEGMENT.ORIGIN] + long[:, None] * traced.segments[first, SEGMENT.DIRECTION]
    paths, root = only_mirrored(traced, ends)
    _leave_out_background(plan, paths)
    on_product = traced.product == SUBJECT
    skins = scene.skins[np.where(traced.first >= 0, traced.first % SKINS_PER_SURFACE, 0)]
    return MirrorSamples(
        paths=paths, ends=ends, zone=np.where(on_product, traced.first, -1).astype(np.int64), bare=on_product & mirrors(skins),
        clear=on_product & (skins[:, KIND] == CLEAR), root=root,
    )  # fmt: skip


def mirrors(skins: Array) -> NDArray[np.bool_]:
    """Which skins, rows of the scene's, mirror: glass, metal, and what has a coat that sends nothing back to where it came from."""
    found: NDArray[np.bool_] = (
        (skins[..., KIND] == CLEAR) | (skins[..., KIND] == METAL) | ((skins[..., COAT] > 0.0) & (skins[..., BACK] == 0.0))
    )
    return found


def _leave_out_background(plan: Plan, paths: TracedPaths) -> None:
    """Take the weight off hits on the background: its glancing image in every silhouette is no line that anybody made."""
    behind = np.flatnonzero([owner == BACKGROUND_KEY for owner in surface_owners(plan)])
    matte = paths.hits[:, HIT.KIND] == MATTE
    lost = matte & np.isin(paths.hits[:, HIT.SURFACE].astype(np.int64) // VARIANTS, behind)
    paths.hits[lost, HIT.COLOUR] = 0.0
    paths.colours[lost] = 0.0


def mirrored_roots(traced: TracedPaths, ends: Array) -> NDArray[np.int64]:
    """The segment of each sample that leaves its first surface mirrored, (p,), -1 for none; ends: see only_mirrored."""
    count = len(traced.starts) - 1
    sample = np.repeat(np.arange(count), np.diff(traced.starts))
    number = np.arange(len(sample))
    onward = (traced.segments[:, SEGMENT.LENGTH] > 0) & (number != traced.starts[sample])
    root = np.full(count, -1, np.int64)
    of, at = np.unique(sample[onward], return_index=True)
    candidate = number[onward][at]
    apart = np.linalg.norm(traced.segments[candidate, SEGMENT.ORIGIN] - ends[of], axis=1)
    there = apart < SAME_PLACE_M
    root[of[there]] = candidate[there]
    return root


def only_mirrored(traced: TracedPaths, ends: Array) -> tuple[TracedPaths, NDArray[np.int64]]:
    """The same paths with weight only where the first surface mirrors, sharply or blurred, and the segment of each sample that leaves
    it mirrored, -1 for none.

    ends (p, 3): where the first segment of each ends. Depth first the mirrored branch comes before the refracted one.
    """
    root = mirrored_roots(traced, ends)
    sample = np.repeat(np.arange(len(root)), np.diff(traced.starts))
    number = np.arange(len(sample))
    stop = np.where(root >= 0, root + traced.skip[np.maximum(root, 0)], 0)
    kept = (root[sample] >= 0) & (number >= root[sample]) & (number < stop[sample])
    segments, hits = traced.segments.copy(), traced.hits.copy()
    segments[~kept, SEGMENT.COLOUR] = 0.0
    linked = np.flatnonzero(traced.segment_hit >= 0)
    hit = traced.segment_hit[linked]
    direct = (number[linked] < np.where(root >= 0, root, traced.starts[1:])[sample[linked]]) & _blurred(traced, hit)
    lost = ~(kept[linked] | direct)
    hits[hit[lost], HIT.COLOUR] = 0.0
    return replace(traced, segments=segments, hits=hits, colours=np.ascontiguousarray(hits[:, HIT.COLOUR])), root


def _blurred(traced: TracedPaths, hits: NDArray[np.int32]) -> NDArray[np.bool_]:
    """Which hits are gather points of blurred mirrors."""
    rows = traced.hits[hits]
    gathered = rows[:, HIT.KIND] == GATHERED
    kind = np.full(len(hits), -1.0)
    kind[gathered] = traced.gather_points[rows[gathered, HIT.U].astype(np.int64), GATHER.KIND]
    found: NDArray[np.bool_] = gathered & (kind == GLOSSY)
    return found


def luminance_of(layers: NDArray[np.float32]) -> Array:
    """Luminance of shaded samples, (..., samples, 3) to (..., samples) float64."""
    found: Array = layers.astype(np.float64) @ np.array(REC709_LUMINANCE)
    return found


def zone_name(plan: Plan, owner: str, skin: Array) -> str:
    """Name of the zone or part of a product that has this skin, '' for its body; owner: whose surface it is."""
    product = next((s for s in plan.products if owner == (PRODUCT_KEY if s is plan.product else s.key)), None)
    bands = product.bands if product else ()
    for band in bands:
        for part, row in band.skin_rows().items():
            if np.array_equal(row, skin):
                return f"{band.name}, {part}" if part else band.name
    for piece in product.parts if product else ():
        if piece.skin and np.array_equal(piece.skin.row(), skin):
            return piece.name
    return ""


def zone_names(plan: Plan, scene: StaticScene, samples: MirrorSamples) -> dict[int, str]:
    """Names of the zones that samples lie in, by number."""
    return {
        int(zone): zone_name(plan, PRODUCT_KEY, scene.skins[int(zone) % SKINS_PER_SURFACE])
        for zone in np.unique(samples.zone[samples.on_product])
    }


def mirrored_thing(plan: Plan, emitters: Emitters, samples: MirrorSamples, place: int) -> str:
    """Key of what the product mirrors at a place: a light, card, or what stands still; NOTHING where it looks past everything, or
    mirrors only blurred.
    """
    n = int(samples.root[place])
    if n < 0:
        return NOTHING
    paths = samples.paths
    found, _, _, _ = first_hits.nearest_emitter(
        emitters, len(emitters.light), np.arange(len(emitters.light)), first_hits.NO_FIRST_HITS, paths.segments, n, False
    )
    if found >= 0:
        return face_keys(plan)[found]
    return static_thing(plan, samples, place)


def static_thing(plan: Plan, samples: MirrorSamples, place: int) -> str:
    """Key of what stands still that the product mirrors at a place, past all lights and cards; NOTHING as mirrored_thing."""
    paths, n = samples.paths, int(samples.root[place])
    hit = int(paths.segment_hit[n])
    if hit < 0 or paths.hits[hit, HIT.KIND] == GATHERED:
        return NOTHING
    return surface_owners(plan)[int(paths.hits[hit, HIT.SURFACE]) // VARIANTS]


@dataclass(frozen=True, slots=True, kw_only=True)
class OnSet:
    """A place on what the camera sees: metres, the unit normal towards the camera, whose it is, and the zone's name."""

    place: Array
    normal: Array
    owner: str
    zone: str


BESIDE = 0.6
"""The normal is taken from three rays so far apart, in pixels."""


def place_in_frame(plan: Plan, scene: StaticScene, x: float, y: float, *, width: int, height: int) -> OnSet | None:
    """What stands still at a place of the frame, 0..1; None where nothing does."""
    dx, dy = BESIDE / width, BESIDE / height
    sides = np.array([[x, y], [x + dx, y], [x, y + dy], [x - dx, y], [x, y - dy]])
    samples = sides * np.array([width, height], np.float64)
    traced = trace_samples(plan, scene, samples, width, height, cut=PREVIEW_CUT)
    first = traced.starts[:-1]
    segments = traced.segments[first].astype(np.float64)
    if traced.first[0] < 0 or not np.isfinite(segments[0, SEGMENT.LENGTH]):
        return None
    here = traced.first == traced.first[0]
    ends = (
        segments[:, SEGMENT.ORIGIN]
        + np.where(here, segments[:, SEGMENT.LENGTH], 0.0)[:, None] * segments[:, SEGMENT.DIRECTION]
    )
    right = ends[1] - ends[0] if here[1] else ends[0] - ends[3]
    down = ends[2] - ends[0] if here[2] else ends[0] - ends[4]
    normal = np.cross(down, right)
    size = float(np.linalg.norm(normal))
    normal = normal / size if size > 0 and np.isfinite(size) else -segments[0, SEGMENT.DIRECTION]
    if normal @ segments[0, SEGMENT.DIRECTION] > 0:
        normal = -normal
    surface, skin = divmod(int(traced.first[0]), SKINS_PER_SURFACE)
    owner = surface_owners(plan)[surface]
    return OnSet(place=ends[0], normal=normal, owner=owner, zone=zone_name(plan, owner, scene.skins[skin]))
