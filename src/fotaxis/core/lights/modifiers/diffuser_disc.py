"""A round diffuser on a stand: sheet stretched over a hoop, lit from behind or put between a lamp and the product."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fotaxis.core.lights.card_finishes import FINISH, SHEETS, passing
from fotaxis.core.lights.fixtures import Card
from fotaxis.core.lights.modifiers.kind import CARDS, ModifierKind, Placed
from fotaxis.core.lights.modifiers.sheet import LOSS
from fotaxis.core.measures import Choice, metres, size


def make(at: Placed, v: Mapping[str, Any]) -> Card:
    across = metres(v, "diameter_cm")
    return Card(
        key=at.key, name=at.name, stance=at.stance, width_m=across, height_m=across,
        finish=passing(FINISH[v["material"]], v["loss_stops"]), round=True,
    )  # fmt: skip


KIND = ModifierKind(
    key="diffuser disc", group=CARDS, make=make, menu="sheets",
    about="A round diffuser on a stand: a sheet stretched over a hoop.",
    measures=(
        size("diameter_cm", "Diameter", least=1, part="place"),
        Choice(name="material", words="Sheet", choices=tuple(finish.name for finish in SHEETS), what="sheet"),
        LOSS,
    ),
    begins={
        "kind": "diffuser disc", "name": "Diffuser disc", "place": {"x_cm": -40, "y_cm": 28, "z_cm": -20}, "turn_deg": 63,
        "tilt_deg": 0, "diameter_cm": 55, "material": "half white",
    },
)  # fmt: skip
