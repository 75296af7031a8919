"""Everything that lights matte places: lights, cards and the table, arranged and lit once per plan."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.camera.exposure import Exposure
from fotaxis.core.camera.tone import PLAIN_TONE
from fotaxis.core.lights.fixtures import Lamp, at_full_power
from fotaxis.core.lights.gobos import OPEN_GATE
from fotaxis.core.render.arrays.emitters import HAS_LOBE, MANY_SAMPLES, Emitters
from fotaxis.core.render.arrays.pack_emitters import pack_emitters, table_top
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.render.arrays.static_scene import Ints, StaticScene
from fotaxis.core.render.arrays.table_top import TableTop
from fotaxis.core.render.parallel import in_bands
from fotaxis.core.render.tracing import view_frustum
from fotaxis.core.render.transport import illuminate, table_bounce
from fotaxis.core.render.transport.card_radiance import mix_lights, sample_card_radiance
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array

LEAST_BAND = 32
WEAK_RAD = math.radians(9)
"""A sheet that spreads light by less than this shows the lamp behind it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Detail:
    """Into how many parts things are cut, and how closely light between them is followed.

    light: samples of a light, behind_frost where a weak frost shows it; card: cells of a card; sheet: samples of a sheet, cells
    along its long side, samples of a shiny card (samples are Fibonacci numbers); table: rings and sectors around the product;
    bounces: how often light goes to and fro between cards and sheets; rays: directions of a lobe, see emitters.Emitters.
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
FINE = Detail(
    light=89, behind_frost=144, card=24, sheet=(55, 96, 144), table=(16, 40), bounces=4, rays=(8, 55, 8, MANY_SAMPLES)
)
FINEST = replace(FINE, light=377)
"""For light on matte places in files: penumbrae without steps."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Lighting:
    """Emitters with lit cards, those of them that reach into the camera's field, and the table with its own light; None where it
    throws none worth counting."""

    scene: StaticScene
    emitters: Emitters
    in_view: Ints
    table: TableTop | None
    lights: int

    def direct(self, places: NDArray[np.float32]) -> NDArray[np.float32]:
        """Illuminance at places (n, 8, see illuminate.illuminate_places) from every light and by way of cards, (n, lights, 3).

        lux s per light at full power for flash, lux for continuous light.
        """
        scene, emitters, lights = self.scene, self.emitters, self.lights
        out = np.zeros((len(places), lights, 3), np.float32)
        if lights:
            in_bands(
                lambda a, b: illuminate.illuminate_places(scene, emitters, lights, places, a, b, out),
                len(places),
                least=LEAST_BAND,
            )
        return out

    def from_table(self, places: NDArray[np.float32]) -> NDArray[np.float32]:
        """Illuminance by way of the table, as direct gives it."""
        scene, emitters, table, lights = self.scene, self.emitters, self.table, self.lights
        out = np.zeros((len(places), lights, 3), np.float32)
        if table is not None and lights:
            in_bands(
                lambda a, b: table_bounce.add_table_bounce(scene, emitters, table, lights, places, a, b, out),
                len(places), least=LEAST_BAND,
            )  # fmt: skip
        return out


def in_view(plan: Plan, emitters: Emitters) -> Ints:
    """Numbers of the movables of which some part may lie in the camera's field."""
    half_w, half_h = plan.camera.half_field
    return view_frustum.in_frustum(
        emitters, eye=plan.camera.place.array(), basis=plan.camera.from_frame(), half_width=half_w, half_height=half_h
    )


def behind_emitters(plan: Plan, lit: Lighting, *, size: tuple[int, int]) -> NDArray[np.bool_]:
    """Pixels of a picture of `size` (width, height) that something movable may stand before, (pixels,)."""
    half_w, half_h = plan.camera.half_field
    return view_frustum.behind_emitters(
        lit.emitters, lit.in_view, eye=plan.camera.place.array(), basis=plan.camera.from_frame(), half_width=half_w,
        half_height=half_h, size=size,
    )  # fmt: skip


def patterned(plan: Plan) -> NDArray[np.bool_]:
    """Which lights throw a pattern finer than places on matte surfaces lie apart, (lights,)."""
    return np.array(
        [isinstance(one, Lamp) and one.gate is not None and one.gate.mask != OPEN_GATE for one in plan.lights], bool
    )


def lighting(plan: Plan, scene: StaticScene, detail: Detail) -> Lighting:
    """Arrange what lights a plan, every light at full power, and light its cards and table."""
    return lit_by(plan, scene, arranged(plan, scene, detail), detail, lights=len(plan.lights))


def arranged(plan: Plan, scene: StaticScene, detail: Detail) -> Emitters:
    """What lights a plan, in its place; what cards and sheets show is still to be filled."""
    frosted = any(card.finish.straight > 0 and card.finish.spread_rad < WEAK_RAD for card in plan.cards)
    samples = detail.behind_frost if frosted else detail.light
    return pack_emitters(plan, scene, cells=samples, card_cells=detail.card, sheet=detail.sheet, rays=detail.rays)


def lit_by(
    plan: Plan, scene: StaticScene, emitters: Emitters, detail: Detail, *, lights: int, light_faces: LightFaces | None = None,
    direct: LightPlaces | None = None,
) -> Lighting:  # fmt: skip
    """Light the cards and the table of a plan. light_faces, direct: what else than the kernels themselves may light the cells of
    cards and of the table."""
    _light_faces(scene, emitters, lights, detail.bounces, light_faces or _by_kernel(scene, emitters, lights))
    table = table_top(plan, rings=detail.table[0], around=detail.table[1], lights=lights)
    lit = Lighting(scene=scene, emitters=emitters, in_view=in_view(plan, emitters), table=table, lights=lights)
    if table is not None:
        table_bounce.light_table(table, (direct or Lighting.direct)(lit, table_bounce.cell_places(table)))
    return lit


def draft_detail(plan: Plan) -> Detail:
    """Into how many parts things are cut while something is dragged."""
    return DRAFT_OF_FEW if len(plan.lights) + len(plan.cards) <= FEW else DRAFT


def mixed_emitters(plan: Plan, scene: StaticScene, detail: Detail, gains: Array) -> Emitters:
    """As arranged, all lights as one, each times its gain; gains (lights,)."""
    return mix_lights(arranged(plan, scene, detail), gains)


def draft_lighting(plan: Plan, scene: StaticScene, *, gains: Array | None = None) -> Lighting:
    """The lighting of a picture while something is dragged; gains: all lights are one, each times its gain."""
    detail = draft_detail(plan)
    if gains is None:
        return lighting(plan, scene, detail)
    return lit_by(plan, scene, mixed_emitters(plan, scene, detail, gains), detail, lights=1)


LightPlaces = Callable[[Lighting, NDArray[np.float32]], NDArray[np.float32]]
"""As Lighting.direct or from_table."""

LightFaces = Callable[[Array], Array]
"""What places on cards (n, 4) show by the lights alone, (n, 2, lights, 3), see illuminate.illuminate_cards; fills Emitters.open."""


def _by_kernel(scene: StaticScene, emitters: Emitters, lights: int, *, bounced: bool = False) -> LightFaces:
    def light(nodes: Array) -> Array:
        out = np.zeros((len(nodes), 2, lights, 3))
        in_bands(
            lambda a, b: illuminate.illuminate_cards(scene, emitters, lights, nodes, bounced=bounced, begin=a, end=b, out=out),
            len(nodes), least=4 * LEAST_BAND if bounced else LEAST_BAND,
        )  # fmt: skip
        return out

    return light


def _light_faces(scene: StaticScene, emitters: Emitters, lights: int, bounces: int, first: LightFaces) -> None:
    """Light cards and sheets by the lights, then, where there are several, again and again by each other."""
    gives = emitters.albedo.sum(axis=1) + emitters.through.sum(axis=1) + emitters.lobes[:, HAS_LOBE]
    throw = [int(k) for k in np.flatnonzero((emitters.light < 0) & (gives > 0))]
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

    cells = [(int(emitters.cells[k, 0]), int(emitters.cells[k, 1])) for k in throw]
    direct = lit(cells, first)
    _keep(emitters, throw, direct)
    # What cards and sheets throw at each other changes slowly over them: fewer places do.
    coarse = [(max(2, -(-columns // COARSER)), max(2, -(-rows // COARSER))) for columns, rows in cells]
    for _ in range(bounces if len(throw) > 1 else 0):
        again = lit(coarse, _by_kernel(scene, emitters, lights, bounced=True))
        _keep(emitters, throw, [one + _spread_out(two, cut) for one, two, cut in zip(direct, again, cells, strict=True)])


COARSER = 6
"""Light bounced between cards and sheets is computed on a lattice so much coarser than that of direct light."""


@lru_cache(maxsize=256)
def _nodes(k: int, columns: int, rows: int) -> Array:
    """Middles of a face's cells as illuminate.illuminate_cards reads them, (n, 4)."""
    v, u = np.mgrid[0:rows, 0:columns]
    place = [
        np.full(rows * columns, float(k)),
        ((2 * u + 1 - columns) / columns).ravel(),
        ((2 * v + 1 - rows) / rows).ravel(),
    ]
    return np.stack([*place, np.arange(rows * columns, dtype=float)], axis=1)


def _keep(emitters: Emitters, faces: list[int], shown: list[Array]) -> None:
    for k, values in zip(faces, shown, strict=True):
        flat = values.reshape(2, values.shape[1], -1, 3)
        emitters.shown[k, :, :, : flat.shape[2]] = flat
    sample_card_radiance(emitters, emitters.shown.shape[2])


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


def fine_lighting(plan: Plan) -> Lighting:
    """The fine lighting of a plan, kept for its next reading: one answer to the page reads several places, and powers and exposure
    change nothing of it."""
    lights = tuple(at_full_power(light) for light in plan.lights)
    exposure = Exposure(shutter_s=1.0, f_number=1.0, iso=100)
    return _fine_lighting(
        replace(plan, lights=lights, exposure=exposure, room_lux=0.0, tone=PLAIN_TONE, meter=None, key_light="")
    )


@lru_cache(maxsize=2)
def _fine_lighting(plan: Plan) -> Lighting:
    return lighting(plan, pack_static_scene(plan), FINE)
