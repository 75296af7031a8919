"""Everything that lights matte places: lights, cards and the table, arranged and lit once per plan."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.optics import infield, shading, tablelight
from fotaxis.core.optics.faces import HAS_LOBE, Movables
from fotaxis.core.optics.shown import MANY, as_one_light, sample_shown
from fotaxis.core.optics.still import Ints, Still
from fotaxis.core.prediction.arrange import movable_set, table_top
from fotaxis.core.prediction.bands import in_bands
from fotaxis.core.prediction.plan import Plan
from fotaxis.core.prediction.stillset import still_set
from fotaxis.core.sources.gates import OPEN_GATE
from fotaxis.core.sources.things import Lamp
from fotaxis.core.values import Array

LEAST_BAND = 32
WEAK_RAD = math.radians(9)
"""A sheet that spreads light by less than this shows the lamp behind it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Detail:
    """Into how many parts things are cut, and how closely light between them is followed.

    light: samples of a light, behind_frost where a weak frost shows it; card: cells of a card; sheet: samples of a sheet, cells
    along its long side, samples of a shiny card (samples are Fibonacci numbers); table: rings and sectors around the product;
    bounces: how often light goes to and fro between cards and sheets; rays: directions of a lobe, see faces.Movables.
    """

    light: int
    behind_frost: int
    card: int
    sheet: tuple[int, int, int]
    table: tuple[int, int]
    bounces: int
    rays: tuple[int, int, int, int]


DRAFT = Detail(light=13, behind_frost=13, card=6, sheet=(21, 20, 21), table=(5, 12), bounces=1, rays=(2, 6, 6, 6))
DRAFT_OF_FEW = replace(DRAFT, sheet=(21, 40, 21))
"""For a draft with few things, whose sheets can be cut finer in the same time."""

FEW = 6
FINE = Detail(light=89, behind_frost=144, card=24, sheet=(55, 96, 144), table=(16, 40), bounces=4, rays=(8, 55, 8, MANY))


@dataclass(frozen=True, slots=True, kw_only=True)
class Lighting:
    """Movables with lit cards, those of them that reach into the camera's field, and the table with its own light; None where it
    throws none worth counting."""

    still: Still
    movables: Movables
    in_view: Ints
    table: tablelight.TableTop | None
    lights: int

    def direct(self, places: NDArray[np.float32]) -> NDArray[np.float32]:
        """Illuminance at places (n, 8, see shading.light_places) from every light and by way of cards, (n, lights, 3).

        lux s per light at full power for flash, lux for continuous light.
        """
        still, movables, lights = self.still, self.movables, self.lights
        out = np.zeros((len(places), lights, 3), np.float32)
        if lights:
            in_bands(
                lambda a, b: shading.light_places(still, movables, lights, places, a, b, out), len(places), least=LEAST_BAND
            )
        return out

    def from_table(self, places: NDArray[np.float32]) -> NDArray[np.float32]:
        """Illuminance by way of the table, as direct gives it."""
        still, movables, table, lights = self.still, self.movables, self.table, self.lights
        out = np.zeros((len(places), lights, 3), np.float32)
        if table is not None and lights:
            in_bands(
                lambda a, b: tablelight.add_table_light(still, movables, table, lights, places, a, b, out),
                len(places), least=LEAST_BAND,
            )  # fmt: skip
        return out


def in_view(plan: Plan, movables: Movables) -> Ints:
    """Numbers of the movables of which some part may lie in the camera's field."""
    half_w, half_h = plan.camera.half_field
    return infield.stands_in_field(
        movables, eye=plan.camera.place.array(), basis=plan.camera.basis(), half_width=half_w, half_height=half_h
    )


def behind_movables(plan: Plan, lit: Lighting, *, size: tuple[int, int]) -> NDArray[np.bool_]:
    """Pixels of a picture of `size` (width, height) that something movable may stand before, (pixels,)."""
    half_w, half_h = plan.camera.half_field
    return infield.behind_movables(
        lit.movables, lit.in_view, eye=plan.camera.place.array(), basis=plan.camera.basis(), half_width=half_w,
        half_height=half_h, size=size,
    )  # fmt: skip


def patterned(plan: Plan) -> NDArray[np.bool_]:
    """Which lights throw a pattern finer than places on matte surfaces lie apart, (lights,)."""
    return np.array(
        [isinstance(one, Lamp) and one.gate is not None and one.gate.mask != OPEN_GATE for one in plan.lights], bool
    )


def lighting(plan: Plan, still: Still, detail: Detail) -> Lighting:
    """Arrange what lights a plan, every light at full power, and light its cards and table."""
    return lit_by(plan, still, arranged(plan, still, detail), detail, lights=len(plan.lights))


def arranged(plan: Plan, still: Still, detail: Detail) -> Movables:
    """What lights a plan, in its place; what cards and sheets show is still to be filled."""
    frosted = any(card.finish.straight > 0 and card.finish.spread_rad < WEAK_RAD for card in plan.cards)
    samples = detail.behind_frost if frosted else detail.light
    return movable_set(plan, still, cells=samples, card_cells=detail.card, sheet=detail.sheet, rays=detail.rays)


def lit_by(
    plan: Plan, still: Still, movables: Movables, detail: Detail, *, lights: int, light_faces: LightFaces | None = None,
    direct: LightPlaces | None = None,
) -> Lighting:  # fmt: skip
    """Light the cards and the table of a plan. light_faces, direct: what else than the kernels themselves may light the cells of
    cards and of the table."""
    _light_faces(still, movables, lights, detail.bounces, light_faces or _by_kernel(still, movables, lights))
    table = table_top(plan, rings=detail.table[0], around=detail.table[1], lights=lights)
    lit = Lighting(still=still, movables=movables, in_view=in_view(plan, movables), table=table, lights=lights)
    if table is not None:
        tablelight.light_table(table, (direct or Lighting.direct)(lit, tablelight.cell_places(table)))
    return lit


def draft_detail(plan: Plan) -> Detail:
    """Into how many parts things are cut while something is dragged."""
    return DRAFT_OF_FEW if len(plan.lights) + len(plan.cards) <= FEW else DRAFT


def mixed_movables(plan: Plan, still: Still, detail: Detail, gains: Array) -> Movables:
    """As arranged, all lights as one, each times its gain; gains (lights,)."""
    return as_one_light(arranged(plan, still, detail), gains)


def draft_lighting(plan: Plan, still: Still, *, gains: Array | None = None) -> Lighting:
    """The lighting of a picture while something is dragged; gains: all lights are one, each times its gain."""
    detail = draft_detail(plan)
    if gains is None:
        return lighting(plan, still, detail)
    return lit_by(plan, still, mixed_movables(plan, still, detail, gains), detail, lights=1)


LightPlaces = Callable[[Lighting, NDArray[np.float32]], NDArray[np.float32]]
"""As Lighting.direct or from_table."""

LightFaces = Callable[[Array], Array]
"""What places on cards (n, 4) show by the lights alone, (n, 2, lights, 3), see shading.light_faces; fills Movables.open."""


def _by_kernel(still: Still, movables: Movables, lights: int, *, bounced: bool = False) -> LightFaces:
    def light(nodes: Array) -> Array:
        out = np.zeros((len(nodes), 2, lights, 3))
        in_bands(
            lambda a, b: shading.light_faces(still, movables, lights, nodes, bounced=bounced, begin=a, end=b, out=out),
            len(nodes), least=4 * LEAST_BAND if bounced else LEAST_BAND,
        )  # fmt: skip
        return out

    return light


def _light_faces(still: Still, movables: Movables, lights: int, bounces: int, first: LightFaces) -> None:
    """Light cards and sheets by the lights, then, where there are several, again and again by each other."""
    gives = movables.albedo.sum(axis=1) + movables.through.sum(axis=1) + movables.lobes[:, HAS_LOBE]
    throw = [int(k) for k in np.flatnonzero((movables.light < 0) & (gives > 0))]
    if not lights or not throw:
        return

    def lit(lattices: list[tuple[int, int]], light: LightFaces) -> list[Array]:
        """What every face shows on a lattice of (columns, rows), (2, lights, rows, columns, 3) each."""
        out = light(np.concatenate([_nodes(k, *cut) for k, cut in zip(throw, lattices, strict=True)]))
        ends = np.cumsum([columns * rows for columns, rows in lattices])[:-1]
        return [
            part.reshape(rows, columns, 2, lights, 3).transpose(2, 3, 0, 1, 4)
            for part, (columns, rows) in zip(np.split(out, ends), lattices, strict=True)
        ]

    cells = [(int(movables.cells[k, 0]), int(movables.cells[k, 1])) for k in throw]
    direct = lit(cells, first)
    _keep(movables, throw, direct)
    # What cards and sheets throw at each other changes slowly over them: fewer places do.
    coarse = [(max(2, -(-columns // COARSER)), max(2, -(-rows // COARSER))) for columns, rows in cells]
    for _ in range(bounces if len(throw) > 1 else 0):
        again = lit(coarse, _by_kernel(still, movables, lights, bounced=True))
        _keep(movables, throw, [one + _spread_out(two, cut) for one, two, cut in zip(direct, again, cells, strict=True)])


COARSER = 6
"""Light bounced between cards and sheets is computed on a lattice so much coarser than that of direct light."""


@lru_cache(maxsize=256)
def _nodes(k: int, columns: int, rows: int) -> Array:
    """Middles of a face's cells as shading.light_faces reads them, (n, 4)."""
    v, u = np.mgrid[0:rows, 0:columns]
    place = [
        np.full(rows * columns, float(k)),
        ((2 * u + 1 - columns) / columns).ravel(),
        ((2 * v + 1 - rows) / rows).ravel(),
    ]
    return np.stack([*place, np.arange(rows * columns, dtype=float)], axis=1)


def _keep(movables: Movables, faces: list[int], shown: list[Array]) -> None:
    for k, values in zip(faces, shown, strict=True):
        flat = values.reshape(2, values.shape[1], -1, 3)
        movables.shown[k, :, :, : flat.shape[2]] = flat
    sample_shown(movables, movables.shown.shape[2])


def _spread_out(values: Array, cells: tuple[int, int]) -> Array:
    """A lattice's values (2, lights, rows, columns, 3) on a finer one, straight lines between middles, held at the rim."""
    columns, rows = cells
    across, down = between_middles(values.shape[3], columns), between_middles(values.shape[2], rows)
    wide = across @ values  # (..., few rows, columns, 3)
    high: Array = (down @ wide.reshape(*wide.shape[:3], -1)).reshape(*wide.shape[:2], rows, columns, 3)
    return high


@lru_cache(maxsize=64)
def between_middles(few: int, many: int) -> Array:
    """Weights (many, few) that read a row of few middles at many, straight lines between them, held at the rim."""
    at = np.clip((np.arange(many) + 0.5) * few / many - 0.5, 0, few - 1)
    low = np.minimum(at.astype(int), max(few - 2, 0))
    weights = np.zeros((many, few))
    weights[np.arange(many), low] = 1 - (at - low)
    weights[np.arange(many), np.minimum(low + 1, few - 1)] += at - low
    return weights


@lru_cache(maxsize=2)
def fine_lighting(plan: Plan) -> Lighting:
    """The fine lighting of a plan, kept for its next reading: one answer to the page reads several places."""
    return lighting(plan, still_set(plan), FINE)
