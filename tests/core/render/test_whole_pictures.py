"""Whole pictures of ten scenes against Mitsuba 3 (published reference renderer), no part of them chosen.

Of the lit pixels (over a hundredth of the brightest) at most 0.5 % may lie outside what the reference shows within one pixel of them
by more than 2 %; so edges may be off by a pixel anywhere, but no more than one pixel in two hundred shows something else.
What is held fixed: products, lights and cameras are the same plan's; glass is the same outline, walls and levels come from our own
construction in both. Radiance through a sheet is left to tests/core/render/test_light_against_mitsuba.py: the reference has no such
material.
"""

from dataclasses import replace

import numpy as np
import pytest
from scipy.ndimage import maximum_filter, minimum_filter

from fotaxis.core.camera.camera import picture_size
from fotaxis.core.materials.material import Skin
from fotaxis.core.render.final.final_render import predict
from fotaxis.core.scene.plan import Background
from fotaxis.core.scene.product import Product, Zone
from fotaxis.core.scene.products.ball import Sphere
from fotaxis.core.scene.products.turned import Turned
from fotaxis.core.values import Reflectance
from tests import material_scenes, mitsuba_scene, scenes
from tests.core.render.test_against_mitsuba import bottle
from tests.core.render.test_materials_against_mitsuba import DEEP

pytestmark = [pytest.mark.mitsuba, pytest.mark.filterwarnings("ignore")]

LIMIT, OUTSIDE, LIT = 0.02, 0.005, 0.01


def on_paper():
    plan = bottle()
    return replace(plan, table=replace(plan.table, skin=scenes.PAPER))


def from_above():
    return replace(bottle(), riser=None, camera=scenes.camera(height=0.25, aim=0.08))


def ball():
    made = Product(name="Ball", shape=Sphere(diameter_m=0.08), body=scenes.BLACK_GLASS)
    return material_scenes.in_the_dark(
        made, lights=material_scenes.SIDES, cam=scenes.camera(height=0.04, aim=0.04, distance=0.7)
    )


def short_lens_before_a_bright_wall():
    """A matte grey bottle with a gloss label under a short lens, close and high, before a lit white wall; odd size."""
    label = Zone(low_m=0.05, high_m=0.12, azimuth_rad=0.4, width_rad=1.4, skin=scenes.BLACK_GLASS)
    made = Product(
        name="Bottle", shape=Turned(profile=scenes.profile()), body=Skin(reflectance=Reflectance.grey(0.4)), bands=(label,)
    )
    wall = Background(
        distance_m=0.7, width_m=3, height_m=3, centre_height_m=0.6, skin=Skin(reflectance=Reflectance.grey(0.8))
    )
    plan = bottle()
    return replace(
        plan, product=made, background=wall, riser=None, table=replace(plan.table, width_m=0.5, depth_m=0.4),
        camera=scenes.camera(distance=0.55, height=0.5, aim=0.12, focal=0.035, ratio=(3.0, 4.1)),
    )  # fmt: skip


def long_lens_on_a_shoulder():
    """Shoulder and neck of the black bottle through a long lens from far off, a white card beside it."""
    return replace(bottle(), camera=scenes.camera(distance=4.0, height=0.4, aim=0.2, focal=0.4), cards=(scenes.card(),))


OF_OLD = {"width": 640, "height": 800}
SCENES = {
    "bottle": (bottle, {**OF_OLD, "passes": 16}),
    "bottle on paper": (on_paper, {**OF_OLD, "depth": 3, "passes": 12, "seed": 40}),
    "bottle from above": (from_above, {**OF_OLD, "passes": 8, "seed": 80}),
    "filled bottle": (material_scenes.filled_bottle, {**OF_OLD, "passes": 8, "depth": DEEP}),
    "stemware": (material_scenes.stemware, {**OF_OLD, "passes": 8, "depth": DEEP}),
    "foil on a carton": (material_scenes.foil_on_carton, {**OF_OLD, "passes": 12, "depth": 3}),
    "rear-painted glass": (material_scenes.rear_painted, {**OF_OLD, "passes": 16, "depth": DEEP}),
    "ball": (ball, {**OF_OLD, "passes": 8, "depth": 4}),
    "short lens, bright wall": (short_lens_before_a_bright_wall, {"side": 411, "passes": 16, "depth": 3}),
    "long lens, card": (long_lens_on_a_shoulder, {"side": 400, "passes": 16, "depth": 3}),
}


@pytest.mark.parametrize("name", SCENES)
def test_no_more_than_one_pixel_in_two_hundred_shows_something_else(name):
    make, how = SCENES[name]
    plan, how = make(), dict(how)
    if "side" in how:
        how["width"], how["height"] = picture_size(ratio=plan.camera.crop_ratio, long_side=how.pop("side"))
    reference = mitsuba_scene.rendered(plan, **how)[..., 1]
    ours = predict(plan, long_side=how["height"]).pictures[1:].sum(axis=0)[..., 1]
    floor = LIT * np.quantile(reference, 0.99)
    high, low = maximum_filter(reference, 3), minimum_filter(reference, 3)
    lit = high > floor
    outside = (ours > high * (1 + LIMIT) + 0.2 * floor) | (ours < low * (1 - LIMIT) - 0.2 * floor)
    assert lit.mean() > 0.02
    assert (outside & lit).sum() <= OUTSIDE * lit.sum()
