"""Lines on blurred metal and lacquer: the face asked for, and the line it makes read in the picture."""

from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera.camera import picture_size
from fotaxis.core.frames.readings import NamedReading
from fotaxis.core.frames.readings.edge import EdgeLine
from fotaxis.core.lights.calibration import Candela
from fotaxis.core.materials.catalogue import SKIN
from fotaxis.core.proposals.blurred_line import aimed_ends, corrected
from fotaxis.core.proposals.panel import face_at
from fotaxis.core.proposals.ways import line_ways
from fotaxis.core.render.preview.traced_scene import trace_scene
from fotaxis.core.scene.product import Product
from fotaxis.core.scene.products.turned import Turned
from fotaxis.services.pictures import Pictures
from tests import scenes

SIDE = 400


def test_without_blur_to_speak_of_the_ends_stay():
    part = np.linspace(0.05, 0.995, 81)
    near, far = corrected(part, 2 * np.arcsin(part), np.ones(81), 1e-3, near=0.6, far=0.8)
    assert (near, far) == approx((0.6, 0.8), abs=0.005)


def test_where_more_is_mirrored_outside_the_face_ends_further_in():
    part = np.linspace(0.05, 0.995, 81)
    _, far = corrected(part, 2 * np.arcsin(part), 0.04 + part**6, 0.15, near=0.6, far=0.8)
    assert far < 0.8


@pytest.mark.parametrize("material", ["satin lacquer", "satin aluminium", "chrome"])
@pytest.mark.parametrize(("near", "far"), [(0.3, 0.7), (0.4, 0.8)])
def test_the_line_is_read_where_it_was_wished_for(material, near, far):
    product = Product(name="Made", shape=Turned(profile=scenes.cylinder()), body=SKIN[material].skin)
    plan = scenes.plan(
        product=product, lights=(), riser=None, background=None, table=None, camera=scenes.camera(distance=2.0, focal=0.12)
    )
    width, height = picture_size(ratio=plan.camera.crop_ratio, long_side=SIDE)
    stage = trace_scene(plan, width=width, height=height)
    line = EdgeLine(left=True, low=0.3, high=0.7)
    ends = aimed_ends(plan, stage.scene, stage.is_product, line, near=near, far=far)
    face = face_at(line_ways(plan, stage.scene, stage.is_product, line, near=ends[0], far=ends[1]), 0.6)
    light = replace(
        scenes.panel("line", calibration=Candela(value=20000), power=0),
        width_m=face.width_m,
        height_m=1.2,
        stance=face.stance,
    )
    lit = replace(plan, lights=(light,))
    pictures = Pictures()
    pictures.fine(lit, long_side=SIDE)
    value = pictures.named(lit, (NamedReading(key="line", name="Line", at=line),), long_side=SIDE)["line"]
    assert value is not None
    # What is blurred has no sharp end to be read, and no line can be narrower than its lobe.
    assert abs(value.place) - value.width / 2 == approx(near, abs=0.05)
    assert abs(value.place) + value.width / 2 == approx(far, abs=0.05)
