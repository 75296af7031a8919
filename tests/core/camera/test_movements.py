"""Shift, tilt and swing: the frame off the axis, and the plane of focus that leans."""

import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera.filters import BeforeLens, Opening
from fotaxis.core.camera.haze import Haze
from fotaxis.core.errors import DomainError
from fotaxis.core.frames.faults import things_in_frame
from fotaxis.core.lights.calibration import Candela
from fotaxis.core.placement.framing import filled, reframed
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.render.final.final_render import predict
from fotaxis.core.render.final.quality import FINAL, SCREEN
from fotaxis.core.values import Point
from tests import scenes

SIDE = 200


def turned(**movements):
    return replace(scenes.camera(height=0.19, aim=0.19), **movements)


def part_of_a_larger_frame(plan, *, right, up):
    """The picture of a sensor twice as large without shift, and of it what a frame lies over whose middle is so many of its own
    widths and heights off."""
    camera = plan.camera
    large = replace(camera, sensor_width_m=2 * camera.sensor_width_m, sensor_height_m=2 * camera.sensor_height_m)
    whole = predict(replace(plan, camera=large), long_side=2 * SIDE).pictures
    height, width = whole.shape[1] // 2, whole.shape[2] // 2
    top, left = round(height / 2 - up * height), round(width / 2 + right * width)
    return whole[:, top : top + height, left : left + width]


@pytest.mark.parametrize("quality", [SCREEN, FINAL])
@pytest.mark.parametrize("haze", [None, Haze(begin_m=0.2, end_m=1.2, thickness_per_m=0.1, forward=0.7)])
def test_a_shifted_frame_is_a_part_of_a_larger_one(quality, haze):
    # Camera from above, aimed to the side: perspective and shift are not the same thing.
    camera = replace(scenes.camera(height=0.5, aim=0.12), aim=Point(x_m=0.03, y_m=0.12, z_m=0))
    card = scenes.card(x=0.11, z=0.1, turn=-150, width=0.06, height=0.2)
    plan = scenes.plan(camera=camera, haze=haze, cards=(card,))
    width, height = camera.used_sensor_m
    shifted = replace(camera, shift_right_m=width / 4, shift_up_m=-height / 8)
    expected = part_of_a_larger_frame(plan, right=0.25, up=-0.125)
    got = predict(replace(plan, camera=shifted), long_side=SIDE, quality=quality).pictures
    assert got.shape == expected.shape
    off = np.abs(got - expected).max(axis=3) / expected.max()
    # Samples of edges lie otherwise in another picture; nowhere else does it differ, to the very rim.
    assert np.quantile(off, 0.97) < 2e-3
    assert off.mean() < 1e-3
    assert np.abs(got.sum(axis=(1, 2, 3)) / expected.sum(axis=(1, 2, 3)) - 1).max() < 5e-3


def test_a_mask_stands_about_a_shifted_frame_and_a_hood_about_the_axis():
    camera = turned(shift_up_m=0.008)
    mask = BeforeLens(mask=Opening(before_m=0.4, width_m=0.095, height_m=0.115))
    clear = predict(scenes.plan(camera=camera, room_lux=100), long_side=80).pictures[0]
    masked = predict(scenes.plan(camera=camera, room_lux=100, before_lens=mask), long_side=80).pictures[0]
    assert masked[:8].sum() / clear[:8].sum() == approx(masked[-8:].sum() / clear[-8:].sum(), abs=0.1)
    hood = BeforeLens(hood=Opening(before_m=0.1, width_m=0.036, height_m=0.036, is_round=True))
    hooded = predict(scenes.plan(camera=camera, room_lux=100, before_lens=hood), long_side=80).pictures[0]
    assert hooded[:8].sum() / clear[:8].sum() < 0.7 * hooded[-8:].sum() / clear[-8:].sum()


@pytest.mark.parametrize("movements", [
    {}, {"shift_right_m": 0.006, "shift_up_m": -0.01}, {"tilt_rad": 0.1, "shift_up_m": 0.01}, {"swing_rad": -0.12},
])  # fmt: skip
def test_ways_through_the_frame_and_back_agree(movements):
    camera = turned(**movements)
    right, up, middle = camera.to_frame()
    (half_w, half_h), size = camera.half_field, {"width": 400, "height": 500}
    for x, y in ((0, 0), (0.3, -0.8), (-1, 1)):
        place = camera.place.array() + 1.7 * (middle + x * half_w * right + y * half_h * up)
        assert camera.project(place, **size) == approx(((x + 1) * 200, (1 - y) * 250))


def on_the_sensor(camera, f_number, place):
    """Where rays from a place (right, up, ahead of the lens) through the rim of a thin lens meet the sensor, right and up (24, 2):
    the lens as a plane square to its own axis, every ray bent to the image of the place."""
    up, right = math.sin(camera.tilt_rad), math.sin(camera.swing_rad)
    axis = np.array([-right, -up, math.sqrt(1 - up * up - right * right)])
    along = float(place @ axis)
    image = -place * (1 / (1 / camera.focal_length_m - 1 / along)) / along
    across = np.cross(axis, [0.0, 1.0, 0.0])
    across /= np.linalg.norm(across)
    turn = np.linspace(0, 2 * math.pi, 24, endpoint=False)
    radius = camera.focal_length_m / f_number / 2
    rim = radius * (np.cos(turn)[:, None] * across + np.sin(turn)[:, None] * np.cross(across, axis))
    part = (-camera.image_m - rim[:, 2]) / (image[2] - rim[:, 2])
    return (rim + part[:, None] * (image - rim))[:, :2]


@pytest.mark.parametrize("movements", [
    {}, {"tilt_rad": math.radians(8)}, {"swing_rad": math.radians(-6)}, {"tilt_rad": math.radians(-5), "swing_rad": 0.1},
    {"tilt_rad": math.radians(4), "shift_up_m": 0.01, "shift_right_m": -0.004},
])  # fmt: skip
def test_the_plane_of_focus_is_where_a_turned_thin_lens_draws_points(movements):
    camera = turned(**movements)
    middle, right, up = camera.focus_plane
    x0, y0 = camera.middle
    (half_w, half_h), f_number = camera.half_field, 2.8
    for x, y in ((0, 0), (0.9, 0.9), (-0.7, 0.4), (0.2, -1)):
        near = middle + x * half_w * right + y * half_h * up
        way = np.array([x0 + x * half_w, y0 + y * half_h, 1.0])
        spots = on_the_sensor(camera, f_number, way / near)
        assert np.ptp(spots, axis=0).max() < 1e-9
        # It lies where the frame has it, upside down.
        assert spots[0] == approx(-way[:2] * camera.image_m, abs=1e-9)
        for off in (-2.0, 1.5):  # 1/m from the plane: c = f / N v |1/d - 1/z|; the opening is seen at a slant, by its cosine
            across = np.ptp(on_the_sensor(camera, f_number, way / (near + off)), axis=0)
            expected = camera.focal_length_m / f_number * camera.image_m * abs(off)
            assert across == approx([expected, expected], rel=0.03)


def test_the_plane_goes_through_the_hinge_line():
    # Hinge rule (Merklinger, Focusing the View Camera, 1992): f / sin(tilt) below the lens. 100 mm, 5.74 degrees: 1 m.
    camera = turned(tilt_rad=math.asin(0.1))
    middle, _, up = camera.focus_plane
    tangents = np.array([-0.2, 0.1])
    depth = 1 / (middle + tangents * up)
    height = tangents * depth
    slope = (height[1] - height[0]) / (depth[1] - depth[0])
    assert height[0] - slope * depth[0] == approx(-1.0, rel=1e-6)


@pytest.mark.parametrize("quality", [SCREEN, FINAL])
def test_a_tilted_lens_is_sharp_along_its_plane(quality):
    # Three strips of light, each further away the higher it stands; an upright lens has only the middle one in focus.
    bare = scenes.bare(scenes.cylinder(0.001, 0.002))
    camera = replace(turned(focus_m=0.0), tilt_rad=math.radians(6.0))
    middle, _, up = camera.focus_plane
    strips, rows = [], []
    for n, y in enumerate((-0.6, 0.0, 0.6)):
        tangent = y * camera.half_field[1]
        depth = 1 / (middle + tangent * up)
        strips.append(
            scenes.panel(f"s{n}", x=0, y=0.19 + tangent * depth, z=1.5 - depth, turn=0, width=0.05 * depth / 1.5, height=0.03,
                         calibration=Candela(value=100), power=0)
        )  # fmt: skip
        rows.append(round((1 - y) / 2 * SIDE))
    exposure = replace(bare.exposure, f_number=1.4)

    def softness(camera):
        seen = predict(
            replace(bare, lights=tuple(strips), camera=camera, exposure=exposure), long_side=SIDE, quality=quality
        )
        flat = seen.pictures[1:, ..., 1].sum(axis=0)
        lines = [flat[row] / flat[row].max() for row in rows]
        return [int(((line > 0.1) & (line < 0.9)).sum()) for line in lines]

    assert max(softness(camera)) <= 2
    upright = softness(replace(camera, tilt_rad=0.0))
    assert upright[1] <= 2
    assert min(upright[0], upright[2]) >= 6


def test_what_only_a_shift_brings_into_the_frame_is_named():
    card = scenes.card(x=0.26, y=0.19, z=0.0, turn=0.0, width=0.1, height=0.2)
    plan = scenes.plan(cards=(card,), lights=())
    named = {fault.key for fault in things_in_frame(plan, pack_static_scene(plan))}
    shifted = replace(plan, camera=turned(shift_right_m=0.006))
    moved = {fault.key for fault in things_in_frame(shifted, pack_static_scene(shifted))}
    assert "card" not in named
    assert "card" in moved


def test_framing_keeps_the_product_in_a_shifted_frame():
    plan = scenes.plan(camera=turned(shift_up_m=-0.01, shift_right_m=0.003))
    framing = reframed(plan, fills=0.8)
    assert framing.fills == approx(0.8, abs=1e-3)
    assert filled(plan, framing.camera) == approx(0.8, abs=1e-3)
    # The axis goes on looking the way it did; the middle of the bottle is in the middle of the frame.
    assert framing.camera.basis()[2] == approx(plan.camera.basis()[2], abs=1e-9)
    low, high = plan.lift_m, plan.lift_m + plan.product.height_m
    x, y = framing.camera.project(np.array([0.0, (low + high) / 2, 0.0]), width=1, height=1)
    assert (x, y) == approx((0.5, 0.5), abs=5e-3)


@pytest.mark.parametrize("wrong", [
    {"shift_up_m": 0.07}, {"shift_right_m": math.nan}, {"tilt_rad": 0.3}, {"swing_rad": -math.inf},
])  # fmt: skip
def test_movements_no_camera_has_are_refused(wrong):
    with pytest.raises(DomainError, match=r"shift|tilt|swing"):
        turned(**wrong)
