"""A rectangular or octagonal luminous face: box, strip, panel, window."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from fotaxis.core.lights.fixtures import Emission, Panel
from fotaxis.core.lights.gradients import EVEN, GRADIENT_KINDS
from fotaxis.core.lights.modifiers.kind import FACE, LIGHTS, ModifierKind, Placed, grid_angle
from fotaxis.core.measures import Choice, Flag, Measure, metres


def make(at: Placed, emission: Emission, v: Mapping[str, Any]) -> Panel:
    return Panel(
        key=at.key, name=at.name, stance=at.stance, width_m=metres(v, "width_cm"), height_m=metres(v, "height_cm"),
        gradient=v["gradient"], gradient_stops=v["gradient_stops"], grid_angle_rad=math.radians(v["grid_angle_deg"]),
        octagon=v["octagon"], wrinkles=v["wrinkles"], emission=emission,
    )  # fmt: skip


KIND = ModifierKind(
    key="panel", group=LIGHTS, make_light=make,
    about="""A rectangular luminous face: even, with a bright core, or with a ramp from its left to its right edge.

    grid_angle_deg: full angle of a fabric grid before it, 0 for none; octagon: cut to eight corners; wrinkles: of its cloth.
    """,
    measures=(
        *FACE,
        Choice(name="gradient", words="Gradient", choices=tuple(GRADIENT_KINDS), usual=EVEN),
        Measure(name="gradient_stops", words="Falls by", unit="stops", low=0, high=10, usual=0.0, step=0.5),
        grid_angle(usual=0.0),
        Measure(name="wrinkles", words="Wrinkles", unit="0–1", low=0, high=1, usual=0.0, step=0.1),
        Flag(name="octagon", words="Octagon"),
    ),
)  # fmt: skip
