"""Glass as it is measured: inner wall, rounded foot and lip, a level that does not climb."""

import math

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.errors import DomainError
from fotaxis.core.geometry.profile import Profile, refine, with_round_foot
from fotaxis.core.geometry.vessel import measured_radii, meniscus_height_m, walls

TUMBLER = Profile(heights_m=(0.0, 0.10), radii_m=(0.03, 0.035))
INSIDE = ((0.015, 0.024), (0.05, 0.029), (0.10, 0.032))


def test_the_inner_wall_goes_through_what_was_measured():
    heights, radii = measured_radii(TUMBLER, INSIDE)
    assert (heights[0], radii[0]) == (0.015, 0.0)  # a flat floor
    for height, radius in INSIDE:
        assert np.interp(height, heights[1:], radii[1:]) == approx(radius, abs=1e-6)
    assert np.all(np.diff(radii[1:]) >= 0)
    made = walls(TUMBLER, wall_m=0.002, floor_m=0.01, level_m=0.06, inside=INSIDE)
    assert made.inner_floor_m == 0.015
    assert made.wet.points[:, 1].max() < 0.032
    for wrong, words in (
        (((0.015, 0.024), (0.05, 0.034), (0.1, 0.032)), "as wide as the outside"),
        (((0.05, 0.02), (0.04, 0.02)), "higher than the one before"),
        (((0.0, 0.02), (0.1, 0.03)), "begin above the foot"),
        (((0.02, 0.02), (0.06, 0.0), (0.1, 0.03)), "diameter of 0"),
    ):
        with pytest.raises(DomainError, match=words):
            measured_radii(TUMBLER, wrong)


def test_a_level_that_does_not_climb_is_flat():
    flat, climbing = (
        walls(TUMBLER, wall_m=0.002, floor_m=0.01, level_m=0.06, climbs=climbs).level.points for climbs in (False, True)
    )
    assert np.ptp(flat[:, 0]) == approx(0, abs=1e-9)
    assert climbing[-1, 0] - climbing[0, 0] == approx(meniscus_height_m(), rel=0.05)


def test_a_round_lip_is_half_a_ring_as_high_as_the_flat_one():
    made = walls(TUMBLER, wall_m=0.003, floor_m=0.01, level_m=0.0, round_lip=True)
    outer, top = made.outer.points, TUMBLER.top_m
    assert outer[:, 0].max() == approx(top, abs=1e-5)
    lip = outer[outer[:, 0] > top - 0.0014]
    middle = (lip[0, 1] + lip[-1, 1]) / 2
    assert np.hypot(lip[:, 0] - (top - 0.0015), lip[:, 1] - middle) == approx(0.0015, rel=0.08)
    assert made.outer.points[-1] == approx(made.dry.points[-1], abs=1e-9)  # they meet: nothing slips between
    normals = made.outer.normals
    assert np.linalg.norm(normals, axis=2) == approx(np.ones(normals.shape[:2]))
    assert len(normals) == len(outer) - 1


def test_a_rounded_foot_is_an_arc():
    made = with_round_foot(TUMBLER, 0.004)
    points = refine(made).points
    arc = points[(points[:, 0] < 0.004) & (points[:, 1] > 0.027)]
    centre = np.interp(0.004, TUMBLER.heights_m, TUMBLER.radii_m) - 0.004
    assert len(arc) > 5
    assert np.hypot(arc[:, 0] - 0.004, arc[:, 1] - centre) == approx(0.004, rel=0.02)
    assert made.radius_at(0.05) == approx(TUMBLER.radius_at(0.05), abs=1e-6)

    # The volume it takes away, by Pappus: (1 - pi/4) R^2 at the corner's centroid.
    def volume(profile):
        y, r = refine(profile).points.T
        return float(np.sum(math.pi / 3 * np.diff(y) * (r[1:] ** 2 + r[1:] * r[:-1] + r[:-1] ** 2)))

    gone = (1 - math.pi / 4) * 0.004**2 * 2 * math.pi * 0.0295
    assert volume(TUMBLER) - volume(made) == approx(gone, rel=0.15)  # the arc is eight chords
    for wrong in (0.0, 0.06, 0.2):
        with pytest.raises(DomainError, match="rounded"):
            with_round_foot(TUMBLER, wrong)
