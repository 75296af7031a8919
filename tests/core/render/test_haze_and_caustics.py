"""Haze behind the product, and light that glass gathers on the table."""

import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx
from scipy.integrate import quad

from fotaxis.core.camera.haze import Haze
from fotaxis.core.errors import DomainError
from fotaxis.core.lights.calibration import Candela
from fotaxis.core.lights.fixtures import Emission, Lamp
from fotaxis.core.lights.heads import PLAIN
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.render.final.caustics import caustics
from fotaxis.core.render.final.final_render import predict
from fotaxis.core.render.layers import layer_gains, mixed
from fotaxis.core.render.lens.single_scattering import henyey_greenstein
from fotaxis.core.render.lighting import FINE, lighting
from fotaxis.core.render.preview.render_preview import render_preview
from fotaxis.core.render.preview.traced_scene import relight_draft, trace_scene
from tests import material_scenes, mitsuba_scene, scenes

FULL = Emission(calibration=Candela(value=1000), power_stops=0)
TUMBLER = ((0, 5.4), (0.2, 5.9), (0.5, 6.1), (3, 6.4), (6, 6.7), (9.5, 7.0))


@pytest.mark.parametrize("forward", [0.0, 0.5, 0.9])
def test_haze_scatters_all_of_its_light_somewhere(forward):
    # Over the sphere the phase function adds up to 1, and its mean cosine is g (Henyey & Greenstein 1941).
    whole = quad(lambda c: 2 * math.pi * henyey_greenstein(c, forward), -1, 1)[0]
    mean = quad(lambda c: 2 * math.pi * c * henyey_greenstein(c, forward), -1, 1)[0]
    assert (whole, mean) == (approx(1, rel=1e-6), approx(forward, rel=1e-6))


def lamp(x, y, z, turn, tilt=0.0, **more) -> Lamp:
    return Lamp(
        key="lamp",
        name="Lamp",
        stance=scenes.stance(x, y, z, turn, tilt),
        head=PLAIN,
        diameter_m=0.06,
        emission=FULL,
        **more,
    )


def hazy(light, haze) -> float:
    """What the air beside the product shows."""
    plan = scenes.bare(scenes.cylinder(), lights=(light,), haze=haze)
    return float(predict(plan, long_side=60).pictures[1, 28:32, 4:8, 1].mean())


def test_haze_shows_where_it_is_lit_from_behind():
    haze = Haze(begin_m=0.3, end_m=0.5, thickness_per_m=0.05)
    behind, front = lamp(-0.5, 0.15, -1.6, 20), lamp(-0.5, 0.15, 1.0, 155)
    assert hazy(behind, None) == 0
    assert hazy(behind, haze) > 5 * hazy(front, haze) > 0
    assert hazy(behind, replace(haze, thickness_per_m=0.1)) == approx(2 * hazy(behind, haze), rel=0.02)


def test_the_brightness_of_haze_by_hand():
    # Even scattering, a thin layer, light square to the line of sight: L = E / (4 pi) * thickness * way.
    haze = Haze(begin_m=0.39, end_m=0.41, thickness_per_m=0.1, forward=0.0)
    light = lamp(0.8, 0.15, -0.4, -90)
    plan = scenes.bare(scenes.cylinder(), lights=(light,), haze=haze)
    shown = float(predict(plan, long_side=60).pictures[1, 30, 3, 1])
    x = (2 * 3.5 / 48 - 1) * plan.camera.half_field[0] * 1.9
    lux = 1000 / (0.8 - x) ** 2
    assert shown == approx(lux / (4 * math.pi) * 0.1 * 0.02, rel=0.05)


def test_haze_dims_what_lies_beyond_and_leaves_what_is_before():
    plan = scenes.plan(room_lux=100)
    thick = replace(plan, haze=Haze(begin_m=0.3, end_m=1.0, thickness_per_m=1.0))
    clear, dim = (predict(p, long_side=60).pictures[0, ..., 1] for p in (plan, thick))
    assert dim[40, 24] == approx(clear[40, 24], rel=1e-5)  # the label
    way = math.sqrt(1 + (plan.camera.half_field[0] * 0.9) ** 2)
    glow = 1 / math.pi * (1 - math.exp(-0.7)) * way
    assert dim[5, 3] == approx(clear[5, 3] * math.exp(-0.7) + glow, rel=0.05)


def test_draft_and_fast_draft_agree_through_haze():
    plan = scenes.plan(haze=Haze(), room_lux=20)
    stage = trace_scene(plan, width=64, height=80)
    pixels = np.arange(0, 64 * 80, 37)
    layers = relight_draft(stage, plan)
    _, read, _ = render_preview(stage, plan, gains=layer_gains(plan), pixels=pixels)
    assert read == approx(mixed(layers, layer_gains(plan)).reshape(-1, 3)[pixels], rel=1e-4, abs=1e-6)


def test_haze_that_ends_before_it_begins_is_refused():
    with pytest.raises(DomainError, match="ends before it begins"):
        Haze(begin_m=1.0, end_m=0.5)


# ---- refractions on the table


def glass_on_white(light, **vessel):
    product = material_scenes.turned(TUMBLER, wall=0.002, floor=0.011, level=0.06, **vessel)
    cam = scenes.camera(distance=1.0, height=0.9, aim=0.0, focal=0.07)
    return material_scenes.in_the_dark(
        product, lights=(light,), table=replace(scenes.plan().table, skin=scenes.PAPER), cam=cam
    )


BACK = lamp(0.1, 0.5, -0.7, math.degrees(math.atan2(-0.1, 0.7)), -math.degrees(math.atan2(0.45, 0.707)))


@pytest.mark.slow
def test_glass_takes_no_more_from_the_table_than_falls_on_it_and_gives_most_of_it_back():
    plan = glass_on_white(BACK)
    lit = lighting(plan, pack_static_scene(plan), FINE)
    bent = caustics(plan, lit)
    field = bent.fields[0, ..., 1] * bent.cell**2
    taken, given = -field[field < 0].sum(), field[field > 0].sum()
    # By hand: what falls on a glass 7 cm wide, 9.5 cm high at 0.84 m from 1000 cd, seen from 32 degrees above.
    falls = 1000 * (0.066 * 0.095 * math.cos(math.radians(32)) + math.pi * 0.035**2 * math.sin(math.radians(32))) / 0.84**2
    assert given < taken < falls
    assert field.sum() < 0  # mirrored and swallowed
    assert -field.sum() < 0.45 * falls
    assert field.max() > 4 * float(lit.direct(np.array([[0.2, 0, 0, 0, 1, 0, 0, 1]], np.float32))[0, 0, 1]) * bent.cell**2


def test_a_large_panel_or_a_black_table_needs_no_refractions():
    plan = glass_on_white(BACK)
    panel = replace(plan, lights=(scenes.panel("left"),))
    black = replace(plan, table=scenes.plan().table)
    opaque = replace(plan, product=scenes.plan().product)
    for none in (panel, black, opaque):
        assert caustics(none, lighting(none, pack_static_scene(none), FINE)) is None


def test_a_flag_before_the_glass_takes_its_refraction_away():
    plan = glass_on_white(BACK)
    flag = scenes.card("flag", x=0.07, y=0.36, z=-0.47, turn=0, width=0.3, height=0.3, reflectance=0.0)
    flagged = replace(plan, cards=(flag,))
    bent = caustics(flagged, lighting(flagged, pack_static_scene(flagged), FINE))
    assert (
        np.abs(bent.fields).max() < 1e-3 * np.abs(caustics(plan, lighting(plan, pack_static_scene(plan), FINE)).fields).max()
    )


@pytest.mark.mitsuba
@pytest.mark.filterwarnings("ignore")
@pytest.mark.parametrize("light", [BACK, replace(BACK, diameter_m=0.3)], ids=["small lamp", "lamp of 30 cm"])
def test_refractions_of_a_glass_of_water_against_mitsuba(light):
    # Its particle tracer (published reference renderer) follows light from the lamp, as it comes.
    plan = glass_on_white(light)
    mi = mitsuba_scene.load()
    made = mitsuba_scene.scene(mi, plan, width=80, height=100, depth=20)
    particles = mi.load_dict({"type": "ptracer", "max_depth": 20, "rr_depth": 50})
    reference = (
        sum(np.array(mi.render(made, integrator=particles, spp=256, seed=n), np.float64) for n in range(10))[..., 1] / 10
    )
    ours = predict(plan, long_side=100).pictures[1, ..., 1]
    a, b = (p.reshape(20, 5, 16, 5).mean(axis=(1, 3)) for p in (ours, reference))
    table = np.ones(a.shape, bool)
    table[:2] = False  # beyond the table's edge
    table[5:11, 5:10] = False  # the glass itself: particles do not find the lens through it
    share = a[table] / b[table]
    assert np.median(share) == approx(1, abs=0.01)
    # What glass mirrors onto the table is left out, up to a tenth in its shadow.
    assert np.quantile(share, [0.02, 0.98]) == approx([1, 1], abs=0.1)
    hot = np.unravel_index(np.argmax(np.where(table, b, 0)[11:14]), (3, 16))
    assert b[11 + hot[0], hot[1]] > 1.5 * np.median(b[11:14])
    assert a[11 + hot[0], hot[1]] == approx(b[11 + hot[0], hot[1]], rel=0.05)


def test_haze_is_smooth_at_the_outline_of_what_stands_before_it():
    # Against the same picture four times finer, four pixels each way to one: all pixels.
    behind = lamp(-0.5, 0.15, -1.6, 20)
    plan = scenes.bare(scenes.profile(), lights=(behind,), haze=Haze(begin_m=0.1, end_m=1.0, thickness_per_m=0.4))
    coarse, fine, without = (
        predict(replace(plan, haze=haze), long_side=side).pictures[1, ..., 1]
        for haze, side in ((plan.haze, 120), (plan.haze, 480), (None, 480))
    )
    means, mirrored = (picture.reshape(120, 4, -1, 4).mean(axis=(1, 3)) for picture in (fine, without))
    bright = np.quantile(means, 0.9)
    haze_alone = mirrored < 0.01 * bright  # all but the lamp's own image in the bottle, which has its tests elsewhere
    assert (means[haze_alone] > 0.3 * bright).mean() > 0.3
    assert haze_alone.mean() > 0.98
    off = np.abs(coarse - means)[haze_alone] / bright
    assert np.quantile(off, 0.99) < 0.01
    assert off.max() < 0.05
