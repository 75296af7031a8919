"""Every lighting set-up, for every shape, at three focal lengths, from the front and from above: nothing stands where it cannot,
nothing
shows that must not, and every light is at the level that is wanted."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera.camera import picture_size
from fotaxis.core.constants import MIDDLE_GREY, REC709_LUMINANCE
from fotaxis.core.frames.faults import crossings, things_in_frame
from fotaxis.core.lights.gels import stops_lost
from fotaxis.core.materials.material import KIND, METAL
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.render.arrays.path_records import SKINS_PER_SURFACE
from fotaxis.core.render.layers import layer_gains
from fotaxis.core.render.preview.traced_scene import relight_draft, trace_scene
from fotaxis.core.scene.checks import collisions, out_of_reach
from fotaxis.core.scene.products import SHAPES
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.services.beginnings import NO_LIGHTS, begun
from fotaxis.services.levels import BRIGHTEST
from fotaxis.services.lighting_setups import SETUPS, apply_setup, grey_gels
from fotaxis.services.pictures import Pictures
from fotaxis.services.presets import new_shape, start_document

CODEC = JsonShots()
FILLS = 0.62
"""The product takes this part of the frame's height, or its width does."""

DOWN_DEG = 35


def subjects():
    for start in ("bottle", "jar"):
        yield start, start_document(start)
    for kind, shape in SHAPES.items():
        if shape.begins:
            document = start_document("jar")
            document["subject"] = {**new_shape(kind), "name": kind, "body": {"material": "black gloss"}}
            yield kind, document


SUBJECTS = dict(subjects())


def framed(document, *, focal_mm, above):
    """The document with the camera where a lens fills FILLS of the frame."""
    plan = CODEC.plan(CODEC.check(document))
    size = max(100 * plan.product.height_m, 250 * plan.product.profile.widest_m)
    middle = round(100 * (plan.lift_m + plan.product.height_m / 2), 1)
    away = max(250 * plan.product.profile.widest_m + 15, size / FILLS * focal_mm / 36)
    down = math.radians(DOWN_DEG if above else 0)
    camera = {
        **document["camera"], "focal_length_mm": focal_mm, "aim_height_cm": middle,
        "distance_cm": round(away * math.cos(down), 1), "height_cm": round(middle + away * math.sin(down), 1),
    }  # fmt: skip
    return CODEC.check({**document, "camera": camera})


def faults(plan):
    frame = {f.key: f.words for f in things_in_frame(plan, pack_static_scene(plan))}
    return {**collisions(plan), **out_of_reach(plan), **{f.key: f.words for f in crossings(plan)}, **frame}


def level_stops(stage, picture, *, in_frame):
    """Of the brightest of a light on the product, or in the frame where it is meant for that or shows nothing there, from grey."""
    luminance = picture.astype(np.float64) @ np.array(REC709_LUMINANCE)
    there = luminance[stage.is_product] if stage.is_product.any() and not in_frame else luminance
    level = float(np.quantile(there, BRIGHTEST))
    level = level if level > 1e-6 else float(np.quantile(luminance, BRIGHTEST))
    return math.log2(max(level, 1e-9) / MIDDLE_GREY)


@pytest.mark.parametrize("above", [False, True], ids=["front", "above"])
@pytest.mark.parametrize("focal_mm", [50, 100, 150])
@pytest.mark.parametrize("subject", SUBJECTS)
def test_every_set_up_stands_free_out_of_the_frame_and_at_its_level(subject, focal_mm, above):
    if (subject, focal_mm, above) == ("trainer", 50, True):
        pytest.xfail("known: 29 cm of shoe from above at 50 mm; a sheet of the double diffusion comes 7 cm into the frame")
    document = framed(SUBJECTS[subject], focal_mm=focal_mm, above=above)
    for key, setup in SETUPS.items():
        plan = CODEC.plan(apply_setup(document, key, CODEC))
        assert faults(plan) == {}, key
        width, height = picture_size(ratio=plan.camera.crop_ratio, long_side=120)
        stage = trace_scene(plan, width=width, height=height)
        layers, gains = relight_draft(stage, plan).pictures, layer_gains(plan)
        for i, light in enumerate(plan.lights, start=1):
            if light.key in setup.targets:
                level = level_stops(stage, layers[i] * np.float32(gains[i]), in_frame=light.key in setup.in_frame)
                assert level == approx(setup.targets[light.key], abs=1 / 3), (key, light.key)


@pytest.mark.parametrize("stops", [0.3, 1.0, 2.5, 4.0, 6.0])
def test_grey_gels_take_what_is_wanted_or_a_little_more(stops):
    assert stops <= stops_lost(grey_gels(stops)) <= stops + 1


@pytest.mark.parametrize("turn_deg", [-28, 35])
@pytest.mark.parametrize("down_deg", [0, 20])
def test_the_card_for_the_logo_stands_where_the_foil_looks(turn_deg, down_deg):
    """Independent reading: the foil's own pixels of the finished picture, with the card and without it."""
    document = begun("carton", CODEC, look=NO_LIGHTS)
    document["subject"]["turn_deg"] = turn_deg
    down = math.radians(down_deg)
    document["camera"] |= {"distance_cm": 120 * math.cos(down), "height_cm": 10 + 120 * math.sin(down), "aim_height_cm": 10}
    plan = CODEC.plan(apply_setup(CODEC.check(document), "raking", CODEC))
    made = Pictures().fine(plan, long_side=240)
    width, height = made.layers.size
    stage = trace_scene(plan, width=width, height=height)
    metal = np.array([row[KIND] == METAL for row in stage.scene.skins])
    skin = np.where(stage.traced.product == 0, stage.traced.first % SKINS_PER_SURFACE, 0).reshape(height, width)
    foil = stage.is_product & metal[skin]
    level = {}
    for cards in (plan.cards, ()):
        levels = Pictures().fine(replace(plan, cards=cards), long_side=240).levels().astype(np.float64)
        level[bool(cards)] = math.log2(
            max(float(np.median((levels @ np.array(REC709_LUMINANCE))[foil])), 1e-6) / MIDDLE_GREY
        )
    assert level[True] > -0.5
    assert level[False] < level[True] - 4
