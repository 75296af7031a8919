"""Lighting set-ups of the main schools, one file each, fitted to the product, the table and the camera by computation.

setup: what each says of itself, and the tools they build with; a new one is written like acrylic.py and listed here.
SETUPS: all of them by key, in the order pages list them; apply_setup: a shot with one of them in place of its own lights.
"""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from fotaxis.core.camera.camera import picture_size
from fotaxis.core.constants import MIDDLE_GREY, REC709_LUMINANCE
from fotaxis.core.errors import FormatError
from fotaxis.core.lights.fixtures import Light, at_full_power
from fotaxis.core.render.layers import layer_gains
from fotaxis.core.render.preview.traced_scene import TracedScene, relight_draft, trace_scene
from fotaxis.core.scene.plan import Plan
from fotaxis.services.lighting_setups import (
    acrylic,
    bright_field,
    dark_field,
    double_diffusion,
    glow,
    one_light,
    overhead,
    raking,
)
from fotaxis.services.lighting_setups.setup import LightingSetup, sizes_of
from fotaxis.services.ports import Document, ShotCodec
from fotaxis.services.presets import usual_mask

SETUPS: dict[str, LightingSetup] = {
    module.SETUP.key: module.SETUP
    for module in (double_diffusion, acrylic, one_light, dark_field, bright_field, raking, overhead, glow)
}

AIM_SIDE = 120
BRIGHTEST = 0.995
"""Share of a light's pixels that may be brighter than what counts as its brightest."""


def apply_setup(document: Document, key: str, codec: ShotCodec) -> Document:
    """A shot's document with the lights and cards of a set-up in place of its own, powers set so that each light's brightest
    reaches what is usual. Raises FormatError for an unknown one, or where the set cannot be built."""
    if key not in SETUPS:
        raise FormatError(f"there is no start called {key[:20]!r}; choose one from the list.", place="school")
    setup = SETUPS[key]
    before = codec.plan(document)
    made = setup.make(sizes_of(before))
    lens = {**document["lens"]}
    if setup.windowed and not lens.get("mask"):
        lens["mask"] = usual_mask(before)
    result = codec.check({**document, "lens": lens, **made})
    plan = codec.plan(result)
    powers = _powers(plan, setup)
    result["lights"] = [
        {**light, "power_stops": powers.get(light["key"], light["power_stops"])} for light in result["lights"]
    ]
    return codec.check(result)


def _powers(plan: Plan, setup: LightingSetup) -> dict[str, float]:
    """The step of each light's power at which its brightest on the product, or in the frame, is what the set-up wants."""
    full = tuple(at_full_power(light) for light in plan.lights)
    bright = replace(plan, lights=full, exposure=plan.exposure.in_step(), room_lux=0.0)
    width, height = picture_size(ratio=plan.camera.crop_ratio, long_side=AIM_SIDE)
    stage = trace_scene(bright, width=width, height=height)
    layers, gains = relight_draft(stage, bright).pictures, layer_gains(bright)
    powers = {}
    for i, light in enumerate(full, start=1):
        if light.key in setup.targets:
            level = _brightest(stage, layers[i] * np.float32(gains[i]))
            if level > 0:
                powers[light.key] = _step(light, setup.targets[light.key] - math.log2(level / MIDDLE_GREY))
    return powers


def _brightest(stage: TracedScene, picture: np.ndarray) -> float:
    luminance = picture.astype(np.float64) @ np.array(REC709_LUMINANCE)
    there = luminance[stage.is_product] if stage.is_product.any() else luminance
    level = float(np.quantile(there, BRIGHTEST))
    return level if level > 1e-6 else float(np.quantile(luminance, BRIGHTEST))


def _step(light: Light, stops: float) -> float:
    """The nearest step of the light's own power range."""
    steps, lowest = light.emission.power_range.steps_per_stop, light.emission.power_range.lowest_stops
    return max(-float(lowest), min(0.0, round(stops * steps) / steps))
