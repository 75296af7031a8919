"""The tape between two things, against distances by hand."""

from dataclasses import replace

import pytest

from fotaxis.core.keys import CAMERA_KEY, PRODUCT_KEY
from fotaxis.services.measuring_tape import tape_between
from tests import scenes


def plan():
    lights = (scenes.panel("a", x=-0.3, y=0.2, z=0.0), scenes.panel("b", x=0.0, y=0.7, z=-0.4))
    return replace(scenes.plan(lights=lights), camera=scenes.camera(distance=1.5, height=0.15))


def test_the_tape_reads_straight_level_and_in_height_between_middles():
    tape = tape_between(plan(), "a", "b")
    assert tape is not None
    # By Pythagoras: 30 and 40 cm across the floor, 50 cm up.
    assert (tape.level_cm, tape.rise_cm) == pytest.approx((50.0, 50.0))
    assert tape.straight_cm == pytest.approx(50 * 2**0.5)
    assert tape.names == ("Panel a", "Panel b")
    back = tape_between(plan(), "b", "a")
    assert back is not None
    assert back.rise_cm == pytest.approx(-50.0)


def test_the_lens_and_the_middle_of_the_product_are_ends_too():
    tape = tape_between(plan(), CAMERA_KEY, PRODUCT_KEY)
    assert tape is not None
    assert tape.level_cm == pytest.approx(150.0)
    assert tape.rise_cm == pytest.approx(4 + plan().product.height_m * 50 - 15)  # on a riser of 4 cm


@pytest.mark.parametrize(("one", "other"), [("a", "a"), ("a", "gone"), ("", PRODUCT_KEY)])
def test_there_is_no_tape_without_two_ends(one, other):
    assert tape_between(plan(), one, other) is None
