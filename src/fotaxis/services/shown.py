"""What a window shows of a plan: all of it, one light alone, the black frame."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from fotaxis.core.lights.fixtures import Light
from fotaxis.core.render.layers import layer_gains, light_gain
from fotaxis.core.scene.plan import Plan


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """What the window shows now, beyond the plan: one light alone ('' for all), the black frame."""

    alone: str = ""
    black: bool = False

    def gains(self, plan: Plan) -> np.ndarray:
        """Factor of every layer as it is shown. Raises DomainError as layer_gains does."""
        gains = layer_gains(plan)
        if self.black:
            flash = [not light.emission.continuous for light in plan.lights]
            gains[1:][flash] = 0.0
        elif self.alone:
            gains[:] = 0.0
            for i, light in enumerate(plan.lights, start=1):
                if light.key == self.alone:
                    gains[i] = light_gain(plan, light)
        return gains


def shown_plan(plan: Plan, shown: Shown) -> Plan:
    """The plan with what the window shows alone switched on, or, in the black frame, without flashes."""

    def lit(light: Light) -> bool:
        if shown.black:
            return light.emission.on and light.emission.continuous
        return light.key == shown.alone if shown.alone else light.emission.on

    lights = tuple(replace(light, emission=replace(light.emission, on=lit(light))) for light in plan.lights)
    return replace(plan, lights=lights, room_lux=0.0 if shown.alone and not shown.black else plan.room_lux)
