"""Every kind of thing is whole: made of what it says of itself, kept in the shot file, drawn and told in words."""

from __future__ import annotations

import json
import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera.filters import BeforeLens
from fotaxis.core.errors import DomainError
from fotaxis.core.lights.card_finishes import FINISH
from fotaxis.core.lights.fixtures import Card
from fotaxis.core.lights.modifiers import MODIFIERS
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.render.final.final_render import predict
from fotaxis.core.render.lighting import FINE, lighting
from fotaxis.core.render.preview.traced_scene import trace_scene
from fotaxis.core.scene.products import SHAPES
from fotaxis.core.scene.products.flacon import Flacon
from fotaxis.formats import shot_file
from fotaxis.services.presets import new_shape, new_thing, start_document
from tests import scenes


@pytest.mark.parametrize("key", [key for key, kind in SHAPES.items() if kind.begins])
def test_a_shape_begins_whole_and_comes_back_from_its_file(key):
    document = start_document("empty")
    document["subject"] = {"name": "Thing", "body": {"material": "black gloss"}, **new_shape(key)}
    checked = shot_file.from_raw(document)
    assert shot_file.read(shot_file.write(checked)) == checked
    product = checked.plan().product
    assert (product.shape.turned is not None) + (product.shape.mesh is not None) == product.shape.seen
    assert product.height_m > 0.01
    assert 0 <= product.shape.base_radius_m <= product.reach_m


@pytest.mark.parametrize("key", [key for key, kind in MODIFIERS.items() if kind.begins])
def test_a_kind_of_light_or_card_begins_whole_and_comes_back_from_its_file(key):
    document = start_document("empty")
    document[MODIFIERS[key].group] = [{**new_thing(key), "key": "one"}]
    checked = shot_file.from_raw(document)
    assert shot_file.read(shot_file.write(checked)) == checked
    plan = checked.plan()
    thing = (*plan.lights, *plan.cards)[0]
    assert thing.size_words
    assert thing.kind_words


def test_the_published_schema_knows_every_kind():
    published = json.dumps(shot_file.json_schema())
    for key in (*SHAPES, *(name for kind in MODIFIERS.values() for name in kind.names or (kind.key,))):
        assert f'"const": "{key}"' in published or f'"{key}"' in published, key


def disc(diameter: float = 0.6, **more) -> Card:
    return Card(
        key="disc", name="Disc", stance=scenes.stance(0.0, 0.5, -0.4, 0.0, 0.0), width_m=diameter, height_m=diameter,
        finish=FINISH["opal acrylic"], round=True, **more,
    )  # fmt: skip


def test_a_round_diffuser_lit_from_behind_gives_the_light_of_a_disc():
    # Closed form: E = pi L R^2 / (R^2 + d^2) on the axis of an even disc. A far lamp lights it evenly: the square sheet of the same
    # width, lit alike, gives L. Tolerance: the disc's places (1.5 %).
    lamp = replace(scenes.panel("lamp", x=0, y=0.5, z=-8, turn=0, width=0.3, height=0.3))
    at = np.array([[0, 0.5, 0.0, 0, 0, -1.0, 0, 1]], np.float32)

    def lux(card: Card) -> float:
        plan = replace(scenes.bare(scenes.cylinder(radius=0.001, height=0.002), lights=(lamp,)), cards=(card,))
        return float(lighting(plan, pack_static_scene(plan), FINE).direct(at)[0, 0, 1])

    square = replace(disc(), round=False)
    seen = lux(square)
    half = 0.3 / 0.4
    # Lambert: illuminance before the middle of a square of half width a at distance 1: 4 a / sqrt(1 + a^2) atan(a / sqrt(1 + a^2)).
    root = math.sqrt(1 + half**2)
    luminance = seen / (4 * half / root * math.atan(half / root))
    assert lux(disc()) == approx(math.pi * luminance * 0.3**2 / (0.3**2 + 0.4**2), rel=0.015)


def test_a_round_diffuser_is_whole_and_says_its_diameter():
    assert disc().size_words == "Ø 60 cm"
    with pytest.raises(DomainError, match="round"):
        disc(hole_m=0.1)


def test_a_flacon_is_a_cone_between_foot_and_neck():
    flacon = Flacon(foot_diameter_m=0.07, neck_diameter_m=0.02, height_m=0.13)
    # By hand: half-way up the cone (0.41 of the height) the radius is the mean of both. Tolerance: the smooth outline.
    assert flacon.profile.radius_at(0.41 * 0.13) == approx((0.035 + 0.01) / 2, rel=0.01)
    assert flacon.profile.top_m == 0.13
    with pytest.raises(DomainError, match="narrower"):
        Flacon(foot_diameter_m=0.07, neck_diameter_m=0.065, height_m=0.13)


def test_a_flacon_of_glass_holds_a_liquid():
    document = start_document("empty")
    document["subject"] = {
        "name": "Flacon", "body": {"material": "black gloss"}, **new_shape("flacon"),
        "glass": {"glass": "clear glass", "wall_mm": 2, "floor_cm": 1}, "liquid": {"liquid": "white wine", "level_cm": 6},
    }  # fmt: skip
    product = shot_file.from_raw(document).plan().product
    assert product.vessel is not None
    assert product.walls().level is not None
    scene = pack_static_scene(shot_file.from_raw(document).plan())
    assert len(scene.bodies) >= 4  # outer wall, inner wall dry and wet, the liquid's top


def test_a_set_without_a_product_shows_the_rest():
    document = start_document("empty")
    document["subject"] = {"name": "Nothing", "body": {"material": "black gloss"}, **new_shape("nothing")}
    document["riser"] = None
    plan = shot_file.from_raw(document).plan()
    assert len(pack_static_scene(plan).bodies) == 0
    lit = replace(plan, lights=(scenes.panel("left"),), background=scenes.plan().background)
    picture = predict(lit, long_side=60).pictures[1]
    assert picture.max() > 0
    stage = trace_scene(lit, width=48, height=60)
    assert not stage.is_product.any()
    bare = replace(lit, table=None, background=None, before_lens=BeforeLens())
    assert predict(bare, long_side=40).pictures[1:].max() == 0
