"""What becomes of a ray: followed through everything that stands still, split at every clear boundary.

A ray that meets a clear boundary splits into a mirrored and a refracted one, so a sample's paths form a tree, written down
depth first. Every free segment outside glass is kept with its length: a thing moved into it later blocks what follows.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from fotaxis.core.columns import BODY, MEDIUM, RAY, SEGMENT, ZONE
from fotaxis.core.constants import SURFACE_OFFSET_M
from fotaxis.core.geometry.rays import Ray
from fotaxis.core.kernel import inlined, kernel, leaf
from fotaxis.core.materials.fresnel import reflectance
from fotaxis.core.materials.material import CLEAR, KIND, PATTERN, RELIEF
from fotaxis.core.materials.polarisation import (
    STATE_COLUMNS,
    EventRows,
    keep_state,
    pass_event,
    reflected_rows,
    refracted_rows,
)
from fotaxis.core.render.arrays.path_records import (
    LEAVES_SET,
    SKINS_PER_SURFACE,
    WORTH_AN_EDGE,
    Counts,
    PathBuffers,
    Rgb,
    SampleRoute,
)
from fotaxis.core.render.arrays.static_scene import StaticScene, nearest_surface
from fotaxis.core.render.arrays.surface_hit import surface_hit_at
from fotaxis.core.render.tracing.encounters import (
    NEXT,
    NOW,
    STACK,
    Encounter,
    Journey,
    Meeting,
    facet_at,
    mirrored,
    refracted,
    write_opaque,
)
from fotaxis.core.values import Array

OFFSET = SURFACE_OFFSET_M

END = 1e-6
"""A path that need not split is followed down to this share of its pixel."""

LAST_EVENTS = 12
"""A path that has had all its events goes straight on out of the glass; after so many more it is dropped."""


@kernel
def ray_stack() -> Array:
    """Room for the rays of one sample that are still to be followed, and for states of polarisation."""
    return np.empty((STACK + 2, STATE_COLUMNS))


NO_LOT = -1


class Roulette(NamedTuple):
    """Below what weight a path does not split, or is followed by lot; the lot's seed, NO_LOT for none.

    Without a lot the lighter of two paths is not followed where it is below the cut: the heavier one carries its light too. So
    nothing is lost in glass, and what is that light shows from a direction close by.
    """

    cut: float
    draw: int


class SamplePlace(NamedTuple):
    """Where in the picture a sample lies, pixels, and the tangent of the angle that a pixel spans; 0 for none."""

    x: float
    y: float
    pixel: float


NOWHERE = SamplePlace(0.0, 0.0, 0.0)
NO_WEIGHT = Rgb(0.0, 0.0, 0.0)


class Tree(NamedTuple):
    """What tracing one sample came to: what is written, light lost, what is met first, the route, is fine detail seen. segments -1: a
    buffer is full."""

    counts: Counts
    lost: float
    seen: int
    route: int
    fine: bool


@inlined
def push_ray(stack: Array, top: int, ray: Ray, weight: Rgb, journey: Journey) -> int:
    """Put a ray on the stack; returns how many are on it."""
    stack[top, RAY.OX], stack[top, RAY.OY], stack[top, RAY.OZ] = ray.ox, ray.oy, ray.oz
    stack[top, RAY.DX], stack[top, RAY.DY], stack[top, RAY.DZ] = ray.dx, ray.dy, ray.dz
    stack[top, RAY.RED], stack[top, RAY.GREEN], stack[top, RAY.BLUE] = weight.red, weight.green, weight.blue
    stack[top, RAY.MEDIUM] = journey.medium
    stack[top, RAY.EVENT] = journey.event
    stack[top, RAY.LEVEL] = journey.level
    stack[top, RAY.PRODUCT] = journey.product
    return top + 1


@leaf
def _next_draw(draw: int) -> int:
    """The next of a row of numbers 0..2^31 that look drawn by lot; a negative one stays as it is.

    Source: the minimal standard generator, Park & Miller 1988, with the multiplier of 1993.
    """
    return draw * 48_271 % 2_147_483_647 if draw != NO_LOT else draw


@leaf
def _roulette_weight(weight: float, cut: float, draw: int) -> float:
    """Factor by which a path's weight grows on its way on; 0 where the path ends.

    A path lighter than `cut` ends, or, by lot, goes on as heavy as `cut` so often that nothing is lost on average
    (Russian roulette; Pharr, Jakob & Humphreys 2016, section 13.7).
    """
    if weight >= cut:
        return 1.0
    if draw == NO_LOT or weight <= 0.0:
        return 0.0
    return cut / weight if draw / 2_147_483_647.0 * cut < weight else 0.0


@inlined
def _write_segment(out: PathBuffers, n: int, ray: Ray, length: float, weight: Rgb, level: int) -> None:
    s = out.segments
    s[n, SEGMENT.OX], s[n, SEGMENT.OY], s[n, SEGMENT.OZ] = ray.ox, ray.oy, ray.oz
    s[n, SEGMENT.DX], s[n, SEGMENT.DY], s[n, SEGMENT.DZ] = ray.dx, ray.dy, ray.dz
    s[n, SEGMENT.RED], s[n, SEGMENT.GREEN], s[n, SEGMENT.BLUE] = weight.red, weight.green, weight.blue
    s[n, SEGMENT.LENGTH] = length
    s[n, SEGMENT.DENSITY] = 0.0
    out.segment_hit[n] = -1
    out.levels[n] = level


@inlined
def _absorbed(media: Array, medium: int, length: float, weight: Rgb) -> Rgb:
    """What is left of a weight after a way through a medium (Beer and Lambert)."""
    if medium == 0 or media[medium, MEDIUM.RED] + media[medium, MEDIUM.GREEN] + media[medium, MEDIUM.BLUE] <= 0.0:
        return weight
    return Rgb(
        weight.red * math.exp(-media[medium, MEDIUM.RED] * length), weight.green * math.exp(-media[medium, MEDIUM.GREEN] * length),
        weight.blue * math.exp(-media[medium, MEDIUM.BLUE] * length),
    )  # fmt: skip


@inlined
def _split(
    scene: StaticScene, stack: Array, top: int, here: Encounter, ahead: int, weight: Rgb, roulette: Roulette, most_events: int,
    polarised: bool,
) -> tuple[int, int, float, Rgb]:  # fmt: skip
    """Split a ray at a clear boundary: what gets through goes on the stack. Returns rays there, the lot's state, light lost, and the
    weight of what is mirrored."""
    ray, journey, meet, _, facet = here
    cut, draw = roulette
    media, event = scene.media, journey.event
    if event >= most_events:
        if draw != NO_LOT or event >= most_events + LAST_EVENTS:  # what paper scatters into its glass may never get out
            return top, draw, (weight.red + weight.green + weight.blue) / 3.0, NO_WEIGHT
        if polarised:
            for k in range(RAY.STATE, STATE_COLUMNS):
                stack[top, k] = stack[NOW, k]
        straight = Ray(meet.x, meet.y, meet.z, ray.dx, ray.dy, ray.dz)
        onward = Journey(ahead, event + 1, journey.level, meet.product)
        return push_ray(stack, top, straight, weight, onward), draw, 0.0, NO_WEIGHT
    ratio = media[ahead, MEDIUM.INDEX] / media[journey.medium, MEDIUM.INDEX]
    thrown = reflectance(-facet.facing, ratio)
    if draw == NO_LOT:
        heaviest = max(weight.red, weight.green, weight.blue)
        if thrown < 0.5 and heaviest * thrown < cut:
            thrown = 0.0
        elif thrown >= 0.5 and heaviest * (1.0 - thrown) < cut:
            thrown = 1.0
    if thrown < 1.0:
        passed = 1.0 - thrown
        draw = _next_draw(draw)
        grown = _roulette_weight(max(weight.red, weight.green, weight.blue) * passed, cut, draw) if draw != NO_LOT else 1.0
        if grown > 0.0:
            passed *= grown
            if polarised:
                mean, half, cross = refracted_rows(-facet.facing, ratio)
                rows = EventRows(max(mean, 1e-12), half, cross, 0.0)
                pass_event(stack[NOW], stack[top], ray.dx, ray.dy, ray.dz, facet.nx, facet.ny, facet.nz, rows)
            further = Rgb(weight.red * passed, weight.green * passed, weight.blue * passed)
            onward = Journey(ahead, event + 1, journey.level, meet.product)
            top = push_ray(stack, top, refracted(ray, facet, meet, ratio), further, onward)
    if polarised:
        mean, half, re, im = reflected_rows(-facet.facing, ratio, 0.0)
        rows = EventRows(max(mean, 1e-12), half, re, im)
        pass_event(stack[NOW], stack[NEXT], ray.dx, ray.dy, ray.dz, facet.nx, facet.ny, facet.nz, rows)
    return top, draw, 0.0, Rgb(weight.red * thrown, weight.green * thrown, weight.blue * thrown)


@inlined
def trace_path_tree(
    scene: StaticScene, stack: Array, out: PathBuffers, counts: Counts, gather: bool, roulette: Roulette, most_events: int,
    sample: SamplePlace,
) -> Tree:  # fmt: skip
    """Follow the ray on the stack and all it splits into.

    gather: blurred mirrors and places inside glass become gather points; else the first mirror sharply and the second are met
    again (interreflection). Where the buffers have room for it the polarisation is followed too; the stack comes from ray_stack.
    """
    top = 1
    lost = 0.0
    seen = -1
    route = 0
    fine = False
    flat_count = scene.flats.shape[0]
    skins, media = scene.skins, scene.media
    cut, draw = roulette
    polarised = out.polar.shape[0] > 0
    while top > 0:
        if (
            counts.segments + 8 >= out.segments.shape[0]
            or counts.hits + 8 >= out.hits.shape[0]
            or counts.gather + 2 >= out.gather_points.shape[0]
        ):
            return Tree(Counts(-1, 0, 0), 0.0, 0, 0, False)
        top -= 1
        ray = Ray(
            stack[top, RAY.OX],
            stack[top, RAY.OY],
            stack[top, RAY.OZ],
            stack[top, RAY.DX],
            stack[top, RAY.DY],
            stack[top, RAY.DZ],
        )
        weight = Rgb(stack[top, RAY.RED], stack[top, RAY.GREEN], stack[top, RAY.BLUE])
        medium, event = int(stack[top, RAY.MEDIUM]), int(stack[top, RAY.EVENT])
        level, product = int(stack[top, RAY.LEVEL]), int(stack[top, RAY.PRODUCT])
        if polarised:
            for k in range(RAY.STATE, STATE_COLUMNS):
                stack[NOW, k] = stack[top, k]
        t, surface, part, u, v = nearest_surface(scene, medium, ray.ox, ray.oy, ray.oz, ray.dx, ray.dy, ray.dz, OFFSET)
        own = int(scene.bodies[surface - flat_count, BODY.PRODUCT]) if surface >= flat_count else -1
        clear = surface >= flat_count and scene.bodies[surface - flat_count, BODY.CLEAR] > 0.0
        free = medium == 0 and not (clear and own == product)
        if free:
            n = counts.segments
            _write_segment(out, n, ray, t, weight, level)
            if polarised:
                keep_state(stack[NOW], out.polar[n])
            counts = Counts(n + 1, counts.hits, counts.gather)
            level += 1
        if surface < 0:
            if free:
                out.segment_hit[counts.segments - 1] = LEAVES_SET
            elif medium > 0 and product >= 0 and draw == NO_LOT and event < most_events + LAST_EVENTS:
                # Out of the ground edge of a table's glass it goes nowhere. Out of a vessel it cannot: it slipped through where two
                # walls meet, and is in air.
                top = push_ray(stack, top, ray, weight, Journey(0, event + 1, level, -1))
            continue
        weight = _absorbed(media, medium, t, weight)
        meet = Meeting(surface, part, u, v, ray.ox + t * ray.dx, ray.oy + t * ray.dy, ray.oz + t * ray.dz, own, free)
        spot = surface_hit_at(scene, surface, part, u, v, meet.x, meet.y, meet.z)
        skin = spot.skin
        facet = facet_at(scene, spot, ray.dx, ray.dy, ray.dz, t * sample.pixel if event == 0 else 0.0)
        if event == 0:
            fine = fine or skins[skin, RELIEF] > 0.0 or skins[skin, PATTERN] > 0.0
            fine = fine or (spot.zone >= 0 and scene.zones[spot.zone, ZONE.PICTURE] >= 0.0)
        if seen < 0:
            seen = surface * SKINS_PER_SURFACE + skin
        most = max(weight.red, weight.green, weight.blue)
        if most >= WORTH_AN_EDGE:
            here_on = surface * SKINS_PER_SURFACE + skin + 1 + spot.patch * 131_071
            route = (route * 8191 + here_on) % 1_000_003
        ahead = int(scene.media_of[surface, 1 if facet.front else 0])
        if skins[skin, KIND] == CLEAR and ahead >= 0:
            here = Encounter(ray, Journey(medium, event, level, own), meet, spot, facet)
            top, draw, gone, weight = _split(
                scene, stack, top, here, ahead, weight, Roulette(cut, draw), most_events, polarised
            )
            lost += gone
        else:
            here = Encounter(ray, Journey(medium, event, level, own), meet, spot, facet)
            counts, weight = write_opaque(
                scene, stack, out, counts, gather, here, weight, SampleRoute(sample.x, sample.y, route)
            )
            if weight.red < 0.0:
                continue
        draw = _next_draw(draw)
        grown = _roulette_weight(max(weight.red, weight.green, weight.blue), cut if draw != NO_LOT else END, draw)
        if event >= most_events or grown <= 0.0:
            if event >= most_events or draw == NO_LOT:
                lost += (weight.red + weight.green + weight.blue) / 3.0
            continue
        weight = Rgb(weight.red * grown, weight.green * grown, weight.blue * grown)
        if polarised:
            for k in range(RAY.STATE, STATE_COLUMNS):
                stack[top, k] = stack[NEXT, k]
        top = push_ray(stack, top, mirrored(ray, facet, meet), weight, Journey(medium, event + 1, level, own))
    return Tree(counts, lost, seen, route, fine)
