"""Axes and beams of heads in plan and side."""

import math

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.lights.heads import HEAD
from fotaxis.core.scene.checks import is_far
from fotaxis.web.views.beam_drawing import AROUND, beam_reach_m, beams, half_beam_rad, pool_on_table
from fotaxis.web.views.svg_canvas import Paper
from tests import scenes


def test_a_grid_narrows_the_beam():
    bare = scenes.head()
    open_ = type(bare)(**{f: getattr(bare, f) for f in bare.__slots__ if f != "grid_angle_rad"})
    assert half_beam_rad(bare.shaping) < half_beam_rad(open_.shaping)
    # A grid's nominal angle is its full beam: half power lies within half of it.
    assert math.degrees(half_beam_rad(bare.shaping)) < 10.0


def test_half_power_is_where_the_pattern_says():
    dish = HEAD["dish 65°"]
    lamp = scenes.head()
    assert math.degrees(dish.pattern.half_rad) == approx(32.5)
    wide = half_beam_rad(type(lamp.shaping)(dish.pattern, 0.0, 0.0))
    assert math.degrees(wide) == approx(32.5, abs=3.0)


def test_a_beam_ends_on_the_table_or_a_little_past_the_product():
    down = np.array([0.0, -math.sqrt(0.5), -math.sqrt(0.5)])
    assert beam_reach_m(np.array([0, 0.5, 0.5]), down) == approx(0.5 * math.sqrt(2))
    level = beam_reach_m(np.array([0, 0.3, 1.0]), np.array([0, 0, -1.0]))
    assert level == approx(1.25)


@pytest.mark.parametrize("view", ["floor", "side"])
def test_every_head_that_is_on_has_its_axis(view):
    plan = scenes.plan()
    paper = Paper.fitting(width=400, height=300, a=(-100, 100), b=(-50, 150), unit="cm")
    heads = [light for light in plan.lights if hasattr(light, "head") and not is_far(light)]
    drawn = beams(plan, paper, view, selected=heads[0].key)
    assert len([line for line in drawn if "pool" not in line]) == 3 * len(heads)
    assert all("beam chosen" in line for line in drawn)


def test_a_pool_straight_down_is_a_circle_of_the_half_angle():
    # By hand: 60 cm over the table, looking straight down: radius h tan(half angle).
    plan = scenes.plan(lights=(scenes.head(x=0.1, y=0.6, z=0.05, turn=0, tilt=-90),))
    pool = pool_on_table(plan, plan.lights[0])
    assert len(pool) == AROUND
    assert pool[:, 1] == approx(np.zeros(AROUND), abs=1e-9)
    radius = np.hypot(pool[:, 0] - 0.1, pool[:, 2] - 0.05)
    assert radius == approx(np.full(AROUND, 0.6 * math.tan(half_beam_rad(plan.lights[0].shaping))), rel=1e-6)
    assert any("pool" in line for line in beams(plan, Paper.fitting(
        width=400, height=300, a=(-100, 100), b=(-50, 150), unit="cm"), "floor", selected=""))  # fmt: skip


def test_a_beam_over_the_table_has_no_pool_on_it():
    plan = scenes.plan(lights=(scenes.head(x=0, y=0.6, z=1.5, turn=180, tilt=10),))
    assert len(pool_on_table(plan, plan.lights[0])) == 0
