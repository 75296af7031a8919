"""What becomes of a ray: followed through everything that stands still, split at every clear boundary.

A ray that meets a clear boundary splits into a mirrored and a bent one, so a sample's paths form a tree, written down
depth first. Every free stretch outside glass is kept with its length: a thing moved into it later blocks what follows.
"""

from __future__ import annotations

import math

import numpy as np

from fotaxis.core.constants import SURFACE_OFFSET_M
from fotaxis.core.kernel import inlined, kernel, leaf
from fotaxis.core.optics.fresnel import reflectance
from fotaxis.core.optics.material import (
    ALONG,
    CLEAR,
    COAT,
    ENTRY,
    INNER,
    KIND,
    METAL,
    PATTERN,
    RELIEF,
    THROUGH,
)
from fotaxis.core.optics.paths import (
    AGAIN,
    BACK,
    FAN,
    FRONT,
    GLOSS_FAN,
    INNER_FAN,
    LEAVES,
    MATTE,
    SKINS_PER_SURFACE,
    TILT,
    TILT_U,
    TILT_V,
    WORTH_AN_EDGE,
    Buffers,
    link,
    write_fan,
    write_hit,
)
from fotaxis.core.optics.polarisation import STATE_COLUMNS, bent, keep_state, mirrored, pass_event, skin_mirrors
from fotaxis.core.optics.still import IS_CLEAR, PRODUCT, REVOLUTION, Still, nearest_still, spot_at
from fotaxis.core.optics.still import KIND as BODY_KIND
from fotaxis.core.optics.surface import albedo, gloss_share, metal_share, relief_at
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
def push(
    stack: Array, top: int, x: float, y: float, z: float, dx: float, dy: float, dz: float,
    red: float, green: float, blue: float, medium: int, event: int, level: int, product: int,
) -> int:  # fmt: skip
    stack[top, 0] = x
    stack[top, 1] = y
    stack[top, 2] = z
    stack[top, 3] = dx
    stack[top, 4] = dy
    stack[top, 5] = dz
    stack[top, 6] = red
    stack[top, 7] = green
    stack[top, 8] = blue
    stack[top, 9] = medium
    stack[top, 10] = event
    stack[top, 11] = level
    stack[top, 12] = product
    return top + 1


@leaf
def _next(draw: int) -> int:
    """The next of a row of numbers 0..2^31 that look drawn by lot; a negative one stays as it is.

    Source: the minimal standard generator, Park & Miller 1988, with the multiplier of 1993.
    """
    return draw * 48_271 % 2_147_483_647 if draw >= 0 else draw


@leaf
def _goes_on(weight: float, cut: float, draw: int, shift: float) -> float:
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
def grow(
    still: Still,
    stack: Array,
    out: Buffers,
    n: int,
    m: int,
    f: int,
    fans: bool,
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
    flat_count = still.flats.shape[0]
    skins = still.skins
    media = still.media
    polarised = out.polar.shape[0] > 0
    while top > 0:
        if n + 8 >= out.segments.shape[0] or m + 8 >= out.hits.shape[0] or f + 2 >= out.fans.shape[0]:
            return -1, 0, 0, 0.0, 0, 0, False
        top -= 1
        ox, oy, oz = stack[top, 0], stack[top, 1], stack[top, 2]
        dx, dy, dz = stack[top, 3], stack[top, 4], stack[top, 5]
        red, green, blue = stack[top, 6], stack[top, 7], stack[top, 8]
        medium = int(stack[top, 9])
        event = int(stack[top, 10])
        level = int(stack[top, 11])
        product = int(stack[top, 12])
        if polarised:
            for k in range(13, STATE_COLUMNS):
                stack[NOW, k] = stack[top, k]
        t, surface, part, u, v = nearest_still(still, medium, ox, oy, oz, dx, dy, dz, OFFSET)
        own = int(still.bodies[surface - flat_count, PRODUCT]) if surface >= flat_count else -1
        clear = surface >= flat_count and still.bodies[surface - flat_count, IS_CLEAR] > 0.0
        free = False
        if medium == 0 and not (clear and own == product):
            s = out.segments
            s[n, 0] = ox
            s[n, 1] = oy
            s[n, 2] = oz
            s[n, 3] = dx
            s[n, 4] = dy
            s[n, 5] = dz
            s[n, 6] = t
            s[n, 7] = red
            s[n, 8] = green
            s[n, 9] = blue
            s[n, 10] = 0.0
            out.segment_hit[n] = -1
            out.levels[n] = level
            if polarised:
                keep_state(stack[NOW], out.polar[n])
            n += 1
            level += 1
            free = True
        if surface < 0:
            if free:
                out.segment_hit[n - 1] = LEAVES
            elif product >= 0:  # out of the ground edge of a table's glass it goes nowhere; out of a vessel it cannot
                lost += (red + green + blue) / 3.0
            continue
        if medium > 0 and media[medium, 1] + media[medium, 2] + media[medium, 3] > 0.0:
            red *= math.exp(-media[medium, 1] * t)
            green *= math.exp(-media[medium, 2] * t)
            blue *= math.exp(-media[medium, 3] * t)
        x = ox + t * dx
        y = oy + t * dy
        z = oz + t * dz
        spot = spot_at(still, surface, part, u, v, x, y, z)
        skin = spot.skin
        nx, ny, nz = spot.nx, spot.ny, spot.nz
        gx, gy, gz = spot.gx, spot.gy, spot.gz
        front = gx * dx + gy * dy + gz * dz <= 0.0
        slope_u = 0.0
        slope_v = 0.0
        if skins[skin, RELIEF] > 0.0:
            slope_u, slope_v = relief_at(still, spot)
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
        ahead = int(still.media_of[surface, 1 if front else 0])
        before = m
        if skins[skin, KIND] == CLEAR and ahead >= 0:
            ratio = media[ahead, 0] / media[medium, 0]
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
                draw = _next(draw)
                grown = _goes_on(most * passed, cut, draw, shift)
                if event >= most_events or grown <= 0.0:
                    if event >= most_events or draw < 0:
                        lost += passed * (red + green + blue) / 3.0
                else:
                    passed *= grown
                    if polarised:
                        mean, half, cross = bent(-facing, ratio)
                        pass_event(stack[NOW], stack[top], dx, dy, dz, nx, ny, nz, max(mean, 1e-12), half, cross, 0.0)
                    top = push(stack, top, x, y, z, bx, by, bz, red * passed, green * passed, blue * passed, ahead,
                                event + 1, level, own)  # fmt: skip
            red *= thrown
            green *= thrown
            blue *= thrown
            if polarised:
                mean, half, re, im = mirrored(-facing, ratio, 0.0)
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
                    glass = media[medium, 0]
                    behind = skins[skin, INNER]
                    m = write_hit(out, m, x, 0.0, z, gx, gy, gz, red * ar * behind, green * ag * behind, blue * ab * behind,
                                   surface - 1, FRONT, u, v, 0.0, glass, skins[skin, ENTRY], MATTE)  # fmt: skip
                    n = link(out, n, m - 1, level, free)
                elif inside:
                    if fans:
                        f = write_fan(out, f, x, y, z, nx, ny, nz, spot, dx, dy, dz, INNER_FAN, medium, own, order, sx, sy)
                        m = write_hit(out, m, x, y, z, nx, ny, nz, red * ar, green * ag, blue * ab, 0, 0, float(f - 1), 0.0,
                                       0.0, 0.0, 1.0, FAN)  # fmt: skip
                        n = link(out, n, m - 1, level, free)
                    else:
                        m = write_hit(out, m, x, y, z, nx, ny, nz, red * ar, green * ag, blue * ab, skin, 0, spot.u, spot.v,
                                       0.0, 0.0, 1.0, AGAIN)  # fmt: skip
                        n = link(out, n, m - 1, level, free)
                else:
                    leaves = 1.0
                    if coat > 0.0:
                        leaves = (1.0 - reflectance(cosine, coat)) * skins[skin, INNER]
                    p, q, w = u, v, 0.0
                    if surface >= flat_count:
                        if still.bodies[surface - flat_count, BODY_KIND] == REVOLUTION:
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
                        n = link(out, n, hit, level, free)
            if polarised:
                if before < m:
                    index = skins[skin, COAT] if own < 0 or not inside else 0.0
                    if index > 0.0 and not is_metal:
                        mean, half, cross = bent(cosine, index / media[medium, 0])
                        pass_event(stack[NOW], stack[NEXT], dx, dy, dz, nx, ny, nz, mean, half, cross, 0.0)
                        keep_state(stack[NEXT], out.hit_polar[before])
                    else:
                        keep_state(stack[NOW], out.hit_polar[before])
                    for hit in range(before + 1, m):
                        for k in range(3):
                            out.hit_polar[hit, k] = out.hit_polar[before, k]
                before = m
                if is_metal or coat > 0.0 or (inside and skins[skin, COAT] > 0.0):
                    mean, half, re, im = skin_mirrors(skins, skin, cosine, media[medium, 0])
                    pass_event(stack[NOW], stack[NEXT], dx, dy, dz, nx, ny, nz, max(mean, 1e-12), half, re, im)
            if inside:
                if is_metal:
                    outside = media[medium, 0]
                    red *= metal_share(skins, skin, 0, cosine, outside)
                    green *= metal_share(skins, skin, 1, cosine, outside)
                    blue *= metal_share(skins, skin, 2, cosine, outside)
                elif own < 0 and skins[skin, COAT] > 0.0:
                    under = reflectance(cosine, skins[skin, COAT] / media[medium, 0])
                    red *= under
                    green *= under
                    blue *= under
                else:
                    continue
            elif rough and fans:
                below = 1.0
                sharp = 0.0
                if is_metal and coat > 0.0:
                    sharp = reflectance(cosine, coat)
                    below = (1.0 - sharp) * (1.0 - sharp)
                f = write_fan(out, f, x, y, z, nx, ny, nz, spot, dx, dy, dz, GLOSS_FAN, medium, own, order, sx, sy)
                m = write_hit(out, m, x, y, z, nx, ny, nz, red * below, green * below, blue * below, 0, 0, float(f - 1), 0.0,
                               0.0, 0.0, 1.0, FAN)  # fmt: skip
                n = link(out, n, m - 1, level, free)
                if polarised:
                    keep_state(stack[NEXT], out.hit_polar[before])
                red *= sharp
                green *= sharp
                blue *= sharp
            else:
                red *= gloss_share(skins, skin, 0, cosine)
                green *= gloss_share(skins, skin, 1, cosine)
                blue *= gloss_share(skins, skin, 2, cosine)
        draw = _next(draw)
        grown = _goes_on(max(red, green, blue), cut, draw, shift)
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
            for k in range(13, STATE_COLUMNS):
                stack[top, k] = stack[NEXT, k]
        top = push(stack, top, x, y, z, rx, ry, rz, red, green, blue, medium, event + 1, level, own)
    return n, m, f, lost, seen, order, fine
