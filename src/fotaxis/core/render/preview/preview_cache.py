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
from fotaxis.core.render.transport import direct_cache, rough_specular, shade_paths, table_bounce_cache
from fotaxis.core.render.transport.shade_paths import NO_FIRST_HITS, FirstHits
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
class _LightingState:
    """Places that are lit in every picture, and what they got in the one before."""

    places: NDArray[np.float32]
    before: direct_cache.DirectCache


class PreviewCache:
    """Belongs to one hand on one set: not for two threads at once. Holds for pictures of one stage, all lights as one."""

    def __init__(self) -> None:
        self._traced: TracedPaths | None = None
        self._movables: Emitters | None = None
        self._moved: Ints = NOTHING
        self._staying: Array = np.empty((0, 0))
        self.met = self.fans_met = NO_FIRST_HITS
        self._stale: NDArray[np.bool_] = np.empty(0, np.bool_)
        self._lit: list[_LightingState] = []
        self._shone: direct_cache.CardCache | None = None
        self._thrown: table_bounce_cache.TableCache | None = None
        self._glossed: rough_specular.GlossCache | None = None
        self._lobes_seen = shade_paths.NO_LOBE_CACHE
        self._sampled: Array = np.empty(0)
        self._open: Array = np.empty(0)
        self._lobes: NDArray[np.bool_] | None = None
        self._nodes: Array = np.empty(0)

    def goes_on(self, traced: TracedPaths, gather_points: TracedPaths, emitters: Emitters) -> None:
        """Take in the things as they stand now; what they were in the picture before says what is still true.

        Before the cards are lit: what they show is taken in by `direct`.
        """
        last, faces = self._movables, len(emitters.light)
        same = (
            last is not None
            and self._traced is traced
            and last.flats.shape == emitters.flats.shape
            and all(np.array_equal(getattr(last, name), getattr(emitters, name)) for name in OF_ALL)
        )
        self._traced, self._movables, self._lobes = traced, emitters, None
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
            differs = (getattr(last, name) != getattr(emitters, name)).reshape(faces, -1).any(axis=1)
            stale |= differs
            if name in OF_WEIGHTS and differs.any():
                for lit in self._lit:
                    lit.before.side[:, differs] = direct_cache.UNKNOWN
                for kept in (self._thrown, self._glossed):
                    if kept is not None:
                        kept.side[:, differs] = direct_cache.UNKNOWN
        self._stale = stale
        if self._shone is not None:
            self._shone = self._shone._replace(stale=stale)

    def _begin(self, traced: TracedPaths, gather_points: TracedPaths, emitters: Emitters, moved: Ints) -> None:
        faces = len(emitters.light)
        self._shone = self._thrown = self._glossed = None
        self._lobes_seen = shade_paths.NO_LOBE_CACHE
        self._lit = []
        self._stale = np.ones(faces, np.bool_)
        self._moved, self._staying = moved, out_of_the_way(emitters.flats, moved)
        self.met = self.fans_met = NO_FIRST_HITS
        if len(moved):  # before anything has moved it is not known what will stay; where the product moves, nothing is kept
            staying = np.setdiff1d(np.arange(faces), moved)
            self.met, self.fans_met = (
                FirstHits(moved=moved, found=_first_hits(emitters, staying, paths)) for paths in (traced, gather_points)
            )

    def light_faces(self, scene: StaticScene, nodes: Array) -> Array:
        """As lighting.LightFaces, for the things taken in last."""
        emitters = self._movables
        assert emitters is not None, "goes_on comes first"
        out = np.zeros((len(nodes), 2, 1, 3))
        if self._shone is None or not np.array_equal(self._nodes, nodes):
            many, faces = len(nodes), len(emitters.light)
            self._nodes = nodes
            self._shone = direct_cache.CardCache(
                moved=self._moved, stale=np.ones(faces, bool), light=np.zeros((many, 2, faces, 3)),
                lasts=np.zeros((many, faces), bool), open=np.ones((many, faces)), open_lasts=np.zeros((many, faces), bool),
            )  # fmt: skip
        shone = self._shone
        in_bands(
            lambda a, b: direct_cache.update_cards(scene, emitters, nodes, shone, a, b, out), len(nodes), least=LEAST_BAND
        )
        return out

    def _no_ways(self, emitters: Emitters, many: int) -> tuple[NDArray[np.int8], NDArray[np.float32]]:
        """Side and weights of so many places, none known yet."""
        faces, most = emitters.samples.shape[:2]
        return np.full((many, faces), direct_cache.UNKNOWN, np.int8), np.empty((many, faces, most, 3), np.float32)

    def _before(self, emitters: Emitters, places: NDArray[np.float32]) -> direct_cache.DirectCache:
        """What is kept of these places: nothing yet where they are new."""
        kept = next((lit for lit in self._lit if np.array_equal(lit.places, places)), None)
        if kept is None:
            many, faces = len(places), len(emitters.light)
            side, weights = self._no_ways(emitters, many)
            kept = _LightingState(places, direct_cache.DirectCache(
                moved=self._moved, stale=np.ones(faces, np.bool_), light=np.zeros((many, faces, 3), np.float32),
                lasts=np.zeros((many, faces), np.bool_), staying=self._staying, side=side, weights=weights,
                lobed=np.zeros((many, faces, 3), np.float32), lobed_lasts=np.zeros((many, faces), np.bool_),
                lobes_stale=np.ones(faces, np.bool_),
            ))  # fmt: skip
            self._lit.append(kept)
            return kept.before
        stale = self._stale
        if self._sampled.shape == emitters.sampled.shape:
            stale = stale | (self._sampled != emitters.sampled).reshape(len(stale), -1).any(axis=1)
        return kept.before._replace(stale=stale, lobes_stale=self._lobes_stale(emitters))

    def lobes_seen(self, emitters: Emitters) -> shade_paths.LobeCache:
        """What is kept of the lobes that the picture shows; the cards are lit."""
        kept = self._lobes_seen
        if not len(kept.lasts) and (emitters.lobes[:, HAS_LOBE] > 0).any():
            stretches = len(self.met.found)
            kept = kept._replace(
                moved=self._moved, seen=np.empty((stretches, 3), np.float32), lasts=np.zeros(stretches, np.bool_)
            )  # fmt: skip
        self._lobes_seen = kept._replace(stale=self._lobes_stale(emitters))
        return self._lobes_seen

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
            before = self._before(lit.emitters, places)
            in_bands(
                lambda a, b: direct_cache.update_direct(lit.scene, lit.emitters, places, before, a, b, out), len(places),
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
        if self._thrown is None or self._thrown.cells.shape[:2] != (many, cells):
            side, weights = self._no_ways(emitters, many)
            self._thrown = table_bounce_cache.TableCache(
                moved=self._moved, staying=self._staying, side=side, weights=weights,
                seen=np.zeros(many, np.bool_), cells=np.empty((many, cells, 3), np.float32),
            )  # fmt: skip
        thrown = self._thrown
        in_bands(
            lambda a, b: table_bounce_cache.update_table_bounce(lit.scene, emitters, table, places, thrown, a, b, out),
            many,
            least=LEAST_KEPT,
        )
        return out

    def add_gloss(self, lit: Lighting, gather_points: Array, rays: int, light: NDArray[np.float32]) -> None:
        """As passes.add_rough_gloss for blurred mirrors that are the same in every picture."""
        emitters, many = lit.emitters, len(gather_points)
        if self._glossed is None or len(self._glossed.side) != many:
            side, weights = self._no_ways(emitters, many)
            self._glossed = rough_specular.GlossCache(moved=self._moved, staying=self._staying, side=side, weights=weights)
        glossed = self._glossed
        in_bands(
            lambda a, b: rough_specular.update_rough_specular(
                lit.scene, emitters, gather_points, rays, glossed, a, b, light
            ),
            many,
            least=LEAST_KEPT,
        )


NOWHERE_M = 1e6


def out_of_the_way(flats: Array, moved: Ints) -> Array:
    """Flats with some of them where they stand in no way."""
    away = flats.copy()
    away[moved, FLAT.CENTRE] = away[moved, FLAT.PLANE] = NOWHERE_M
    away[moved, FLAT.HALF_SIZES] = 0.0
    return away


def _first_hits(emitters: Emitters, staying: Ints, traced: TracedPaths) -> NDArray[np.int16]:
    found = np.empty(len(traced.segments), np.int16)
    in_bands(lambda a, b: shade_paths.first_emitters(emitters, staying, traced, a, b, found), len(found), least=4096)
    return found
