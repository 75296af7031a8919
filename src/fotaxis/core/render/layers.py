"""One linear picture per light, and how they add up to the photograph."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.camera.tone import PLAIN_TONE, Tone, soft_shoulder
from fotaxis.core.kernel import kernel
from fotaxis.core.lights.fixtures import Light
from fotaxis.core.render.parallel import in_bands
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Array, Picture


@dataclass(frozen=True, slots=True, kw_only=True)
class Layers:
    """One linear picture per light at full power, and the room at 1 lux first.

    keys: 'room', then the lights' keys in build order.
    pictures (1 + lights, height, width, 3) float32, cd s/m2 for flash, cd/m2 for continuous light.
    lost_share: mean share of a pixel's light dropped by the tracer's cut-offs.
    """

    keys: tuple[str, ...]
    pictures: Picture
    lost_share: float

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in pixels."""
        return self.pictures.shape[2], self.pictures.shape[1]


def layer_gains(plan: Plan) -> Array:
    """What each layer is multiplied by in the planned picture, (1 + lights,) float64; 0 for a light that is off.

    Raises DomainError when a flash is on and the shutter is faster than sync.
    """
    return np.array([room_gain(plan), *(light_gain(plan, light) if light.emission.on else 0.0 for light in plan.lights)])


def room_gain(plan: Plan) -> float:
    """As layer_gains, for the room."""
    return plan.exposure.layer_gain(power_stops=0.0, continuous=True) * plan.room_lux * plan.before_lens.transmission


def light_gain(plan: Plan, light: Light, *, power_stops: float | None = None) -> float:
    """As layer_gains, for one light, as if it were on; power_stops: in place of its own power."""
    e = light.emission
    power = e.power_stops if power_stops is None else power_stops
    return plan.exposure.layer_gain(power_stops=power, continuous=e.continuous) * plan.before_lens.transmission


@kernel
def _develop(
    pictures: Picture, gains: NDArray[np.float32], curve: NDArray[np.uint8], shoulder: bool, begin: int, end: int,
    out: NDArray[np.uint8],
) -> None:  # fmt: skip
    """Weighted sum of pixels begin..end of all layers, through the output curve indexed by square root."""
    top = np.float32(curve.shape[0] - 1)
    sums = np.empty(3, np.float32)
    for p in range(begin, end):
        for c in range(3):
            level = np.float32(0.0)
            for i in range(pictures.shape[0]):
                level += gains[i] * pictures[i, p, c]
            sums[c] = level
        if shoulder:
            sums[0], sums[1], sums[2] = soft_shoulder(sums[0], sums[1], sums[2])
        for c in range(3):
            level = min(np.float32(1.0), max(np.float32(0.0), sums[c]))
            out[p, c] = curve[int(np.sqrt(level) * top + np.float32(0.5))]


def develop(layers: Layers, gains: Array, tone: Tone = PLAIN_TONE) -> NDArray[np.uint8]:
    """The picture as it is delivered, (height, width, 3) uint8 sRGB, within half a step of exact."""
    flat = layers.pictures.reshape(len(gains), -1, 3)
    out = np.empty(flat.shape[1:], np.uint8)
    curve = tone.curve
    in_bands(lambda a, b: _develop(flat, gains.astype(np.float32), curve, tone.shoulder, a, b, out), len(out))
    return out.reshape(layers.pictures.shape[1:])


def mixed(layers: Layers, gains: Array) -> Picture:
    """Linear levels of the planned picture, (height, width, 3) float32, grey 0.18, not clipped."""
    return np.tensordot(gains.astype(np.float32), layers.pictures, axes=1)
