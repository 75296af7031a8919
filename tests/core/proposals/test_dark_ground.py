"""A darker background, by distance and by a flag, read in the picture; the fall-off against the inverse square."""

import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.constants import REC709_LUMINANCE
from fotaxis.core.lights.calibration import Candela
from fotaxis.core.lights.card_finishes import FINISH
from fotaxis.core.lights.fixtures import Card
from fotaxis.core.proposals.dark_ground import background_light, darker_at_m, ground_flag
from fotaxis.core.render.layers import layer_gains
from fotaxis.services.pictures import Pictures
from tests import scenes

SIDE = 240


def ground(plan):
    """The mean level of the background in the picture's corners, stops."""
    made = Pictures().fine(plan, long_side=SIDE).levels().astype(float) @ np.array(REC709_LUMINANCE)
    return math.log2(float(np.concatenate([made[:24, :24].ravel(), made[:24, -24:].ravel()]).mean()))


def label(plan):
    made = Pictures().fine(plan, long_side=SIDE).levels().astype(float) @ np.array(REC709_LUMINANCE)
    return float(np.quantile(made, 0.97))


def set_up(**light):
    lit = replace(scenes.panel(**({"x": -0.55, "z": 0.5, "turn": 140.0, "width": 0.4, "height": 0.6} | light)))
    lit = replace(lit, emission=replace(lit.emission, calibration=Candela(value=6000), power_stops=0.0))
    plan = scenes.plan(lights=(lit,), table=None, riser=None)
    return replace(plan, background=replace(plan.background, distance_m=0.8, width_m=6, height_m=6))


@pytest.mark.parametrize("stops", [1.0, 2.0, 3.0])
def test_further_away_it_is_as_much_darker_as_was_asked(stops):
    plan = set_up()
    away = darker_at_m(plan, layer_gains(plan)[1:], stops=stops)
    assert away is not None
    moved = replace(plan, background=replace(plan.background, distance_m=away, width_m=12, height_m=12))
    assert ground(moved) - ground(plan) == approx(-stops, abs=0.2)


def test_from_a_small_lamp_it_falls_with_the_square():
    # By hand: a lamp on the axis d before the background; a stop darker at d times the root of 2.
    head = scenes.head(x=0, y=0.3, z=1.0, turn=180, tilt=0)
    lamp = replace(
        head, diameter_m=0.05, grid_angle_rad=0.0, emission=replace(head.emission, calibration=Candela(value=5000))
    )
    plan = scenes.plan(
        lights=(lamp,), table=None, riser=None, camera=scenes.camera(distance=3.0, height=0.6, aim=0.6, focal=0.3)
    )
    plan = replace(plan, background=replace(plan.background, distance_m=1.0))
    away = darker_at_m(plan, layer_gains(plan)[1:], stops=1.0)
    assert away is not None
    assert 1 + away == approx(2 * math.sqrt(2), rel=0.03)


def test_no_distance_makes_it_black_for_ever():
    plan = set_up()
    assert darker_at_m(plan, layer_gains(plan)[1:], stops=20.0) is None


def test_a_flag_keeps_the_light_off_the_background_and_on_the_product():
    plan = set_up(x=-0.8, z=0.2, turn=110.0)
    face = ground_flag(plan, plan.lights[0])
    assert face is not None
    card = Card(
        key="flag",
        name="Flag",
        stance=face.stance,
        width_m=face.width_m,
        height_m=face.height_m,
        finish=FINISH["black card"],
    )
    flagged = replace(plan, cards=(card,))
    gains = layer_gains(plan)[1:]
    told = math.log2(background_light(plan, gains).sum() / max(background_light(flagged, gains).sum(), 1e-9))
    assert told > 3
    assert ground(flagged) < ground(plan) - 3
    assert label(flagged) == approx(label(plan), rel=0.1)
