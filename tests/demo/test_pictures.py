"""Pictures of the demo's shots: what nobody may see in them."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from scipy.ndimage import maximum_filter, minimum_filter

import fotaxis.demo
from fotaxis.core.camera.camera import picture_size
from fotaxis.core.render.final.final_render import predict
from fotaxis.core.render.final.quality import SCREEN
from fotaxis.core.render.layers import layer_gains, mixed
from fotaxis.core.render.preview.traced_scene import relight_draft, trace_scene
from fotaxis.formats import shot_file

FOLDER = Path(fotaxis.demo.__file__).parent


@pytest.mark.parametrize("name", ["sparkling-can", "gift-carton"])
def test_at_f8_no_line_runs_over_what_is_even_and_nothing_shines_beside_an_edge(name):
    # Where a set is even over 7 x 7 pixels, an aperture of f/8 changes nothing: whole pictures, against all in focus.
    plan = shot_file.read((FOLDER / f"{name}.json").read_bytes()).plan()
    gains = layer_gains(plan)
    soft, sharp = (
        mixed(predict(replace(plan, camera=camera), long_side=500, quality=SCREEN), gains).mean(axis=2)
        for camera in (plan.camera, replace(plan.camera, focus_m=None))
    )
    assert plan.exposure.f_number == 8
    assert plan.camera.focus_m is not None
    level = np.maximum(sharp, 0.01 * sharp.max())
    even = maximum_filter(sharp, 7) - minimum_filter(sharp, 7) < 0.03 * np.maximum(level, 0.02 * sharp.max())
    assert even.mean() > 0.5
    assert (np.abs(soft - sharp) / level)[even].max() < 0.05


@pytest.mark.parametrize("side", [250, 400])
def test_the_weave_of_a_card_does_not_beat_with_the_pixels(side):
    # Over four pixels each way the front of the carton is as bright as one without a weave, but for one factor; all in focus.
    plan = shot_file.read((FOLDER / "gift-carton.json").read_bytes()).plan()
    plan = replace(plan, camera=replace(plan.camera, focus_m=None))
    smooth = replace(plan, product=replace(plan.product, body=replace(plan.product.body, relief=None)))
    assert plan.product.body.relief is not None
    gains, shares = layer_gains(plan), []
    for make in (picture_at_rest, draft):
        woven, plain = (mixed(make(one, side), gains).mean(axis=2) for one in (plan, smooth))
        top, left = round(0.26 * side), round(0.25 * side)
        height, width = round(0.05 * side) // 4, round(0.24 * side) // 4
        front = slice(top, top + 4 * height), slice(left, left + 4 * width)
        a, b = (p[front].reshape(height, 4, width, 4).mean(axis=(1, 3)) for p in (woven, plain))
        shares.append(a / b)
    for share in shares:
        assert share.std() < 0.012 * share.mean()


def picture_at_rest(plan, side):
    return predict(plan, long_side=side, quality=SCREEN)


def draft(plan, side):
    width, height = picture_size(ratio=plan.camera.crop_ratio, long_side=side)
    return relight_draft(trace_scene(plan, width=width, height=height), plan)
