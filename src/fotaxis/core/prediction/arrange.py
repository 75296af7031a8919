"""A plan laid out as the flat arrays the kernels read."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from fotaxis.core.geometry import facing, flat, revolution
from fotaxis.core.geometry.profile import Profile, refine
from fotaxis.core.optics.fresnel import hemispherical_reflectance
from fotaxis.core.optics.shading import LEAST_BOUNCE, Movables
from fotaxis.core.optics.still import Still
from fotaxis.core.optics.tablelight import TableTop, table_cells
from fotaxis.core.prediction.plan import Plan, Skin
from fotaxis.core.sources.calibration import CORE, EVEN, RAMP, face_weights, relative_luminance
from fotaxis.core.sources.things import Card, Light, Panel, half_size
from fotaxis.core.values import Array, lattice

PROFILE_KINDS = {EVEN: 0.0, CORE: 1.0, RAMP: 2.0}
SUBJECT, RISER = 0, 1
LEAST_BASE_M = 0.005
TOUCH_M = 2e-5
"""Gap between a thing and what it stands on, so that their faces do not coincide."""


@lru_cache(maxsize=64)
def _inner_factor(index: float, albedo: float) -> float:
    """How much diffuse light of albedo 1 a coat passes both ways, inner reflections summed.

        (1 - F_out) / (n^2 (1 - albedo F_in)),  F_in = 1 - (1 - F_out) / n^2
    Source: Judd 1942; entry is averaged over the hemisphere, exit is exact (trace multiplies by 1 - R).
    """
    outside = hemispherical_reflectance(index=index)
    inside = 1 - (1 - outside) / index**2
    return (1 - outside) / index**2 / (1 - albedo * inside)


def _skin_row(skin: Skin) -> list[float]:
    r = skin.reflectance
    mean = (r.red + r.green + r.blue) / 3
    factor = _inner_factor(skin.coat_index, mean) if skin.coat_index else 1.0
    return [r.red, r.green, r.blue, skin.coat_index, factor]


@lru_cache(maxsize=32)
def _packed(profile: Profile) -> tuple[Array, Array]:
    return revolution.pack(refine(profile))


def still_set(plan: Plan) -> Still:
    """Product, riser, table and background of a plan as kernel arrays."""
    skins: list[list[float]] = []

    def skin_number(skin: Skin) -> int:
        row = _skin_row(skin)
        if row not in skins:
            skins.append(row)
        return skins.index(row)

    subject = plan.subject
    shapes = [(subject.profile, plan.lift_m - subject.profile.foot_m + TOUCH_M, skin_number(subject.body))]
    if plan.riser:
        r = plan.riser
        block = Profile(heights_m=(0.0, r.height_m), radii_m=(r.diameter_m / 2, r.diameter_m / 2))
        shapes.append((block, 0.0, skin_number(r.skin)))
    zones = [
        [SUBJECT, b.low_m, b.high_m, _wrapped(b.azimuth_rad), b.width_rad / 2, skin_number(b.skin), rank]
        for rank, b in enumerate(subject.bands)
    ]
    flats: list[Array] = []
    flat_skin: list[int] = []
    if plan.table:
        t = plan.table
        across, up, front = np.array([1.0, 0, 0]), np.array([0, 0, -1.0]), np.array([0, 1.0, 0])
        flats.append(
            flat.row(centre=np.zeros(3), across=across, up=up, front=front,
                     half_width_m=t.width_m / 2, half_height_m=t.depth_m / 2)
        )  # fmt: skip
        flat_skin.append(skin_number(t.skin))
    if plan.background:
        b = plan.background
        across, up, front = facing.axes(turn_rad=0, tilt_rad=0)
        flats.append(
            flat.row(centre=np.array([0, b.centre_height_m, -b.distance_m]), across=across, up=up, front=front,
                     half_width_m=b.width_m / 2, half_height_m=b.height_m / 2)
        )  # fmt: skip
        flat_skin.append(skin_number(b.skin))
    packed = [_packed(profile) for profile, _, _ in shapes]
    spans = []
    first = group = 0
    for stretches, groups in packed:
        spans.append([first, first + len(stretches), group, group + len(groups)])
        first, group = first + len(stretches), group + len(groups)
    return Still(
        stretches=np.concatenate([s for s, _ in packed]),
        groups=np.concatenate([g for _, g in packed]),
        solids=np.array([[0.0, y, 0.0] for _, y, _ in shapes]),
        spans=np.array(spans, np.int64),
        flats=np.array(flats).reshape(-1, flat.COLUMNS),
        flat_skin=np.array(flat_skin, np.int64),
        zones=np.array(zones, np.float64).reshape(-1, 7),
        solid_skin=np.array([s for _, _, s in shapes], np.int64),
        skins=np.array(skins),
    )


def _wrapped(angle: float) -> float:
    return (angle + math.pi) % (2 * math.pi) - math.pi


def table_top(plan: Plan, still: Still, *, rings: int, around: int) -> TableTop | None:
    """The table as a thing that throws light; None without one, or when it neither mirrors nor scatters enough."""
    if not plan.table:
        return None
    t = plan.table
    skin = still.skins[still.flat_skin[0]]
    scatters = float(skin[:3].max()) >= LEAST_BOUNCE
    if not scatters and not t.skin.coat_index:
        return None
    base = plan.riser.diameter_m / 2 if plan.riser else plan.subject.profile.radii_m[0]
    cells = np.empty((0, 3))
    if scatters:
        cells = _table_cells(t.width_m / 2, t.depth_m / 2, max(base, LEAST_BASE_M), rings, around)
    light = np.zeros((len(cells), len(plan.lights), 3))
    return TableTop(size=np.array([t.width_m / 2, t.depth_m / 2, 0.0]), skin=skin, cells=cells, light=light)


@lru_cache(maxsize=64)
def _table_cells(half_width: float, half_depth: float, inner: float, rings: int, around: int) -> Array:
    return table_cells(half_width=half_width, half_depth=half_depth, inner=inner, rings=rings, around=around)


def movable_set(plan: Plan, still: Still, *, cells: int = 34, card_cells: int | None = None) -> Movables:
    """Panels, heads and cards of a plan as kernel arrays; `cells`: samples of a light, about how many parts of a card."""
    rows: list[Array] = []
    light: list[int] = []
    gain: list[list[float]] = []
    shape: list[list[float]] = []
    albedo: list[Array] = []
    cut: list[tuple[int, int]] = []
    for i, thing in enumerate(plan.lights):
        rows.append(_row(thing, flat.RECTANGLE if isinstance(thing, Panel) else flat.DISC))
        light.append(i)
        gain.append([thing.full_luminance] * 3)
        albedo.append(np.zeros(3))
        if isinstance(thing, Panel):
            shape.append([PROFILE_KINDS[thing.gradient], thing.gradient_stops, 0.0, 1.0])
        else:
            shape.append([0.0, 0.0, math.tan(thing.grid_angle_rad / 2), 1.0])
        cut.append((cells, 1))
    for card in plan.cards:
        rows.append(_row(card, flat.RECTANGLE))
        light.append(-1)
        gain.append([0.0] * 3)
        shape.append([0.0, 0.0, 0.0, 0.0])
        albedo.append(card.reflectance.array())
        cut.append(_cut(card.width_m, card.height_m, card_cells or cells))
    most = max((a * b for a, b in cut), default=1)
    return Movables(
        flats=np.concatenate([np.array(rows).reshape(-1, flat.COLUMNS), still.flats]),
        light=np.array(light, np.int64),
        gain=np.array(gain, np.float64).reshape(-1, 3),
        shape=np.array(shape, np.float64).reshape(-1, 4),
        albedo=np.array(albedo, np.float64).reshape(-1, 3),
        cells=np.array(cut, np.int64).reshape(-1, 2),
        samples=_samples(rows, shape, cut, light),
        card_luminance=np.zeros((len(rows), 2, len(plan.lights), most, 3)),
    )


def _samples(rows: list[Array], shape: list[list[float]], cut: list[tuple[int, int]], light: list[int]) -> Array:
    """Places on every face and the relative luminance there, (faces, most, 3)."""
    kinds = {number: name for name, number in PROFILE_KINDS.items()}
    samples = np.zeros((len(rows), max((a * b for a, b in cut), default=1), 3))
    for k, (columns, lines) in enumerate(cut):
        if light[k] < 0:
            samples[k, : columns * lines] = _card_places(columns, lines)
        else:
            is_disc = rows[k][14] == flat.DISC
            samples[k, : columns * lines] = _light_places(columns * lines, is_disc, kinds[shape[k][0]], shape[k][1])
    return samples


@lru_cache(maxsize=256)
def _card_places(columns: int, lines: int) -> Array:
    """Middles of a card's cells, between which its luminance is read, (cells, 3)."""
    return np.stack(face_weights(kind=EVEN, stops=0.0, columns=columns, rows=lines), axis=1)


@lru_cache(maxsize=256)
def _light_places(count: int, is_disc: bool, kind: str, stops: float) -> Array:
    """Places on a light's face and the relative luminance there, (count, 3).

    On a lattice, on which no straight shadow edge crosses many places at once; on a disc on a spiral.
    """
    x, y = lattice(count)
    u, v = 2 * x - 1, 2 * y - 1
    if is_disc:
        u, v = np.sqrt(y) * np.cos(2 * np.pi * x), np.sqrt(y) * np.sin(2 * np.pi * x)
    return np.stack([u, v, relative_luminance(kind=kind, stops=stops, u=u, v=v)], axis=1)


def _row(thing: Light | Card, kind: float) -> Array:
    stance, (half_w, half_h) = thing.stance, half_size(thing)
    across, up, front = facing.axes(turn_rad=stance.turn_rad, tilt_rad=stance.tilt_rad)
    return flat.row(
        centre=stance.place.array(), across=across, up=up, front=front, half_width_m=half_w, half_height_m=half_h, shape=kind
    )


def _cut(width: float, height: float, cells: int) -> tuple[int, int]:
    """Columns and rows that cut a face into about `cells` parts as square as they come."""
    columns = max(2, round(math.sqrt(cells * width / height)))
    rows = max(2, round(cells / columns))
    return min(columns, cells // 2), min(rows, cells // 2)
