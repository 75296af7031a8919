"""The catalogue of materials for people: groups, words, and a small picture of each."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from fotaxis.core.errors import DomainError
from fotaxis.core.materials.catalogue import GLASSES, LIQUIDS, SKINS, TABLE_SKINS
from fotaxis.core.render.final.final_render import predict
from fotaxis.core.render.final.quality import SCREEN
from fotaxis.core.render.layers import develop, layer_gains
from fotaxis.core.scene.catalogue_sets.materials import swatch_plan
from fotaxis.services.ports import NotFound

SWATCH_SIDE = 190


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """One material or tool: how it is named in shot files, what it is, its figures."""

    kind: str
    name: str
    words: str
    figures: str = ""


def groups() -> list[tuple[str, list[Entry]]]:
    """All materials by group, in the catalogue's order."""
    found: dict[str, list[Entry]] = {}
    for kind, materials in (("skin", SKINS), ("glass", GLASSES), ("liquid", LIQUIDS), ("table", TABLE_SKINS)):
        for material in materials:
            found.setdefault(material.group, []).append(Entry(kind=kind, name=material.name, words=material.words))
    return list(found.items())


@lru_cache(maxsize=256)
def swatch(kind: str, name: str) -> np.ndarray:
    """A square picture of a material, (190, 190, 3) uint8. Raises NotFound for an unknown one."""
    try:
        plan = swatch_plan(kind, name)
    except DomainError as error:
        raise NotFound(str(error)) from error
    return develop(predict(plan, long_side=SWATCH_SIDE, quality=SCREEN), layer_gains(plan))
