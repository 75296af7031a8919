"""What the lens and what stands before it make of the scene: shades, circles of confusion, glare."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.camera.filters import LEAST_FRONT_M, BeforeLens, glare_spread
from fotaxis.core.camera.tone import Tone, soft_shoulder
from fotaxis.core.columns import HIT, SEGMENT
from fotaxis.core.kernel import kernel
from fotaxis.core.render.arrays.path_records import MATTE, RECEIVER_COLUMNS, TracedPaths
from fotaxis.core.render.arrays.static_scene import StaticScene
from fotaxis.core.render.lens.defocus import Defocus, circle_radius_px, least_around
from fotaxis.core.render.lens.discs import TILE
from fotaxis.core.render.lens.haze_field import HazeField, haze_field, pixel_places
from fotaxis.core.render.lens.veiling_glare import first_hit, lens_illuminance
from fotaxis.core.render.lighting import Lighting, between_middles
from fotaxis.core.render.parallel import in_bands
from fotaxis.core.render.passes import trace_samples, white_radiance
from fotaxis.core.render.shading import first_hits, shade_paths
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array, Picture, lattice

GLARE_NODES = 12
"""Glare is worked out at so many places across the shorter side of the picture."""

LEAST_ROWS = 48
"""Fewer rows of a draft are spread by one thread: to wake another costs as much."""

SURROUND_RAYS = 144
"""Directions in which the lens looks about for light outside the frame."""


@dataclass(frozen=True, kw_only=True)
class Meets:
    """What each pixel meets first, see veiling_glare.first_hit."""

    thing: NDArray[np.int32]
    depth: NDArray[np.float32]


def meets(plan: Plan, lit: Lighting, traced: TracedPaths) -> Meets:
    """What the pixels of a traced picture meet first with the movables where they are."""
    count = len(traced.starts) - 1
    thing, depth = np.empty(count, np.int32), np.empty(count, np.float32)
    in_view, ahead = lit.in_view, plan.camera.basis()[2]
    in_bands(lambda a, b: first_hit(lit.scene, lit.emitters, in_view, traced, ahead, a, b, thing, depth), count)
    return Meets(thing=thing, depth=depth)


def depth_behind(
    plan: Plan,
    lit: Lighting,
    traced: TracedPaths,
    scene: NDArray[np.float32],
    behind: NDArray[np.bool_],
    known: first_hits.FirstHits,
) -> NDArray[np.float32]:
    """Depths of the pixels of a traced picture as meets gives them, from those without anything movable in view.

    behind: see view_frustum.behind_emitters; known: of the segments of `traced` from the picture before.
    """
    thing, depth = np.empty(len(scene), np.int32), scene.copy()
    in_view, ahead = lit.in_view, plan.camera.basis()[2]
    in_bands(
        lambda a, b: first_hit(lit.scene, lit.emitters, in_view, traced, ahead, a, b, thing, depth, known, behind),
        len(scene),
    )
    return depth


def circles_of(plan: Plan, depth: NDArray[np.float32], *, width: int, height: int) -> NDArray[np.float32]:
    """Radii of the circles of confusion of a picture's pixels (pixels,) by their depth, (height, width), see circle_radius_px."""
    camera, (half_w, half_h) = plan.camera, plan.camera.half_field
    middle, right, up = camera.focus_plane
    x, y = _tangents(width, half_w), -_tangents(height, half_h)
    return circle_radius_px(
        depth.reshape(height, width), focal_length_m=camera.focal_length_m, f_number=plan.exposure.f_number,
        focus_per_m=middle + x[None, :] * right + y[:, None] * up, image_m=camera.image_m,
        pixel_m=camera.used_sensor_m[0] / width,
    )  # fmt: skip


def _tangents(count: int, half_field: float) -> Array:
    """Tangents of the middles of so many parts of a frame from its own, rising."""
    tangents: Array = (2 * (np.arange(count) + 0.5) / count - 1) * half_field
    return tangents


def defocus(plan: Plan, depth: NDArray[np.float32], *, width: int, height: int) -> Defocus | None:
    """What of a picture is spread; None where nothing is visibly out of focus, or nothing may be."""
    if plan.camera.focus_m is None:
        return None
    spread = Defocus(least_around(circles_of(plan, depth, width=width, height=height)))
    return spread if spread.needed else None


def blurred(spread: Defocus, pictures: Picture) -> Picture:
    """Pictures (n, height, width, 3) with what is out of focus spread."""
    out = np.empty_like(pictures)
    busy = spread.busy(pictures)
    in_bands(lambda a, b: spread.rows(pictures, busy, a, b, out), pictures.shape[1], least=8)
    return out


def quickly_blurred(spread: Defocus, pictures: Picture) -> Picture:
    """One picture (1, height, width, 3) as blurred gives it, what lies behind the focus at half its size."""
    if not spread.only_behind:
        return blurred(spread, pictures)
    picture = pictures[0]
    busy = spread.half_busy(picture)
    rows = np.flatnonzero(busy.any(axis=1))
    if not len(rows):
        return pictures
    height, width = spread.half.radius.shape
    # One row more each way: joining reads between rows.
    first, last = max(0, int(rows[0]) * TILE - 1), min(height, int(rows[-1] + 1) * TILE + 1)
    soft = np.empty((1, height, width, 3), np.float32)

    def behind(begin: int, end: int) -> None:
        small = np.empty((1, height, width, 3), np.float32)
        spread.behind_rows(picture, small, busy, first + begin, first + end, soft)

    in_bands(behind, last - first, least=LEAST_ROWS)
    out = picture.copy()
    spread.join(picture, soft, busy, 2 * first, min(2 * last, len(picture)), out)
    return out[None]


def coverage(plan: Plan, *, width: int, height: int) -> NDArray[np.float32] | None:
    """Share of each pixel's light that gets past mask and hood, (height, width); None where they keep off the picture."""
    kit = plan.before_lens
    if not (kit.mask or kit.hood):
        return None
    shades = BeforeLens(mask=kit.mask, hood=kit.hood)
    return _coverage(shades, plan.camera.half_field, plan.camera.middle, front_m(plan), width, height)


@lru_cache(maxsize=8)
def _coverage(
    kit: BeforeLens, half_field: tuple[float, float], middle: tuple[float, float], front: float, width: int, height: int
) -> NDArray[np.float32] | None:
    x, y = _tangents(width, half_field[0]), -_tangents(height, half_field[1])
    share = kit.open_share(x[None, :] + 0 * y[:, None], y[:, None] + 0 * x[None, :], front_m=front, middle=middle)
    return None if share.min() == 1 else share.astype(np.float32)


def front_m(plan: Plan) -> float:
    """Diameter of the lens's front element."""
    return max(LEAST_FRONT_M, plan.camera.focal_length_m / plan.exposure.f_number)


def glare(
    plan: Plan, lit: Lighting, traced: TracedPaths, flat: Picture, met: Meets, surround: TracedPaths, *, gains: Array | None = None,
    reach: Array | None = None,
) -> NDArray[np.float32]:  # fmt: skip
    """What the glare of the lens adds at nodes of the picture, (1 + lights, rows, columns, 3).

    traced, flat (1 + lights, samples, 3), met: some evenly spread samples of the picture; surround: see look_about; reach: of the
    directions of both, see glare_reach.
    gains (1 + lights,): every layer counts so much in one picture, of which flat (1, samples, 3) is the sum already.
    Light comes straight from lights, cards and sheets, wherever they stand, and from everything else within and without the
    frame; what mask, hood, flags and the product keep from the lens does not count.
    Source:     the index is that of ISO 9358, see camera.before_lens.
    """
    camera = plan.camera
    eye, ahead = camera.place.array(), camera.basis()[2]
    straight, from_faces = lens_illuminance(lit.scene, lit.emitters, lit.lights, eye=eye, ahead=ahead)
    of_faces = np.concatenate([np.zeros((len(straight), 1, 3)), from_faces], axis=1)
    of_frame, of_surround = _from_frame(plan, traced, flat, met), _from_surround(plan, lit, surround)
    if gains is not None:
        of_faces, of_surround = (np.tensordot(gains, of, axes=(0, 1))[:, None] for of in (of_faces, of_surround))
    if reach is None:
        reach = glare_reach(plan, first_directions(traced, surround))
    shown = np.tensordot(glare_reach(plan, straight), of_faces, axes=(1, 0))
    shown += np.tensordot(reach, np.concatenate([of_frame, of_surround]), axes=(1, 0))
    rows, columns = node_counts(camera.crop_ratio)
    return shown.transpose(1, 0, 2).reshape(-1, rows, columns, 3).astype(np.float32)


def first_directions(*paths: TracedPaths) -> Array:
    """Unit directions in which traced paths leave the lens, (paths, 3)."""
    return np.concatenate([traced.segments[traced.starts[:-1], SEGMENT.DIRECTION] for traced in paths]).astype(np.float64)


def glare_reach(plan: Plan, directions: Array) -> Array:
    """What 1 lux at the lens from unit directions (n, 3) adds at the nodes of the picture, past mask and hood, (nodes, n)."""
    kit = plan.before_lens
    right, up, ahead = plan.camera.from_frame()
    along = np.maximum(directions @ ahead, 1e-6)
    passes = kit.open_share(
        directions @ right / along, directions @ up / along, front_m=front_m(plan), middle=plan.camera.middle
    )
    nodes = _node_directions(plan.camera.to_frame(), plan.camera.half_field, *node_counts(plan.camera.crop_ratio))
    reach: Array = kit.glare * glare_spread(np.arccos(np.clip(nodes @ directions.T, -1, 1))) * passes
    return reach


def node_counts(ratio: float) -> tuple[int, int]:
    """Rows and columns of the nodes of a picture of that width over height."""
    if ratio <= 1:
        return round(GLARE_NODES / ratio), GLARE_NODES
    return GLARE_NODES, round(GLARE_NODES * ratio)


def _node_directions(basis: tuple[Array, Array, Array], half_field: tuple[float, float], rows: int, columns: int) -> Array:
    """Unit directions of the nodes, (rows * columns, 3)."""
    right, up, ahead = basis
    x, y = _tangents(columns, half_field[0]), -_tangents(rows, half_field[1])
    directions = ahead + y[:, None, None] * up + x[None, :, None] * right
    directions = directions.reshape(-1, 3)
    unit: Array = directions / np.linalg.norm(directions, axis=1, keepdims=True)
    return unit


def _from_frame(plan: Plan, traced: TracedPaths, flat: Picture, met: Meets) -> Array:
    """Illuminance at the lens of what is seen but the faces of movables, (samples, 1 + lights, 3)."""
    half_w, half_h = plan.camera.half_field
    cosine = first_directions(traced) @ plan.camera.basis()[2]
    each = 4 * half_w * half_h / len(cosine) * cosine**4 * (met.thing < 0)
    light: Array = flat.transpose(1, 0, 2) * each[:, None, None]
    return light


@lru_cache(maxsize=1)
def _half_space() -> tuple[Array, Array]:
    """Tangents across and up of directions spread by the cosine over the half space before the lens."""
    u, v = lattice(SURROUND_RAYS)
    radius, angle = np.sqrt(np.minimum(v, 0.995)), 2 * math.pi * u
    scale = radius / np.sqrt(1 - radius**2)
    return scale * np.cos(angle), scale * np.sin(angle)


def look_about(plan: Plan, scene: StaticScene) -> TracedPaths:
    """Rays from the lens into directions outside the frame."""
    across, up = _half_space()
    (half_w, half_h), (x, y) = plan.camera.half_field, plan.camera.middle
    across, up = across - x, up - y
    outside = (np.abs(across) > half_w) | (np.abs(up) > half_h)
    samples = np.stack([across[outside] / half_w + 1, 1 - up[outside] / half_h], axis=1)
    return trace_samples(plan, scene, samples, 2, 2)


def _from_surround(plan: Plan, lit: Lighting, traced: TracedPaths) -> Array:
    """Illuminance at the lens of what stands still outside the frame, as _from_frame gives it."""
    matte = traced.hits[:, HIT.KIND] == MATTE
    shown = np.zeros((len(traced.hits), 1 + lit.lights, 3), np.float32)
    shown[matte] = white_radiance(lit.direct(np.ascontiguousarray(traced.hits[matte][:, RECEIVER_COLUMNS])))
    met = meets(plan, lit, traced)
    count = len(traced.starts) - 1
    flat, seen = np.empty((1 + lit.lights, count, 3), np.float32), np.empty(count, np.int32)
    shade_paths.shade_per_light(lit.emitters, lit.lights, shade_paths.NOTHING, traced, shown, 0, count, flat, seen)
    each = math.pi / SURROUND_RAYS * (met.thing < 0)
    light: Array = flat.transpose(1, 0, 2) * each[:, None, None]
    return light


def some_pixels(width: int, height: int) -> NDArray[np.int64]:
    """Numbers of pixels spread evenly over a picture, for sums over it."""
    rows, columns = node_counts(width / height)
    y = ((np.arange(2 * rows) + 0.5) * height / (2 * rows)).astype(np.int64)
    x = ((np.arange(2 * columns) + 0.5) * width / (2 * columns)).astype(np.int64)
    return (y[:, None] * width + x[None, :]).ravel()


def _across(nodes: NDArray[np.float32], width: int) -> Picture:
    """Nodes (n, rows, columns, 3) spread over the width of a picture, (n, rows, width, 3)."""
    weights = between_middles(nodes.shape[2], width).astype(np.float32)
    return np.einsum("nrcx,wc->nrwx", nodes, weights, optimize=True)


def added(nodes: NDArray[np.float32], *, width: int, height: int) -> Picture:
    """Nodes of a picture (n, rows, columns, 3) spread over it, (n, height, width, 3)."""
    down = between_middles(nodes.shape[1], height)
    return np.einsum("nrwx,hr->nhwx", _across(nodes, width), down.astype(np.float32), optimize=True)


def hazed(plan: Plan, lit: Lighting) -> HazeField | None:
    """What the haze of a plan adds to its picture; None without any."""
    if plan.haze is None:
        return None
    camera = plan.camera
    return haze_field(
        plan.haze, lit, eye=camera.place.array(), basis=camera.to_frame(), half_field=camera.half_field,
        aim_distance_m=camera.aim_distance_m, ratio=camera.crop_ratio,
    )  # fmt: skip


def node_values(nodes: NDArray[np.float32], pixels: NDArray[np.int64], *, width: int, height: int) -> NDArray[np.float32]:
    """Nodes read at some pixels, (n, pixels, 3)."""
    rows, columns = nodes.shape[1:3]
    y = np.clip((pixels // width + 0.5) * rows / height - 0.5, 0, rows - 1)
    x = np.clip((pixels % width + 0.5) * columns / width - 0.5, 0, columns - 1)
    r, c = np.minimum(y.astype(int), rows - 2), np.minimum(x.astype(int), columns - 2)
    down, across = (y - r).astype(np.float32)[:, None], (x - c).astype(np.float32)[:, None]
    high = nodes[:, r, c] * (1 - across) + nodes[:, r, c + 1] * across
    low = nodes[:, r + 1, c] * (1 - across) + nodes[:, r + 1, c + 1] * across
    read: NDArray[np.float32] = high * (1 - down) + low * down
    return read


def lens_effects(
    plan: Plan, pictures: Picture, *, haze: HazeField | None, depth: NDArray[np.float32] | None, spread: Defocus | None,
    veil_of: Callable[[Picture], NDArray[np.float32]], blur: Callable[[Defocus, Picture], Picture], gains: Array | None = None,
) -> tuple[Picture, NDArray[np.float32] | None]:  # fmt: skip
    """The effects before and in the lens, in their one order: haze, glare, shade of mask and hood, blur.

    pictures (n, height, width, 3): every light's layer, or with gains the sum of all; depth (pixels,): where there is haze.
    veil_of: nodes of the glare of hazy pictures; blur: how what is out of focus is spread.
    Returns the pictures, and the nodes of the glare that is still to be added; None without any.
    """
    height, width = pictures.shape[1:3]
    if haze is not None and depth is not None:
        flat = np.ascontiguousarray(pictures).reshape(len(pictures), -1, 3)
        pictures = haze.applied(flat, pixel_places(width, height), depth, gains).reshape(pictures.shape)
    veil = veil_of(pictures) if plan.before_lens.glare else None
    share = coverage(plan, width=width, height=height)
    if share is not None:
        pictures = pictures * share[None, :, :, None]
    if spread is not None:
        pictures = blur(spread, np.ascontiguousarray(pictures))
    return pictures, veil


def as_seen(
    plan: Plan,
    lit: Lighting,
    traced: TracedPaths,
    flat: Picture,
    surround: Callable[[], TracedPaths],
    *,
    width: int,
    height: int,
    hazy: bool = False,
    focused: bool = False,
) -> Picture:
    """Layers of the scene (1 + lights, pixels, 3) as the lens shows them: shaded, out of focus, with glare.

    hazy, focused: the haze is in them already, what is out of focus is soft already.
    """
    pictures = flat.reshape(-1, height, width, 3)
    kit = plan.before_lens
    hazes, spreads = plan.haze is not None and not hazy, plan.camera.focus_m is not None and not focused
    if not (hazes or spreads or kit.glare or kit.mask or kit.hood):
        return pictures
    met = meets(plan, lit, traced)

    def veil_of(hazy: Picture) -> NDArray[np.float32]:
        pixels = some_pixels(width, height)
        part, _ = traced.part(pixels)
        some = Meets(thing=met.thing[pixels], depth=met.depth[pixels])
        return glare(plan, lit, part, hazy.reshape(flat.shape)[:, pixels], some, surround())

    pictures, veil = lens_effects(
        plan, pictures, haze=hazed(plan, lit) if hazes else None, depth=met.depth,
        spread=defocus(plan, met.depth, width=width, height=height) if spreads else None, veil_of=veil_of, blur=blurred,
    )  # fmt: skip
    return pictures if veil is None else pictures + added(veil, width=width, height=height)


@kernel
def _finish(
    levels: NDArray[np.float32], veil: NDArray[np.float32], curve: NDArray[np.uint8], shoulder: bool, out: NDArray[np.uint8]
) -> None:  # fmt: skip
    height, across = levels.shape
    rows = veil.shape[0]
    top = np.float32(curve.shape[0] - 1)
    half, one, none = np.float32(0.5), np.float32(1.0), np.float32(0.0)
    line = np.zeros(across, np.float32)
    place = np.empty(across, np.int32)
    for y in range(height):
        if rows:
            at = min(max((y + 0.5) * rows / height - 0.5, 0.0), rows - 1.0)
            r = min(int(at), max(rows - 2, 0))
            part = np.float32(at - r)
            high, low = veil[r], veil[min(r + 1, rows - 1)]
            for i in range(across):
                line[i] = high[i] * (one - part) + low[i] * part
        row = levels[y]
        if shoulder:
            for i in range(0, across, 3):
                red, green, blue = soft_shoulder(row[i] + line[i], row[i + 1] + line[i + 1], row[i + 2] + line[i + 2])
                for c in range(3):
                    level = min(one, max(none, np.float32((red, green, blue)[c])))
                    out[y, i + c] = curve[np.int32(np.sqrt(level) * top + half)]
            continue
        for i in range(across):  # one loop of arithmetic, one of looking up: the first does eight at once
            level = min(one, max(none, row[i] + line[i]))
            place[i] = np.int32(np.sqrt(level) * top + half)
        for i in range(across):
            out[y, i] = curve[place[i]]


def finished(levels: NDArray[np.float32], veil: NDArray[np.float32] | None, tone: Tone) -> NDArray[np.uint8]:
    """Levels (height, width, 3), with glare nodes (rows, columns, 3) added, as they are delivered."""
    height, width = levels.shape[:2]
    lines = np.zeros((0, 3 * width), np.float32)
    if veil is not None:
        lines = _across(veil[None], width).reshape(len(veil), 3 * width)
    flat, out = levels.reshape(height, -1), np.empty((height, 3 * width), np.uint8)
    _finish(flat, lines, tone.curve, tone.shoulder, out)  # less work than to wake a thread
    return out.reshape(levels.shape)
