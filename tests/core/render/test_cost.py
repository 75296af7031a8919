"""What a set costs is known before it is paid: many parts are thinned with a word, and their light stays what it was."""

import math
from dataclasses import replace

import pytest

from fotaxis.core.lights.fixtures import MOST_POPS
from fotaxis.core.metering.incident import arriving_lux_s
from fotaxis.core.render.arrays.pack_emitters import face_keys, pack_emitters
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.render.arrays.subdivide import MOST_FACES, cuts, places_of, thinned_words
from fotaxis.core.values import Point
from fotaxis.services.cache import bytes_of
from tests import scenes

DOORS = (0.3, 0.3, 0.3, 0.3)


def painted(i, pops=MOST_POPS, **more):
    """A head that flashes along a way across; all its places lie in one plane, so none stands before another."""
    head = scenes.head(f"head-{i}", x=-0.5, y=0.3, z=0.9 + 0.1 * i, turn=180, tilt=0)
    return replace(head, way=(scenes.stance(0.5, 0.3, 0.9 + 0.1 * i, 180),), pops=pops, grid_angle_rad=0.0, **more)


def bent(i):
    return replace(scenes.card(f"card-{i}", x=-0.6, z=0.02 * i), bend_rad=math.pi)


def plan(lights, cards=()):
    return replace(scenes.plan(), lights=tuple(lights), cards=tuple(cards))


@pytest.mark.parametrize(
    ("heads", "cards", "doors"), [(1, 0, False), (6, 0, False), (24, 24, True), (2, 24, False), (24, 0, True)]
)
def test_any_legal_set_stays_within_its_memory(heads, cards, doors):
    # 6 heads of 60 flashes asked for 12 GB, a full set for 98.
    made = plan([painted(i, doors=DOORS if doors else None) for i in range(heads)], [bent(i) for i in range(cards)])
    still = pack_static_scene(made)
    movables = pack_emitters(made, still)
    faces = len(movables.light)
    assert faces == len(face_keys(made))
    assert faces <= max(MOST_FACES, heads * 5 + cards * 2)
    assert bytes_of(list(movables)) < 400_000_000


def test_few_flashes_are_all_shown_and_nothing_is_said():
    made = plan([painted(0)], [bent(0)])
    assert cuts(made.lights, made.cards).places == MOST_POPS
    assert thinned_words(made.lights, made.cards) == {}
    assert sum(at.share for at in places_of(painted(0))) == MOST_POPS


def test_thinned_flashes_are_said_and_give_the_light_of_all():
    made = plan([painted(i) for i in range(6)])
    words = thinned_words(made.lights, made.cards)
    assert len(words) == 6
    assert all("of 60 flashes" in text for text in words.values())
    most = cuts(made.lights, made.cards).places
    assert most < MOST_POPS
    assert sum(at.share for at in places_of(made.lights[0], most)) == pytest.approx(MOST_POPS)
    # Beside the way of the head the light of 26 places is that of 60 within the unevenness of their spacing.
    at = {"place": Point(x_m=0.0, y_m=0.15, z_m=0.1).array(), "normal": Point(x_m=0.0, y_m=0.0, z_m=1.0).array()}
    one = plan([painted(0)])
    whole, thinned = arriving_lux_s(one, **at)[0], arriving_lux_s(replace(one, lights=made.lights), **at)[0]
    assert thinned == pytest.approx(whole, rel=0.03)
