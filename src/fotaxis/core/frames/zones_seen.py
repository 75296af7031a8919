"""Which zones of the product a picture shows, and where: what readings are begun with."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fotaxis.core.frames.readings.reading import product_rows
from fotaxis.core.keys import PRODUCT_KEY
from fotaxis.core.materials.material import KIND, METAL
from fotaxis.core.render.arrays.path_records import SKINS_PER_SURFACE
from fotaxis.core.render.mirrored import mirrors, zone_name
from fotaxis.core.render.preview.traced_scene import TracedScene
from fotaxis.core.scene.plan import Plan

LEAST_SHARE = 0.003
ENDS = 0.02
"""Of a zone's pixels so many lie beyond its stated ends: a slanted edge, a curl."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ZoneSeen:
    """A zone as it is seen: its name, '' for the body; mirrors: glass, metal, gloss; metal; heights on the product from foot 0 to top
    1, across from -1 to 1 of the row's extent; share: of the product's pixels."""

    name: str
    mirrors: bool
    metal: bool
    low: float
    high: float
    begin: float
    end: float
    share: float

    def inner(self, inset: float = 0.1) -> tuple[float, float, float, float]:
        """low, high, begin and end, drawn in by a part of its height and width."""
        tall, wide = inset * (self.high - self.low), inset * (self.end - self.begin)
        return (
            round(self.low + tall, 3), round(self.high - tall, 3), round(self.begin + wide, 3), round(self.end - wide, 3),
        )  # fmt: skip


def zones_seen(plan: Plan, stage: TracedScene) -> list[ZoneSeen]:
    """Zones of the product that a picture shows, the largest first."""
    span = product_rows(stage.is_product)
    if span is None:
        return []
    rows, columns = np.nonzero(stage.is_product)
    first = stage.traced.first[rows * stage.width + columns]
    number = first % SKINS_PER_SURFACE
    left = np.argmax(stage.is_product, axis=1)
    right = stage.width - 1 - np.argmax(stage.is_product[:, ::-1], axis=1)
    height = (span[1] - rows) / max(span[1] - span[0], 1)
    across = 2 * (columns - left[rows]) / np.maximum(right[rows] - left[rows], 1) - 1
    found: dict[str, ZoneSeen] = {}
    for skin in np.unique(number[first >= 0]):
        on = (number == skin) & (first >= 0)
        share = float(on.mean())
        if share < LEAST_SHARE:
            continue
        name = zone_name(plan, PRODUCT_KEY, stage.scene.skins[int(skin)])
        low, high = np.quantile(height[on], [ENDS, 1 - ENDS])
        begin, end = np.quantile(across[on], [ENDS, 1 - ENDS])
        row = stage.scene.skins[int(skin)]
        zone = ZoneSeen(
            name=name, mirrors=bool(mirrors(row)), metal=bool(row[KIND] == METAL), low=float(low), high=float(high),
            begin=float(begin), end=float(end), share=share,
        )  # fmt: skip
        if name not in found or found[name].share < share:
            found[name] = zone
    return sorted(found.values(), key=lambda zone: -zone.share)
