"""The inside of a bottle or glass: inner wall from the outer one, liquid up to a level with its meniscus."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.interpolate import PchipInterpolator
from scipy.ndimage import grey_dilation, grey_erosion

from fotaxis.core.errors import DomainError
from fotaxis.core.geometry.profile import Outline, Profile, refine
from fotaxis.core.values import Array

ROWS = 240
BORE_WINDOW_M = 0.02
"""Rings and lips shorter than this are solid glass: the bore runs straight through them."""

NECK_SHARE = 0.7

CAPILLARY_LENGTH_M = 2.7e-3
"""sqrt(surface tension / (density g)) of water at room temperature. From memory."""

CONTACT_ANGLE_RAD = math.radians(25.0)
"""Water on ordinary glass. From memory; clean glass gives less."""

RIM_POINTS = 14


@dataclass(frozen=True, slots=True, kw_only=True)
class Walls:
    """Surfaces of a vessel, outlines with normals pointing out of the glass (outer), or into what is inside (the others).

    Open outlines: `outer` ends at the lip, where `dry` begins; `wet` runs from the floor up to the liquid's edge, `dry`
    from there to the lip; `level` is the liquid's top from the axis to its edge. wet and level are None when empty.
    """

    outer: Outline
    dry: Outline
    wet: Outline | None
    level: Outline | None
    inner_floor_m: float


@lru_cache(maxsize=64)
def inner_radii(profile: Profile, *, wall_m: float, floor_m: float) -> tuple[Array, Array]:
    """Heights and radii of the inner wall, from its lowest place on the axis up to the lip; metres above the foot.

    The outer silhouette is worn away by a disc of the wall's thickness:  r_in(y) = min over s of r_out(y + s) - sqrt(w^2 - s^2),
    cut off below the floor with a rounded corner, rings and lips left solid.
    Holds for:  a wall thinner than the body and a floor below the lip. Else DomainError.
    """
    foot, top = profile.foot_m, profile.top_m
    if not wall_m > 0:
        raise DomainError(f"wall is {wall_m * 1000:g} mm thick; it must be more than 0.")
    if not 0 < floor_m < top - foot:
        raise DomainError(
            f"the inside begins {floor_m * 100:g} cm above the foot; it must begin above the foot and below the lip."
        )
    y = np.linspace(foot, top, 4 * ROWS)
    outline = refine(profile).points
    outside = _narrowest(outline, y)
    step = y[1] - y[0]
    reach = int(wall_m / step)
    worn = outside - wall_m
    for k in range(1, reach + 1):
        inset = math.sqrt(max(wall_m**2 - (k * step) ** 2, 0.0))
        worn[k:] = np.minimum(worn[k:], outside[:-k] - inset)
        worn[:-k] = np.minimum(worn[:-k], outside[k:] - inset)
    neck = _above_the_body(outside)
    worn[neck] = np.minimum(worn, _opened(worn, max(1, int(BORE_WINDOW_M / step))))[neck]
    low = foot + floor_m
    inside = y >= low
    if not (worn[inside] > 1e-4).any():
        raise DomainError("the glass is solid: its wall is thicker than its body. Give a thinner wall or a lower floor.")
    # The part that is open to the lip: from the lip down to where the bore closes.
    closed = np.flatnonzero((worn <= 1e-4) | ~inside)
    begin = int(closed[-1]) + 1 if len(closed) else 0
    if begin >= len(y) - 2:
        raise DomainError("the bore is closed at the lip; give a thinner wall there.")
    heights, radii = y[begin:], worn[begin:]
    bottom = max(low, heights[0])
    corner = min(3 * wall_m, 0.6 * radii.max(), 0.3 * (top - bottom))
    rows = np.unique(np.concatenate([
        bottom + corner * (1 - np.cos(np.linspace(0, math.pi / 2, 24))), np.linspace(bottom + corner, top, ROWS)
    ]))  # fmt: skip
    wide = np.interp(rows, heights, radii)
    above = np.clip((rows - bottom) / corner, 0, 1)
    wide = np.maximum(wide - corner * (1 - np.sqrt(np.maximum(0.0, 1 - (1 - above) ** 2))), 0.0)
    return np.concatenate([[bottom], rows]), np.concatenate([[0.0], wide])


LEAST_WALL_M = 1e-4


@lru_cache(maxsize=64)
def measured_radii(profile: Profile, inside: tuple[tuple[float, float], ...]) -> tuple[Array, Array]:
    """As inner_radii, from measurements: height above the foot and radius, from the floor up, metres.

    Between them as the outline does (monotone cubic); a first radius above 0 is a flat floor, the last one goes on up to the lip.
    Holds for:  rising heights, within the outline by a tenth of a millimetre. Else DomainError.
    """
    heights = np.array([profile.foot_m + height for height, _ in inside])
    radii = np.array([radius for _, radius in inside])
    if len(inside) < 2 or (np.diff(heights) <= 0).any():
        raise DomainError("the inside needs two measurements or more, each higher than the one before.")
    if heights[0] <= profile.foot_m or heights[-1] > profile.top_m + 1e-6:
        raise DomainError("the inside must begin above the foot and end at the lip, not over it.")
    if (radii[1:] <= 0).any() or radii[0] < 0:
        raise DomainError("the inside has a diameter of 0 above its floor; give it one that can be measured.")
    rows = np.unique(np.concatenate([heights, np.linspace(heights[0], heights[-1], ROWS), [profile.top_m]]))
    wide = PchipInterpolator(heights, radii)(np.minimum(rows, heights[-1]))
    thin = np.flatnonzero(wide[:-1] > _narrowest(refine(profile).points, rows)[:-1] - LEAST_WALL_M)
    if len(thin):
        height = (rows[thin[0]] - profile.foot_m) * 100
        raise DomainError(f"the inside is as wide as the outside at {height:.1f} cm; give a smaller diameter there.")
    if radii[0] > 0:
        rows, wide = np.concatenate([rows[:1], rows]), np.concatenate([[0.0], wide])
    return rows, wide


def _narrowest(outline: Array, y: Array) -> Array:
    """Smallest outer radius at each height."""
    result = np.full(len(y), np.inf)
    for (y0, r0), (y1, r1) in itertools.pairwise(outline):
        if abs(y1 - y0) < 1e-12:
            continue
        here = (y >= min(y0, y1) - 1e-12) & (y <= max(y0, y1) + 1e-12)
        result[here] = np.minimum(result[here], r0 + (r1 - r0) * (y[here] - y0) / (y1 - y0))
    result[~np.isfinite(result)] = 0.0
    return result


def _above_the_body(outside: Array) -> slice:
    """The rows above the last one that is nearly as wide as the widest: a neck, if there is one."""
    wide = np.flatnonzero(outside > NECK_SHARE * outside.max())
    return slice(int(wide[-1]) + 1, len(outside))


def _opened(values: Array, window: int) -> Array:
    """Morphological opening: bulges narrower than the window go, wider ones stay."""
    return grey_dilation(grey_erosion(values, size=window, mode="nearest"), size=window, mode="nearest")


def meniscus(distance_m: Array) -> Array:
    """Height of a liquid's surface above its level at distances from an upright wall, metres.

    x = a (acosh(2a/h) - acosh(2a/h0)) - a (sqrt(4 - (h/a)^2) - sqrt(4 - (h0/a)^2)),  h0 = a sqrt(2 (1 - sin(contact angle)))
    Source:     Landau & Lifshitz, Fluid Mechanics, section 61, problem 1 (flat wall).
    """
    a = CAPILLARY_LENGTH_M
    h0 = meniscus_height_m()
    h = np.geomspace(h0, h0 * 1e-3, 200)
    x = a * (np.arccosh(2 * a / h) - math.acosh(2 * a / h0)) - a * (np.sqrt(4 - (h / a) ** 2) - math.sqrt(4 - (h0 / a) ** 2))
    return np.interp(distance_m, x, h, right=0.0)


def meniscus_height_m() -> float:
    """Height to which the liquid climbs at the wall, metres."""
    return CAPILLARY_LENGTH_M * math.sqrt(2 * (1 - math.sin(CONTACT_ANGLE_RAD)))


@lru_cache(maxsize=64)
def walls(
    profile: Profile, *, wall_m: float, floor_m: float, level_m: float, inside: tuple[tuple[float, float], ...] = (),
    round_lip: bool = False, climbs: bool = True,
) -> Walls:  # fmt: skip
    """The surfaces of a vessel filled to `level_m` above its foot; a level at or below the inner floor means empty.

    inside: measured, see measured_radii, in place of wall and floor; round_lip: half a ring instead of flat; climbs: has the
    liquid a meniscus?
    Raises DomainError where wall, floor and level contradict each other.
    """
    if inside:
        heights, radii = measured_radii(profile, inside)
    else:
        heights, radii = inner_radii(profile, wall_m=wall_m, floor_m=floor_m)
    floor = heights[0]
    level = profile.foot_m + level_m
    outer = _outer(profile)
    lip_y, lip_r = outer.points[-1]
    heights, radii = np.append(heights[:-1], lip_y), np.append(radii[:-1], min(radii[-1], lip_r))
    closed = _with_lip(outer, radii[-1])
    if round_lip and lip_r - radii[-1] > 1e-5:
        half = (lip_r - radii[-1]) / 2
        closed, lip_y = _with_round_lip(outer, half), lip_y - half
        below = heights < lip_y - 1e-6
        heights = np.append(heights[below], lip_y)
        radii = np.append(radii[below], lip_r - 2 * half)
    if level > heights[-1] - 1e-3:
        raise DomainError(
            f"the liquid stands {level_m * 100:g} cm high; the lip is at {(heights[-1] - profile.foot_m) * 100:.1f} cm. "
            "Lower the level."
        )
    if level <= floor + 1e-3:
        return Walls(outer=closed, dry=_open(heights, radii), wet=None, level=None, inner_floor_m=floor)
    edge = min(level + meniscus_height_m(), float(heights[-1] - 5e-4)) if climbs else level
    edge_r = float(np.interp(edge, heights, radii))
    below, above = heights < edge - 1e-6, heights > edge + 1e-6
    wet = _open(np.append(heights[below], edge), np.append(radii[below], edge_r))
    dry = _open(np.insert(heights[above], 0, edge), np.insert(radii[above], 0, edge_r))
    span = min(edge_r, 4 * CAPILLARY_LENGTH_M)
    away = np.unique(np.concatenate([span * np.linspace(0, 1, RIM_POINTS * 2) ** 2, [edge_r]]))
    r = (edge_r - away)[::-1]
    y = level + (meniscus(away) * (edge - level) / meniscus_height_m())[::-1]
    return Walls(outer=closed, dry=dry, wet=wet, level=_open(y, r), inner_floor_m=floor)


def _outer(profile: Profile) -> Outline:
    """The refined outline without the flat lid that closes it."""
    whole = refine(profile)
    if profile.radii_m[-1] > 0:
        return Outline(points=whole.points[:-1], normals=whole.normals[:-1])
    return whole


def _with_lip(outer: Outline, bore: float) -> Outline:
    """The outer outline with the flat ring of the lip, in to the bore."""
    y, r = outer.points[-1]
    if r - bore < 1e-5:
        return outer
    up = np.array([[[1.0, 0.0], [1.0, 0.0]]])
    return Outline(points=np.concatenate([outer.points, [[y, bore]]]), normals=np.concatenate([outer.normals, up]))


LIP_POINTS = 13


def _with_round_lip(outer: Outline, half: float) -> Outline:
    """The outer outline with half a ring over the wall at its top, `half` metres in radius, as high as it was."""
    top, lip = outer.points[-1]
    start = top - half
    keep = int(np.searchsorted(outer.points[:, 0], start - 1e-6))
    side = float(np.interp(start, outer.points[keep - 1 : keep + 1, 0], outer.points[keep - 1 : keep + 1, 1]))
    turn = np.linspace(0, math.pi, LIP_POINTS)
    middle, across = (side + lip - 2 * half) / 2, (side - lip + 2 * half) / 2
    arc = np.stack([start + half * np.sin(turn), middle + across * np.cos(turn)], axis=1)
    out = np.stack([np.sin(turn), np.cos(turn)], axis=1)
    points = np.concatenate([outer.points[:keep], arc])
    before = outer.normals[: keep - 1]
    last = np.stack([outer.normals[keep - 1, 0], out[0]])[None]
    normals = np.concatenate([before, last, np.stack([out[:-1], out[1:]], axis=1)])
    return Outline(points=points, normals=normals)


def _open(y: Array, r: Array) -> Outline:
    """An open outline, normals from central differences, kept sharp at corners of more than 50 degrees.

    Walked upwards or away from the axis, its normals point towards the axis or up: out of the glass into what is inside,
    or out of the liquid.
    """
    points = np.stack([y, r], axis=1)
    keep = np.r_[True, np.linalg.norm(np.diff(points, axis=0), axis=1) > 1e-7]
    points = points[keep]
    chord = np.diff(points, axis=0)
    chord /= np.linalg.norm(chord, axis=1, keepdims=True)
    mean = np.concatenate([chord[:1], chord[:-1] + chord[1:], chord[-1:]])
    mean /= np.linalg.norm(mean, axis=1, keepdims=True)
    tangents = np.stack([mean[:-1], mean[1:]], axis=1)
    sharp = np.flatnonzero((chord[:-1] * chord[1:]).sum(axis=1) < math.cos(math.radians(50)))
    for i in sharp:
        tangents[i, 1], tangents[i + 1, 0] = chord[i], chord[i + 1]
    normals = np.stack([tangents[..., 1], -tangents[..., 0]], axis=-1)
    return Outline(points=points, normals=normals)
