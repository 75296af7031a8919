"""What would spoil the photograph is found, and nothing else is said."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera.filters import BeforeLens
from fotaxis.core.frames.faults import (
    clipped_product,
    crossings,
    light_into_lens,
    table_edges,
    things_in_frame,
)
from fotaxis.core.materials.material import Skin
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.render.layers import layer_gains, mixed
from fotaxis.core.render.lighting import draft_lighting
from fotaxis.core.render.preview.traced_scene import relight_draft, trace_scene
from fotaxis.core.scene.plan import Table
from fotaxis.core.values import Reflectance
from fotaxis.services.pictures import Pictures
from tests import scenes

GLARE = BeforeLens(glare=0.01)


def found_in_frame(plan):
    return {fault.key: fault.words for fault in things_in_frame(plan, pack_static_scene(plan))}


def test_a_card_is_told_by_how_far_it_reaches_into_the_frame():
    plan = scenes.plan(table=None, riser=None, background=None, lights=())
    half_w, _ = plan.camera.half_field
    # By hand: at z = -20 cm the lens, 1.5 m before the axis, sees 1.7 m times the tangent of half its field to each side.
    edge = 1.7 * half_w
    card = scenes.card("c", x=edge + 0.10 - 0.03, y=0.19, z=-0.2, turn=0, width=0.2, height=0.2)
    words = found_in_frame(replace(plan, cards=(card,)))["c"]
    assert "3 cm into the frame from the right" in words
    outside = replace(card, stance=scenes.stance(edge + 0.101, 0.19, -0.2, 0))
    assert found_in_frame(replace(plan, cards=(outside,))) == {}
    # Behind the bottle it is hidden; a sheet whose edges all lie outside the frame is a background, not a fault.
    hidden = scenes.card("c", x=0, y=0.1, z=-0.1, turn=0, width=0.04, height=0.1)
    backdrop = scenes.card("c", x=0, y=0.19, z=-0.5, turn=0, width=4 * edge, height=4 * edge)
    for card in (hidden, backdrop):
        assert found_in_frame(replace(plan, cards=(card,))) == {}


def test_a_stand_under_a_panel_is_told_before_it_shows():
    plan = scenes.plan(
        table=None, riser=None, background=None, lights=(), camera=scenes.camera(height=0.15, aim=0.0, focal=0.05)
    )
    half_w, _ = plan.camera.half_field
    x = 0.5 * 2.0 * half_w
    panel = scenes.panel("p", x=x, y=0.8, z=-0.5, turn=0, width=0.1, height=0.1)
    low = replace(panel, stance=scenes.stance(x, 0.59, -0.5, 0), height_m=0.02)
    words = found_in_frame(replace(plan, lights=(low,)))
    assert "p" in words


def test_a_light_that_shines_into_the_lens_is_told_with_a_flag_that_stops_it():
    rim = scenes.head("rim", x=0.7, y=0.4, z=-0.9, power=-2.0)
    turn = math.degrees(math.atan2(-0.7, 1.5 + 0.9))
    rim = replace(rim, stance=scenes.stance(0.7, 0.4, -0.9, turn, -5.0), grid_angle_rad=0.0)
    plan = scenes.plan(lights=(rim,), before_lens=GLARE, table=None, background=None)

    def faults(plan):
        scene = pack_static_scene(plan)
        return light_into_lens(plan, draft_lighting(plan, scene), layer_gains(plan))

    (fault,) = faults(plan)
    assert fault.key == "rim"
    assert fault.flag is not None
    flag = scenes.card("flag", reflectance=0.03)
    flag = replace(
        flag, stance=scenes.stance(*fault.flag.place, math.degrees(fault.flag.turn_rad), math.degrees(fault.flag.tilt_rad)),
        width_m=fault.flag.width_m, height_m=fault.flag.height_m,
    )  # fmt: skip
    flagged = replace(plan, cards=(flag,))
    assert faults(flagged) == []
    assert found_in_frame(flagged) == {}
    # Independent reading: the picture's darkest corner with the lens's glare less the one without is the veil that was told.
    stage = trace_scene(plan, width=120, height=150)
    with_veil, without = (
        mixed(relight_draft(stage, replace(plan, before_lens=lens)), layer_gains(plan)) for lens in (GLARE, BeforeLens())
    )
    veil = float(np.median((with_veil - without)[..., 1]))
    told = float(fault.words.split("veil of ")[1].split(" stops")[0].replace("−", "-").replace("+", ""))
    assert np.log2(veil / 0.18) == approx(told, abs=0.35)
    # Turned away from the lens it is no fault.
    away = replace(rim, stance=scenes.stance(0.7, 0.4, -0.9, turn + 180.0, -5.0))
    assert faults(replace(plan, lights=(away,))) == []


@pytest.mark.parametrize(("depth", "told"), [(0.5, True), (6.0, False)])
def test_the_back_edge_of_a_pale_table_shows_before_a_dark_wall(depth, told):
    white = Skin(reflectance=Reflectance.grey(0.8))
    panel = scenes.panel("top", x=0.0, y=1.2, z=0.4, turn=180, tilt=-70, width=0.6, height=0.6, power=-3)
    plan = scenes.plan(
        table=Table(skin=white, width_m=6.0, depth_m=depth),
        lights=(panel,),
        camera=scenes.camera(height=0.5, aim=0.1, focal=0.05),
    )
    levels = Pictures().fine(plan, long_side=200).levels()
    words = [fault.words for fault in table_edges(plan, pack_static_scene(plan), levels.astype(np.float64).mean(axis=2))]
    assert any("back edge" in one for one in words) == told


def test_clipping_is_told_by_zone_and_by_how_much():
    plan = scenes.plan()
    stage = trace_scene(plan, width=160, height=200)
    levels = np.full((200, 160, 3), 0.2, np.float32)
    assert clipped_product(plan, stage, levels) == []
    first = stage.traced.first.reshape(200, 160)
    label = stage.is_product & (first == np.bincount(first[stage.is_product]).argmax())
    levels[label] = 2.0
    (fault,) = clipped_product(plan, stage, levels)
    share = np.count_nonzero(label) / np.count_nonzero(stage.is_product)
    assert f"{100 * share:.1f} %" in fault.words
    # By hand: a level of 2 is one stop over the clip.
    assert "1.0 stops less" in fault.words


def test_two_faces_that_cross_are_told_and_two_that_touch_are_not():
    one = scenes.panel("one", x=-0.4, z=0.0, turn=90, width=0.3, height=0.3)
    through = scenes.card("two", x=-0.4, y=0.22, z=0.0, turn=0, width=0.3, height=0.2)
    beside = replace(through, stance=scenes.stance(-0.24, 0.22, 0.0, 0))
    base = scenes.plan(lights=(one,))
    assert [fault.key for fault in crossings(replace(base, cards=(through,)))] == ["one"]
    assert list(crossings(replace(base, cards=(beside,)))) == []
