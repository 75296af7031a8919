"""The power at which a light's brightest is at a wanted level: on the product, or in the frame where it does not fall on that."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from fotaxis.core.camera.camera import picture_size
from fotaxis.core.constants import MIDDLE_GREY, REC709_LUMINANCE
from fotaxis.core.lights.fixtures import at_full_power
from fotaxis.core.render.layers import layer_gains
from fotaxis.core.render.preview.traced_scene import TracedScene, relight_draft, trace_scene
from fotaxis.core.scene.plan import Plan

AIM_SIDE = 120
BRIGHTEST = 0.995
"""Share of a light's pixels that may be brighter than what counts as its brightest."""

NOTHING = 1e-6


def wanted_powers(plan: Plan, targets: Mapping[str, float], *, in_frame: frozenset[str] = frozenset()) -> dict[str, float]:
    """Stops from full at which each light's brightest is `targets` stops from grey; none for a light that shows nothing at all.

    in_frame: keys of lights that are meant for the frame, not the product.
    """
    full = tuple(at_full_power(light) for light in plan.lights)
    bright = replace(plan, lights=full, exposure=plan.exposure.in_step(), room_lux=0.0)
    width, height = picture_size(ratio=plan.camera.crop_ratio, long_side=AIM_SIDE)
    stage = trace_scene(bright, width=width, height=height)
    layers, gains = relight_draft(stage, bright).pictures, layer_gains(bright)
    powers = {}
    for i, light in enumerate(full, start=1):
        if light.key in targets:
            level = _brightest(stage, layers[i] * np.float32(gains[i]), of_product=light.key not in in_frame)
            if level > 0:
                powers[light.key] = targets[light.key] - math.log2(level / MIDDLE_GREY)
    return powers


def _brightest(stage: TracedScene, picture: np.ndarray, *, of_product: bool) -> float:
    luminance = picture.astype(np.float64) @ np.array(REC709_LUMINANCE)
    there = luminance[stage.is_product] if of_product and stage.is_product.any() else luminance
    level = float(np.quantile(there, BRIGHTEST))
    return level if level > NOTHING else float(np.quantile(luminance, BRIGHTEST))
