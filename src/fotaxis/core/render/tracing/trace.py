"""Tracing: the camera's rays, and those of blurred mirrors and places inside glass, sent through everything that stands
still, once.
"""

from __future__ import annotations

import math
from typing import NamedTuple

from fotaxis.core.columns import BODY, GATHER, HIT, SEGMENT
from fotaxis.core.constants import SURFACE_OFFSET_M
from fotaxis.core.geometry.rays import Ray
from fotaxis.core.kernel import kernel, leaf
from fotaxis.core.materials.bsdf import coat_share, facet_share, multiple_scattering
from fotaxis.core.materials.ggx import cosine_direction, lobe_density, lobe_weight, mirrored_at_facet, spread_place
from fotaxis.core.materials.material import ACROSS, ALONG, BACK
from fotaxis.core.materials.polarisation import start_state
from fotaxis.core.render.arrays.path_records import (
    INSIDE_GLASS,
    SKINS_PER_SURFACE,
    Bands,
    Counts,
    PathBuffers,
    Rgb,
    TracedPaths,
    gather_frame,
    trace_in_bands,
    write_skips,
)
from fotaxis.core.render.arrays.static_scene import StaticScene, nearest_surface
from fotaxis.core.render.tracing.encounters import Journey
from fotaxis.core.render.tracing.path_tree import (
    NO_LOT,
    NOWHERE,
    Roulette,
    SamplePlace,
    push_ray,
    ray_stack,
    trace_path_tree,
)
from fotaxis.core.values import Array

MAX_EVENTS = 64
"""Light that runs along inside the foot of a glass by total reflection is met in the picture after more than twenty."""

MAX_GATHER_EVENTS = 40
"""Light that paper scatters inside a bottle is thrown back many times before it is out."""

CUT = 0.0005
"""A path carrying less than this share of its pixel does not split any more; what is dropped is added up."""

PREVIEW_CUT = 0.002
"""As CUT, of pictures that follow the hand."""

PLASTIC = 0.7548776662466927
"""One over the plastic number: shifts by its multiples spread evenly over a square.   Source: Roberts 2018."""

GATHER_CUT = 0.01
"""One of the many directions of a gather point goes on by lot when it carries less than this."""


class CameraRays(NamedTuple):
    """A camera as a source of rays: place (m), vectors to its right, up and to the frame's middle, and those that measure a way
    back, see Camera.to_frame and from_frame; tangents of half its field, picture size in pixels, radius of the lens's opening, where
    things are in focus, see Camera.focus_plane, and the tangent of the angle that a sample stands for."""

    eye: Array
    right: Array
    up: Array
    middle: Array
    across: Array
    rise: Array
    ahead: Array
    half_width: float
    half_height: float
    width: int
    height: int
    lens_radius: float
    focus: Array
    pixel: float


@leaf
def _picture_place(camera: CameraRays, dx: float, dy: float, dz: float, instead: tuple[float, float]) -> tuple[float, float]:
    """Where in the picture of a camera with an opening as small as a pin's something stands that is dx, dy, dz from it; `instead`
    where that is behind it."""
    right, up, ahead = camera.across, camera.rise, camera.ahead
    half_w, half_h, width, height = camera.half_width, camera.half_height, camera.width, camera.height
    along = dx * ahead[0] + dy * ahead[1] + dz * ahead[2]
    if along <= 1e-6:
        return instead
    across = (dx * right[0] + dy * right[1] + dz * right[2]) / along
    rise = (dx * up[0] + dy * up[1] + dz * up[2]) / along
    return 0.5 * width * (1.0 + across / half_w), 0.5 * height * (1.0 - rise / half_h)


@kernel
def _trace_samples(
    scene: StaticScene, camera: CameraRays, samples: Array, begin: int, end: int, out: PathBuffers, cut: float
) -> tuple[int, Counts, float]:
    """Trace samples[begin:end] or as many as fit; returns how many, what is written, and light lost."""
    eye, right, up, middle, _, _, _, half_w, half_h, width, height, lens_radius, focus, pixel = camera
    through_lens = samples.shape[1] > 2
    stack = ray_stack()
    counts = Counts(0, 0, 0)
    lost = 0.0
    flat_count = scene.flats.shape[0]
    for p in range(begin, end):
        before = counts
        out.starts[p - begin] = counts.segments
        sx = (2.0 * samples[p, 0] / width - 1.0) * half_w
        sy = (1.0 - 2.0 * samples[p, 1] / height) * half_h
        dx = middle[0] + sx * right[0] + sy * up[0]
        dy = middle[1] + sx * right[1] + sy * up[1]
        dz = middle[2] + sx * right[2] + sy * up[2]
        ox, oy, oz = float(eye[0]), float(eye[1]), float(eye[2])
        if through_lens:
            across, rise = lens_radius * samples[p, 2], lens_radius * samples[p, 3]
            px, py = across * right[0] + rise * up[0], across * right[1] + rise * up[1]
            pz = across * right[2] + rise * up[2]
            near = focus[0] + sx * focus[1] + sy * focus[2]
            dx, dy, dz = dx - px * near, dy - py * near, dz - pz * near
            ox, oy, oz = ox + px, oy + py, oz + pz
        scale = 1.0 / math.sqrt(dx * dx + dy * dy + dz * dz)
        ray = Ray(ox, oy, oz, dx * scale, dy * scale, dz * scale)
        x, y = float(samples[p, 0]), float(samples[p, 1])
        if through_lens:
            # Light of blurred mirrors is kept by places in the picture that a pin's opening makes.
            t, met, _, _, _ = nearest_surface(scene, 0, ray.ox, ray.oy, ray.oz, ray.dx, ray.dy, ray.dz, SURFACE_OFFSET_M)
            if met >= 0:
                ex, ey, ez = ox + t * ray.dx - eye[0], oy + t * ray.dy - eye[1], oz + t * ray.dz - eye[2]
                x, y = _picture_place(camera, ex, ey, ez, (x, y))
        push_ray(stack, 0, ray, Rgb(1.0, 1.0, 1.0), Journey(0, 0, 0, -1))
        if out.polar.shape[0] > 0:
            start_state(stack[0], right, dx * scale, dy * scale, dz * scale)
        tree = trace_path_tree(scene, stack, out, counts, True, Roulette(cut, NO_LOT), MAX_EVENTS, SamplePlace(x, y, pixel))
        counts = tree.counts
        if counts.segments < 0:
            return p - begin, before, lost
        write_skips(out, before.segments, counts.segments)
        lost += tree.lost
        surface = tree.seen // SKINS_PER_SURFACE if tree.seen >= 0 else -1
        out.first[p - begin] = tree.seen
        out.product[p - begin] = int(scene.bodies[surface - flat_count, BODY.PRODUCT]) if surface >= flat_count else -1
        out.route[p - begin] = tree.route
        out.fine[p - begin] = tree.fine
    out.starts[end - begin] = counts.segments
    return end - begin, counts, lost


@leaf
def _glossy_direction(
    skins: Array,
    skin: int,
    frame: tuple[float, float, float, float, float, float, float, float, float],
    rays: int,
    gain: Rgb,
    u: float,
    v: float,
) -> tuple[float, float, float, float, Rgb]:
    """A direction of a blurred mirror in its surface's frame, its density per steradian, and its weight; z below 0 for none.

    gain: see bsdf.multiple_scattering.
    """
    _, _, _, _, _, _, vx, vy, vz = frame
    along, across = skins[skin, ALONG], skins[skin, ACROSS]
    hx, hy, hz, c, lx, ly, lz = mirrored_at_facet(vx, vy, vz, along, across, u, v)
    if lz <= 1e-5:
        return 0.0, 0.0, -1.0, 0.0, Rgb(0.0, 0.0, 0.0)
    dense = rays * lobe_density(vx, vy, vz, hx, hy, hz, along, across)
    share = 1.0 / rays * lobe_weight(vx, vy, vz, lx, ly, lz, along, across)
    top = coat_share(skins, skin, vz)
    red, green = facet_share(skins, skin, 0, c, top), facet_share(skins, skin, 1, c, top)
    blue = facet_share(skins, skin, 2, c, top)
    if skins[skin, BACK] > 0.0:
        lx, ly = -lx, -ly  # where a mirror would send it, turned about the normal: back
    return lx, ly, lz, dense, Rgb(share * red * gain.red, share * green * gain.green, share * blue * gain.blue)


@leaf
def _scale_back(out: PathBuffers, first: Counts, last: Counts, rays: int) -> None:
    """Divide the weights of segments and hits first..last by the number of directions."""
    for k in range(first.segments, last.segments):
        for c in range(3):
            out.segments[k, SEGMENT.RED + c] /= rays
    for k in range(first.hits, last.hits):
        for c in range(3):
            out.hits[k, HIT.RED + c] /= rays


@kernel
def _trace_gather_points(
    scene: StaticScene,
    gather_points: Array,
    gloss_rays: int,
    inner_rays: int,
    turn: float,
    begin: int,
    end: int,
    out: PathBuffers,
) -> tuple[int, Counts, float]:
    """Follow many directions from each of gather_points[begin:end] as one sample; returns as _trace_samples does."""
    stack = ray_stack()
    counts = Counts(0, 0, 0)
    lost = 0.0
    for p in range(begin, end):
        before = counts
        inside = gather_points[p, GATHER.KIND] == INSIDE_GLASS
        rays = inner_rays if inside else gloss_rays
        out.starts[p - begin] = counts.segments
        x, y, z = gather_points[p, GATHER.X], gather_points[p, GATHER.Y], gather_points[p, GATHER.Z]
        nx, ny, nz = gather_points[p, GATHER.NX], gather_points[p, GATHER.NY], gather_points[p, GATHER.NZ]
        frame = gather_frame(gather_points, p)
        tx, ty, tz, bx, by, bz, _, _, _ = frame
        skin = int(gather_points[p, GATHER.SKIN])
        journey = Journey(int(gather_points[p, GATHER.MEDIUM]), 1, 0, int(gather_points[p, GATHER.PRODUCT]))
        gain = Rgb(1.0, 1.0, 1.0)
        if not inside:
            red, green, blue = multiple_scattering(scene.skins, skin, frame[6], frame[7], frame[8])
            gain = Rgb(red, green, blue)
        shift_u = (p * 0.7548776662466927 + turn) % 1.0
        shift_v = (p * 0.5698402909980532 + turn * PLASTIC) % 1.0
        for i in range(rays):
            u, v = spread_place(i, rays, shift_u, shift_v)
            dense, weight = 0.0, Rgb(1.0 / rays, 1.0 / rays, 1.0 / rays)
            if inside:
                lx, ly, lz = cosine_direction(u, v)
            else:
                lx, ly, lz, dense, weight = _glossy_direction(scene.skins, skin, frame, rays, gain, u, v)
                if lz < 0.0:
                    continue
            dx = lx * tx + ly * bx + lz * nx
            dy = lx * ty + ly * by + lz * ny
            dz = lx * tz + ly * bz + lz * nz
            # The weights are shares of a whole of their own: scaled up for the cut-offs, back down afterwards.
            own = Rgb(weight.red * rays, weight.green * rays, weight.blue * rays)
            push_ray(stack, 0, Ray(x, y, z, dx, dy, dz), own, journey)
            first = counts
            roulette = Roulette(GATHER_CUT, (p * rays + i) % 2_147_483_646 + 1)
            tree = trace_path_tree(
                scene, stack, out, Counts(first.segments, first.hits, 0), False, roulette, MAX_GATHER_EVENTS, NOWHERE
            )
            counts = tree.counts
            if counts.segments < 0:
                return p - begin, before, lost
            if first.segments < counts.segments and out.segments[first.segments, SEGMENT.LENGTH] > 0.0:
                out.segments[first.segments, SEGMENT.DENSITY] = dense
            _scale_back(out, first, counts, rays)
            lost += tree.lost / rays
        write_skips(out, before.segments, counts.segments)
        out.first[p - begin] = -1
        out.product[p - begin] = -1
        out.route[p - begin] = 0
        out.fine[p - begin] = False
    out.starts[end - begin] = counts.segments
    return end - begin, counts, lost


def trace(
    scene: StaticScene, camera: CameraRays, *, samples: Array, bands: Bands, cut: float = CUT,
    polarised: bool = False,
) -> TracedPaths:  # fmt: skip
    """Trace camera samples through the static scene.

    samples (p, 2) float64: places in the picture in pixels, x right and y down, (0, 0) the upper left corner; or (p, 4), with
    places in the lens's opening, in parts of its radius to the right and up: without them all rays go through its middle.
    cut: what a path must carry to split, see path_tree.Roulette.
    polarised: keep how the light is polarised, see TracedPaths.through_polariser.
    Holds for:  an eye outside every body. The buffers grow until everything fits.
    """

    def work(begin: int, end: int, out: PathBuffers) -> tuple[int, Counts, float]:
        return _trace_samples(scene, camera, samples, begin, end, out, cut)

    return trace_in_bands(work, len(samples), 1.6, bands, polarised=polarised)


def trace_gather_points(
    scene: StaticScene, gather_points: Array, *, rays: int, inner_rays: int, bands: Bands, turn: float = 0.0
) -> TracedPaths:
    """Follow many directions from each row of TracedPaths.gather_points (f, 20): one sample per row.

    rays: directions of a blurred mirror; inner_rays: of a place inside glass; turn: 0..1, other directions for another.
    The weights of a sample add up to the share of an even surrounding that the place gives back.
    """

    def work(begin: int, end: int, out: PathBuffers) -> tuple[int, Counts, float]:
        return _trace_gather_points(scene, gather_points, rays, inner_rays, turn, begin, end, out)

    return trace_in_bands(work, len(gather_points), 1.8 * rays, bands)
