"""What a new shot begins with: at its measured size, framed, and never black."""

from __future__ import annotations

import pytest
from pytest import approx

from fotaxis.core.errors import FormatError
from fotaxis.core.placement.framing import filled
from fotaxis.core.scene.checks import collisions
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.services.beginnings import BEGINNINGS, NO_LIGHTS, begun
from fotaxis.services.pictures import Pictures

CODEC = JsonShots()


@pytest.mark.parametrize("key", BEGINNINGS)
def test_every_beginning_stands_at_its_size_framed_and_says_something(key):
    plan = CODEC.plan(begun(key, CODEC))
    one = BEGINNINGS[key]
    assert 100 * plan.product.height_m == approx(one.height, rel=0.03)
    assert 200 * plan.product.profile.widest_m == approx(one.width, rel=0.35)
    assert filled(plan, plan.camera) == approx(0.7, abs=0.02)
    assert collisions(plan) == {}
    picture = Pictures().quick(plan, long_side=120)
    # Never an all-black picture: some of it is well over middle grey, some under.
    assert picture.max() > 150
    assert (picture.max(axis=2) > 60).mean() > 0.005
    assert picture.min() < 90


def test_the_measured_size_and_the_look_are_taken():
    document = begun("burgundy", CODEC, name="House red", height_cm=31.5, width_cm=8.8, look="glow", fills=0.5)
    plan = CODEC.plan(document)
    assert document["name"] == "House red"
    assert 100 * plan.product.height_m == approx(31.5, abs=0.05)
    assert 200 * plan.product.profile.widest_m == approx(8.8, abs=0.05)
    assert filled(plan, plan.camera) == approx(0.5, abs=0.01)
    assert [light["key"] for light in document["lights"]] == ["glow"]
    assert begun("jar", CODEC, look=NO_LIGHTS)["lights"] == []


def test_an_unknown_shape_or_look_is_refused_with_what_to_do():
    for key, look in (("amphora", ""), ("jar", "moonlight")):
        with pytest.raises(FormatError, match="choose one of the pictures"):
            begun(key, CODEC, look=look)
