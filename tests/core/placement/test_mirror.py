"""Where a panel must stand: closed forms, and the traced picture agreeing with them."""

import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.errors import DomainError, NoSolution
from fotaxis.core.placement import cylinder, mirror
from tests import scenes


def test_highlight_at_ninety_percent_comes_from_128_degrees():
    # By hand: 2 asin 0.90.
    assert math.degrees(cylinder.light_angle_rad(offset_ratio=0.90)) == approx(128.3, abs=0.05)


def test_a_line_from_85_to_95_percent_needs_this_arc():
    assert math.degrees(cylinder.light_angle_rad(offset_ratio=0.85)) == approx(116.4, abs=0.05)
    assert math.degrees(cylinder.light_angle_rad(offset_ratio=0.95)) == approx(143.6, abs=0.05)
    assert cylinder.offset_ratio(light_angle_rad=cylinder.light_angle_rad(offset_ratio=0.95)) == approx(0.95)


def test_the_riser_that_is_needed():
    # By hand: 0 + 0.5 * (0 - 0.15) / 1.20 = -6.25 cm.
    assert cylinder.mirror_height_m(wall_height_m=0, camera_height_m=0.15, camera_distance_m=1.2, path_m=0.5) == approx(
        -0.0625
    )


def test_sensitivity_is_the_derivative():
    angle = math.radians(128.3)
    theta = angle / 2
    exact = 0.04 * (cylinder.offset_ratio(light_angle_rad=angle + 1e-5) - cylinder.offset_ratio(light_angle_rad=angle))
    found = cylinder.highlight_shift_m(radius_m=0.04, normal_angle_rad=theta, panel_shift_rad=1e-5)
    assert found == approx(exact, rel=1e-4)


def test_plane_mirror_image():
    image = mirror.plane_image(point=np.array([1.0, 2.0, 3.0]), on_plane=np.zeros(3), normal=np.array([0, 1.0, 0]))
    assert image == approx([1, -2, 3])


@pytest.mark.parametrize("seed", range(12))
def test_alhazen_spot_obeys_the_law_of_reflection(seed):
    rng = np.random.default_rng(seed)
    centre = rng.normal(size=3)
    eye = centre + _direction(rng) * rng.uniform(1.2, 6)
    light = centre + _direction(rng) * rng.uniform(1.2, 6)
    try:
        spot = mirror.sphere_spot(centre=centre, radius_m=0.5, eye=eye, light=light)
    except NoSolution:
        to_eye, to_light = eye - centre, light - centre
        opening = math.acos(to_eye @ to_light / np.linalg.norm(to_eye) / np.linalg.norm(to_light))
        hidden = math.acos(0.5 / np.linalg.norm(to_eye)) + math.acos(0.5 / np.linalg.norm(to_light))
        assert opening > hidden - 0.05  # only light behind the sphere's own horizon may be without a spot
        return
    n = (spot - centre) / 0.5
    assert np.linalg.norm(n) == approx(1.0)
    a, b = eye - spot, light - spot
    a, b = a / np.linalg.norm(a), b / np.linalg.norm(b)
    assert a @ n == approx(b @ n, abs=1e-6)
    assert np.linalg.norm(a + b - 2 * (a @ n) * n) < 1e-6


def _direction(rng: np.random.Generator) -> np.ndarray:
    v = rng.normal(size=3)
    return v / np.linalg.norm(v)


def test_equal_distances_give_the_bisector():
    spot = mirror.sphere_spot(centre=np.zeros(3), radius_m=1.0, eye=np.array([3.0, 0, 3.0]), light=np.array([-3.0, 0, 3.0]))
    assert spot == approx([0, 0, 1], abs=1e-9)


def test_impossible_questions_are_refused():
    with pytest.raises(DomainError, match="beside the product"):
        cylinder.light_angle_rad(offset_ratio=1.01)
    with pytest.raises(DomainError):
        cylinder.mirror_height_m(wall_height_m=0, camera_height_m=0.1, camera_distance_m=0, path_m=1)
    with pytest.raises(NoSolution):
        mirror.sphere_spot(centre=np.zeros(3), radius_m=1, eye=np.array([0, 0, 5.0]), light=np.array([0, 0, -5.0]))


@pytest.fixture(scope="module")
def far_camera():
    """95 m away through a very long lens on a tiny sensor, 12 cm wide there: the closed forms' far camera."""
    cam = scenes.camera(distance=95.0, height=0.15, aim=0.15, focal=2.0, ratio=(1.0, 1.0))
    return replace(cam, sensor_width_m=0.0025, sensor_height_m=0.0025)


def test_the_traced_highlight_lies_where_the_closed_form_says(far_camera):
    # A distant narrow panel at a given angle; the middle of its line must lie at sin(angle / 2) R.
    # Tolerance: a pixel is 0.7 % of R here, the panel's finite distance (8 m against R = 4 cm) 0.5 %.
    from fotaxis.core.render.final.final_render import predict

    for ratio in (0.5, 0.9, -0.9):
        angle = cylinder.light_angle_rad(offset_ratio=ratio)
        x, z = 8 * math.sin(angle), 8 * math.cos(angle)
        panel = scenes.panel("p", x=x, y=0.15, z=z, turn=math.degrees(math.atan2(-x, -z)), width=0.4, height=4)
        layers = predict(scenes.bare(scenes.cylinder(), lights=(panel,), cam=far_camera), long_side=400)
        row = layers.pictures[1, 200, :, 1]
        middle = float((row * (np.arange(400) + 0.5)).sum() / row.sum())
        cam = far_camera
        right, _ = cam.project(np.array([scenes.CYLINDER_RADIUS, 0.15, 0]), width=400, height=400)
        assert (middle - 200) / (right - 200) == approx(ratio, abs=0.012)


def test_the_traced_line_ends_where_the_vertical_form_says():
    # A panel across the mirrored ray of the wall at 40 degrees: seen in the wall, its lower edge must lie at the height
    # whose mirror_height is that edge. Tolerance: half a pixel and a line that falls over one pixel.
    from fotaxis.core.render.final.final_render import predict

    cam = scenes.camera(distance=1.24, height=0.15, aim=0.05, focal=0.09)
    theta, path, lower = math.radians(40), 0.5, 0.02
    n = np.array([math.sin(theta), math.cos(theta)])  # x, z
    wall = scenes.CYLINDER_RADIUS * n
    toward = wall - np.array([0.0, 1.24])
    distance = float(np.linalg.norm(toward))
    out = toward / distance - 2 * float(toward / distance @ n) * n
    x, z = wall + path * out
    panel = scenes.panel("p", x=x, y=lower + 0.5, z=z, turn=math.degrees(math.atan2(-out[0], -out[1])), width=0.1, height=1)
    layers = predict(scenes.bare(scenes.cylinder(height=0.3), lights=(panel,), cam=cam), long_side=800)
    height = (lower + path * 0.15 / distance) / (1 + path / distance)
    assert cylinder.mirror_height_m(
        wall_height_m=height, camera_height_m=0.15, camera_distance_m=distance, path_m=path
    ) == approx(lower)
    px, py = cam.project(np.array([wall[0], height, wall[1]]), width=640, height=800)
    column = layers.pictures[1, :, int(px), 1]
    lit = np.flatnonzero(column > column.max() / 2)
    assert lit.max() + 1 == approx(py, abs=0.75)
