"""The meter that can be set down, and the lights' apertures against each other."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.metering.incident import at_meter_lux_s, light_f_numbers, meter_of, suggested_f_number
from fotaxis.core.render.mirrored import place_in_frame
from fotaxis.core.render.preview.traced_scene import trace_scene
from fotaxis.core.scene.meter import Meter
from fotaxis.core.values import Point
from tests import scenes

FAR = 4.0


def small_light(key="light", *, x, z, power=0.0):
    turn = math.degrees(math.atan2(-x, -z))
    return scenes.panel(key, x=x, y=0.15, z=z, turn=turn, width=0.02, height=0.02, power=power)


def in_the_open(**more):
    """A meter in free air, beside and above everything."""
    return Meter(place=Point(x_m=0.0, y_m=0.15, z_m=0.5), normal=(0.0, 0.0, 1.0), **more)


@pytest.mark.parametrize("off_deg", [0, 40, 80, 120])
def test_a_flat_receptor_follows_the_cosine_and_a_dome_half_of_one_more(off_deg):
    # Source: Lambert's law; a half ball's shadow is (1 + cos) / 2 of its disc's.
    x, z = FAR * math.sin(math.radians(off_deg)), 0.5 + FAR * math.cos(math.radians(off_deg))
    plan = scenes.bare(scenes.cylinder(radius=0.001, height=0.01), lights=(small_light(x=x, z=z),))
    straight = replace(plan, lights=(small_light(x=0.0, z=0.5 + FAR),))
    whole = at_meter_lux_s(straight, in_the_open())[0]
    turned = replace(plan.lights[0], stance=scenes.stance(x, 0.15, z, math.degrees(math.atan2(-x, 0.5 - z))))
    plan = replace(plan, lights=(turned,))
    cosine = math.cos(math.radians(off_deg))
    assert at_meter_lux_s(plan, in_the_open())[0] / whole == approx(max(cosine, 0.0), abs=0.01)
    assert at_meter_lux_s(plan, in_the_open(dome=True))[0] / whole == approx((1 + cosine) / 2, abs=0.02)
    assert at_meter_lux_s(plan, in_the_open(faces="light"))[0] / whole == approx(1.0, abs=0.01)


def test_a_dome_asks_for_less_by_its_own_constant():
    # Source: ISO 2720, C = 250 for a flat receptor and 330 for a dome: N goes with the root of their ratio.
    plan = scenes.bare(scenes.cylinder(radius=0.001, height=0.01), lights=(small_light(x=0.0, z=0.5 + FAR),))
    flat, dome = (suggested_f_number(plan, in_the_open(dome=dome)) for dome in (False, True))
    assert (dome / flat) ** 2 == approx(250 / 330, rel=0.02)


def test_ratios_are_of_the_present_powers_metered_towards_each_light():
    # By hand: twice as far is two stops less (inverse square), two stops more power brings it back.
    near, far = small_light("near", x=-2.0, z=0.0, power=-3.0), small_light("far", x=4.0, z=0.0, power=-1.0)
    plan = scenes.bare(scenes.cylinder(radius=0.01), lights=(near, far))
    a, b = light_f_numbers(plan)
    assert 2 * math.log2(a / b) == approx(0.0, abs=0.03)
    c, d = light_f_numbers(replace(plan, lights=(near, replace(far, emission=replace(far.emission, power_stops=-2.0)))))
    assert c == approx(a)
    assert 2 * math.log2(c / d) == approx(1.0, abs=0.03)
    # A light behind the product is metered from behind, where it falls on it.
    rim = small_light("rim", x=0.0, z=-2.0, power=-3.0)
    assert light_f_numbers(replace(plan, lights=(rim,)))[0] == approx(a, rel=0.01)


def test_a_meter_lies_where_the_frame_was_pointed_at():
    plan = scenes.plan()
    stage = trace_scene(plan, width=320, height=400)
    radius = plan.product.profile.radius_at(0.085)
    x, y = plan.camera.project(np.array([0.0, plan.lift_m + 0.085, radius]), width=1, height=1)
    label = place_in_frame(plan, stage.scene, x, y, width=320, height=400)
    assert label.owner == "product"
    assert label.place == approx([0.0, plan.lift_m + 0.085, radius], abs=1e-3)
    assert label.normal == approx([0, 0, 1], abs=0.02)
    wall = place_in_frame(plan, stage.scene, 0.02, 0.05, width=320, height=400)
    assert wall.owner == "background"
    assert wall.normal == approx([0, 0, 1], abs=1e-3)
    table = place_in_frame(plan, stage.scene, 0.5, 0.99, width=320, height=400)
    assert table.owner == "table"
    assert table.normal == approx([0, 1, 0], abs=1e-3)
    assert meter_of(plan).on == plan.product.name
    on_wall = Meter(place=Point(x_m=0, y_m=0.3, z_m=-1.5), normal=(0.0, 0.0, 1.0))
    assert meter_of(replace(plan, meter=on_wall)) is on_wall
