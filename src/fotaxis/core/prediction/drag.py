"""What one drag keeps from picture to picture: only what was moved is looked for and shaded anew."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.optics import glosslight, relight, reshading, rethrowing
from fotaxis.core.optics.faces import HAS_LOBE, Movables
from fotaxis.core.optics.paths import Traced
from fotaxis.core.optics.relight import NOT_KNOWN, Met
from fotaxis.core.optics.still import Ints, Still
from fotaxis.core.prediction.bands import in_bands
from fotaxis.core.prediction.lighting import LEAST_BAND, Lighting
from fotaxis.core.values import Array

LEAST_KEPT = 256
"""What is mostly kept from the picture before costs little: another thread is not worth waking for fewer places."""

NOTHING: Ints = np.empty(0, np.int64)
OF_A_FACE = ("gain", "shape", "beams")
"""What a light throws on places depends on these rows of it, and on where it and others stand; a card on what it shows, too."""

OF_WEIGHTS = ("shape", "beams")
"""How much of what it sends out at its samples arrives somewhere depends on these of them."""

OF_ALL = ("light", "veil", "lobes", "parts", "samples", "gates", "gate_of")
"""When one of these changes nothing is kept."""


@dataclass(slots=True)
class _Lit:
    """Places that are lit in every picture, and what they got in the one before."""

    places: NDArray[np.float32]
    before: reshading.Before


class Drag:
    """Belongs to one hand on one set: not for two threads at once. Holds for pictures of one stage, all lights as one."""

    def __init__(self) -> None:
        self._traced: Traced | None = None
        self._movables: Movables | None = None
        self._moved: Ints = NOTHING
        self._staying: Array = np.empty((0, 0))
        self.met = self.fans_met = NOT_KNOWN
        self._stale: NDArray[np.bool_] = np.empty(0, np.bool_)
        self._lit: list[_Lit] = []
        self._shone: reshading.Shone | None = None
        self._thrown: rethrowing.Thrown | None = None
        self._glossed: glosslight.Glossed | None = None
        self._lobes_seen = relight.NO_LOBES_SEEN
        self._sampled: Array = np.empty(0)
        self._open: Array = np.empty(0)
        self._lobes: NDArray[np.bool_] | None = None
        self._nodes: Array = np.empty(0)

    def goes_on(self, traced: Traced, fans: Traced, movables: Movables) -> None:
        """Take in the things as they stand now; what they were in the picture before says what is still true.

        Before the cards are lit: what they show is taken in by `direct`.
        """
        last, faces = self._movables, len(movables.light)
        same = (
            last is not None
            and self._traced is traced
            and last.flats.shape == movables.flats.shape
            and all(np.array_equal(getattr(last, name), getattr(movables, name)) for name in OF_ALL)
        )
        self._traced, self._movables, self._lobes = traced, movables, None
        if not same or last is None:
            self._begin(traced, fans, movables, NOTHING)
            return
        self._sampled, self._open = last.sampled, last.open
        moved = np.flatnonzero((last.flats[:faces] != movables.flats[:faces]).any(axis=1))
        if len(np.setdiff1d(moved, self._moved)):
            self._begin(traced, fans, movables, moved)
            return
        stale = np.zeros(faces, np.bool_)
        for name in OF_A_FACE:
            differs = (getattr(last, name) != getattr(movables, name)).reshape(faces, -1).any(axis=1)
            stale |= differs
            if name in OF_WEIGHTS and differs.any():
                for lit in self._lit:
                    lit.before.side[:, differs] = reshading.NOT_YET
                for kept in (self._thrown, self._glossed):
                    if kept is not None:
                        kept.side[:, differs] = reshading.NOT_YET
        self._stale = stale
        if self._shone is not None:
            self._shone = self._shone._replace(stale=stale)

    def _begin(self, traced: Traced, fans: Traced, movables: Movables, moved: Ints) -> None:
        faces = len(movables.light)
        self._shone = self._thrown = self._glossed = None
        self._lobes_seen = relight.NO_LOBES_SEEN
        self._lit = []
        self._stale = np.ones(faces, np.bool_)
        self._moved, self._staying = moved, out_of_the_way(movables.flats, moved)
        self.met = self.fans_met = NOT_KNOWN
        if len(moved):  # before anything has moved it is not known what will stay; where the product moves, nothing is kept
            staying = np.setdiff1d(np.arange(faces), moved)
            self.met, self.fans_met = (Met(moved=moved, found=_met(movables, staying, paths)) for paths in (traced, fans))

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

    def _no_ways(self, movables: Movables, many: int) -> tuple[NDArray[np.int8], NDArray[np.float32]]:
        """Side and weights of so many places, none known yet."""
        faces, most = movables.samples.shape[:2]
        return np.full((many, faces), reshading.NOT_YET, np.int8), np.empty((many, faces, most, 3), np.float32)

    def _before(self, movables: Movables, places: NDArray[np.float32]) -> reshading.Before:
        """What is kept of these places: nothing yet where they are new."""
        kept = next((lit for lit in self._lit if np.array_equal(lit.places, places)), None)
        if kept is None:
            many, faces = len(places), len(movables.light)
            side, weights = self._no_ways(movables, many)
            kept = _Lit(places, reshading.Before(
                moved=self._moved, stale=np.ones(faces, np.bool_), light=np.zeros((many, faces, 3), np.float32),
                lasts=np.zeros((many, faces), np.bool_), staying=self._staying, side=side, weights=weights,
                lobed=np.zeros((many, faces, 3), np.float32), lobed_lasts=np.zeros((many, faces), np.bool_),
                lobes_stale=np.ones(faces, np.bool_),
            ))  # fmt: skip
            self._lit.append(kept)
            return kept.before
        stale = self._stale
        if self._sampled.shape == movables.sampled.shape:
            stale = stale | (self._sampled != movables.sampled).reshape(len(stale), -1).any(axis=1)
        return kept.before._replace(stale=stale, lobes_stale=self._lobes_stale(movables))

    def lobes_seen(self, movables: Movables) -> relight.LobesSeen:
        """What is kept of the lobes that the picture shows; the cards are lit."""
        kept = self._lobes_seen
        if not len(kept.lasts) and (movables.lobes[:, HAS_LOBE] > 0).any():
            stretches = len(self.met.found)
            kept = kept._replace(
                moved=self._moved, seen=np.empty((stretches, 3), np.float32), lasts=np.zeros(stretches, np.bool_)
            )  # fmt: skip
        self._lobes_seen = kept._replace(stale=self._lobes_stale(movables))
        return self._lobes_seen

    def _lobes_stale(self, movables: Movables) -> NDArray[np.bool_]:
        """Faces through or in which something else shows than in the picture before, found once the cards are lit; what moved is
        looked for place by place."""
        if self._lobes is None:
            lights = movables.light >= 0
            if self._open.shape != movables.open.shape or self._stale[lights].any():
                self._lobes = np.ones(len(lights), np.bool_)
            else:
                differs = (self._open != movables.open).any(axis=2)
                differs[:, self._moved] = False
                self._lobes = differs.any(axis=1)
        return self._lobes

    def direct(self, lit: Lighting, places: NDArray[np.float32]) -> NDArray[np.float32]:
        """As Lighting.direct at places that are the same in every picture: those of the grid, or of the table."""
        out = np.zeros((len(places), lit.lights, 3), np.float32)
        if lit.lights:
            before = self._before(lit.movables, places)
            in_bands(
                lambda a, b: reshading.light_places_again(lit.still, lit.movables, places, before, a, b, out), len(places),
                least=LEAST_BAND,
            )  # fmt: skip
        return out

    def from_table(self, lit: Lighting, places: NDArray[np.float32]) -> NDArray[np.float32]:
        """As Lighting.from_table at places that are the same in every picture."""
        out = np.zeros((len(places), lit.lights, 3), np.float32)
        table, movables = lit.table, lit.movables
        if table is None or not lit.lights:
            return out
        many, cells = len(places), len(table.cells)
        if self._thrown is None or self._thrown.cells.shape[:2] != (many, cells):
            side, weights = self._no_ways(movables, many)
            self._thrown = rethrowing.Thrown(
                moved=self._moved, staying=self._staying, side=side, weights=weights,
                seen=np.zeros(many, np.bool_), cells=np.empty((many, cells, 3), np.float32),
            )  # fmt: skip
        thrown = self._thrown
        in_bands(
            lambda a, b: rethrowing.throw_again(lit.still, movables, table, places, thrown, a, b, out),
            many,
            least=LEAST_KEPT,
        )
        return out

    def add_gloss(self, lit: Lighting, fans: Array, rays: int, light: NDArray[np.float32]) -> None:
        """As walk.add_gloss for blurred mirrors that are the same in every picture."""
        movables, many = lit.movables, len(fans)
        if self._glossed is None or len(self._glossed.side) != many:
            side, weights = self._no_ways(movables, many)
            self._glossed = glosslight.Glossed(moved=self._moved, staying=self._staying, side=side, weights=weights)
        glossed = self._glossed
        in_bands(
            lambda a, b: glosslight.gloss_again(lit.still, movables, fans, rays, glossed, a, b, light),
            many,
            least=LEAST_KEPT,
        )


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
