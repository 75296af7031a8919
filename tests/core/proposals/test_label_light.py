"""A head for a label: no image of it in the gloss, even light, both read in the picture that it makes."""

from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera.camera import picture_size
from fotaxis.core.constants import REC709_LUMINANCE
from fotaxis.core.lights.calibration import Candela
from fotaxis.core.proposals.label_light import ZonePlaces, label_lights, light_from
from fotaxis.core.proposals.survey import looked_over
from fotaxis.core.proposals.ways import surface_at
from fotaxis.core.render.arrays.path_records import SKINS_PER_SURFACE
from fotaxis.core.render.mirrored import mirrors
from fotaxis.core.render.preview.traced_scene import trace_scene
from fotaxis.services.pictures import Pictures
from tests import scenes

SIDE = 400
CAMERAS = {
    "level": {"height": 0.19, "aim": 0.19}, "from above": {"distance": 1.2, "height": 0.7, "aim": 0.17, "focal": 0.085},
    "short lens": {"distance": 0.5, "height": 0.2, "aim": 0.18, "focal": 0.035},
}  # fmt: skip


def staged(plan):
    width, height = picture_size(ratio=plan.camera.crop_ratio, long_side=SIDE)
    return trace_scene(plan, width=width, height=height)


def label_of(plan, stage):
    rows, columns = np.nonzero(stage.is_product)
    skins = stage.scene.skins[stage.traced.first[rows * stage.width + columns] % SKINS_PER_SURFACE]
    matte = ~mirrors(skins)
    some = slice(None, None, 60)
    x, y = columns[matte][some] + 0.5, rows[matte][some] + 0.5
    on = surface_at(plan, stage.scene, x.astype(float), y.astype(float), stage.width, stage.height)
    there = on.there & ~on.mirrors
    zone = ZonePlaces(
        places=on.places[there],
        normals=on.normals[there],
        row=(y[there] // 12).astype(int),
        column=(x[there] // 12).astype(int),
    )
    return zone, (rows[matte], columns[matte])


@pytest.mark.parametrize("name", CAMERAS)
def test_no_image_of_the_head_reaches_the_lens(name):
    plan = scenes.plan(lights=(), background=None, camera=scenes.camera(**CAMERAS[name]))
    stage = staged(plan)
    zone, (rows, columns) = label_of(plan, stage)
    head = scenes.head()
    found = label_lights(plan, zone, looked_over(plan, stage.scene, stage.is_product), head)
    assert len(found) == 3
    assert found == sorted(found, key=lambda one: one.cost)
    lamp = replace(
        head, stance=found[0].stance, emission=replace(head.emission, calibration=Candela(value=4000), power_stops=0.0)
    )
    made = Pictures().fine(replace(plan, lights=(lamp,)), long_side=SIDE).levels().astype(float) @ np.array(REC709_LUMINANCE)
    label = float(np.median(made[rows, columns]))
    on_gloss = stage.is_product.copy()
    on_gloss[rows, columns] = False
    # An image of the head, read in the picture's own pixels, would be as bright as the label and more.
    assert (made[on_gloss] > label).mean() == approx(found[0].mirrored, abs=0.004)
    assert found[0].mirrored < 0.01


def test_light_falls_as_cosine_and_square_say():
    # By hand: straight on at 1 m and, at 2 m, 60 degrees off: a quarter of a half.
    head = scenes.head(x=0, y=0, z=1, turn=180, tilt=0)
    places, normals = np.array([[0.0, 0, 0], [0, 0, -1.0]]), np.array([[0.0, 0, 1], [np.sqrt(3) / 2, 0, 0.5]])
    light, straight = light_from(head.stance, places, normals, head)
    assert light[1] / light[0] == approx(1 / 8)
    assert straight == approx(0.75)


def test_how_even_it_is_told_is_how_even_it_is_in_the_picture():
    plan = scenes.plan(lights=(), background=None, table=None, riser=None)
    stage = staged(plan)
    zone, (rows, columns) = label_of(plan, stage)
    head = scenes.head()
    best = label_lights(plan, zone, looked_over(plan, stage.scene, stage.is_product), head)[0]
    lamp = replace(
        head, stance=best.stance, emission=replace(head.emission, calibration=Candela(value=4000), power_stops=0.0)
    )
    made = Pictures().fine(replace(plan, lights=(lamp,)), long_side=SIDE).levels().astype(float) @ np.array(REC709_LUMINANCE)
    # By plain arithmetic on the picture: medians of its rows and columns of the label, 12 pixels each.
    stops = np.log2(made[rows, columns])
    spreads = [[np.median(stops[lies // 12 == k]) for k in np.unique(lies // 12)] for lies in (rows, columns)]
    assert max(np.ptp(one) for one in spreads) == approx(best.uneven_stops, abs=0.3)
