"""What becomes of a ray: followed through everything that stands still, split at every clear boundary.

A ray that meets a clear boundary splits into a mirrored and a bent one, so a sample's paths form a tree, written down
depth first. Every free stretch outside glass is kept with its length: a thing moved into it later blocks what follows.
"""

from __future__ import annotations

import math

import numpy as np

from fotaxis.core.columns import BODY, MEDIUM, RAY, SEGMENT
from fotaxis.core.constants import SURFACE_OFFSET_M
from fotaxis.core.kernel import inlined, kernel, leaf
from fotaxis.core.materials.bsdf import albedo, gloss_share, metal_share
from fotaxis.core.materials.fresnel import reflectance
from fotaxis.core.materials.material import ALONG, CLEAR, COAT, ENTRY, INNER, KIND, METAL, PATTERN, RELIEF, THROUGH
from fotaxis.core.materials.polarisation import (
    STATE_COLUMNS,
    keep_state,
    pass_event,
    reflected_rows,
    refracted_rows,
    skin_reflected_rows,
)
from fotaxis.core.render.arrays.path_records import (
    BACK,
    FRONT,
    GATHERED,
    GLOSSY,
    INSIDE_GLASS,
    INTERREFLECTION,
    LEAVES_SET,
    MATTE,
    SKINS_PER_SURFACE,
    TILT,
    TILT_U,
    TILT_V,
    WORTH_AN_EDGE,
    PathBuffers,
    link_hit,
    write_gather_point,
    write_hit,
)
from fotaxis.core.render.arrays.static_scene import (
    REVOLUTION,
    StaticScene,
    nearest_surface,
    relief_slopes,
    surface_hit_at,
)
from fotaxis.core.values import Array

OFFSET = SURFACE_OFFSET_M

STACK = 48
NOW, NEXT = STACK, STACK + 1
"""Rows behind the stack: the state of polarisation of the ray that is followed, and of what comes after an event."""


@kernel
def ray_stack() -> Array:
    """Room for the rays of one sample that are still to be followed, and for states of polarisation."""
    return np.empty((STACK + 2, STATE_COLUMNS))


@inlined
def push_ray(
    stack: Array, top: int, x: float, y: float, z: float, dx: float, dy: float, dz: float,
    red: float, green: float, blue: float, medium: int, event: int, level: int, product: int,
) -> int:  # fmt: skip
    stack[top, RAY.OX] = x
    stack[top, RAY.OY] = y
    stack[top, RAY.OZ] = z
    stack[top, RAY.DX] = dx
    stack[top, RAY.DY] = dy
    stack[top, RAY.DZ] = dz
    stack[top, RAY.RED] = red
    stack[top, RAY.GREEN] = green
    stack[top, RAY.BLUE] = blue
    stack[top, RAY.MEDIUM] = medium
    stack[top, RAY.EVENT] = event
    stack[top, RAY.LEVEL] = level
    stack[top, RAY.PRODUCT] = product
    return top + 1


@leaf
def _next_draw(draw: int) -> int:
    """The next of a row of numbers 0..2^31 that look drawn by lot; a negative one stays as it is.

    Source: the minimal standard generator, Park & Miller 1988, with the multiplier of 1993.
    """
    return draw * 48_271 % 2_147_483_647 if draw >= 0 else draw


@leaf
def _roulette_weight(weight: float, cut: float, draw: int, shift: float) -> float:
    """Factor by which a path's weight grows on its way on; 0 where the path ends.

    A path lighter than `cut` ends, or, by lot, goes on as heavy as `cut` so often that nothing is lost on average
    (Russian roulette; Pharr, Jakob & Humphreys 2016, section 13.7). shift: 0..1, added to the lot and wrapped: samples that
    draw alike and have evenly spread shifts go on in just the right share.
    """
    if weight >= cut:
        return 1.0
    if draw < 0 or weight <= 0.0:
        return 0.0
    lot = draw / 2_147_483_647.0 + shift
    if lot >= 1.0:
        lot -= 1.0
    return cut / weight if lot * cut < weight else 0.0


@inlined
def trace_path_tree(
    scene: StaticScene,
    stack: Array,
    out: PathBuffers,
    n: int,
    m: int,
    f: int,
    gather_points: bool,
    cut: float,
    draw: int,
    shift: float,
    most_events: int,
    sx: float,
    sy: float,
) -> tuple[int, int, int, float, int, int, bool]:
    """Follow the ray on the stack and all it splits into; returns segments, hits and fans written so far, light lost, what
    is met first, the route, and whether fine detail is met. Segments -1: a buffer is full.

    fans: blurred mirrors and places inside glass become fans; else the first mirror sharply and the second are dropped.
    Where the buffers have room for it the polarisation is followed too, see polarisation; the stack comes from ray_stack.
    draw, shift: seed of the lots that light paths draw, negative to drop them, and what is added, see _goes_on.
    """
    top = 1
    lost = 0.0
    seen = -1
    order = 0
    fine = False
    flat_count = scene.flats.shape[0]
    skins = scene.skins
    media = scene.media
    polarised = out.polar.shape[0] > 0
    while top > 0:
        if n + 8 >= out.segments.shape[0] or m + 8 >= out.hits.shape[0] or f + 2 >= out.gather_points.shape[0]:
            return -1, 0, 0, 0.0, 0, 0, False
        top -= 1
        ox, oy, oz = stack[top, RAY.OX], stack[top, RAY.OY], stack[top, RAY.OZ]
        dx, dy, dz = stack[top, RAY.DX], stack[top, RAY.DY], stack[top, RAY.DZ]
        red, green, blue = stack[top, RAY.RED], stack[top, RAY.GREEN], stack[top, RAY.BLUE]
        medium = int(stack[top, RAY.MEDIUM])
        event = int(stack[top, RAY.EVENT])
        level = int(stack[top, RAY.LEVEL])
        product = int(stack[top, RAY.PRODUCT])
        if polarised:
            for k in range(RAY.STATE, STATE_COLUMNS):
                stack[NOW, k] = stack[top, k]
        t, surface, part, u, v = nearest_surface(scene, medium, ox, oy, oz, dx, dy, dz, OFFSET)
        own = int(scene.bodies[surface - flat_count, BODY.PRODUCT]) if surface >= flat_count else -1
        clear = surface >= flat_count and scene.bodies[surface - flat_count, BODY.CLEAR] > 0.0
        free = False
        if medium == 0 and not (clear and own == product):
            s = out.segments
            s[n, SEGMENT.OX] = ox
            s[n, SEGMENT.OY] = oy
            s[n, SEGMENT.OZ] = oz
            s[n, SEGMENT.DX] = dx
            s[n, SEGMENT.DY] = dy
            s[n, SEGMENT.DZ] = dz
            s[n, SEGMENT.LENGTH] = t
            s[n, SEGMENT.RED] = red
            s[n, SEGMENT.GREEN] = green
            s[n, SEGMENT.BLUE] = blue
            s[n, SEGMENT.DENSITY] = 0.0
            out.segment_hit[n] = -1
            out.levels[n] = level
            if polarised:
                keep_state(stack[NOW], out.polar[n])
            n += 1
            level += 1
            free = True
        if surface < 0:
            if free:
                out.segment_hit[n - 1] = LEAVES_SET
            elif product >= 0:  # out of the ground edge of a table's glass it goes nowhere; out of a vessel it cannot
                lost += (red + green + blue) / 3.0
            continue
        if medium > 0 and media[medium, MEDIUM.RED] + media[medium, MEDIUM.GREEN] + media[medium, MEDIUM.BLUE] > 0.0:
            red *= math.exp(-media[medium, MEDIUM.RED] * t)
            green *= math.exp(-media[medium, MEDIUM.GREEN] * t)
            blue *= math.exp(-media[medium, MEDIUM.BLUE] * t)
        x = ox + t * dx
        y = oy + t * dy
        z = oz + t * dz
        spot = surface_hit_at(scene, surface, part, u, v, x, y, z)
        skin = spot.skin
        nx, ny, nz = spot.nx, spot.ny, spot.nz
        gx, gy, gz = spot.gx, spot.gy, spot.gz
        front = gx * dx + gy * dy + gz * dz <= 0.0
        slope_u = 0.0
        slope_v = 0.0
        if skins[skin, RELIEF] > 0.0:
            slope_u, slope_v = relief_slopes(scene, spot)
            fine = fine or event == 0
        elif skins[skin, PATTERN] > 0.0:
            fine = fine or event == 0
        if slope_u != 0.0 or slope_v != 0.0:
            nx -= slope_u * spot.tx + slope_v * spot.wx
            ny -= slope_u * spot.ty + slope_v * spot.wy
            nz -= slope_u * spot.tz + slope_v * spot.wz
            scale = 1.0 / math.sqrt(nx * nx + ny * ny + nz * nz)
            nx *= scale
            ny *= scale
            nz *= scale
        if not front:
            nx, ny, nz = -nx, -ny, -nz
            gx, gy, gz = -gx, -gy, -gz
        facing = nx * dx + ny * dy + nz * dz
        if facing >= -1e-6:
            nx, ny, nz = gx, gy, gz
            facing = nx * dx + ny * dy + nz * dz
        if seen < 0:
            seen = surface * SKINS_PER_SURFACE + skin
        most = max(red, green, blue)
        if most >= WORTH_AN_EDGE:
            order = (order * 8191 + surface * SKINS_PER_SURFACE + skin + 1) % 1_000_003
        ahead = int(scene.media_of[surface, 1 if front else 0])
        before = m
        if skins[skin, KIND] == CLEAR and ahead >= 0:
            ratio = media[ahead, MEDIUM.INDEX] / media[medium, MEDIUM.INDEX]
            thrown = reflectance(-facing, ratio)
            if thrown < 1.0:
                # Snell: the part along the surface shrinks by the ratio of indices.
                inverse = 1.0 / ratio
                into = math.sqrt(max(0.0, 1.0 - inverse * inverse * (1.0 - facing * facing)))
                bx = inverse * dx + (-inverse * facing - into) * nx
                by = inverse * dy + (-inverse * facing - into) * ny
                bz = inverse * dz + (-inverse * facing - into) * nz
                if bx * gx + by * gy + bz * gz >= -1e-9:
                    bx, by, bz = dx, dy, dz
                passed = 1.0 - thrown
                draw = _next_draw(draw)
                grown = _roulette_weight(most * passed, cut, draw, shift)
                if event >= most_events or grown <= 0.0:
                    if event >= most_events or draw < 0:
                        lost += passed * (red + green + blue) / 3.0
                else:
                    passed *= grown
                    if polarised:
                        mean, half, cross = refracted_rows(-facing, ratio)
                        pass_event(stack[NOW], stack[top], dx, dy, dz, nx, ny, nz, max(mean, 1e-12), half, cross, 0.0)
                    top = push_ray(stack, top, x, y, z, bx, by, bz, red * passed, green * passed, blue * passed, ahead,
                                event + 1, level, own)  # fmt: skip
            red *= thrown
            green *= thrown
            blue *= thrown
            if polarised:
                mean, half, re, im = reflected_rows(-facing, ratio, 0.0)
                pass_event(stack[NOW], stack[NEXT], dx, dy, dz, nx, ny, nz, max(mean, 1e-12), half, re, im)
        else:
            inside = medium > 0
            cosine = -facing
            coat = 0.0 if inside else skins[skin, COAT]
            rough = skins[skin, ALONG] > 0.0
            is_metal = skins[skin, KIND] == METAL
            ar = albedo(skins, skin, 0, spot.u, spot.v)
            ag = albedo(skins, skin, 1, spot.u, spot.v)
            ab = albedo(skins, skin, 2, spot.u, spot.v)
            if not is_metal and ar + ag + ab > 0.0:
                if inside and own < 0:
                    # Paint under a table's glass: lit and seen as if on the top above it, its glass as a coat.
                    glass = media[medium, MEDIUM.INDEX]
                    behind = skins[skin, INNER]
                    m = write_hit(out, m, x, 0.0, z, gx, gy, gz, red * ar * behind, green * ag * behind, blue * ab * behind,
                                   surface - 1, FRONT, u, v, 0.0, glass, skins[skin, ENTRY], MATTE)  # fmt: skip
                    n = link_hit(out, n, m - 1, level, free)
                elif inside:
                    if gather_points:
                        f = write_gather_point(
                            out, f, x, y, z, nx, ny, nz, spot, dx, dy, dz, INSIDE_GLASS, medium, own, order, sx, sy
                        )
                        m = write_hit(out, m, x, y, z, nx, ny, nz, red * ar, green * ag, blue * ab, 0, 0, float(f - 1), 0.0,
                                       0.0, 0.0, 1.0, GATHERED)  # fmt: skip
                        n = link_hit(out, n, m - 1, level, free)
                    else:
                        m = write_hit(out, m, x, y, z, nx, ny, nz, red * ar, green * ag, blue * ab, skin, 0, spot.u, spot.v,
                                       0.0, 0.0, 1.0, INTERREFLECTION)  # fmt: skip
                        n = link_hit(out, n, m - 1, level, free)
                else:
                    leaves = 1.0
                    if coat > 0.0:
                        leaves = (1.0 - reflectance(cosine, coat)) * skins[skin, INNER]
                    p, q, w = u, v, 0.0
                    if surface >= flat_count:
                        if scene.bodies[surface - flat_count, BODY.KIND] == REVOLUTION:
                            p, q = spot.azimuth, part + u
                        else:
                            p, q, w = float(part), u, v
                    entry = skins[skin, ENTRY]
                    variant = FRONT if front else BACK
                    first = m
                    if slope_u != 0.0 or slope_v != 0.0:
                        # The light on a tilted normal from the light on the mean plane and on two known tilts.
                        side = 1.0 if front else -1.0
                        lift = math.sqrt(1.0 + slope_u * slope_u + slope_v * slope_v)
                        known = math.sqrt(1.0 + TILT * TILT)
                        k0 = leaves * (1.0 + slope_u / TILT + slope_v / TILT) / lift
                        k1 = -leaves * slope_u / TILT * known / lift
                        k2 = -leaves * slope_v / TILT * known / lift
                        mx, my, mz = spot.nx * side, spot.ny * side, spot.nz * side
                        m = write_hit(out, m, x, y, z, mx, my, mz, red * ar * k0, green * ag * k0, blue * ab * k0,
                                       surface, variant, p, q, w, coat, entry, MATTE)  # fmt: skip
                        if front:
                            m = write_hit(out, m, x, y, z, (mx + TILT * spot.tx) / known, (my + TILT * spot.ty) / known,
                                           (mz + TILT * spot.tz) / known, red * ar * k1, green * ag * k1, blue * ab * k1,
                                           surface, TILT_U, p, q, w, coat, entry, MATTE)  # fmt: skip
                            m = write_hit(out, m, x, y, z, (mx + TILT * spot.wx) / known, (my + TILT * spot.wy) / known,
                                           (mz + TILT * spot.wz) / known, red * ar * k2, green * ag * k2, blue * ab * k2,
                                           surface, TILT_V, p, q, w, coat, entry, MATTE)  # fmt: skip
                    else:
                        m = write_hit(out, m, x, y, z, nx, ny, nz, red * ar * leaves, green * ag * leaves,
                                       blue * ab * leaves, surface, variant, p, q, w, coat, entry, MATTE)  # fmt: skip
                    through = skins[skin, THROUGH]
                    if through > 0.0 and own < 0:
                        behind = leaves * through
                        m = write_hit(out, m, x, y, z, -nx, -ny, -nz, red * behind, green * behind, blue * behind, surface,
                                       BACK if front else FRONT, p, q, w, 0.0, 1.0, MATTE)  # fmt: skip
                    for hit in range(first, m):
                        n = link_hit(out, n, hit, level, free)
            if polarised:
                if before < m:
                    index = skins[skin, COAT] if own < 0 or not inside else 0.0
                    if index > 0.0 and not is_metal:
                        mean, half, cross = refracted_rows(cosine, index / media[medium, MEDIUM.INDEX])
                        pass_event(stack[NOW], stack[NEXT], dx, dy, dz, nx, ny, nz, mean, half, cross, 0.0)
                        keep_state(stack[NEXT], out.hit_polar[before])
                    else:
                        keep_state(stack[NOW], out.hit_polar[before])
                    for hit in range(before + 1, m):
                        for k in range(3):
                            out.hit_polar[hit, k] = out.hit_polar[before, k]
                before = m
                if is_metal or coat > 0.0 or (inside and skins[skin, COAT] > 0.0):
                    mean, half, re, im = skin_reflected_rows(skins, skin, cosine, media[medium, MEDIUM.INDEX])
                    pass_event(stack[NOW], stack[NEXT], dx, dy, dz, nx, ny, nz, max(mean, 1e-12), half, re, im)
            if inside:
                if is_metal:
                    outside = media[medium, MEDIUM.INDEX]
                    red *= metal_share(skins, skin, 0, cosine, outside)
                    green *= metal_share(skins, skin, 1, cosine, outside)
                    blue *= metal_share(skins, skin, 2, cosine, outside)
                elif own < 0 and skins[skin, COAT] > 0.0:
                    under = reflectance(cosine, skins[skin, COAT] / media[medium, MEDIUM.INDEX])
                    red *= under
                    green *= under
                    blue *= under
                else:
                    continue
            elif rough and gather_points:
                below = 1.0
                sharp = 0.0
                if is_metal and coat > 0.0:
                    sharp = reflectance(cosine, coat)
                    below = (1.0 - sharp) * (1.0 - sharp)
                f = write_gather_point(out, f, x, y, z, nx, ny, nz, spot, dx, dy, dz, GLOSSY, medium, own, order, sx, sy)
                m = write_hit(out, m, x, y, z, nx, ny, nz, red * below, green * below, blue * below, 0, 0, float(f - 1), 0.0,
                               0.0, 0.0, 1.0, GATHERED)  # fmt: skip
                n = link_hit(out, n, m - 1, level, free)
                if polarised:
                    keep_state(stack[NEXT], out.hit_polar[before])
                red *= sharp
                green *= sharp
                blue *= sharp
            else:
                red *= gloss_share(skins, skin, 0, cosine)
                green *= gloss_share(skins, skin, 1, cosine)
                blue *= gloss_share(skins, skin, 2, cosine)
        draw = _next_draw(draw)
        grown = _roulette_weight(max(red, green, blue), cut, draw, shift)
        if event >= most_events or grown <= 0.0:
            if event >= most_events or draw < 0:
                lost += (red + green + blue) / 3.0
            continue
        red *= grown
        green *= grown
        blue *= grown
        rx = dx - 2.0 * facing * nx
        ry = dy - 2.0 * facing * ny
        rz = dz - 2.0 * facing * nz
        if rx * gx + ry * gy + rz * gz <= 1e-6:
            facing = gx * dx + gy * dy + gz * dz
            rx = dx - 2.0 * facing * gx
            ry = dy - 2.0 * facing * gy
            rz = dz - 2.0 * facing * gz
        if polarised:
            for k in range(RAY.STATE, STATE_COLUMNS):
                stack[top, k] = stack[NEXT, k]
        top = push_ray(stack, top, x, y, z, rx, ry, rz, red, green, blue, medium, event + 1, level, own)
    return n, m, f, lost, seen, order, fine
