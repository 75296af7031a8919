"""Readings in words: the background's tone against its closed form, relief, left against right."""

import math
import re
from dataclasses import replace

import pytest

from fotaxis.core.materials.material import Skin
from fotaxis.core.scene.plan import Background
from fotaxis.core.scene.product import described
from fotaxis.core.values import Reflectance
from fotaxis.services import readings
from tests import scenes


def with_background(reflectance, room_lux=0.0, lights=()):
    plan = scenes.plan(lights=lights)
    return replace(
        plan, room_lux=room_lux,
        background=Background(
            distance_m=1.0, width_m=2.0, height_m=2.0, centre_height_m=0.5, skin=Skin(reflectance=Reflectance.grey(reflectance))
        ),
    )  # fmt: skip


def stops_said(words):
    return float(re.search(r"product: ([+−]?[0-9.]+) stops", words)[1].replace("−", "-"))


def test_a_background_four_times_as_reflective_is_two_stops_brighter():
    lights = (scenes.panel("a", x=-0.6, z=0.5, turn=130.0),)
    dark, bright = (readings.background_words(with_background(r, lights=lights)) for r in (0.2, 0.8))
    assert stops_said(bright) - stops_said(dark) == pytest.approx(2.0, abs=0.1)


def test_a_background_without_light_reads_black_and_none_says_nothing():
    assert readings.background_words(with_background(0.5)).endswith(": black.")
    assert readings.background_words(replace(scenes.plan(lights=()), background=None)) == ""


def test_the_product_is_described_with_its_measures():
    product = replace(scenes.plan(lights=()).product, turn_rad=math.radians(30), lying=True)
    words = described(product)
    assert f"{product.height_m * 100:.1f} cm high" in words
    assert "turned 30°" in words
    assert words.endswith(", lying")


def test_what_is_not_seen_is_said():
    assert readings.reading_words(None) == "not seen in this frame"


def test_left_against_right_needs_both():
    assert readings.sides_words((), {}) == ""
