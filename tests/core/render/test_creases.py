"""Creases within one body and outlines are smooth, and light does not run across them."""

from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.geometry.mesh import smooth_patches
from fotaxis.core.geometry.profile import Profile, refine
from fotaxis.core.geometry.revolution import pack, smooth_runs
from fotaxis.core.geometry.solids import rounded_box
from fotaxis.core.materials.material import Skin
from fotaxis.core.render.final.final_render import FINAL, render_final
from fotaxis.core.render.preview.traced_scene import trace_scene
from fotaxis.core.scene.products.box import Box
from fotaxis.core.values import Reflectance
from tests import scenes

WIDTH, HEIGHT, FINER = 200, 250, 4
LIDDED = Profile(heights_m=(0, 0.10, 0.1005, 0.12), radii_m=(0.05, 0.05, 0.053, 0.053))
WHITE = Skin(reflectance=Reflectance.grey(0.8))


def seen_from_above(shape=None):
    key = scenes.panel("key", x=0.3, y=0.9, z=0.6, turn=207, tilt=-50, width=0.6, height=0.6)
    cam = scenes.camera(distance=0.8, height=0.3, aim=0.06)
    plan = scenes.bare(LIDDED, lights=(key,), cam=cam, body=WHITE)
    return plan if shape is None else replace(plan, product=replace(plan.product, shape=shape))


def picture(plan, times):
    stage = trace_scene(plan, width=WIDTH * times, height=HEIGHT * times)
    made = render_final(stage, plan, quality=FINAL).pictures[1, ..., 1].astype(float)
    return made.reshape(HEIGHT, times, WIDTH, times).mean(axis=(1, 3))


@pytest.mark.slow
@pytest.mark.parametrize(
    "shape", [None, Box(width_m=0.1, height_m=0.12, depth_m=0.06, edge_m=0.001)], ids=["lidded tin", "box"]
)
def test_a_picture_is_the_mean_of_one_four_times_as_fine(shape):
    # The finer picture has the same light between its nodes (what that misses does not show here), but its own pixels at every edge.
    plan = seen_from_above(shape)
    coarse, fine = picture(plan, 1), picture(plan, FINER)
    lit = fine > 0.02 * fine.max()
    assert lit.sum() > 8000
    assert coarse.sum() == approx(fine.sum(), rel=0.003)
    off = np.abs(coarse - fine)[lit] / np.maximum(np.maximum(coarse, fine), 0.05 * fine.max())[lit]
    assert np.quantile(off, 0.99) < 0.16
    assert (off > 0.5).mean() < 0.004


def test_smooth_runs_end_where_an_outline_has_a_crease():
    # Foot, wall, shoulder of the lid, its side and its top; a bottle's outline from foot to mouth is one run between its creases.
    frusta, _ = pack(refine(LIDDED))
    assert smooth_runs(frusta).tolist() == [0, 1, 2, 3, 4]
    frusta, _ = pack(refine(scenes.profile()))
    runs = smooth_runs(frusta)
    assert (np.diff(runs) >= 0).all()
    assert np.bincount(runs).max() > 100


def test_smooth_patches_end_where_a_mesh_has_a_crease():
    sharp = rounded_box(width_m=0.1, height_m=0.1, depth_m=0.1, edge_m=0.0)
    round_ = rounded_box(width_m=0.1, height_m=0.1, depth_m=0.1, edge_m=0.01)
    assert len(np.unique(smooth_patches(sharp))) == 6  # the faces of a cube
    assert len(np.unique(smooth_patches(round_))) == 1
