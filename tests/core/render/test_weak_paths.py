"""Light that is thrown on many times or splits often comes back whole, and is where it belongs."""

import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx
from scipy.ndimage import uniform_filter

from fotaxis.core.columns import SEGMENT
from fotaxis.core.materials.fresnel import reflectance
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.render.arrays.path_records import LEAVES_SET
from fotaxis.core.render.final.final_render import predict
from fotaxis.core.render.passes import trace_samples
from tests import material_scenes, scenes

WIDTH, HEIGHT = 240, 300


def even_surround(plan):
    """What every pixel shows of an even surround of 1 without anything that absorbs, and which see the product; and what is said
    to be lost."""
    alone = replace(plan, table=None, riser=None, background=None, lights=(), cards=())
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH] + 0.5
    traced = trace_samples(
        alone, pack_static_scene(alone), np.stack([x.ravel(), y.ravel()], axis=1), width=WIDTH, height=HEIGHT
    )
    owner = np.repeat(np.arange(WIDTH * HEIGHT), np.diff(traced.starts))
    out = traced.segment_hit == LEAVES_SET
    back = np.bincount(owner[out], traced.segments[out, SEGMENT.GREEN], minlength=WIDTH * HEIGHT)
    return back.reshape(HEIGHT, WIDTH), (traced.product >= 0).reshape(HEIGHT, WIDTH), traced.lost_share


@pytest.mark.parametrize(
    "plan", [material_scenes.filled_bottle(), material_scenes.half_filled_bottle(), material_scenes.stemware()]
)
def test_a_lossless_glass_gives_an_even_surround_back(plan):
    # Conservation of energy: glass and water that absorb nothing look as bright as what is around them, the foot too.
    back, product, lost = even_surround(plan)
    assert product.sum() > 3000
    assert back[product].mean() == approx(1.0, abs=0.003)
    around = uniform_filter(back, 5)[uniform_filter(product.astype(float), 5) > 0.999]
    assert around.min() > 0.98
    assert around.max() < 1.02
    assert lost * product.size / product.sum() == approx(1.0 - back[product].mean(), abs=1e-4)  # what is lost is said


def test_a_panel_mirrored_by_the_table_and_then_by_a_jar_is_there():
    # Fresnel twice: the front line of a black glass cylinder mirrors the black gloss table, that a panel before both.
    panel = scenes.panel("front", x=0, y=0.25, z=2.4, turn=180, width=2.0, height=1.2)
    cam = scenes.camera(distance=1.2, height=0.42, aim=0.05, focal=0.1)
    plan = replace(
        scenes.bare(scenes.cylinder(), lights=(panel,), cam=cam),
        table=replace(scenes.plan().table, width_m=6.0, depth_m=3.0),
    )
    layers = predict(plan, long_side=300)
    place = np.array([0.0, 0.06, scenes.CYLINDER_RADIUS])
    ray = place - cam.place.array()
    ray /= np.linalg.norm(ray)
    off = ray * [1, 1, -1]  # mirrored by the front line, whose normal is +z
    down = place + off * (place[1] / -off[1])
    up = off * [1, -1, 1]
    meets = down + up * ((2.4 - down[2]) / up[2])
    assert abs(meets[1] - 0.25) < 0.6, "the panel is met"
    expected = panel.full_luminance * reflectance(-ray[2], 1.5) * reflectance(-off[1], 1.49)
    assert expected < 0.01 * panel.full_luminance
    x, y = to_pixel(plan, place, layers.pictures.shape)
    assert float(layers.pictures[1, y, x, 1]) == approx(expected, rel=0.02)


def to_pixel(plan, place, shape):
    """Column and row of a place in the picture (pinhole)."""
    right, up, ahead = plan.camera.basis()
    half_w, half_h = plan.camera.half_field
    v = place - plan.camera.place.array()
    x, y = v @ right / (v @ ahead) / half_w, v @ up / (v @ ahead) / half_h
    return math.floor((x + 1) / 2 * shape[2]), math.floor((1 - y) / 2 * shape[1])
