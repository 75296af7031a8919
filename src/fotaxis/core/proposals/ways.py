"""What the camera sees mirrored where a line or a highlight is wished for, traced on the product itself."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import SEGMENT
from fotaxis.core.errors import NoSolution
from fotaxis.core.frames.readings.area import Area
from fotaxis.core.frames.readings.edge import EdgeLine
from fotaxis.core.frames.readings.frame_area import FrameArea
from fotaxis.core.frames.readings.reading import rows_between
from fotaxis.core.materials.fresnel import reflectance
from fotaxis.core.materials.material import ACROSS as BRUSH_ACROSS
from fotaxis.core.materials.material import ALONG, COAT, KIND, METAL
from fotaxis.core.render.arrays.pack_static_scene import SUBJECT
from fotaxis.core.render.arrays.path_records import SKINS_PER_SURFACE
from fotaxis.core.render.arrays.static_scene import StaticScene
from fotaxis.core.render.mirrored import mirrored_roots, mirrors
from fotaxis.core.render.passes import trace_samples
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array

SEARCHED_PX, SEARCHED = 2.0, 81
"""The product's edge is looked for so far to either side of its outermost pixel, in so many steps."""

BESIDE_PX = 0.3
LEAST_ROWS = 4
GLOSS_AT = 9
ROUNDED_PX = 0.7
"""A reading takes whole pixels for the product's edges: a highlight reaches so much further to either side."""
ACROSS = 9
"""An area is looked at in so many columns."""

SEEN_PART = 0.5
"""Of an area so much at least must be seen and mirror."""

HARDLY_SEEN = "the product is hardly seen between the line's heights; make them wider, or bring it into the frame."


@dataclass(frozen=True, slots=True, kw_only=True)
class MirroredWays:
    """Ways on from a surface: places (metres) and unit directions, rows by columns, (n, k, 3); of a line its inner and outer end,
    k = 2. spots (n, k, 2): where they lie in the frame, 0..1; there (n, k): False where the surface is hidden or mirrors nothing;
    gloss: how much is mirrored from a line's inner to its outer end, evenly spaced, (m,), of an area (1,); blur_rad: how far to either
    side it is blurred."""

    spots: Array
    places: Array
    ways: Array
    is_line: bool
    there: NDArray[np.bool_]
    gloss: Array
    blur_rad: float = 0.0

    def slants(self, across: Array, front: Array) -> tuple[float, float]:
        """Tangents of a line's ways at its inner and outer end off a face's normal, outwards along the face."""
        inner, outer = self._tangents(across, front)
        return self.outward(across, front) * inner, self.outward(across, front) * outer

    def outward(self, across: Array, front: Array) -> float:
        """1 where a line's outer end is seen further along a face's own across, -1 where further against it."""
        inner, outer = self._tangents(across, front)
        return math.copysign(1.0, outer - inner)

    def _tangents(self, across: Array, front: Array) -> tuple[float, float]:
        way = np.median(self.ways, axis=0)
        inner, outer = (way @ across) / -(way @ front)
        return float(inner), float(outer)

    @property
    def middle(self) -> Array:
        """The mean way, a unit vector (3,)."""
        mean = self.ways[self.there].mean(axis=0)
        unit: Array = mean / np.linalg.norm(mean)
        return unit

    @property
    def centre(self) -> Array:
        """Mean place, (3,)."""
        found: Array = self.places[self.there].mean(axis=0)
        return found


def line_ways(
    plan: Plan, scene: StaticScene, is_product: NDArray[np.bool_], line: EdgeLine, *, near: float, far: float
) -> MirroredWays:
    """What the camera sees mirrored where a line is wished for: from near to far of the product's half width.

    is_product (height, width): where a picture shows the product. NoSolution where it is not seen between the line's heights.
    Source:     law of reflection at the traced surface; its normal from four rays about each place.
    """
    height, width = is_product.shape
    rows = np.array([(row + 0.5, first, last) for row, first, last in rows_between(is_product, line.low, line.high)])
    if len(rows) < LEAST_ROWS:
        raise NoSolution(HARDLY_SEEN)
    edges = product_edges(plan, scene, rows, width, height)
    outward = -1.0 if line.left else 1.0
    middle, half = edges.mean(axis=1), np.diff(edges, axis=1)[:, 0] / 2
    x = np.stack([middle + outward * near * half, middle + outward * far * half], axis=1)
    y = np.broadcast_to(rows[:, 0, None], x.shape)
    found = surface_at(plan, scene, x, y, width, height)
    some = (found.there & found.of_product).all(axis=1)
    if some.sum() < LEAST_ROWS:
        raise NoSolution("the product is hidden where the line is wished for.")
    spots = np.stack([x / width, y / height], axis=2)
    return MirroredWays(
        spots=spots[some], places=found.places[some], ways=found.onward[some], is_line=True, there=found.there[some],
        gloss=_across_line(plan, scene, middle, half, outward, near, far, rows, (width, height)),
    )  # fmt: skip


def _across_line(
    plan: Plan, scene: StaticScene, middle: Array, half: Array, outward: float, near: float, far: float, rows: Array,
    size: tuple[int, int],
) -> Array:  # fmt: skip
    """How much is mirrored from a line's inner to its outer end, (GLOSS_AT,), 1 where nothing is known."""
    some = slice(None, None, max(1, len(rows) // 6))
    part = np.linspace(near, far, GLOSS_AT)
    x = middle[some, None] + outward * part * half[some, None]
    found = surface_at(plan, scene, x, np.broadcast_to(rows[some, :1], x.shape), *size)
    seen = np.where(found.there & (found.gloss > 0), found.gloss, np.nan)
    if np.isnan(seen).all(axis=0).any():
        return np.ones(GLOSS_AT)
    gloss: Array = np.nanmedian(seen, axis=0)
    return gloss


def area_ways(plan: Plan, scene: StaticScene, is_product: NDArray[np.bool_], area: Area | FrameArea) -> MirroredWays:
    """What the camera sees mirrored in an area that is to be a highlight.

    NoSolution where less than half of it is seen and mirrors.   Source: as line_ways.
    """
    height, width = is_product.shape
    if isinstance(area, FrameArea):
        x, y = np.meshgrid(
            np.linspace(area.x, area.to_x, ACROSS) * width, np.linspace(area.y, area.to_y, 2 * ACROSS) * height
        )
    else:
        rows = np.array([(row + 0.5, first, last) for row, first, last in rows_between(is_product, area.low, area.high)])
        if len(rows) < 2:
            raise NoSolution(HARDLY_SEEN.replace("line", "area"))
        edges = product_edges(plan, scene, rows, width, height)
        part = (np.linspace(area.begin, area.end, ACROSS) + 1) / 2
        x = edges[:, :1] + part * np.diff(edges, axis=1) + np.linspace(-1, 1, ACROSS) * ROUNDED_PX
        y = np.broadcast_to(rows[:, 0, None], x.shape)
    found = surface_at(plan, scene, x, y, width, height)
    there = found.there if isinstance(area, FrameArea) else found.there & found.of_product
    if there.mean() < SEEN_PART:
        raise NoSolution("nothing is seen there that a mirror image could lie on.")
    there &= found.mirrors
    if there.mean() < SEEN_PART:
        raise NoSolution("what is seen there is matte and mirrors nothing: ask for a level or for evenness instead.")
    spots = np.stack([x / width, y / height], axis=2)
    return MirroredWays(spots=spots, places=found.places, ways=found.onward, is_line=False, there=there, gloss=np.ones(1),
        blur_rad=float(np.median(found.blur_rad[there])),
    )  # fmt: skip


def product_edges(plan: Plan, scene: StaticScene, rows: Array, width: int, height: int) -> Array:
    """Left and right edge of the product in rows (n, 3) of y, first and last pixel, to a fiftieth of one, (n, 2)."""
    about = np.linspace(-SEARCHED_PX, SEARCHED_PX, SEARCHED)
    x = np.stack([rows[:, 1, None] + 0.5 + about, rows[:, 2, None] + 0.5 + about], axis=1)
    y = np.broadcast_to(rows[:, 0, None, None], x.shape)
    traced = trace_samples(plan, scene, np.stack([x, y], axis=3).reshape(-1, 2), width, height)
    on = (traced.product == SUBJECT).reshape(x.shape)
    step = float(about[1] - about[0]) / 2
    left = np.where(on[:, 0], x[:, 0], np.inf).min(axis=1) - step
    right = np.where(on[:, 1], x[:, 1], -np.inf).max(axis=1) + step
    found = np.stack([left, right], axis=1)
    edges: Array = np.where(np.isfinite(found), found, rows[:, 1:] + np.array([0.0, 1.0]))
    return edges


@dataclass(frozen=True, slots=True, kw_only=True)
class SurfaceAt:
    """Surfaces at places of a picture, all (..., ): places, unit normals towards the camera, the camera's ways, the mirrored ways on
    (..., 3); there: something is seen, all around the place the same; of_product, mirrors; gloss, blur_rad: how much it mirrors,
    and how far blurred."""

    places: Array
    normals: Array
    ways: Array
    onward: Array
    there: NDArray[np.bool_]
    of_product: NDArray[np.bool_]
    mirrors: NDArray[np.bool_]
    gloss: Array
    blur_rad: Array


def surface_at(plan: Plan, scene: StaticScene, x: Array, y: Array, width: int, height: int) -> SurfaceAt:
    """What is seen first at places x, y of a picture of width x height, pixels, any shape."""
    about = np.array([[0, 0], [1, 0], [-1, 0], [0, 1], [0, -1]]) * BESIDE_PX
    spots = np.stack([x, y], axis=-1)[..., None, :] + about
    traced = trace_samples(plan, scene, spots.reshape(-1, 2), width, height)
    segments = traced.segments[traced.starts[:-1]].astype(np.float64)
    shape = (*x.shape, 5)
    surface = np.where(traced.first >= 0, traced.first // SKINS_PER_SURFACE, -1).reshape(shape)
    there = (surface >= 0).all(axis=-1) & (surface == surface[..., :1]).all(axis=-1)
    first = traced.first.reshape(shape)[..., 0]
    length = np.minimum(segments[:, SEGMENT.LENGTH], 1e3)
    ends = (segments[:, SEGMENT.ORIGIN] + length[:, None] * segments[:, SEGMENT.DIRECTION]).reshape(*shape, 3)
    ways = segments[:, SEGMENT.DIRECTION].reshape(*shape, 3)[..., 0, :]
    normals = np.cross(ends[..., 1, :] - ends[..., 2, :], ends[..., 4, :] - ends[..., 3, :])
    normals /= np.maximum(np.linalg.norm(normals, axis=-1, keepdims=True), 1e-30)
    normals *= -np.sign((normals * ways).sum(axis=-1, keepdims=True))
    onward = ways - 2 * (ways * normals).sum(axis=-1, keepdims=True) * normals
    # Where the mirrored ray was traced it is known better than from four places: meshes round their facets, reliefs tilt.
    root = mirrored_roots(traced, ends.reshape(-1, 3)).reshape(shape)[..., 0]
    sharp = root >= 0
    onward[sharp] = traced.segments[root[sharp], SEGMENT.DIRECTION]
    skins = scene.skins[np.where(first >= 0, first % SKINS_PER_SURFACE, 0)]
    return SurfaceAt(
        places=ends[..., 0, :], normals=normals, ways=ways, onward=onward, there=there,
        of_product=(traced.product == SUBJECT).reshape(shape).all(axis=-1), mirrors=(first >= 0) & mirrors(skins),
        gloss=_gloss(np.abs((ways * normals).sum(axis=-1)), skins, (first >= 0) & mirrors(skins)),
        blur_rad=BLUR * skins[..., [ALONG, BRUSH_ACROSS]].max(axis=-1),
    )  # fmt: skip


GLASS_INDEX = 1.5
BLUR = 2.0
"""A mirror image is blurred by so many times the roughness, to either side: the normals lean by it, the ways by twice as much."""


def _gloss(cosine: Array, skins: Array, there: NDArray[np.bool_]) -> Array:
    """How much skins mirror at an incidence: metal as 1 at any, coats and glass after Fresnel, what does not mirror 0."""
    index = np.where(skins[..., COAT] > 1.0, skins[..., COAT], GLASS_INDEX)
    found = np.array([reflectance(float(c), float(n)) for c, n in zip(cosine.ravel(), index.ravel(), strict=True)])
    gloss: Array = np.where(there, np.where(skins[..., KIND] == METAL, 1.0, found.reshape(cosine.shape)), 0.0)
    return gloss
