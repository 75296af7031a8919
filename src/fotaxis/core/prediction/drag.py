"""What one drag keeps from picture to picture: only what was moved is looked for and shaded anew."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.optics import relight, reshading
from fotaxis.core.optics.faces import HAS_LOBE, Movables
from fotaxis.core.optics.lightnodes import LightGrid
from fotaxis.core.optics.paths import Traced
from fotaxis.core.optics.relight import NOT_KNOWN, Met
from fotaxis.core.optics.still import Ints, Still
from fotaxis.core.prediction.bands import in_bands
from fotaxis.core.prediction.lighting import LEAST_BAND, Lighting
from fotaxis.core.values import Array

NOTHING: Ints = np.empty(0, np.int64)
OF_A_FACE = ("gain", "shape", "beams")
"""What a light throws on places depends on these rows of it, and on where it and others stand; a card on what it shows, too."""

OF_WEIGHTS = ("shape", "beams")
"""How much of what it sends out at its samples arrives somewhere depends on these of them."""

OF_ALL = ("light", "veil", "parts", "samples", "gates", "gate_of")
"""When one of these changes nothing is kept."""


class Drag:
    """Belongs to one hand on one set: not for two threads at once. Holds for pictures of one stage, all lights as one."""

    def __init__(self) -> None:
        self._traced: Traced | None = None
        self._grid: LightGrid | None = None
        self._movables: Movables | None = None
        self._moved: Ints = NOTHING
        self.met = self.fans_met = NOT_KNOWN
        self._before: reshading.Before | None = None
        self._shone: reshading.Shone | None = None
        self._sampled: Array = np.empty(0)
        self._nodes: Array = np.empty(0)

    def goes_on(self, traced: Traced, fans: Traced, grid: LightGrid, movables: Movables) -> None:
        """Take in the things as they stand now; what they were in the picture before says what is still true.

        Before the cards are lit: what they show is taken in by `direct`.
        """
        last, faces = self._movables, len(movables.light)
        same = (
            last is not None
            and self._traced is traced
            and self._grid is grid
            and last.flats.shape == movables.flats.shape
            and all(np.array_equal(getattr(last, name), getattr(movables, name)) for name in OF_ALL)
        )
        self._traced, self._grid, self._movables = traced, grid, movables
        if not same or last is None or self._before is None:
            self._begin(traced, fans, grid, movables, NOTHING)
            return
        self._sampled = last.sampled
        moved = np.flatnonzero((last.flats[:faces] != movables.flats[:faces]).any(axis=1))
        if len(np.setdiff1d(moved, self._moved)):
            self._begin(traced, fans, grid, movables, moved)
            return
        stale = movables.lobes[:, HAS_LOBE] > 0
        for name in OF_A_FACE:
            differs = (getattr(last, name) != getattr(movables, name)).reshape(faces, -1).any(axis=1)
            stale |= differs
            if name in OF_WEIGHTS:
                self._before.side[:, differs] = reshading.NOT_YET
        self._before = self._before._replace(stale=stale)
        if self._shone is not None:
            self._shone = self._shone._replace(stale=stale)

    def _begin(self, traced: Traced, fans: Traced, grid: LightGrid, movables: Movables, moved: Ints) -> None:
        faces = len(movables.light)
        self._shone = None
        staying = np.setdiff1d(np.arange(faces), moved)
        self._moved = moved
        self.met, self.fans_met = (Met(moved=moved, found=_met(movables, staying, paths)) for paths in (traced, fans))
        places = len(grid.places)
        self._before = reshading.Before(
            moved=moved, stale=np.ones(faces, bool), light=np.zeros((places, faces, 3), np.float32),
            lasts=np.zeros((places, faces), bool), staying=out_of_the_way(movables.flats, moved),
            side=np.full((places, faces), reshading.NOT_YET, np.int8),
            weights=np.empty((places, faces, movables.samples.shape[1], 3), np.float32),
        )  # fmt: skip

    def light_faces(self, still: Still, nodes: Array) -> Array:
        """As lighting.LightFaces, for the things taken in last."""
        movables = self._movables
        assert movables is not None, "goes_on comes first"
        out = np.zeros((len(nodes), 2, 1, 3))
        if self._shone is None or not np.array_equal(self._nodes, nodes):
            many, faces = len(nodes), len(movables.light)
            self._nodes = nodes
            self._shone = reshading.Shone(
                moved=self._moved, stale=np.ones(faces, bool), light=np.zeros((many, 2, faces, 3)),
                lasts=np.zeros((many, faces), bool), open=np.ones((many, faces)), open_lasts=np.zeros((many, faces), bool),
            )  # fmt: skip
        shone = self._shone
        in_bands(
            lambda a, b: reshading.light_faces_again(still, movables, nodes, shone, a, b, out), len(nodes), least=LEAST_BAND
        )
        return out

    def direct(self, lit: Lighting, places: NDArray[np.float32]) -> NDArray[np.float32]:
        """As Lighting.direct at the places of the grid."""
        before = self._before
        if before is not None and self._sampled.shape == lit.movables.sampled.shape:
            differs = (self._sampled != lit.movables.sampled).reshape(len(before.stale), -1).any(axis=1)
            before = self._before = before._replace(stale=before.stale | differs)
        out = np.zeros((len(places), lit.lights, 3), np.float32)
        if lit.lights and before is not None:
            in_bands(
                lambda a, b: reshading.light_places_again(lit.still, lit.movables, places, before, a, b, out), len(places),
                least=LEAST_BAND,
            )  # fmt: skip
        return out


NOWHERE_M = 1e6


def out_of_the_way(flats: Array, moved: Ints) -> Array:
    """Flats with some of them where they stand in no way."""
    away = flats.copy()
    away[moved, 0:3] = away[moved, 15] = NOWHERE_M
    away[moved, 12:14] = 0.0
    return away


def _met(movables: Movables, staying: Ints, traced: Traced) -> NDArray[np.int16]:
    found = np.empty(len(traced.segments), np.int16)
    in_bands(lambda a, b: relight.meet(movables, staying, traced, a, b, found), len(found), least=4096)
    return found
