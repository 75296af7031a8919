"""Closed forms for light on surfaces, against each other and brute force."""

import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.errors import DomainError
from fotaxis.core.lights.card_finishes import FINISH
from fotaxis.core.lights.fixtures import Card
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.render.lighting import FINEST, lighting
from fotaxis.core.render.transport.illuminance import disc_illuminance_lux, polygon_illuminance_lux
from tests import scenes

FACE = {"luminance_cd_m2": 1000.0, "radius_m": 0.5}
UP = np.array([0.0, 1.0, 0.0])


def square(half: float, height: float) -> np.ndarray:
    return np.array([[-half, height, -half], [half, height, -half], [half, height, half], [-half, height, half]])


def brute_force(corners: np.ndarray, point: np.ndarray, normal: np.ndarray, n: int = 1200) -> float:
    """Midpoint sum of max(cos, 0) cos / r^2 over a parallelogram."""
    t = (np.arange(n) + 0.5) / n
    a, b = corners[1] - corners[0], corners[3] - corners[0]
    places = corners[0] + t[:, None, None] * a + t[None, :, None] * b
    d = places - point
    r2 = (d**2).sum(axis=-1)
    facing = np.maximum(d @ normal, 0.0)
    area = np.cross(a, b)
    return float((facing * np.abs(d @ area) / r2**2).sum()) / n**2


def test_distance_equal_to_radius_gives_half_of_contact():
    # By hand: d = R, so E = pi L / 2. Tolerance: rounding.
    assert disc_illuminance_lux(**FACE, distance_m=0.5) == approx(500 * math.pi, rel=1e-15)


def test_inverse_square_law_is_one_percent_high_at_ten_radii():
    # By hand: R^2 / (R^2 + 100 R^2) against 1 / 100.
    far = disc_illuminance_lux(**FACE, distance_m=5.0)
    assert 1000 * math.pi * 0.5**2 / 5.0**2 / far == approx(1.01, rel=1e-12)


def test_parallel_square_overhead_matches_the_view_factor_catalogue():
    # View factor of a small element to a parallel rectangle from its corner, catalogue of configuration factors C-11
    # style formula: F = 1/2pi (A/sqrt(1+A^2) atan(B/sqrt(1+A^2)) + B/sqrt(1+B^2) atan(A/sqrt(1+B^2))). Four corners.
    half, height = 0.3, 0.4
    a = b = half / height
    corner = (a / math.sqrt(1 + a * a) * math.atan(b / math.sqrt(1 + a * a)) * 2) / (2 * math.pi)
    expected = math.pi * 4 * corner
    found = polygon_illuminance_lux(corners=square(half, height), point=np.zeros(3), normal=UP, luminance_cd_m2=1.0)
    assert found == approx(expected, rel=1e-12)


def test_filling_the_hemisphere_gives_pi():
    found = polygon_illuminance_lux(corners=square(1e4, 0.1), point=np.zeros(3), normal=UP, luminance_cd_m2=2.0)
    assert found == approx(2 * math.pi, rel=1e-4)


def test_winding_does_not_matter():
    corners = square(0.2, 0.3)
    values = [
        polygon_illuminance_lux(corners=c, point=np.zeros(3), normal=UP, luminance_cd_m2=1.0)
        for c in (corners, corners[::-1])
    ]
    assert values[0] == approx(values[1], rel=1e-14)


@pytest.mark.parametrize("seed", range(8))
def test_against_brute_force_with_the_horizon_cutting_through(seed):
    # Tolerance: the sum's own error with 1200^2 cells, worst where the horizon cuts cells.
    rng = np.random.default_rng(seed)
    corner = rng.uniform(-1, 1, 3) + np.array([0, 0.2, 1.2])
    a, b = rng.uniform(-1, 1, (2, 3))
    corners = np.array([corner, corner + a, corner + a + b, corner + b])
    normal = rng.normal(size=3)
    normal /= np.linalg.norm(normal)
    found = polygon_illuminance_lux(corners=corners, point=np.zeros(3), normal=normal, luminance_cd_m2=1.0)
    assert found == approx(brute_force(corners, np.zeros(3), normal), rel=2e-3, abs=1e-6)


def test_below_the_horizon_nothing_arrives():
    assert polygon_illuminance_lux(corners=square(0.2, -0.3), point=np.zeros(3), normal=UP, luminance_cd_m2=1.0) == 0.0


def test_wrong_polygons_are_refused():
    with pytest.raises(DomainError, match="corners"):
        polygon_illuminance_lux(corners=np.zeros((2, 3)), point=np.zeros(3), normal=UP, luminance_cd_m2=1.0)
    with pytest.raises(DomainError):
        disc_illuminance_lux(luminance_cd_m2=math.nan, radius_m=1, distance_m=1)


def test_a_penumbra_is_as_deep_as_what_is_seen_of_the_light_past_the_flag():
    # Closed form: Lambert's polygon, cut by the flag's edge as the place sees it (similar triangles).
    high, low, above = 1.0, 0.4, 0.003
    panel = scenes.panel("p", x=0, y=high, z=0, turn=0, tilt=-90, width=0.2, height=0.2)
    flag = Card(
        key="flag",
        name="Flag",
        stance=scenes.stance(-1.0, low, 0, 0, -90),
        width_m=2.0,
        height_m=3.0,
        finish=FINISH["black card"],
    )
    plan = replace(scenes.bare(scenes.cylinder(0.001, 0.002), lights=(panel,)), cards=(flag,))
    places = np.zeros((221, 8), np.float32)
    places[:, 0], places[:, 1], places[:, 4], places[:, 7] = np.linspace(-0.10, 0.12, 221), above, 1.0, 1.0
    expected = []
    for x in places[:, 0].astype(float):
        begin = max(-0.1, x - x * (high - above) / (low - above))
        cut = np.array([[begin, high, -0.1], [0.1, high, -0.1], [0.1, high, 0.1], [begin, high, 0.1]])
        place = {"point": np.array([x, above, 0.0]), "normal": UP, "luminance_cd_m2": panel.full_luminance}
        expected.append(polygon_illuminance_lux(corners=cut, **place) if begin < 0.1 else 0.0)
    expected = np.array(expected)
    found = lighting(plan, pack_static_scene(plan), FINEST).direct(places)[:, 0, 1]
    seen = expected > 0.01 * expected.max()
    assert (seen & (expected < 0.5 * expected.max())).sum() > 40  # the penumbra's darker half
    assert np.abs(found[seen] / expected[seen] - 1).max() < 0.03
    assert found[expected == 0].max() == 0
