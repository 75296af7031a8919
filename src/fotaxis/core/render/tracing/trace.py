"""First stage: the camera's rays, and those of blurred mirrors and places inside glass, sent through everything that stands
still, once.
"""

from __future__ import annotations

import math

from fotaxis.core.columns import BODY, GATHER, SEGMENT
from fotaxis.core.kernel import kernel
from fotaxis.core.materials.bsdf import facet_share
from fotaxis.core.materials.ggx import cosine_direction, lobe_density, lobe_weight, seen_facet, spread_place
from fotaxis.core.materials.material import ACROSS, ALONG
from fotaxis.core.materials.polarisation import start_state
from fotaxis.core.render.arrays.path_records import (
    INSIDE_GLASS,
    SKINS_PER_SURFACE,
    Bands,
    PathBuffers,
    TracedPaths,
    gather_frame,
    trace_in_bands,
    write_skips,
)
from fotaxis.core.render.arrays.static_scene import StaticScene
from fotaxis.core.render.tracing.path_tree import push_ray, ray_stack, trace_path_tree
from fotaxis.core.values import Array

MAX_EVENTS = 32
"""Light that runs along inside the foot of a glass by total reflection is met in the picture after more than twenty."""

MAX_GATHER_EVENTS = 40
"""Light that paper scatters inside a bottle is thrown back many times before it is out."""

CUT = 0.002
"""A path carrying less than this share of its pixel is dropped; what is dropped is added up."""

GATHER_CUT = 0.01
"""One of the many directions of a fan goes on by lot when it carries less than this."""


@kernel
def _trace_samples(
    scene: StaticScene, eye: Array, right: Array, up: Array, ahead: Array, half_w: float, half_h: float, samples: Array,
    begin: int, end: int, width: int, height: int, out: PathBuffers,
    cut: float, by_lot: bool,
) -> tuple[int, int, int, int, float]:  # fmt: skip
    """Trace samples[begin:end] or as many as fit; returns how many, segments, hits and fans written, and light lost."""
    stack = ray_stack()
    n = m = f = 0
    lost = 0.0
    flat_count = scene.flats.shape[0]
    for p in range(begin, end):
        first = n
        out.starts[p - begin] = n
        sx = (2.0 * samples[p, 0] / width - 1.0) * half_w
        sy = (1.0 - 2.0 * samples[p, 1] / height) * half_h
        dx = ahead[0] + sx * right[0] + sy * up[0]
        dy = ahead[1] + sx * right[1] + sy * up[1]
        dz = ahead[2] + sx * right[2] + sy * up[2]
        scale = 1.0 / math.sqrt(dx * dx + dy * dy + dz * dz)
        push_ray(stack, 0, eye[0], eye[1], eye[2], dx * scale, dy * scale, dz * scale, 1.0, 1.0, 1.0, 0, 0, 0, -1)
        if out.polar.shape[0] > 0:
            start_state(stack[0], right, dx * scale, dy * scale, dz * scale)
        hits, spread_fans = m, f
        # Samples of one pixel draw alike; x within the pixel is spread evenly among them (values.lattice).
        column, row = math.floor(samples[p, 0]), math.floor(samples[p, 1])
        draw = int(column * 7_919.0 + row * 15_485_863.0) % 2_147_483_646 + 1 if by_lot else -1
        n, m, f, gone, seen, order, fine = trace_path_tree(
            scene, stack, out, n, m, f, True, cut, draw, samples[p, 0] - column, MAX_EVENTS, samples[p, 0], samples[p, 1]
        )
        if n < 0:
            return p - begin, first, hits, spread_fans, lost
        write_skips(out, first, n)
        lost += gone
        surface = seen // SKINS_PER_SURFACE if seen >= 0 else -1
        out.first[p - begin] = seen
        out.product[p - begin] = int(scene.bodies[surface - flat_count, BODY.PRODUCT]) if surface >= flat_count else -1
        out.route[p - begin] = order
        out.fine[p - begin] = fine
    out.starts[end - begin] = n
    return end - begin, n, m, f, lost


@kernel
def _trace_gather_points(
    scene: StaticScene, gather_points: Array, gloss_rays: int, inner_rays: int, begin: int, end: int, out: PathBuffers
) -> tuple[int, int, int, int, float]:
    """Follow many directions from each of fans[begin:end] as one sample; returns as _follow does."""
    stack = ray_stack()
    n = m = 0
    lost = 0.0
    skins = scene.skins
    for p in range(begin, end):
        first = n
        first_hit = m
        rays = inner_rays if gather_points[p, GATHER.KIND] == INSIDE_GLASS else gloss_rays
        out.starts[p - begin] = n
        x, y, z = gather_points[p, GATHER.X], gather_points[p, GATHER.Y], gather_points[p, GATHER.Z]
        nx, ny, nz = gather_points[p, GATHER.NX], gather_points[p, GATHER.NY], gather_points[p, GATHER.NZ]
        tx, ty, tz, bx, by, bz, vx, vy, vz = gather_frame(gather_points, p)
        skin = int(gather_points[p, GATHER.SKIN])
        medium = int(gather_points[p, GATHER.MEDIUM])
        product = int(gather_points[p, GATHER.PRODUCT])
        a_t = skins[skin, ALONG]
        a_b = skins[skin, ACROSS]
        shift_u = (p * 0.7548776662466927) % 1.0
        shift_v = (p * 0.5698402909980532) % 1.0
        for i in range(rays):
            u, v = spread_place(i, rays, shift_u, shift_v)
            share = 1.0 / rays
            dense = 0.0
            red = green = blue = share
            if gather_points[p, GATHER.KIND] == INSIDE_GLASS:
                lx, ly, lz = cosine_direction(u, v)
            else:
                hx, hy, hz = seen_facet(vx, vy, vz, a_t, a_b, u, v)
                c = vx * hx + vy * hy + vz * hz
                lx, ly, lz = 2.0 * c * hx - vx, 2.0 * c * hy - vy, 2.0 * c * hz - vz
                if lz <= 1e-5:
                    continue
                dense = rays * lobe_density(vx, vy, vz, hx, hy, hz, a_t, a_b)
                share *= lobe_weight(vx, vy, vz, lx, ly, lz, a_t, a_b)
                red = share * facet_share(skins, skin, 0, c)
                green = share * facet_share(skins, skin, 1, c)
                blue = share * facet_share(skins, skin, 2, c)
            dx = lx * tx + ly * bx + lz * nx
            dy = lx * ty + ly * by + lz * ny
            dz = lx * tz + ly * bz + lz * nz
            # The weights of a fan are shares of its own whole: scaled up for the cut-offs, back down afterwards.
            push_ray(stack, 0, x, y, z, dx, dy, dz, red * rays, green * rays, blue * rays, medium, 1, 0, product)
            row = n
            hit = m
            n, m, _, gone, _, _, _ = trace_path_tree(
                scene,
                stack,
                out,
                n,
                m,
                0,
                False,
                GATHER_CUT,
                (p * rays + i) % 2_147_483_646 + 1,
                0.0,
                MAX_GATHER_EVENTS,
                0.0,
                0.0,
            )
            if n < 0:
                return p - begin, first, first_hit, 0, lost
            if row < n and out.segments[row, SEGMENT.LENGTH] > 0.0:
                out.segments[row, SEGMENT.DENSITY] = dense
            for k in range(row, n):
                for c3 in range(7, 10):
                    out.segments[k, c3] /= rays
            for k in range(hit, m):
                for c3 in range(6, 9):
                    out.hits[k, c3] /= rays
            lost += gone / rays
        write_skips(out, first, n)
        out.first[p - begin] = -1
        out.product[p - begin] = -1
        out.route[p - begin] = 0
        out.fine[p - begin] = False
    out.starts[end - begin] = n
    return end - begin, n, m, 0, lost


def trace(
    scene: StaticScene, *, eye: Array, basis: tuple[Array, Array, Array], half_width: float, half_height: float,
    samples: Array, width: int, height: int, bands: Bands, cut: float = CUT, by_lot: bool = False,
    polarised: bool = False,
) -> TracedPaths:  # fmt: skip
    """Trace camera samples through the still set.

    eye (3,) metres; basis: right, up, ahead, unit vectors; half_width, half_height: tangents of half the field of view.
    samples (p, 2) float64: places in the picture in pixels, x right and y down, (0, 0) the upper left corner.
    cut: what a path must carry to be followed; by_lot: lighter ones are followed now and then, counted for the others, so
    that no light is lost on average.
    polarised: keep how the light is polarised, see TracedPaths.through_polariser.
    Holds for:  an eye outside every body. The buffers grow until everything fits.
    """
    right, up, ahead = basis

    def work(begin: int, end: int, out: PathBuffers) -> tuple[int, int, int, int, float]:
        return _trace_samples(
            scene, eye, right, up, ahead, half_width, half_height, samples, begin, end, width, height, out, cut, by_lot
        )

    return trace_in_bands(work, len(samples), 1.6, bands, polarised=polarised)


def trace_gather_points(
    scene: StaticScene, gather_points: Array, *, rays: int, inner_rays: int, bands: Bands
) -> TracedPaths:
    """Spread rows of TracedPaths.fans (f, 19) into many directions each and follow them: one sample per fan.

    rays: directions of a blurred mirror; inner_rays: of a place inside glass.
    The weights of a sample add up to the share of an even surrounding that the place gives back.
    """

    def work(begin: int, end: int, out: PathBuffers) -> tuple[int, int, int, int, float]:
        return _trace_gather_points(scene, gather_points, rays, inner_rays, begin, end, out)

    return trace_in_bands(work, len(gather_points), 1.8 * rays, bands)
