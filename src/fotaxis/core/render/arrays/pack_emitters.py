"""What is moved about, and the table as a thing that throws light, as the kernels read them."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from functools import lru_cache

import numpy as np

from fotaxis.core.columns import FLAT
from fotaxis.core.geometry import orientation, planar
from fotaxis.core.geometry.profile import Profile
from fotaxis.core.lights.beam_patterns import LAMBERT, LEAST_COSINE, Shaping
from fotaxis.core.lights.calibration import face_weights
from fotaxis.core.lights.card_finishes import Finish
from fotaxis.core.lights.fixtures import Card, Lamp, Light, Panel
from fotaxis.core.lights.gobos import GOBO_NODES, RIM
from fotaxis.core.lights.gradients import EVEN, GRADIENT_KINDS, relative_luminance
from fotaxis.core.render.arrays.emitters import (
    BEAM_STEPS,
    DIRECTION_SETS,
    GLOSS_TIGHT,
    HAS_LOBE,
    LEAST_BOUNCE,
    LOBE_COLUMNS,
    MANY_SAMPLES,
    MIRROR_TIGHT,
    STRAIGHT_TIGHT,
    Emitters,
)
from fotaxis.core.render.arrays.static_scene import Ints, StaticScene
from fotaxis.core.render.arrays.subdivide import Shining, cuts, door_rows, places_of, strips_of
from fotaxis.core.render.arrays.table_top import TableTop, cell_albedo, table_cells
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import GOLDEN_ANGLE, Array, lattice

LEAST_BASE_M = 0.005
LEAST_SAMPLES = 2
DOOR_REFLECTANCE = 0.02
GRID_FINER = (1 + math.sqrt(5)) / 2
"""A box with a grid is cut into so many times more places: of its face every spot sees a part."""


def table_top(plan: Plan, *, rings: int, around: int, lights: int) -> TableTop | None:
    """The table as a thing that throws on the light of so many lights; None where it neither mirrors nor scatters enough."""
    if not plan.table:
        return None
    t = plan.table
    skin = np.array([t.skin.row()])
    scatters = float(skin[0, :3].max()) >= LEAST_BOUNCE
    if not scatters and not t.skin.coat_index and not t.skin.metal:
        return None
    base = plan.riser.diameter_m / 2 if plan.riser else plan.product.shape.base_radius_m
    cells, reflects = np.empty((0, 3)), np.empty((0, 3))
    if scatters:
        cells, places = _table_cells(t.width_m / 2, t.depth_m / 2, (t.x_m, t.z_m), max(base, LEAST_BASE_M), rings, around)
        reflects = cell_albedo(skin, places)
    light = np.zeros((len(cells), lights, 3))
    size = np.array([t.width_m / 2, t.depth_m / 2, 0.0, t.x_m, t.z_m])
    return TableTop(size=size, skin=skin, cells=cells, albedo=reflects, light=light)


@lru_cache(maxsize=64)
def _table_cells(
    half_width: float, half_depth: float, middle: tuple[float, float], inner: float, rings: int, around: int
) -> tuple[Array, list[Array]]:
    return table_cells(half_width=half_width, half_depth=half_depth, middle=middle, inner=inner, rings=rings, around=around)


def pack_emitters(
    plan: Plan,
    scene: StaticScene,
    *,
    cells: int = 34,
    card_cells: int | None = None,
    sheet: tuple[int, int, int] = (34, 24, 55),
    rays: tuple[int, int, int, int] = (3, 21, 3, MANY_SAMPLES),
) -> Emitters:
    """Lights, cards, sheets and nets of a plan as kernel arrays.

    cells: samples of a light, about how many parts of a card; sheet: samples of a sheet, cells along its long side, samples of
    a shiny card; rays: see Emitters.
    """
    gates = {i: (light, light.gate) for i, light in enumerate(plan.lights) if isinstance(light, Lamp) and light.gate}
    gate_row = {i: row for row, i in enumerate(gates)}
    cut = cuts(plan.lights, plan.cards)
    made = [
        _moving(
            _light(
                i,
                at.light,
                max(LEAST_SAMPLES, 2 * cells // at.count) if at.count > 1 else cells,
                plan.white_k,
                at.share,
                gate_row.get(i, -1),
            ),
            at,
        )
        for i, light in enumerate(plan.lights)
        for at in places_of(light, cut.places)
    ]
    made += [
        _card(part, card_cells or cells, sheet, plan.product.profile if card.like_product else None)
        for card in plan.cards
        for part in strips_of(card, cut.strips)
    ]
    made += [
        _door(row, at.time)
        for light in plan.lights
        if isinstance(light, Lamp) and light.doors
        for at in places_of(light, cut.places)
        for row in (door_rows(at.light) if isinstance(at.light, Lamp) else ())
    ]
    faces = len(made)
    most = max((len(face.samples) for face in made), default=1)
    most_cells = max((face.cells[0] * face.cells[1] for face in made), default=1)
    samples = np.zeros((faces, most, 3))
    for k, face in enumerate(made):
        samples[k, : len(face.samples)] = face.samples

    def column(name: str, width: int) -> Array:
        return np.array([getattr(face, name) for face in made], np.float64).reshape(-1, width)

    lobes = column("lobes", LOBE_COLUMNS)
    lobe_directions, lobe_rows = sample_lobes(tuple(map(tuple, lobes[:, [STRAIGHT_TIGHT, GLOSS_TIGHT]])), rays)
    return Emitters(
        flats=np.concatenate([column("row", FLAT.COUNT), scene.flats]),
        light=np.array([face.light for face in made], np.int64),
        gain=column("gain", 3),
        shape=column("shape", 7),
        beams=column("beam", BEAM_STEPS + 1),
        gates=np.array([gate.table() for _, gate in gates.values()]).reshape(-1, GOBO_NODES, GOBO_NODES),
        gate_of=np.array(
            [(RIM * math.tan(lamp.head.pattern.half_rad), gate.focus_m) for lamp, gate in gates.values()]
        ).reshape(-1, 2),
        albedo=column("albedo", 3),
        through=column("through", 3),
        lobes=lobes,
        veil=column("veil", 3),
        sweep=column("sweep", 3),
        parts=np.array([len(face.samples) for face in made], np.int64),
        cells=np.array([face.cells for face in made], np.int64).reshape(-1, 2),
        samples=samples,
        shown=np.zeros((faces, 2, len(plan.lights), most_cells, 3)),
        sampled=np.zeros((faces, 2, most, len(plan.lights), 3)),
        rays=np.array(rays, np.int64),
        lobe_directions=lobe_directions,
        lobe_rows=lobe_rows,
        open=np.ones((faces, faces, most_cells if any(face.lobes[HAS_LOBE] for face in made) else 1)),
    )


@lru_cache(maxsize=64)
def sample_lobes(tight: tuple[tuple[float, ...], ...], rays: tuple[int, ...]) -> tuple[Array, Ints]:
    """Emitters.lobe_directions and lobe_rows of faces whose straight and mirrored lobes are so tight (0 for none).

    Drawn from the lobe by its inverse, so that every direction stands for the same share of it; which set is used with which
    sample is as even in both measures as can be.   Source: R2 sequence, from the plastic number; Fisher 1953.
    """
    kinds = sorted({value for face in tight for value in face if 0 < value < MIRROR_TIGHT}) or [1.0]
    lobe_directions = np.zeros((len(kinds), DIRECTION_SETS + 1, max(rays[:2]), 3))
    for which, value in enumerate(kinds):
        for sets, number in ((np.arange(DIRECTION_SETS), rays[0]), (np.array([DIRECTION_SETS]), rays[1])):
            turn, ray = np.where(sets == DIRECTION_SETS, 0, sets)[:, None], np.arange(number)
            part = (ray + (0.5 + turn / PLASTIC) % 1) / number
            cosine = 1 + np.log(part + (1 - part) * np.exp(-2 * value)) / value
            sine = np.sqrt(np.maximum(0, 1 - cosine**2))
            about = GOLDEN_ANGLE * ray + 2 * np.pi * turn / PLASTIC**2
            lobe_directions[which, sets, :number] = np.stack([cosine, sine * np.cos(about), sine * np.sin(about)], axis=-1)
    row = {value: which for which, value in enumerate(kinds)}
    return lobe_directions, np.array([[row.get(value, 0) for value in face] for face in tight], np.int64).reshape(-1, 2)


PLASTIC = 1.324717957244746


def face_keys(plan: Plan) -> list[str]:
    """The key of the thing that each face of movable_set belongs to."""
    cut = cuts(plan.lights, plan.cards)
    keys = [light.key for light in plan.lights for _ in places_of(light, cut.places)]
    keys += [card.key for card in plan.cards for _ in strips_of(card, cut.strips)]
    return keys + [light.key for light in plan.lights if isinstance(light, Lamp) for _ in door_rows(light, cut.places)]


NO_COLOUR = np.zeros(3)
NO_LOBES = np.zeros(LOBE_COLUMNS)
NO_BEAM = np.ones(BEAM_STEPS + 1)
BEAM_ANGLES = np.arccos(1 - (np.arange(BEAM_STEPS + 1) / BEAM_STEPS) ** 2)
"""Angles off the axis at which a beam is tabulated, see emitters.beam_factor."""

OPEN_BEAM = 1 / np.maximum(np.cos(BEAM_ANGLES), LEAST_COSINE)
"""Of a head with a gate: even intensity, which the gate then bounds."""


@dataclass(frozen=True, kw_only=True)
class _Face:
    """One row of every array of Emitters."""

    row: Array
    light: int
    samples: Array
    cells: tuple[int, int] = (1, 1)
    gain: Array = field(default_factory=lambda: NO_COLOUR)
    shape: tuple[float, ...] = (0.0,) * 7
    beam: Array = field(default_factory=lambda: NO_BEAM)
    albedo: Array = field(default_factory=lambda: NO_COLOUR)
    through: Array = field(default_factory=lambda: NO_COLOUR)
    lobes: Array = field(default_factory=lambda: NO_LOBES)
    veil: Array = field(default_factory=lambda: NO_COLOUR)
    sweep: Array = field(default_factory=lambda: NO_COLOUR)


@lru_cache(maxsize=512)
def _light(number: int, thing: Light, samples: int, white_k: float, share: float, gate: int) -> _Face:
    """Light `number` where it stands; share: of its light that it gives there; gate: row of its gate, -1 for none."""
    gain = share * thing.full_luminance * thing.emission.colour(white_k)
    outline = None
    if isinstance(thing, Panel):
        if thing.grid_angle_rad > 0:
            samples = round(samples * GRID_FINER)
        places = _light_places(samples, False, thing.gradient, thing.gradient_stops)
        kind = planar.RECTANGLE
        if thing.octagon:
            outline = planar.octagon()
            places = _inside(
                _light_places(round(samples / 0.83), False, thing.gradient, thing.gradient_stops), outline, 0.0, 0.0
            )
        shape: tuple[float, ...] = (
            GRADIENT_KINDS[thing.gradient], thing.gradient_stops, float(thing.grid_angle_rad > 0), thing.wrinkles,
            thing.width_m / 2, thing.height_m / 2, 0.0,
        )  # fmt: skip
    else:
        places = _light_places(samples, True, EVEN, 0.0)
        kind = planar.BALL if thing.head.ball else planar.DISC
        has_beam = not thing.head.ball and (
            thing.grid_angle_rad > 0 or thing.head.cell > 0 or thing.head.pattern.kind != LAMBERT
        )
        shape = (0.0, 0.0, float(has_beam), 0.0, 0.0, 0.0, gate + 1.0)
    beam = NO_BEAM
    if shape[2]:
        beam = _beam(thing.shaping) if gate < 0 else OPEN_BEAM
    return _Face(row=_row(thing, kind, outline), light=number, gain=gain, shape=shape, beam=beam, samples=places)


@lru_cache(maxsize=256)
def _beam(shaping: Shaping) -> Array:
    return shaping.off_axis(BEAM_ANGLES)


@lru_cache(maxsize=512)
def _card(card: Card, parts: int, sheet: tuple[int, int, int], like: Profile | None) -> _Face:
    """like: the product whose outline a card is cut to, None for a plain one."""
    finish = card.finish
    outline = _silhouette(like) if like else None
    shiny, scatters = bool(finish.gloss.array().any()), bool(finish.through.array().any())
    lobes = np.array([
        finish.straight, 1 / finish.spread_rad**2 if finish.straight else 0.0, *finish.gloss.array(),
        _gloss_tightness(finish), float(shiny or finish.straight > 0),
    ])  # fmt: skip
    cells = _cut(card.width_m, card.height_m, parts)
    places = _card_places(*cells)
    if scatters or lobes[HAS_LOBE]:
        # What a sheet shows is seen: a fine lattice; what it lights needs fewer places.
        long = max(card.width_m, card.height_m) / (sheet[1] if scatters else 12)
        cells = max(4, round(card.width_m / long)), max(4, round(card.height_m / long))
        places = _light_places(sheet[2] if shiny else sheet[0], card.round, EVEN, 0.0)
    if outline is not None or card.hole_m:
        places = _inside(places, outline, card.hole_m / card.width_m, card.hole_m / card.height_m)
    return _Face(
        row=_row(card, planar.DISC if card.round else planar.RECTANGLE, outline, card.hole_m), light=-1,
        samples=places, cells=cells, albedo=finish.reflectance.array(),
        through=finish.through.array(), lobes=lobes, veil=finish.veil.array(),
    )  # fmt: skip


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


def _gloss_tightness(finish: Finish) -> float:
    if not finish.gloss.array().any():
        return 0.0
    return 1 / finish.gloss_spread_rad**2 if finish.gloss_spread_rad else 10 * MIRROR_TIGHT


def _door(row: Array, time: float) -> _Face:
    """A barn door: it shades and is seen dark, for the time of the exposure that it is there."""
    return _Face(
        row=row, light=-1, samples=_card_places(2, 2), cells=(2, 2), albedo=np.full(3, DOOR_REFLECTANCE), veil=_passing(time)
    )


def _moving(face: _Face, at: Shining) -> _Face:
    """A light's face that is there for a part of the exposure only: it hides what is behind it for so long."""
    return face if at.count == 1 else replace(face, veil=_passing(at.time), sweep=at.sweep)


def _passing(time: float) -> Array:
    return np.full(3, 1.0 - time)


@lru_cache(maxsize=64)
def _silhouette(profile: Profile) -> Array:
    """A product's outline over its height, its widest place 1."""
    heights = np.linspace(profile.foot_m, profile.top_m, planar.OUTLINE_STEPS)
    return np.array([profile.radius_at(float(h)) for h in heights]) / profile.widest_m


def _inside(places: Array, outline: Array | None, hole_u: float, hole_v: float) -> Array:
    """The places that lie on a cut shape; its middle where none does."""
    u, v = places[:, 0], places[:, 1]
    on = np.ones(len(places), bool)
    if outline is not None:
        on &= np.abs(u) <= np.interp(v, np.linspace(-1, 1, len(outline)), outline)
    if hole_u:
        on &= (u / hole_u) ** 2 + (v / hole_v) ** 2 >= 1
    return places[on] if on.any() else places[len(places) // 2 :][:1]


def _row(thing: Light | Card, kind: float, outline: Array | None = None, hole_m: float = 0.0) -> Array:
    stance, (half_w, half_h) = thing.stance, thing.half_size_m
    across, up, front = orientation.axes(turn_rad=stance.turn_rad, tilt_rad=stance.tilt_rad)
    return planar.row(
        centre=stance.place.array(), across=across, up=up, front=front, half_width_m=half_w, half_height_m=half_h, shape=kind,
        outline=outline, hole_m=hole_m,
    )  # fmt: skip


def _cut(width: float, height: float, cells: int) -> tuple[int, int]:
    """Columns and rows that cut a face into about `cells` parts as square as they come."""
    columns = max(2, round(math.sqrt(cells * width / height)))
    rows = max(2, round(cells / columns))
    return min(columns, cells // 2), min(rows, cells // 2)
