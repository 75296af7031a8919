"""Refractions of glass on the table in a picture at rest, from lights small enough to make them sharp."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from itertools import groupby

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter, map_coordinates

from fotaxis.core.columns import BODY, BOUNDS, FLAT, HIT, PLACE
from fotaxis.core.render.arrays.path_records import COATED, MATTE, VARIANTS
from fotaxis.core.render.arrays.static_scene import StaticScene
from fotaxis.core.render.final.refracted_rays import Lattice, add_caustic, places_sent_from
from fotaxis.core.render.lighting import Lighting
from fotaxis.core.render.parallel import in_bands
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array, Picture

LARGE_RAD = 0.6
"""A light seen from the glass under less than this makes refractions worth computing; from larger ones they are washed out,
and glass shades by a straight way."""

CELLS = 480
"""The table's part that is covered is cut into about so many cells across."""

SMALL_RAD = 0.12
SHARP, SOFT = (13, 90, 180), (44, 50, 100)
"""Places on a light, and columns and rows of the lattice of rays from each: of one seen under less than SMALL_RAD, and of a larger
one, whose refractions are softer."""

STEP_BLUR = 0.8
"""What one place of a light makes is blurred by this part of the step to what the next place makes of the product's middle."""

BLUR_CELLS, LOOSE_CELLS = 0.8, 4.0
NOWHERE_M = 1e9
"""Bounds so high over the set that nothing is looked for within them."""

LEAST_REACH_M = 0.35


@dataclass(frozen=True, slots=True, kw_only=True)
class Caustics:
    """Refractions on the table: fields (n, h, w, 3) lux per light of `lights` (numbers, (n,)), from (left, back) in cells.

    without: the lighting as if the clear products were not there: their shadows, too, are in the fields.
    """

    lit: Lighting
    without: Lighting
    lights: NDArray[np.int64]
    fields: Picture
    left: float
    back: float
    cell: float

    def direct(self, places: NDArray[np.float32]) -> NDArray[np.float32]:
        """As Lighting.direct, on the table as if clear products did not stand in the way of these lights."""
        out = self.lit.direct(places)
        on_table = np.flatnonzero((np.abs(places[:, PLACE.Y]) < 1e-4) & (places[:, PLACE.NY] > 0.999))
        if len(on_table):
            bare = self.without.direct(np.ascontiguousarray(places[on_table]))
            out[on_table[:, None], self.lights[None, :]] = bare[:, self.lights]
        return out

    def add(self, hits: NDArray[np.float32], shown: NDArray[np.float32]) -> None:
        """Add the fields to what matte hits on the table show at colour 1, shown (m, 1 + lights, 3)."""
        variant = hits[:, HIT.SURFACE].astype(np.int64)
        on_table = np.flatnonzero((hits[:, HIT.KIND] == MATTE) & (variant // VARIANTS == 0) & (variant % COATED == 0))
        if not len(on_table):
            return
        at = [
            (hits[on_table, HIT.Z] - self.back) / self.cell - 0.5,
            (hits[on_table, HIT.X] - self.left) / self.cell - 0.5,
        ]
        # Under a coat light counts by what enters there over what enters on average: square to it, nearly.
        coat, entry = hits[on_table, HIT.COAT], hits[on_table, HIT.ENTRY]
        enters = np.where(coat > 0, (1 - ((coat - 1) / (coat + 1)) ** 2) * entry, 1.0) / np.pi
        for light, field in zip(self.lights, self.fields, strict=True):
            for c in range(3):
                there = shown[on_table, 1 + light, c] + enters * map_coordinates(field[..., c], at, order=1, mode="constant")
                shown[on_table, 1 + light, c] = np.maximum(there, 0.0)


def caustics(plan: Plan, lit: Lighting) -> Caustics | None:
    """The refractions of a plan; None without glass, without a flat scattering table, or where every light is large."""
    bodies = _clear_bodies(lit.scene)
    if not bodies or plan.table is None or plan.table.sweep_m or plan.table.skin.metal:
        return None
    if not max(plan.table.skin.reflectance.array()) > 0.02:
        return None
    angles = _seen_under(lit, bodies)
    numbers = np.flatnonzero(angles < LARGE_RAD)
    if not len(numbers):
        return None
    reach = max(LEAST_REACH_M, *(3 * float(b[BOUNDS.HIGH]) + float(b[BOUNDS.RADIUS]) for b in bodies.values()))
    table = plan.table
    half_w, half_d = min(reach, table.width_m / 2 + abs(table.x_m)), min(reach, table.depth_m / 2 + abs(table.z_m))
    cell = 2 * max(half_w, half_d) / CELLS
    size = round(2 * half_d / cell), round(2 * half_w / cell)
    jobs = [
        (n, int(k), product, sample)
        for n, light in enumerate(numbers)
        for product in bodies
        for k in np.flatnonzero(lit.emitters.light == light)
        for sample in places_sent_from(lit.emitters, int(k), (SHARP if angles[light] < SMALL_RAD else SOFT)[0])
    ]

    def work(begin: int, end: int) -> Array:
        """What some of the jobs add to the fields: a lamp that is moved has many, so none keeps its own."""
        sums = np.zeros((len(numbers), *size, 3))
        for (n, k, product), some in groupby(jobs[begin:end], key=lambda job: job[:3]):
            part, loose = np.zeros((*size, 3)), np.zeros((*size, 3))
            body, angle = bodies[product], angles[numbers[n]]
            places, columns, rows = SHARP if angle < SMALL_RAD else SOFT
            lattice = Lattice(columns, rows, -half_w, -half_d, cell)
            weight = 1.0 / len(places_sent_from(lit.emitters, k, places))
            for *_, sample in some:
                add_caustic(
                    lit.scene, lit.emitters, k, product, body, sample, weight, lattice=lattice, field=part, loose=loose
                )
            middle = float(body[BOUNDS.LOW] + body[BOUNDS.HIGH]) / 2
            blur = max(BLUR_CELLS, STEP_BLUR * angle * middle / math.sqrt(places) / cell)
            wide = max(LOOSE_CELLS, 2 * blur)
            whole = gaussian_filter(part, (blur, blur, 0)) + gaussian_filter(loose, (wide, wide, 0))
            sums[n] += whole * lit.emitters.gain[k] / cell**2
        return sums

    fields = np.sum(in_bands(work, len(jobs), least=1), axis=0)
    bounds = lit.scene.bounds.copy()
    bounds[np.isin(lit.scene.bodies[:, BODY.PRODUCT], [*bodies]), BOUNDS.HEIGHTS] = NOWHERE_M
    without = replace(lit, scene=lit.scene._replace(bounds=bounds), table=None)
    return Caustics(
        lit=lit, without=without, lights=numbers, fields=fields.astype(np.float32), left=-half_w, back=-half_d, cell=cell
    )


def _clear_bodies(scene: StaticScene) -> dict[int, Array]:
    """The cylinder around each product that has clear bodies, (5,) each, by the product's number."""
    found = {}
    for product in sorted({int(p) for p in scene.bodies[scene.bodies[:, BODY.CLEAR] > 0, BODY.PRODUCT]}):
        b = scene.bounds[scene.bodies[:, BODY.PRODUCT] == product]
        found[product] = np.array(
            [b[0, BOUNDS.X], b[0, BOUNDS.Z], b[:, BOUNDS.RADIUS].max(), b[:, BOUNDS.LOW].min(), b[:, BOUNDS.HIGH].max()]
        )
    return found


def _seen_under(lit: Lighting, bodies: dict[int, Array]) -> Array:
    """Under what angle each light is seen at most from anything clear, radians (lights,)."""
    emitters = lit.emitters
    angles = np.zeros(lit.lights)
    for light in range(lit.lights):
        faces = np.flatnonzero(emitters.light == light)
        for body in bodies.values():
            away = np.linalg.norm(emitters.flats[faces, FLAT.CENTRE] - np.array([body[0], body[3], body[1]]), axis=1)
            angles[light] = max(angles[light], float((2 * emitters.flats[faces, FLAT.HALF_SIZES].max(axis=1) / away).max()))
    return angles
