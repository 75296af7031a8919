"""Depth of field, stacks, magnification, framing, perspective, prints: against tables, the thin lens done otherwise, and "
"the core."""

import math

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera.camera import Camera
from fotaxis.core.camera.lens import depth_of_field_m
from fotaxis.core.values import Point
from tests.core.reckoner.asking import asked, problem, value, values


def blur_m(focal, n, focus, at):
    """Diameter of the blur circle on the sensor of a point, from the lens equation: A |v' - v| / v'."""
    v, other = (1 / (1 / focal - 1 / d) for d in (focus, at))
    return focal / n * abs(other - v) / other


@pytest.mark.parametrize(
    ("focal", "n", "distance", "near", "far"),
    # Published depth-of-field tables for a circle of 0.03 mm (from memory): 50 mm f/8 at 3 m: 2.34 to 4.19 m; 100 mm f/16 at 2 m:
    # 1.83 to 2.20 m; 35 mm f/8 at 2 m: 1.44 to 3.25 m.
    [("50 mm", "8", "3 m", 2.34, 4.19), ("100 mm", "16", "2 m", 1.83, 2.20), ("35 mm", "8", "2 m", 1.44, 3.25)],
)
def test_depth_of_field_as_tables_have_it(focal, n, distance, near, far):
    found = values("depth-of-field", "depth", focal=focal, f_number=n, distance=distance, circle="0.03 mm")
    assert (found["near"], found["far"]) == approx((near, far), rel=0.01)


def test_the_limits_are_blurred_by_just_the_circle():
    for focal, n, distance in ((0.1, 16, 1.2), (0.05, 4, 0.8), (0.2, 32, 3.0)):
        found = values(
            "depth-of-field", "depth", focal=f"{focal} m", f_number=n, distance=f"{distance} m", circle="0.029 mm"
        )
        for limit in ("near", "far"):
            assert blur_m(focal, n, distance, found[limit]) == approx(0.029e-3, rel=1e-6)


def test_the_aperture_for_a_depth_and_the_focus_between_two_limits():
    n = value("depth-of-field", "f_number", focal="100 mm", distance="120 cm", depth="10 cm")
    near, far = depth_of_field_m(focal_length_m=0.1, f_number=n, circle_m=0.029e-3, subject_distance_m=1.2)
    assert far - near == approx(0.1, rel=1e-6)
    found = values("depth-between", "f_number", near="110 cm", far="125 cm", focal="100 mm")
    for limit in (1.10, 1.25):
        assert blur_m(0.1, found["f_number"], found["focus"], limit) == approx(0.029e-3, rel=1e-6)
    assert "farther than the near one" in problem("depth-between", "f_number", near="120 cm", far="110 cm")


def test_hyperfocal_distance_and_diffraction():
    # By hand: 50² / (8 · 0.03) mm and the focal length: 10.47 m. Published tables say 10.5 m.
    assert value("hyperfocal", "hyperfocal", focal="50 mm", f_number="8", circle="0.03 mm") == approx(10.467, abs=0.001)
    assert values("depth-of-field", "depth", distance="900 m", focal="50 mm")["far"] == math.inf
    # Airy: 2.44 λ N, 10.7 µm at f/8 and 550 nm for a far subject (textbook).
    assert values("depth-of-field", "depth", f_number="8", distance="900 m", focal="50 mm")["airy"] == approx(
        10.74e-6, rel=0.001
    )
    assert any("Diffraction" in said for said in asked("depth-of-field", "depth", f_number="32").says)


def test_a_focus_stack_leaves_no_place_unsharp():
    """Camera on a rail: every place of the depth is within the circle in some frame, and with one frame less some is not."""
    focal, n, distance, circle, depth = 0.1, 8.0, 0.5, 0.029e-3, 0.06
    found = values("focus-stack", "frames", depth="60 mm", focal="100 mm", distance="50 cm", f_number=8, overlap="0 %")
    places = np.linspace(0, depth, 601)

    def unsharp(frames):
        first = found["one"] / 2
        blur = [
            [blur_m(focal, n, distance, distance + z - first - k * found["step"]) for k in range(int(frames))]
            for z in places
        ]
        return float((np.min(blur, axis=1) > circle * 1.04).mean())  # 4 %: the close-up formula against the exact limits

    assert unsharp(found["frames"]) == 0
    assert unsharp(found["frames"] - 1) > 0.02
    assert values("focus-stack", "frames", overlap="50 %", depth="60 mm")["frames"] > found["frames"]


@pytest.mark.parametrize(("m", "stops"), [(1, 2.0), (0.5, 1.17), (0.1, 0.275), (2, 3.17)])
def test_what_bellows_take(m, stops):
    # Textbook table of extension: life size two stops, half life size 1.17.
    found = values("magnification", "extension", magnification=m, focal="100 mm")
    assert found["loss"] == approx(stops, abs=0.01)
    assert found["extension"] == approx(0.1 * m)
    assert found["distance"] == approx(0.1 * (1 + 1 / m))


@pytest.mark.parametrize(
    ("focal", "degrees"), [("24 mm", 73.7), ("50 mm", 39.6), ("85 mm", 23.9), ("100 mm", 20.4), ("200 mm", 10.3)]
)
def test_angles_of_view_as_tables_have_them(focal, degrees):
    # Published for 36 mm and a far subject.
    found = values("field-of-view", "share", focal=focal, sensor="36 mm", distance="900 m", subject="90 m")
    assert math.degrees(found["angle"]) == approx(degrees, abs=0.06)


def test_framing_is_that_of_the_cores_camera():
    camera = Camera(
        place=Point(x_m=0, y_m=0.2, z_m=1.5), aim=Point(x_m=0, y_m=0.2, z_m=0), focal_length_m=0.1, sensor_width_m=0.036,
        sensor_height_m=0.024, focus_m=0.0,
    )  # fmt: skip
    width = camera.used_sensor_m[0] / camera.image_m * 1.5
    found = values(
        "field-of-view", "share", focal="100 mm", sensor=f"{camera.used_sensor_m[0]} m", distance="150 cm", subject="10 cm"
    )
    assert found["width"] == approx(width, rel=1e-9)
    assert value("field-of-view", "distance", focal="100 mm", sensor=f"{camera.used_sensor_m[0]} m", subject="10 cm",
                 share=f"{1000 / width / 100} %") == approx(1.5, rel=1e-6)  # fmt: skip


def test_perspective_by_projecting_both_things():
    found = values("perspective", "new_distance", focal="50 mm", distance="80 cm", new_focal="100 mm", behind="30 cm")

    def size(focal, away):
        image = 1 / (1 / focal - 1 / found_focus)
        return image / away

    for focal, distance, told in ((0.05, 0.8, found["before"]), (0.1, found["new_distance"], found["now"])):
        found_focus = distance
        assert size(focal, distance + 0.3) / size(focal, distance) == approx(told)
    before, after = (f / (d - f) for f, d in ((0.05, 0.8), (0.1, found["new_distance"])))
    assert before == approx(after)  # the product is as large in both


def test_print_sizes():
    # ISO 216 A4 at 300 ppi is 2480 by 3508 pixels, as published.
    assert value("print-size", "pixels", size="21 cm", density=300) == approx(2480, abs=1)
    assert value("print-size", "pixels", size="29.7 cm", density=300) == approx(3508, abs=1)
    assert values("print-size", "size", pixels=6000, other=4000, density=300)["high"] == approx(0.33867, abs=1e-5)
