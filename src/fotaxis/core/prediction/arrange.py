"""What is moved about, and the table as a thing that throws light, as the kernels read them."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from fotaxis.core.geometry import facing, flat
from fotaxis.core.optics.shading import LEAST_BOUNCE, Movables
from fotaxis.core.optics.still import Still
from fotaxis.core.optics.tablelight import TableTop, table_cells
from fotaxis.core.prediction.plan import Plan
from fotaxis.core.prediction.subject import Can, Sphere, Subject, Turned
from fotaxis.core.sources.calibration import CORE, EVEN, RAMP, face_weights, relative_luminance
from fotaxis.core.sources.things import Card, Light, Panel, half_size
from fotaxis.core.values import Array, lattice

PROFILE_KINDS = {EVEN: 0.0, CORE: 1.0, RAMP: 2.0}
LEAST_BASE_M = 0.005


def table_top(plan: Plan, *, rings: int, around: int) -> TableTop | None:
    """The table as a thing that throws light; None without one, or when it neither mirrors nor scatters enough."""
    if not plan.table:
        return None
    t = plan.table
    skin = np.array([t.skin.row()])
    scatters = float(skin[0, :3].max()) >= LEAST_BOUNCE
    if not scatters and not t.skin.coat_index and not t.skin.metal:
        return None
    base = plan.riser.diameter_m / 2 if plan.riser else _base_radius(plan.subject)
    cells = np.empty((0, 3))
    if scatters:
        cells = _table_cells(t.width_m / 2, t.depth_m / 2, max(base, LEAST_BASE_M), rings, around)
    light = np.zeros((len(cells), len(plan.lights), 3))
    return TableTop(size=np.array([t.width_m / 2, t.depth_m / 2, 0.0]), skin=skin, cells=cells, light=light)


def _base_radius(subject: Subject) -> float:
    """About how far a subject covers the table around its axis."""
    if isinstance(subject.shape, Turned | Can):
        return subject.profile.radii_m[0]
    return LEAST_BASE_M if isinstance(subject.shape, Sphere) else 0.7 * subject.reach_m


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
