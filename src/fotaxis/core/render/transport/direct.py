"""Light from panels, heads, cards and sheets on matte surfaces, with what stands in between (see occlusion).

An even rectangle has Lambert's closed form. Shadows and gradients enter as a ratio: the face is cut into cells,
and the closed form is weighted by the share of the cells' light that arrives. Discs and balls are summed over samples.
"""

from __future__ import annotations

from fotaxis.core.columns import FLAT, PROFILE, SAMPLE
from fotaxis.core.geometry.planar import BALL, RECTANGLE, hit_flat
from fotaxis.core.geometry.rays import Direction, Ray
from fotaxis.core.kernel import inlined, leaf
from fotaxis.core.materials.bsdf import coat_entry
from fotaxis.core.render.arrays.emitters import (
    GLOSS,
    GLOSS_TIGHT,
    HAS_LOBE,
    LEAST_BOUNCE,
    MIRROR_TIGHT,
    STRAIGHT,
    Emitters,
    beam_factor,
    below_horizon,
    direction_to_sample,
    face_area,
    sample_luminance,
)
from fotaxis.core.render.arrays.receiver import Occluders, Receiver, Scratch
from fotaxis.core.render.arrays.static_scene import Ints, StaticScene
from fotaxis.core.render.transport import through_sheet
from fotaxis.core.render.transport.card_radiance import add_sample_radiance
from fotaxis.core.render.transport.illuminance import rectangle_form
from fotaxis.core.render.transport.lobe_radiance import FaceRay, add_lobe_radiance, add_sent_radiance
from fotaxis.core.render.transport.occlusion import OFFSET, possible_occluders, transmits
from fotaxis.core.values import Array


@leaf
def scatters_light(emitters: Emitters, k: int) -> bool:
    """Does a thing that is no light throw on enough of what falls on it to count?"""
    most = 0.0
    for c in range(3):
        most += emitters.albedo[k, c] + emitters.through[k, c] + emitters.lobes[k, GLOSS + c] + emitters.lobes[k, STRAIGHT]
    return most >= 3.0 * LEAST_BOUNCE


@inlined
def contributes(emitters: Emitters, k: int, from_lights: bool, from_cards: bool) -> bool:
    """Does face k count: a light that is on, or a thing that throws on light?"""
    if emitters.light[k] < 0:
        return from_cards and scatters_light(emitters, k)
    return from_lights and (emitters.gain[k, 0] != 0.0 or emitters.gain[k, 1] != 0.0 or emitters.gain[k, 2] != 0.0)


@leaf
def side_towards(flats: Array, is_card: bool, k: int, px: float, py: float, pz: float) -> int:
    """The side of face k that looks at a place: 0 the front, 1 the back of a card, -1 none or the place in its plane."""
    if flats[k, FLAT.SHAPE] == BALL:
        return 0
    toward = (
        (px - flats[k, FLAT.X]) * flats[k, FLAT.NX]
        + (py - flats[k, FLAT.Y]) * flats[k, FLAT.NY]
        + (pz - flats[k, FLAT.Z]) * flats[k, FLAT.NZ]
    )
    if toward > OFFSET:
        return 0
    return 1 if is_card and toward < -OFFSET else -1


@leaf
def side_seen(emitters: Emitters, k: int, at: Receiver) -> int:
    """The side of face k that a place sees, as side_towards tells it; -1 too where the face lies below its horizon."""
    side = side_towards(emitters.flats, emitters.light[k] < 0, k, at.x, at.y, at.z)
    return -1 if side < 0 or below_horizon(emitters.flats, k, at.x, at.y, at.z, at.nx, at.ny, at.nz) else side


@leaf
def sample_weights(
    scene: StaticScene, emitters: Emitters, k: int, side: int, at: Receiver, among: Occluders, scratch: Scratch
) -> bool:
    """How much of what face k sends out at each of its samples arrives at a place, to scratch.weights; False for none.

    Illuminance is the sum of weights times luminance at the samples. Only `among` may stand in between.
    """
    flats, shape, samples, weights, passed = (
        emitters.flats,
        emitters.shape,
        emitters.samples,
        scratch.weights,
        scratch.passed,
    )
    count = emitters.parts[k]
    all_sum = 0.0
    some = False
    for cell in range(count):
        weights[cell, 0] = weights[cell, 1] = weights[cell, 2] = 0.0
        dx, dy, dz, d, leaves = direction_to_sample(flats, samples, k, cell, at.x, at.y, at.z)
        falls = at.nx * dx + at.ny * dy + at.nz * dz
        leaves = abs(leaves)
        if falls <= 0.0 or leaves <= 0.0:
            continue
        form = falls * leaves / (d * d)
        all_sum += form
        lets_out = (
            beam_factor(emitters, k, samples[k, cell, SAMPLE.U], samples[k, cell, SAMPLE.V], -dx, -dy, -dz)
            if shape[k, PROFILE.BEAM] > 0.0
            else 1.0
        )
        if lets_out <= 0.0:
            continue
        passed[1] = passed[2] = passed[3] = 1.0
        if among.end > 0:
            ray = Ray(at.x, at.y, at.z, dx, dy, dz)
            if not transmits(scene, flats, emitters.veil, among, ray, d, passed):
                continue
        form *= coat_entry(at.coat, at.entry, falls)
        form *= lets_out
        some = True
        for c in range(3):
            weights[cell, c] = form * passed[1 + c]
    if not some:
        return False
    if flats[k, FLAT.SHAPE] == RECTANGLE:
        scale = _card_form(flats, k, side, at, scratch.corners) / all_sum
    else:
        scale = face_area(flats, k, at.x, at.y, at.z) / count
    for cell in range(count):
        for c in range(3):
            weights[cell, c] *= scale
    return True


@leaf
def add_weighted(emitters: Emitters, k: int, side: int, weights: Array, out: Array) -> None:
    """Add to out (lights, 3) what face k sends out at its samples, seen from a side, times weights (samples, 3)."""
    light, gain, samples = emitters.light, emitters.gain, emitters.samples
    for cell in range(emitters.parts[k]):
        if light[k] >= 0:
            for c in range(3):
                out[light[k], c] += weights[cell, c] * samples[k, cell, SAMPLE.LUMINANCE] * gain[k, c]
        else:
            add_sample_radiance(emitters.sampled, k, side, cell, 1.0, weights[cell], out)


@leaf
def add_from_face(
    scene: StaticScene, emitters: Emitters, lights: int, k: int, at: Receiver, scratch: Scratch, out: Array
) -> None:
    """Add the illuminance at a place from face k, a light, card or sheet, to out (lights, 3)."""
    flats, light, gain, shape, samples = emitters.flats, emitters.light, emitters.gain, emitters.shape, emitters.samples
    side = side_seen(emitters, k, at)
    if side < 0:
        return
    n, m = possible_occluders(flats, scene.bounds, k, at.x, at.y, at.z, scratch.found)
    even = shape[k, PROFILE.KIND] == 0.0 and shape[k, PROFILE.BEAM] == 0.0
    if m == 0 and light[k] >= 0 and flats[k, FLAT.SHAPE] == RECTANGLE and even and at.coat <= 0.0:
        whole = rectangle_form(flats, k, at.x, at.y, at.z, at.nx, at.ny, at.nz, scratch.corners)
        for c in range(3):
            out[light[k], c] += whole * gain[k, c]
        return
    if not sample_weights(scene, emitters, k, side, at, Occluders(scratch.found, n, m), scratch):
        return
    weights = scratch.weights
    add_weighted(emitters, k, side, weights, out)
    shown = through_sheet.lights_shown(emitters, k, at)
    for cell in range(emitters.parts[k] if emitters.lobes[k, HAS_LOBE] > 0.0 else 0):
        if weights[cell, 0] + weights[cell, 1] + weights[cell, 2] > 0.0:
            dx, dy, dz, _, _ = direction_to_sample(flats, samples, k, cell, at.x, at.y, at.z)
            ray = FaceRay(k, samples[k, cell, SAMPLE.U], samples[k, cell, SAMPLE.V], dx, dy, dz)
            add_lobe_radiance(emitters, ray, lights, 1.0, weights[cell], False, cell, out, shown)
    for j in range(light.shape[0] if shown != 0 else 0):
        if (shown >> j) & 1 > 0:
            through_sheet.add_light_through(scene, emitters, k, j, at, Occluders(scratch.found, n, m), scratch.passed, out)


@leaf
def add_by_mirror_card(
    scene: StaticScene, emitters: Emitters, lights: int, k: int, at: Receiver, from_lights: bool, from_cards: bool,
    scratch: Scratch, out: Array,
) -> None:  # fmt: skip
    """As add_from_face, by way of mirror card k: every face lights the place's mirror image behind it, where the way crosses it."""
    flats, light, samples, found, passed = emitters.flats, emitters.light, emitters.samples, scratch.found, scratch.passed
    px, py, pz = at.x, at.y, at.z
    mx, my, mz = flats[k, FLAT.NX], flats[k, FLAT.NY], flats[k, FLAT.NZ]
    gap = (px - flats[k, FLAT.X]) * mx + (py - flats[k, FLAT.Y]) * my + (pz - flats[k, FLAT.Z]) * mz
    if abs(gap) <= OFFSET:
        return
    ix, iy, iz = px - 2.0 * gap * mx, py - 2.0 * gap * my, pz - 2.0 * gap * mz
    dim = scratch.weights[0]
    for j in range(light.shape[0]):
        is_card = light[j] < 0
        if j == k or not (from_cards and scatters_light(emitters, j) if is_card else from_lights):
            continue
        if is_card and emitters.lobes[j, GLOSS_TIGHT] >= MIRROR_TIGHT:
            continue
        area = face_area(flats, j, ix, iy, iz) / emitters.parts[j]
        for cell in range(emitters.parts[j]):
            dx, dy, dz, d, leaves = direction_to_sample(flats, samples, j, cell, ix, iy, iz)
            along = dx * mx + dy * my + dz * mz
            if along * gap <= 0.0 or (leaves <= 0.0 and not is_card):
                continue
            first, _, _ = hit_flat(flats, k, ix, iy, iz, dx, dy, dz, OFFSET, d - OFFSET)
            if not first < d:
                continue
            wx, wy, wz = dx - 2.0 * along * mx, dy - 2.0 * along * my, dz - 2.0 * along * mz
            falls = at.nx * wx + at.ny * wy + at.nz * wz
            if falls <= 0.0:
                continue
            if not _way_is_open(scene, emitters, k, Ray(px, py, pz, wx, wy, wz), first, found, passed):
                continue
            form = falls * abs(leaves) / (d * d) * area
            form *= coat_entry(at.coat, at.entry, falls)
            red, green, blue = passed[1], passed[2], passed[3]
            behind = Ray(ix + first * dx, iy + first * dy, iz + first * dz, dx, dy, dz)
            if not _way_is_open(scene, emitters, j, behind, d - first, found, passed):
                continue
            dim[0] = passed[1] * red * emitters.lobes[k, GLOSS]
            dim[1] = passed[2] * green * emitters.lobes[k, GLOSS + 1]
            dim[2] = passed[3] * blue * emitters.lobes[k, GLOSS + 2]
            if not is_card:
                form *= sample_luminance(emitters, j, cell, dx, dy, dz)
            side = 0 if leaves > 0.0 else 1
            add_sent_radiance(emitters, j, cell, side, Direction(dx, dy, dz), lights, form, dim, out)


@leaf
def _way_is_open(
    scene: StaticScene, emitters: Emitters, k: int, ray: Ray, length: float, found: Ints, passed: Array
) -> bool:
    """Does light get along a ray that ends on face k? Its R, G, B shares in passed[1:4]."""
    n, m = possible_occluders(emitters.flats, scene.bounds, k, ray.ox, ray.oy, ray.oz, found)
    passed[1] = passed[2] = passed[3] = 1.0
    return m == 0 or transmits(scene, emitters.flats, emitters.veil, Occluders(found, n, m), ray, length, passed)


@leaf
def _card_form(flats: Array, k: int, side: int, at: Receiver, corners: Array) -> float:
    """As illuminance.rectangle_form, from the side of the face that looks at the place."""
    px, py, pz, nx, ny, nz = at.x, at.y, at.z, at.nx, at.ny, at.nz
    if side == 0:
        return rectangle_form(flats, k, px, py, pz, nx, ny, nz, corners)
    # Seen from behind: the place and its normal mirrored at the face's plane see its front.
    fx, fy, fz = flats[k, FLAT.NX], flats[k, FLAT.NY], flats[k, FLAT.NZ]
    gap = (px - flats[k, FLAT.X]) * fx + (py - flats[k, FLAT.Y]) * fy + (pz - flats[k, FLAT.Z]) * fz
    along = nx * fx + ny * fy + nz * fz
    return rectangle_form(
        flats, k, px - 2.0 * gap * fx, py - 2.0 * gap * fy, pz - 2.0 * gap * fz,
        nx - 2.0 * along * fx, ny - 2.0 * along * fy, nz - 2.0 * along * fz, corners,
    )  # fmt: skip


@leaf
def visible_share(scene: StaticScene, emitters: Emitters, j: int, x: float, y: float, z: float, scratch: Scratch) -> float:
    """Share of the samples of face j that a place sees, dimmed ones in part."""
    n, m = possible_occluders(emitters.flats, scene.bounds, j, x, y, z, scratch.found)
    if m == 0:
        return 1.0
    among = Occluders(scratch.found, n, m)
    total = 0.0
    for s in range(emitters.parts[j]):
        dx, dy, dz, d, _ = direction_to_sample(emitters.flats, emitters.samples, j, s, x, y, z)
        if transmits(scene, emitters.flats, emitters.veil, among, Ray(x, y, z, dx, dy, dz), d, scratch.passed):
            total += scratch.passed[2]
    return total / emitters.parts[j]
