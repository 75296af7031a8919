"""What must not be in the picture as a whole: images named, the lens in a bright card, against pictures and by hand."""

from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.constants import MIDDLE_GREY
from fotaxis.core.frames.readings import NamedReading
from fotaxis.core.frames.readings.edge import EdgeLine
from fotaxis.core.frames.whole_picture import images_of, lens_share
from fotaxis.core.lights.calibration import Candela
from fotaxis.core.lights.card_finishes import FINISH
from fotaxis.core.lights.fixtures import Card
from fotaxis.core.materials.catalogue import SKIN
from fotaxis.core.scene.product import Product
from fotaxis.core.scene.products.box import Box
from fotaxis.core.wishes.clean import WHATS, Clean
from fotaxis.core.wishes.wish import MET, OPEN, Seen
from fotaxis.services.pictures import Pictures
from tests import scenes

SIDE = 400


def judged(plan, what, *, readings=(), share=0.01):
    pictures = Pictures()
    pictures.fine(plan, long_side=SIDE)
    values = pictures.named(plan, readings, long_side=SIDE)
    seen = Seen(
        values=values, names={one.key: one.name for one in readings}, whole=pictures.whole(plan, long_side=SIDE),
        lights=[light.name for light in plan.lights],
    )  # fmt: skip
    return Clean(what=what, share=share).judge(seen)


def strong(light, candela=8000.0):
    return replace(light, emission=replace(light.emission, calibration=Candela(value=candela), power_stops=0.0))


def test_what_else_is_mirrored_is_named_with_its_zone():
    lines = (NamedReading(key="l", name="Left", at=EdgeLine(left=True, low=0.5, high=0.6)),)
    # A third panel before the bottle, beside the camera, mirrored in the middle of the glass.
    third = scenes.panel("third", x=-0.7, y=0.3, z=0.9, turn=140.0, width=0.3, height=0.4)
    plan = scenes.plan(lights=(strong(scenes.panel("left")),))
    assert judged(plan, "mirrored", readings=lines).state == MET
    told = judged(replace(plan, lights=(*plan.lights, strong(third))), "mirrored", readings=lines)
    assert told.state == OPEN
    assert "Panel third on Bottle" in told.words


def test_the_share_that_an_image_takes_is_that_of_the_pixels():
    # Independent of the ways: with nothing but the panel lit, the pixels of the glass that are bright.
    plan = scenes.plan(lights=(strong(scenes.panel("left")),), table=None, riser=None, background=None)
    pictures = Pictures()
    made = pictures.fine(plan, long_side=SIDE).levels().astype(float).sum(axis=2)
    on = pictures.product_of(plan, long_side=SIDE)
    label = pictures.stage(plan, long_side=SIDE)
    skin = label.traced.first.reshape(label.height, label.width) % 256
    glass = on & (skin == 0)
    bright = float((made[glass] > 0.5 * np.quantile(made[glass], 0.99)).sum() / on.sum())
    images = pictures.whole(plan, long_side=SIDE).mirrored
    assert sum(one.share for one in images if one.key == "left") == approx(bright, abs=0.02)


def test_the_lens_shows_in_a_card_with_a_hole():
    flat = Product(name="Slab", shape=Box(width_m=0.2, height_m=0.2, depth_m=0.05), body=SKIN["chrome"].skin)
    camera = scenes.camera(distance=1.0, height=0.1, aim=0.1, focal=0.06)
    card = Card(
        key="card", name="Card", stance=scenes.stance(0, 0.1, 0.88, 180.0), width_m=0.8, height_m=0.8, finish=FINISH["white card"],
        hole_m=0.1,
    )  # fmt: skip
    light = strong(scenes.panel("side", x=-0.6, y=0.4, z=0.2, turn=60.0, width=0.4, height=0.4), 60000.0)
    plan = scenes.plan(product=flat, table=None, riser=None, background=None, camera=camera, lights=(light,), cards=(card,))
    with_card = judged(plan, "lens", share=0.0)
    assert with_card.state == OPEN
    assert "lens" in with_card.words
    assert judged(replace(plan, cards=()), "lens", share=0.0).state == MET


def test_images_are_counted_by_thing_and_zone():
    levels = np.array([1.0, 1.0, 0.0, MIDDLE_GREY * 2.0**-5, 1.0])
    images = images_of(levels, ["a", "a", "a", "b", "b"], {"a": "Left"}, np.array([0, 1, 0, 0, 0]), {0: "Body", 1: "Cap"})
    assert [(one.of, one.zone, one.share) for one in images] == [
        ("Left", "Body", 0.2),
        ("Left", "Cap", 0.2),
        ("b", "Body", 0.2),
    ]


@pytest.mark.parametrize(("levels", "aside", "share"), [
    ([0.0, 1, 1, 1, 1, 1], [0.01, 0.1, 0.1, 0.2, 0.2, 0.1], 1 / 6), ([1.0, 1, 1, 1, 1, 1], [0.01, 0.1, 0.1, 0.2, 0.2, 0.1], 0.0),
    ([0.0, 0, 0, 0, 0, 0], [0.01, 0.1, 0.1, 0.2, 0.2, 0.1], 0.0), ([0.0, 1, 1, 1, 1, 1], [np.inf] * 6, 0.0),
])  # fmt: skip
def test_a_lens_is_dark_in_something_bright(levels, aside, share):
    assert lens_share(np.array(levels), np.array(aside)) == approx(share)


def test_veil_hot_spots_and_what_is_in_the_frame_are_told_as_they_are_found():
    clean = scenes.plan(lights=(), background=None)
    for what in WHATS:
        assert judged(clean, what).state == MET, what
    hot = replace(scenes.plan(), lights=(strong(scenes.head(), 4e6),))
    told = judged(hot, "hot spots")
    assert told.state == OPEN
    assert "Clipped" in told.words
    seen = scenes.plan(lights=(scenes.panel("in", x=0.0, z=-0.5, turn=0.0, width=0.1, height=0.1, y=0.35),), background=None)
    assert judged(seen, "in frame").state == OPEN


def test_nothing_is_said_without_a_look_at_the_whole():
    told = Clean(what="veil", share=0).judge(Seen(values={}, names={}))
    assert told.state == "not seen"


@pytest.mark.parametrize(("lux", "state"), [(0.0, MET), (2.0, MET), (40000.0, OPEN)])
def test_room_light_is_judged_by_the_black_frame(lux, state):
    # By hand: 1/125 f/8 ISO 100 asks for N^2 C / (t S) = 64 x 250 x 125 / 100 = 20 000 lux at grey; 2 lux is 13 stops less.
    assert judged(scenes.plan(lights=(), background=None, room_lux=lux), "room").state == state
