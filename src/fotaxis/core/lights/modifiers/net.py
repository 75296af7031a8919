"""A net: dims what passes and leaves its direction."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fotaxis.core.lights.card_finishes import FINISH, NETS
from fotaxis.core.lights.fixtures import Card
from fotaxis.core.lights.modifiers.kind import CARDS, FACE, ModifierKind, Placed
from fotaxis.core.measures import Choice, metres


def make(at: Placed, v: Mapping[str, Any]) -> Card:
    return Card(
        key=at.key, name=at.name, stance=at.stance, width_m=metres(v, "width_cm"), height_m=metres(v, "height_cm"),
        finish=FINISH[v["material"]],
    )  # fmt: skip


KIND = ModifierKind(
    key="net", group=CARDS, make=make, about="A net: dims what passes and leaves its direction.",
    measures=(*FACE, Choice(name="material", words="Net", choices=tuple(finish.name for finish in NETS), what="net")),
)  # fmt: skip
