"""Cautions stand at the thing and the moment that raise them, and nowhere else (common practice)."""

from dataclasses import replace

import pytest

from fotaxis.services.cautions import by_thing
from tests import scenes

DRY = {"table": {"surface": "black gloss"}}
WET = {"table": {"surface": "water film"}}


def test_a_panel_that_stands_by_itself_needs_none():
    assert by_thing(scenes.plan(lights=(scenes.panel("left"),)), DRY) == {}


def test_a_boom_over_the_glass():
    over = scenes.head(x=0.05, y=0.9, z=0.1)
    assert "Over the product" in by_thing(scenes.plan(lights=(over,)), DRY)["label"]
    aside = scenes.head(x=0.9, y=0.9, z=0.9)
    assert "High up" in by_thing(scenes.plan(lights=(aside,)), DRY)["label"]


def hot(light):
    return replace(light, emission=replace(light.emission, continuous=True, colour_k=3200.0))


def test_a_hot_lamp_and_the_sheet_before_it():
    lamp = hot(scenes.panel("lamp", x=-0.9, y=0.3, z=0.0))
    alone = by_thing(scenes.plan(lights=(lamp,)), DRY)
    assert "Burns hot: let it cool" in alone["lamp"]
    near = by_thing(scenes.plan(lights=(lamp,), cards=(scenes.card(x=-0.7, y=0.3, z=0.0),)), DRY)
    assert "Burns hot, 20 cm from Card: heat-rated material only" in near["lamp"]
    led = replace(lamp, emission=replace(lamp.emission, colour_k=5600.0))
    assert by_thing(scenes.plan(lights=(led,)), DRY) == {}


def test_water_beside_mains():
    assert "Water on the table" in by_thing(scenes.plan(lights=(scenes.panel("left"),)), WET)["left"]
    far = scenes.panel("left", x=-2.0)
    assert by_thing(scenes.plan(lights=(far,)), WET) == {}


@pytest.mark.parametrize(("turn", "told"), [(0.0, True), (90.0, False)])
def test_a_flash_into_the_lens(turn, told):
    flash = scenes.panel("back", x=0.0, y=0.19, z=-0.3, turn=turn)
    assert ("towards the camera" in by_thing(scenes.plan(lights=(flash,)), DRY).get("back", "")) is told


def test_makers_and_local_codes_come_first():
    assert by_thing(scenes.plan(lights=(scenes.head(x=0.0, y=0.9, z=0.0),)), DRY)["label"].endswith(
        "Maker's manual and local codes first."
    )
