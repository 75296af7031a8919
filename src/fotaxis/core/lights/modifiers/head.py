"""A head of a named kind (heads.py), or a measured lamp: barn doors, blades and mask, moved or flashing again."""

from __future__ import annotations

from fotaxis.core.lights.heads import HEADS
from fotaxis.core.lights.modifiers.kind import LIGHTS, ModifierKind, grid_angle
from fotaxis.core.measures import Choice

MEASURED = "measured lamp"

KIND = ModifierKind(
    key="head", group=LIGHTS, about="A head of a named kind, or a measured lamp.",
    measures=(
        Choice(name="head", words="Head", choices=(*(head.name for head in HEADS), MEASURED), what="head"),
        grid_angle(usual=0.0),
    ),
)  # fmt: skip
