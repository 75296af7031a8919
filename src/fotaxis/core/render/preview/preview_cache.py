"""What one drag keeps from picture to picture: only what was moved is looked for and shaded anew."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import FLAT
from fotaxis.core.render.arrays.emitters import HAS_LOBE, Emitters
from fotaxis.core.render.arrays.path_records import TracedPaths
from fotaxis.core.render.arrays.static_scene import Ints, StaticScene
from fotaxis.core.render.lighting import LEAST_BAND, Lighting
from fotaxis.core.render.parallel import in_bands
from fotaxis.core.render.shading import first_hits, shade_paths
from fotaxis.core.render.shading.first_hits import NO_FIRST_HITS, FirstHits
from fotaxis.core.render.transport import direct_cache, illuminate, rough_specular, table_bounce
from fotaxis.core.values import Array

LEAST_KEPT = 256
"""What is mostly kept from the picture before costs little: another thread is not worth waking for fewer places."""

NOTHING: Ints = np.empty(0, np.int64)
OF_A_FACE = ("gain", "shape", "beams")
"""What a light throws on places depends on these rows of it, and on where it and others stand; a card on what it shows, too."""

OF_WEIGHTS = ("shape", "beams")
"""How much of what it sends out at its samples arrives somewhere depends on these of them."""

OF_ALL = ("light", "veil", "sweep", "lobes", "parts", "samples", "gates", "gate_of")
"""When one of these changes nothing is kept."""


@dataclass(slots=True)
class _LightingState:
    """Places that are lit in every picture, and what they got in the one before."""

    places: NDArray[np.float32]
    cache: direct_cache.DirectCache


class PreviewCache:
    """Belongs to one hand on one set: not for two threads at once. Holds for pictures of one stage, all lights as one."""

    def __init__(self) -> None:
        self._traced: TracedPaths | None = None
        self._emitters: Emitters | None = None
        self._moved: Ints = NOTHING
        self._staying: Array = np.empty((0, 0))
        self.met = self.gather_met = NO_FIRST_HITS
        self._stale: NDArray[np.bool_] = np.empty(0, np.bool_)
        self._lit: list[_LightingState] = []
        self._cards: direct_cache.CardCache | None = None
        self._table: table_bounce.TableCache | None = None
        self._gloss: rough_specular.GlossCache | None = None
        self._lobe_cache = shade_paths.NO_LOBE_CACHE
        self._sampled: Array = np.empty(0)
        self._open: Array = np.empty(0)
        self._lobes: NDArray[np.bool_] | None = None
        self._nodes: Array = np.empty(0)

    def update(self, traced: TracedPaths, gather_points: TracedPaths, emitters: Emitters) -> None:
        """Take in the things as they stand now; what they were in the picture before says what is still true.

        Before the cards are lit: what they show is taken in by `direct`.
        """
        last, faces = self._emitters, len(emitters.light)
        same = (
            last is not None
            and self._traced is traced
            and last.flats.shape == emitters.flats.shape
            and all(np.array_equal(getattr(last, name), getattr(emitters, name)) for name in OF_ALL)
        )
        self._traced, self._emitters, self._lobes = traced, emitters, None
        if not same or last is None:
            self._begin(traced, gather_points, emitters, NOTHING)
            return
        self._sampled, self._open = last.sampled, last.open
        moved = np.flatnonzero((last.flats[:faces] != emitters.flats[:faces]).any(axis=1))
        if len(np.setdiff1d(moved, self._moved)):
            self._begin(traced, gather_points, emitters, moved)
            return
        stale = np.zeros(faces, np.bool_)
        for name in OF_A_FACE:
            differs = _faces_differ(getattr(last, name), getattr(emitters, name))
            stale |= differs
            if name in OF_WEIGHTS and differs.any():
                for lit in self._lit:
                    lit.cache.side[:, differs] = direct_cache.UNKNOWN
                for kept in (self._table, self._gloss):
                    if kept is not None:
                        kept.side[:, differs] = direct_cache.UNKNOWN
        self._stale = stale
        if self._cards is not None:
            self._cards = self._cards._replace(stale=stale)

    def _begin(self, traced: TracedPaths, gather_points: TracedPaths, emitters: Emitters, moved: Ints) -> None:
        faces = len(emitters.light)
        self._cards = self._table = self._gloss = None
        self._lobe_cache = shade_paths.NO_LOBE_CACHE
        self._lit = []
        self._stale = np.ones(faces, np.bool_)
        self._moved, self._staying = moved, out_of_the_way(emitters.flats, moved)
        self.met = self.gather_met = NO_FIRST_HITS
        if len(moved):  # before anything has moved it is not known what will stay; where the product moves, nothing is kept
            staying = np.setdiff1d(np.arange(faces), moved)
            self.met, self.gather_met = (
                FirstHits(moved=moved, found=_first_hits(emitters, staying, paths)) for paths in (traced, gather_points)
            )

    def light_faces(self, scene: StaticScene, nodes: Array) -> Array:
        """As lighting.LightFaces, for the things taken in last."""
        emitters = self._emitters
        assert emitters is not None, "update comes first"
        out = np.zeros((len(nodes), 2, 1, 3))
        if self._cards is None or not np.array_equal(self._nodes, nodes):
            many, faces = len(nodes), len(emitters.light)
            self._nodes = nodes
            self._cards = direct_cache.CardCache(
                moved=self._moved, stale=np.ones(faces, bool), light=np.zeros((many, 2, faces, 3)),
                valid=np.zeros((many, faces), bool), open=np.ones((many, faces)), open_valid=np.zeros((many, faces), bool),
            )  # fmt: skip
        cache = self._cards
        in_bands(
            lambda a, b: illuminate.illuminate_cards(
                scene, emitters, 1, nodes, bounced=False, begin=a, end=b, out=out, cache=cache
            ),
            len(nodes), least=LEAST_BAND,
        )  # fmt: skip
        return out

    def _no_ways(self, emitters: Emitters, many: int) -> tuple[NDArray[np.int8], NDArray[np.float32]]:
        """Side and weights of so many places, none known yet."""
        faces, most = emitters.samples.shape[:2]
        return np.full((many, faces), direct_cache.UNKNOWN, np.int8), np.empty((many, faces, most, 3), np.float32)

    def _direct_cache(self, emitters: Emitters, places: NDArray[np.float32]) -> direct_cache.DirectCache:
        """What is kept of these places: nothing yet where they are new."""
        kept = next((lit for lit in self._lit if np.array_equal(lit.places, places)), None)
        if kept is None:
            many, faces = len(places), len(emitters.light)
            side, weights = self._no_ways(emitters, many)
            kept = _LightingState(places, direct_cache.DirectCache(
                moved=self._moved, stale=np.ones(faces, np.bool_), light=np.zeros((many, faces, 3), np.float32),
                valid=np.zeros((many, faces), np.bool_), staying=self._staying, side=side, weights=weights,
                lobe_light=np.zeros((many, faces, 3), np.float32), lobe_valid=np.zeros((many, faces), np.bool_),
                lobe_stale=np.ones(faces, np.bool_),
            ))  # fmt: skip
            self._lit.append(kept)
            return kept.cache
        stale = self._stale
        if self._sampled.shape == emitters.sampled.shape:
            stale = stale | _faces_differ(self._sampled, emitters.sampled)
        return kept.cache._replace(stale=stale, lobe_stale=self._lobes_stale(emitters))

    def lobe_cache(self, emitters: Emitters) -> shade_paths.LobeCache:
        """What is kept of the lobes that the picture shows; the cards are lit."""
        kept = self._lobe_cache
        if not len(kept.valid) and (emitters.lobes[:, HAS_LOBE] > 0).any():
            segments = len(self.met.found)
            kept = kept._replace(
                moved=self._moved, light=np.empty((segments, 3), np.float32), valid=np.zeros(segments, np.bool_)
            )  # fmt: skip
        self._lobe_cache = kept._replace(stale=self._lobes_stale(emitters))
        return self._lobe_cache

    def _lobes_stale(self, emitters: Emitters) -> NDArray[np.bool_]:
        """Faces through or in which something else shows than in the picture before, found once the cards are lit; what moved is
        looked for place by place."""
        if self._lobes is None:
            lights = emitters.light >= 0
            if self._open.shape != emitters.open.shape or self._stale[lights].any():
                self._lobes = np.ones(len(lights), np.bool_)
            else:
                differs = (self._open != emitters.open).any(axis=2)
                differs[:, self._moved] = False
                self._lobes = differs.any(axis=1)
        return self._lobes

    def direct(self, lit: Lighting, places: NDArray[np.float32]) -> NDArray[np.float32]:
        """As Lighting.direct at places that are the same in every picture: those of the grid, or of the table."""
        out = np.zeros((len(places), lit.lights, 3), np.float32)
        if lit.lights:
            cache = self._direct_cache(lit.emitters, places)
            in_bands(
                lambda a, b: illuminate.illuminate_places(lit.scene, lit.emitters, lit.lights, places, a, b, out, cache), len(places),
                least=LEAST_BAND,
            )  # fmt: skip
        return out

    def from_table(self, lit: Lighting, places: NDArray[np.float32]) -> NDArray[np.float32]:
        """As Lighting.from_table at places that are the same in every picture."""
        out = np.zeros((len(places), lit.lights, 3), np.float32)
        table, emitters = lit.table, lit.emitters
        if table is None or not lit.lights:
            return out
        many, cells = len(places), len(table.cells)
        if self._table is None or self._table.cells.shape[:2] != (many, cells):
            side, weights = self._no_ways(emitters, many)
            self._table = table_bounce.TableCache(
                moved=self._moved, staying=self._staying, side=side, weights=weights,
                seen=np.zeros(many, np.bool_), cells=np.empty((many, cells, 3), np.float32),
            )  # fmt: skip
        cache = self._table
        in_bands(
            lambda a, b: table_bounce.add_table_bounce(lit.scene, emitters, table, lit.lights, places, a, b, out, cache),
            many,
            least=LEAST_KEPT,
        )
        return out

    def add_gloss(self, lit: Lighting, gather_points: Array, rays: int, light: NDArray[np.float32]) -> None:
        """As passes.add_rough_gloss for blurred mirrors that are the same in every picture."""
        emitters, many = lit.emitters, len(gather_points)
        if self._gloss is None or len(self._gloss.side) != many:
            side, weights = self._no_ways(emitters, many)
            self._gloss = rough_specular.GlossCache(moved=self._moved, staying=self._staying, side=side, weights=weights)
        cache = self._gloss
        in_bands(
            lambda a, b: rough_specular.add_rough_specular(lit.scene, emitters, gather_points, rays, a, b, light, cache),
            many,
            least=LEAST_KEPT,
        )


def _faces_differ(one: Array, other: Array) -> NDArray[np.bool_]:
    """Which rows of two arrays of the same shape differ; there may be none."""
    return (one != other).any(axis=tuple(range(1, one.ndim)))


NOWHERE_M = 1e6


def out_of_the_way(flats: Array, moved: Ints) -> Array:
    """Flats with some of them where they stand in no way."""
    away = flats.copy()
    away[moved, FLAT.CENTRE] = away[moved, FLAT.PLANE] = NOWHERE_M
    away[moved, FLAT.HALF_SIZES] = 0.0
    return away


def _first_hits(emitters: Emitters, staying: Ints, traced: TracedPaths) -> NDArray[np.int16]:
    found = np.empty(len(traced.segments), np.int16)
    in_bands(lambda a, b: first_hits.first_emitters(emitters, staying, traced, a, b, found), len(found), least=4096)
    return found
