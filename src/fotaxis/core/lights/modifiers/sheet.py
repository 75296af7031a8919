"""A sheet that scatters light through: lit from behind it is a luminous face."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fotaxis.core.lights.card_finishes import FINISH, SHEETS, passing
from fotaxis.core.lights.fixtures import Card
from fotaxis.core.lights.modifiers.kind import CARDS, FACE, ModifierKind, Placed
from fotaxis.core.measures import Choice, Measure, metres

LOSS = Measure(name="loss_stops", words="Takes, 0 by the table", unit="stops", low=0, high=8, usual=0.0, step=0.1, least=0)


def make(at: Placed, v: Mapping[str, Any]) -> Card:
    return Card(
        key=at.key, name=at.name, stance=at.stance, width_m=metres(v, "width_cm"), height_m=metres(v, "height_cm"),
        finish=passing(FINISH[v["material"]], v["loss_stops"]),
    )  # fmt: skip


KIND = ModifierKind(
    key="sheet", group=CARDS, make=make,
    about="""A sheet that scatters light through: lit from behind it is a luminous face.

    loss_stops: what it takes of an even light where that was measured, 0: what its kind does.
    """,
    measures=(
        *FACE,
        Choice(name="material", words="Sheet", choices=tuple(finish.name for finish in SHEETS), what="sheet"),
        LOSS,
    ),
)  # fmt: skip
