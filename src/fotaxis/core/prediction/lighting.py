"""Everything that lights matte places: lights, cards and the table, arranged and lit once per plan."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.optics import shading, tablelight
from fotaxis.core.optics.still import Still
from fotaxis.core.prediction.arrange import movable_set, table_top
from fotaxis.core.prediction.bands import in_bands
from fotaxis.core.prediction.plan import Plan
from fotaxis.core.prediction.stillset import still_set

LEAST_BAND = 32


@dataclass(frozen=True, slots=True, kw_only=True)
class Detail:
    """Into how many parts things are cut: samples of a light (a Fibonacci number), cells of a card, rings and sectors
    of the table around the product."""

    light: int
    card: int
    table: tuple[int, int]


DRAFT = Detail(light=13, card=6, table=(5, 12))
FINE = Detail(light=89, card=24, table=(16, 40))


@dataclass(frozen=True, slots=True, kw_only=True)
class Lighting:
    """Movables with lit cards, and the table with its own light; None where it throws none worth counting."""

    still: Still
    movables: shading.Movables
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


def lighting(plan: Plan, still: Still, detail: Detail) -> Lighting:
    """Arrange what lights a plan, and light its cards and table."""
    movables = movable_set(plan, still, cells=detail.light, card_cells=detail.card)
    lights = len(plan.lights)
    shading.light_cards(still, movables, lights)
    table = table_top(plan, rings=detail.table[0], around=detail.table[1])
    lit = Lighting(still=still, movables=movables, table=table, lights=lights)
    if table is not None:
        tablelight.light_table(table, lit.direct(tablelight.cell_places(table)))
    return lit


@lru_cache(maxsize=2)
def fine_lighting(plan: Plan) -> Lighting:
    """The fine lighting of a plan, kept for its next reading: one answer to the page reads several places."""
    return lighting(plan, still_set(plan), FINE)
