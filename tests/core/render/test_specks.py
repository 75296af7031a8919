"""No specks, no steps: what stands alone in a picture, and light at edges and in grain."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.ndimage import maximum_filter, median_filter

from fotaxis.core.camera.camera import picture_size
from fotaxis.core.render.final.edges import lone_pixels
from fotaxis.core.render.final.final_render import FINAL, render_final
from fotaxis.core.render.layers import layer_gains, mixed
from fotaxis.core.render.preview.traced_scene import trace_scene
from fotaxis.formats import shot_file
from tests.formats import samples

QUARTER_STEP = 0.003
"""Darker than this nothing shows beside a bright pixel."""


def shown(name, **changes):
    plan = replace(shot_file.read((samples.DEMO / f"{name}.json").read_bytes()).plan(), **changes)
    width, height = picture_size(ratio=plan.camera.crop_ratio, long_side=500)
    stage = trace_scene(plan, width=width, height=height)
    return mixed(render_final(stage, plan, quality=FINAL), layer_gains(plan)).sum(axis=2), stage


def lone(picture):
    around = np.ones((3, 3), bool)
    around[1, 1] = False
    return picture > 4 * np.maximum(maximum_filter(picture, footprint=around), QUARTER_STEP)


@pytest.mark.slow
def test_dark_wood_at_the_rim_of_a_pool_beside_glass_has_no_dark_dashes():
    # The strip off, f/5.6: the table alone, where the grain and the shadow of glass meet the rim of the pool.
    plan = shot_file.read((samples.DEMO / "gooseberry-pool.json").read_bytes()).plan()
    lights = tuple(replace(one, emission=replace(one.emission, on=one.key == "pool")) for one in plan.lights)
    picture, stage = shown("gooseberry-pool", lights=lights, exposure=replace(plan.exposure, f_number=5.6))
    table = (stage.traced.product < 0).reshape(picture.shape) & (np.arange(len(picture))[:, None] > 0.6 * len(picture))
    assert table.sum() > 30_000
    around = median_filter(picture, 3)
    lit = table & (around > 0.01)
    assert lit.sum() > 20_000
    assert (picture[lit] < around[lit] / 4).sum() < 8  # the foot of the bottle's shadow is as sharp as that
    assert (picture[table] > 4 * np.maximum(around, QUARTER_STEP)[table]).sum() == 0


@pytest.mark.slow
@pytest.mark.parametrize("name", ["elder-cordial", "gift-carton", "gooseberry-with-glass"])
def test_hardly_a_pixel_of_a_file_stands_alone(name):
    # Lines of glass thinner than a pixel, and lamps it mirrors smaller than one, may: one in twenty thousand.
    picture, _ = shown(name)
    assert lone(picture).mean() < 5e-5


def test_a_lone_pixel_and_its_neighbours_are_found_and_a_line_is_not():
    flat = np.full((2, 20, 30, 3), 0.1, np.float32)
    flat[0, 5, 7] = 1.0
    flat[1, :, 20] = 1.0
    found = lone_pixels(flat.reshape(2, -1, 3), height=20, width=30).reshape(20, 30)
    expected = np.zeros((20, 30), bool)
    expected[4:7, 6:9] = True
    assert (found == expected).all()
