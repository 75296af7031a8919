"""What stands before the lens: polariser, neutral density, mask, hood; glare, circles of confusion, noise floor."""

import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera.filters import BeforeLens, Opening, Polariser, glare_spread
from fotaxis.core.camera.sensor import Sensor
from fotaxis.core.constants import MIDDLE_GREY
from fotaxis.core.errors import DomainError
from fotaxis.core.lights.calibration import Candela
from fotaxis.core.materials.catalogue import ALUMINIUM, CHROME, COPPER, GOLD, REAR_GLASS, SILVER, TABLE_SKIN
from fotaxis.core.materials.fresnel import brewster_angle_rad, reflectance_metal, reflectance_sp
from fotaxis.core.materials.material import Medium
from fotaxis.core.materials.polarisation import ROWS, EventRows, pass_event, reflected_rows, refracted_rows, start_state
from fotaxis.core.render.final.final_render import predict
from fotaxis.core.render.final.quality import FINAL, SCREEN
from fotaxis.core.render.layers import layer_gains, mixed
from fotaxis.core.render.lens.defocus import Defocus, circle_radius_px
from fotaxis.core.render.lens.through_lens import blurred, quickly_blurred
from fotaxis.core.render.preview.render_preview import render_preview
from fotaxis.core.render.preview.traced_scene import relight_draft, trace_scene
from fotaxis.core.scene.plan import Table
from tests import scenes

FULL = {"calibration": Candela(value=1000), "power": 0}


def state(dx, dy, dz):
    row = np.zeros(28)
    start_state(row, np.array([1.0, 0, 0]), dx, dy, dz)
    return row


def after(row, ray, normal, event):
    out = np.zeros(28)
    pass_event(row, out, *ray, *normal, EventRows(*event))
    return out


@pytest.mark.parametrize("index", [1.33, 1.5, 1 / 1.5])
@pytest.mark.parametrize("degrees", [5, 30, 41, 56, 80])
def test_what_a_boundary_mirrors_agrees_with_fresnel(index, degrees):
    # Born & Wolf 1.5.2 by way of fresnel.reflectance_sp; beyond the critical angle both are 1.
    cosine = math.cos(math.radians(degrees))
    mean, half, re, im = reflected_rows(cosine, index, 0.0)
    rs, rp = reflectance_sp(cosine, index)
    assert (mean + half, mean - half) == (approx(rs, abs=1e-12), approx(rp, abs=1e-12))
    assert math.hypot(re, im) == approx(math.sqrt(rs * rp), abs=1e-9)


def test_total_reflection_turns_the_phase_as_in_a_fresnel_rhomb():
    # Born & Wolf 1.5.4: n = 1.51, 54.62 degrees: the phases of s and p differ by 45 degrees.
    _, _, re, im = reflected_rows(math.cos(math.radians(54 + 37 / 60)), 1 / 1.51, 0.0)
    angle = abs(math.degrees(math.atan2(im, re)))
    assert min(angle, 180 - angle) == approx(45, abs=0.1)  # 180 apart: the frame of p turns over as the light is mirrored


def test_metals_mirror_as_much_as_without_polarisation():
    for metal in (ALUMINIUM, SILVER, GOLD, COPPER, CHROME):
        n, k = metal.n[1], metal.k[1]
        for degrees in (0, 45, 75):
            cosine = math.cos(math.radians(degrees))
            assert reflected_rows(cosine, n, k)[0] == approx(reflectance_metal(cosine, n, k), rel=1e-9)


def test_glass_lets_through_what_it_does_not_mirror():
    mean, half, _ = refracted_rows(0.5, 1.5)
    rs, rp = reflectance_sp(0.5, 1.5)
    assert (mean + half, mean - half) == (approx(1 - rs), approx(1 - rp))


def test_light_off_a_table_at_brewsters_angle_is_polarised_across():
    # The camera looks down at 90 - Brewster: what is mirrored is all s, along the picture's width.
    angle = brewster_angle_rad(index=1.5)
    ray = (0.0, -math.cos(angle), -math.sin(angle))
    out = after(state(*ray), ray, (0.0, 1.0, 0.0), reflected_rows(math.cos(angle), 1.5, 0.0))
    assert out[ROWS] == approx(1)
    assert out[ROWS + 4] == approx(1)
    assert out[ROWS + 8] == approx(0, abs=1e-12)


def test_two_mirrors_crossed_at_brewsters_angle_pass_nothing_and_parallel_ones_all():
    # Malus: the first makes s of everything; the second, turned by a right angle, has that as p and mirrors none.
    angle = brewster_angle_rad(index=1.5)
    event = reflected_rows(math.cos(angle), 1.5, 0.0)
    ray = np.array([0.0, -math.cos(angle), -math.sin(angle)])
    up = np.array([0.0, 1.0, 0.0])
    second = ray - 2 * (ray @ up) * up
    first = after(state(*ray), ray, up, event)
    side = np.array([1.0, 0.0, 0.0])
    for across, expected in ((False, 2.0), (True, 0.0)):
        # A normal at Brewster's angle to the mirrored ray, in its upright plane, or turned about it by a right angle.
        tilt = np.cross(second, side)
        normal = -math.cos(angle) * second + math.sin(angle) * (side if across else tilt)
        out = after(first, second, normal, event)
        assert out[ROWS] == approx(expected, abs=1e-9)


def wet_plan(**changes):
    """A panel upright behind, mirrored in a black gloss table that the camera sees at about Brewster's angle."""
    lights = (scenes.panel("back", x=0.0, y=0.5, z=-0.6, turn=0, width=0.8, height=0.9, **FULL),)
    angle = brewster_angle_rad(index=1.49)
    height, away = 1.2 * math.cos(angle), 1.2 * math.sin(angle)
    cam = scenes.camera(distance=away, height=height, aim=0.0, focal=0.2)
    table = scenes.plan().table
    return replace(scenes.bare(scenes.cylinder(radius=0.001, height=0.002), lights=lights, cam=cam, **changes), table=table)


def middle(plan):
    return float(predict(plan, long_side=60).pictures[1, 24:36, 18:30, 1].mean())


def test_a_polariser_takes_the_tables_reflection_away_and_turned_back_doubles_its_share():
    open_ = middle(wet_plan())
    seen = {
        turn: middle(wet_plan(before_lens=BeforeLens(polariser=Polariser(turn_rad=math.radians(turn)))))
        for turn in (0, 45, 90)
    }
    assert seen[0] < 0.005 * open_  # Brewster: only the rays beside the very angle are left
    assert seen[45] == approx(open_, rel=0.01)
    assert seen[90] == approx(2 * open_, rel=0.005)  # relative to unpolarised light, whose loss is in the gains


def test_a_polariser_hardly_changes_metal():
    steel = replace(scenes.plan().table.skin, metal=ALUMINIUM, coat_index=0.0)
    plan = wet_plan()
    plan = replace(plan, table=replace(plan.table, skin=steel))
    seen = [
        middle(replace(plan, before_lens=BeforeLens(polariser=Polariser(turn_rad=math.radians(turn))))) for turn in (0, 90)
    ]
    assert 0.8 < seen[0] / seen[1] < 1


def test_draft_and_fast_draft_agree_through_a_polariser_and_with_glare():
    kit = BeforeLens(polariser=Polariser(turn_rad=0.4), glare=0.02, mask=Opening(before_m=0.4, width_m=0.1, height_m=0.12))
    plan = scenes.plan(before_lens=kit)
    stage = trace_scene(plan, width=64, height=80)
    gains = layer_gains(plan)
    pixels = np.arange(0, 64 * 80, 37)
    layers = relight_draft(stage, plan)
    _, read, _ = render_preview(stage, plan, gains=gains, pixels=pixels)
    assert read == approx(mixed(layers, layer_gains(plan)).reshape(-1, 3)[pixels], rel=1e-4, abs=1e-6)


def test_filters_cost_their_stops_in_every_layer():
    plan = scenes.plan(room_lux=10)
    dimmed = replace(plan, before_lens=BeforeLens(nd_stops=2, polariser=Polariser(loss_stops=1.5)))
    assert layer_gains(dimmed) == approx(layer_gains(plan) * 2**-3.5)


def test_an_even_bright_field_shows_its_glare_index():
    # ISO 9358, integral method: in an even field a black spot shows the index times the field's luminance.
    angle = (np.arange(20000) + 0.5) / 20000 * math.pi / 2
    field = 2 * math.pi * np.sin(angle) * np.cos(angle) * (math.pi / 2 / 20000)
    assert float((glare_spread(angle) * field).sum()) == approx(1, rel=1e-4)


def facing_panel(**changes):
    """A bright panel behind the product fills a quarter of the lens's surroundings; the camera looks straight at it."""
    light = scenes.panel("back", x=0, y=0.15, z=-0.5, turn=0, width=1.6, height=1.6, **FULL)
    return scenes.bare(scenes.cylinder(), lights=(light,), cam=scenes.camera(focal=0.1), **changes)


def black_middle(plan):
    """What the middle of the black product shows."""
    return float(predict(plan, long_side=60).pictures[1, 28:32, 22:26, 1].mean())


def test_glare_comes_from_outside_the_frame_and_a_window_mask_keeps_it_off():
    clean = black_middle(facing_panel())
    veiled = black_middle(facing_panel(before_lens=BeforeLens(glare=0.01)))
    # The even half of the glare, by hand: index times illuminance at the lens over pi; a square on the axis of half angle a:
    # view factor 4/pi atan(x / sqrt(1 + x^2)) x / sqrt(1 + x^2), x = 0.8 / 2.0 (standard catalogue of view factors).
    x = 0.8 / 2.0
    part = x / math.sqrt(1 + x * x)
    form = 4 / math.pi * math.atan(part) * part
    luminance = facing_panel().lights[0].full_luminance
    even = 0.5 * 0.01 * form * luminance
    assert even < veiled - clean < 0.01 * luminance  # the near half is the stronger the closer to the light
    mask = Opening(before_m=0.4, width_m=0.085, height_m=0.105)
    masked = black_middle(facing_panel(before_lens=BeforeLens(glare=0.01, mask=mask)))
    assert masked - clean < 0.6 * (veiled - clean)
    hood = Opening(before_m=0.1, width_m=0.06, height_m=0.06, is_round=True)
    hooded = black_middle(facing_panel(before_lens=BeforeLens(glare=0.01, hood=hood)))
    assert masked < hooded < veiled


def test_a_flag_between_light_and_lens_takes_its_glare_away():
    light = scenes.panel("top", x=0.5, y=0.6, z=-0.3, turn=-20, tilt=-10, width=0.3, height=0.3, **FULL)
    plan = scenes.bare(scenes.cylinder(), lights=(light,), before_lens=BeforeLens(glare=0.01))
    open_ = predict(plan, long_side=60).pictures[1, :6, :6, 1].mean()
    flag = scenes.card("flag", x=0.135, y=0.27, z=1.05, turn=0, width=0.12, height=0.12, reflectance=0.0)
    flagged = predict(replace(plan, cards=(flag,)), long_side=60).pictures[1, :6, :6, 1].mean()
    assert open_ > 0
    assert flagged < 0.01 * open_


def test_a_light_at_a_corner_flares_there_most():
    light = scenes.panel("top", x=0.45, y=0.75, z=-0.5, turn=-12, tilt=-15, width=0.1, height=0.1, **FULL)
    plan = scenes.bare(scenes.cylinder(), lights=(light,), before_lens=BeforeLens(glare=0.01))
    shown = predict(plan, long_side=60).pictures[1, ..., 1]
    assert shown[2, -3] > 1.5 * shown[-3, 2] > 0


def test_a_mask_that_is_too_small_darkens_the_frames_rim_softly():
    plan = scenes.plan(before_lens=BeforeLens(mask=Opening(before_m=0.4, width_m=0.05, height_m=0.1)), room_lux=100)
    row = predict(plan, long_side=80).pictures[0, 40, :, 1]
    clear = predict(scenes.plan(), long_side=80).pictures[0, 40, :, 1]
    share = row / clear
    assert share[0] == 0
    assert share[32] == approx(1)
    assert len(np.unique(np.round(share, 3))) > 4  # the front element is wide: a soft rim


def test_circles_of_confusion_are_those_of_the_thin_lens():
    # By hand: f = 0.1 m, N = 4, focus 1.5 m, depth 3 m: 0.1/4 * 0.1/1.4 * 1.5/3 = 0.893 mm; far away 1.786 mm.
    radius = circle_radius_px(
        np.array([1.5, 3.0, math.inf, 1.0]),
        focal_length_m=0.1,
        f_number=4.0,
        focus_per_m=1 / 1.5,
        image_m=0.15 / 1.4,
        pixel_m=1e-4,
    )
    assert radius == approx([0, 4.464, 8.929, -4.464], abs=2e-3)


def test_a_speck_out_of_focus_is_an_even_disc_that_keeps_its_light():
    picture = np.zeros((1, 61, 61, 3), np.float32)
    picture[0, 30, 30] = 100.0
    radius = np.full((61, 61), 7.0, np.float32)
    out = blurred(Defocus(radius), picture)[0, ..., 0]
    assert out.sum() == approx(100, rel=1e-3)
    y, x = np.mgrid[-30:31, -30:31]
    away = np.hypot(x, y)
    assert out[away < 5.5] == approx(100 / (math.pi * 49), rel=0.02)
    assert out[away > 8.5].max() < 1e-9


def test_a_sharp_edge_stays_sharp_before_a_soft_background():
    picture = np.zeros((1, 40, 60, 3), np.float32)
    picture[0, :, 30:] = 1.0
    radius = np.full((40, 60), 6.0, np.float32)
    radius[:, 30:] = 0.0
    out = blurred(Defocus(radius), picture)[0, 20, :, 0]
    assert out == approx(picture[0, 20, :, 0], abs=1e-6)
    near = blurred(Defocus(np.where(radius == 0, -6.0, 0.0).astype(np.float32)), picture)[0, 20, :, 0]
    assert 0.05 < near[27] < 0.5 < near[32] < 0.95  # a soft edge in front lets through what is behind


def test_what_is_in_focus_does_not_change_with_the_aperture():
    plan = scenes.plan(camera=replace(scenes.plan().camera, focus_m=0.0))
    plans = [replace(plan, exposure=replace(plan.exposure, f_number=n)) for n in (2.0, 16.0)]
    wide, narrow = (predict(p, long_side=100).pictures[1:, 45:70, 36:44] for p in plans)
    assert wide == approx(narrow, rel=0.02, abs=0.03 * float(narrow.max()))


def test_the_noise_floor_follows_range_and_speed():
    clip = math.log2(1 / MIDDLE_GREY)
    assert Sensor(range_stops=13).floor_stops(100) == approx(clip - 13)
    assert Sensor(range_stops=13).floor_stops(800) == approx(clip - 10)
    assert Sensor(range_stops=13).floor_stops(50) == approx(clip - 13)


@pytest.mark.parametrize("wrong", [
    lambda: Polariser(loss_stops=0.5), lambda: BeforeLens(glare=0.5), lambda: BeforeLens(nd_stops=-1),
    lambda: Opening(before_m=0, width_m=1, height_m=1), lambda: Sensor(range_stops=30),
    lambda: replace(scenes.camera(), focus_m=0.05),
])  # fmt: skip
def test_what_no_lens_has_is_refused(wrong):
    with pytest.raises(DomainError):
        wrong()


def test_the_quick_picture_of_what_is_out_of_focus_is_near_the_careful_one():
    y, x = np.mgrid[0:80, 0:64]
    picture = np.stack([np.where((x // 12 + y // 9) % 2 == 0, 1.0, 0.1)] * 3, axis=2).astype(np.float32)
    radius = np.where((np.abs(x - 32) < 10) & (y > 20), 0.0, 4.0).astype(np.float32)
    spread = Defocus(radius)
    careful, quick = blurred(spread, picture[None])[0], quickly_blurred(spread, picture[None])[0]
    assert np.array_equal(quick[radius == 0], picture[radius == 0])
    assert np.abs(quick - careful).mean() < 0.02
    assert np.abs(quick - picture).mean() > 0.1
    near = Defocus(-radius)
    assert np.array_equal(quickly_blurred(near, picture[None]), blurred(near, picture[None]))


@pytest.mark.parametrize("surface", ["black gloss", "rear-painted glass"])
def test_a_table_that_mirrors_is_as_soft_on_the_screen_as_in_a_file(surface):
    # The screen spreads a picture of a pin's opening, the file looks through all of the lens: a strip that the table mirrors right
    # through the plane of focus. Whole pictures, four pixels each way to one.
    strip = scenes.panel("strip", x=0.12, y=0.2, z=-0.6, turn=0, width=0.1, height=0.4, **FULL)
    table = Table(skin=TABLE_SKIN[surface].skin, width_m=1.2, depth_m=1.2)
    if surface != "black gloss":
        table = replace(table, rear_m=0.005, medium=Medium(index=REAR_GLASS.index))
    cam = replace(scenes.camera(height=0.45, aim=0.05, focal=0.085, distance=1.2), focus_m=0.0)
    plan = replace(scenes.bare(scenes.cylinder(height=0.12), lights=(strip,), cam=cam), table=table)
    plan = replace(plan, exposure=replace(plan.exposure, f_number=2.0))
    screen, file = (
        predict(plan, long_side=200, quality=quality).pictures[1, ..., 1].reshape(50, 4, 40, 4).mean(axis=(1, 3))
        for quality in (SCREEN, FINAL)
    )
    mirrored = file[20:]
    assert (mirrored > 0.3 * mirrored.max()).sum() > 50
    off = np.abs(screen - file)[20:] / mirrored.max()
    assert off.max() < 0.08
    assert np.quantile(off, 0.98) < 0.025
