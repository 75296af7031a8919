"""A card, the same on both sides: white, black, mirror, silver, gold; with a hole for the lens, cut like the product, or bent."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from fotaxis.core.lights.card_finishes import CARDS as FINISHES
from fotaxis.core.lights.card_finishes import FINISH, reflecting
from fotaxis.core.lights.fixtures import Card
from fotaxis.core.lights.modifiers.kind import CARDS, FACE, ModifierKind, Placed
from fotaxis.core.measures import Flag, Measure, metres


def make(at: Placed, v: Mapping[str, Any]) -> Card:
    return Card(
        key=at.key, name=at.name, stance=at.stance, width_m=metres(v, "width_cm"), height_m=metres(v, "height_cm"),
        finish=reflecting(FINISH[v["kind"]], v["reflects_percent"] / 100), hole_m=metres(v, "hole_cm"),
        like_product=v["like_product"], bend_rad=math.radians(v["bend_deg"]),
    )  # fmt: skip


KIND = ModifierKind(
    key="card", names=tuple(finish.name for finish in FINISHES), group=CARDS, make=make,
    about="""A card, the same on both sides.

    hole_cm: of a hole for the lens in its middle; like_product: cut to the product's outline; bend_deg: of a curved reflector,
    the arc that its width spans, hollow side to the front; reflects_percent: what it gives back where that was measured, 0: what its
    kind does.
    """,
    measures=(
        *FACE,
        Measure(name="hole_cm", words="Lens hole, 0 none", unit="cm", low=0, usual=0.0, step=0.5, least=0),
        Flag(name="like_product", words="Cut like the product"),
        Measure(name="reflects_percent", words="Gives back, 0 as its kind", unit="%", low=0, high=100, usual=0.0, step=1, least=0),
        Measure(name="bend_deg", words="Bent by", unit="°", low=0, high=180, usual=0.0, step=5),
    ),
)  # fmt: skip
