"""The product fills what was said, in the traced picture itself."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera.camera import picture_size
from fotaxis.core.errors import DomainError
from fotaxis.core.placement.framing import filled, reframed
from fotaxis.core.render.preview.traced_scene import trace_scene
from fotaxis.core.scene.product import Product
from fotaxis.core.scene.products.box import Box
from fotaxis.core.scene.products.turned import Turned
from tests import scenes


def bottle():
    return scenes.plan(lights=())


def jar():
    return scenes.plan(
        lights=(), product=Product(name="Jar", shape=Turned(profile=scenes.cylinder(0.04, 0.06)), body=scenes.PAPER)
    )


def box():
    shape = Box(width_m=0.12, height_m=0.08, depth_m=0.06, edge_m=0.002)
    return scenes.plan(lights=(), product=Product(name="Box", shape=shape, body=scenes.PAPER, turn_rad=math.radians(30)))


@pytest.mark.parametrize("focal_m", [0.035, 0.1, 0.2])
@pytest.mark.parametrize("fills", [0.35, 0.7, 0.9])
@pytest.mark.parametrize("make", [bottle, jar, box])
@pytest.mark.parametrize("high", [0.0, 0.6])
def test_the_traced_picture_shows_the_product_as_large_as_was_said(make, fills, focal_m, high):
    plan = make()
    up = replace(plan.camera.place, y_m=plan.camera.place.y_m + high)
    plan = replace(plan, camera=replace(plan.camera, place=up))
    framing = reframed(plan, fills=fills, focal_length_m=focal_m)
    plan = replace(plan, camera=framing.camera)
    width, height = picture_size(ratio=plan.camera.crop_ratio, long_side=400)
    seen = trace_scene(plan, width=width, height=height).is_product
    # Independent reading: pixels of the picture; the riser hides nothing of the product.
    rows, columns = np.flatnonzero(seen.any(axis=1)), np.flatnonzero(seen.any(axis=0))
    share = max((rows[-1] - rows[0] + 1) / height, (columns[-1] - columns[0] + 1) / width)
    assert share == approx(framing.fills, abs=0.015)
    if framing.fills < fills - 0.01:  # as near as the lens may come
        assert focal_m < 0.05
    else:
        assert framing.fills == approx(fills, abs=0.01)
    before, after = make().camera, framing.camera
    way = before.place.array() + np.array([0.0, high, 0.0]) - before.aim.array()
    now = after.place.array() - after.aim.array()
    assert now @ way / np.linalg.norm(now) / np.linalg.norm(way) == approx(1.0, abs=1e-9)


def test_another_lens_keeps_the_framing():
    plan = bottle()
    now = filled(plan, plan.camera)
    framing = reframed(plan, fills=now, focal_length_m=0.05)
    assert framing.fills == approx(now, abs=0.005)
    assert framing.camera.aim_distance_m < plan.camera.aim_distance_m


def test_what_cannot_be_framed_is_refused():
    with pytest.raises(DomainError, match="2 to 100"):
        reframed(bottle(), fills=1.5)
