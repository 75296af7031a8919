"""Where glass throws its refraction: against plain projection, and where the picture's table is bright."""

import json

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.proposals.thrown import thrown_by
from fotaxis.formats.shot_codec import JsonShots
from tests import scenes
from tests.formats import samples

CODEC = JsonShots()


def glass(**camera):
    document = json.loads((samples.DEMO / "gooseberry-pool.json").read_text())
    document["camera"] |= camera
    return CODEC.plan(CODEC.check(document))


def lamp(**where):
    return scenes.head(**({"x": 0.1, "y": 0.5, "z": -0.6, "turn": 0, "tilt": -35} | where))


def test_the_top_of_the_glass_is_thrown_where_the_straight_way_past_it_ends():
    # By hand: from height h past a rim at height r, x metres away: the ray lands x r / (h - r) beyond.
    plan = glass()
    product = plan.product
    light = lamp(x=0.0, y=0.6, z=-0.5)
    outline = next(one for one in thrown_by(plan, light) if one.product == product.name).outline
    top = plan.ground_m(product) + product.height_m
    rim = product.profile.radius_at(product.profile.top_m)
    farthest = (product.z_m + rim + 0.5) * 0.6 / (0.6 - top) - 0.5
    table = plan.table
    assert outline[:, 2].max() == approx(min(farthest, table.z_m + table.depth_m / 2), abs=0.01)
    assert outline[:, 1] == approx(np.zeros(len(outline)), abs=1e-9)


@pytest.mark.parametrize(("aim", "inside"), [(6.0, True), (60.0, False)])
def test_in_the_frame_or_out_of_it(aim, inside):
    plan = glass(aim_height_cm=aim)
    found = thrown_by(plan, lamp())
    assert found
    assert (found[0].in_frame > 0.3) == inside


def test_opaque_things_and_low_lights_throw_none():
    assert thrown_by(scenes.plan(), lamp()) == []
    assert thrown_by(glass(), lamp(y=0.001)) == []
