"""Pictures of the demo's shots: what nobody may see in them."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from scipy.ndimage import maximum_filter, minimum_filter

import fotaxis.demo
from fotaxis.core.render.final.final_render import predict
from fotaxis.core.render.final.quality import SCREEN
from fotaxis.core.render.layers import layer_gains, mixed
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
