"""Measured outlines: sanity and refinement."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pytest import approx

from fotaxis.core.errors import DomainError
from fotaxis.core.geometry.profile import Profile, refine
from tests import scenes


@pytest.mark.parametrize(
    ("points", "words"),
    [
        ([(0, 5)], "2 to 400"),
        ([(0, 5), (math.nan, 5)], "point 2"),
        ([(0, 5), (10, -1)], "point 2: diameter"),
        ([(0, 0), (10, 0)], "every diameter is 0"),
        ([(0, 5), (0.05, 6)], "less than 1 mm"),
        ([(5, 5), (0, 5)], "not the lowest"),
        ([(0, 5), (5, 5), (5, 5), (8, 3)], "repeats point 2"),
        ([(0, 5), (10, 5), (10, 8), (5, 2), (12, 2)], "crosses"),
        ([(0, 5), (1000, 5)], "300 cm"),
    ],
)
def test_outlines_that_cannot_be_are_refused_with_the_place(points, words):
    with pytest.raises(DomainError, match=words):
        scenes.profile(points)


def test_heights_and_diameters_come_in_pairs():
    with pytest.raises(DomainError, match="pairs"):
        Profile(heights_m=(0.0, 0.1), radii_m=(0.1,))


def test_refined_outline_passes_the_measured_points_and_does_not_overshoot():
    profile = scenes.profile()
    outline = refine(profile)
    for height, diameter in scenes.BOTTLE_CM[1:-1]:
        assert profile.radius_at(height / 100) == approx(diameter / 200, abs=3e-4)
    assert outline.points[:, 1].max() <= 0.037 + 1e-9  # monotone cubic: never beyond a measured diameter
    assert len(outline.points) > 96


def test_normals_point_outwards_and_have_unit_length():
    outline = refine(scenes.profile())
    assert np.linalg.norm(outline.normals, axis=2) == approx(1.0)
    middle = len(outline.normals) // 3
    assert outline.normals[middle, 0, 1] > 0.9  # the wall looks outwards
    assert outline.normals[0, 0] == approx([-1, 0])  # the foot looks down
    assert outline.normals[-1, 0] == approx([1, 0])  # the top looks up


def test_radius_outside_the_solid_is_zero():
    assert scenes.profile().radius_at(0.5) == 0.0


def test_a_sphere_given_by_points_is_a_sphere():
    # 37 measured points on a circle; the cubic must stay within 0.1 % of R, sagitta of the measured stretches.
    angles = np.linspace(-math.pi / 2, math.pi / 2, 37)
    sphere = Profile(
        heights_m=tuple(0.1 + 0.1 * np.sin(angles)), radii_m=tuple(np.maximum(0.1 * np.cos(angles), 0.0).round(12))
    )
    p = refine(sphere).points
    assert np.hypot(p[:, 0] - 0.1, p[:, 1]) == approx(0.1, rel=1e-3)


@given(st.lists(st.tuples(st.floats(-10, 400), st.floats(-5, 700)), max_size=12))
def test_any_numbers_make_an_outline_or_a_clear_error(points):
    try:
        profile = scenes.profile(points)
    except DomainError as error:
        assert "profile" in str(error)
        return
    outline = refine(profile)
    assert np.isfinite(outline.points).all()
    assert np.isfinite(outline.normals).all()
