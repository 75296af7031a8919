"""Calibration, powers, grids and how things stand."""

import math

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera.exposure import incident_f_number
from fotaxis.core.errors import DomainError
from fotaxis.core.geometry import orientation
from fotaxis.core.lights.beam_patterns import cell_transmission
from fotaxis.core.lights.calibration import MeterReading, guide_number_intensity_cd_s
from fotaxis.core.lights.power import PowerRange
from fotaxis.core.metering import incident
from fotaxis.core.stops import power_name
from tests import scenes


def test_guide_number_is_f_number_times_distance():
    # ISO 2720 with N = GN / d: at d the meter must read GN / d at ISO 100.
    intensity = guide_number_intensity_cd_s(guide_number_m=40)
    assert incident_f_number(exposure_lux_s=intensity / 5**2, iso=100) == approx(8.0)


@pytest.mark.parametrize("dome", [False, True])
@pytest.mark.parametrize("gradient", ["even", "core", "ramp"])
def test_a_meter_reading_is_what_the_virtual_meter_reads_back(gradient, dome):
    # Own check of two independent sums: calibration integrates the face, the meter walks cells and closed form.
    # Tolerance: 96 against 2304 cells.
    reading = MeterReading(distance_m=1.0, f_number=11.3137, iso=100, power_stops=-2, dome=dome)
    panel = scenes.panel("p", x=0, y=0.5, z=1.0, turn=180, gradient=gradient, stops=1.5, calibration=reading, power=-2)
    plan = scenes.bare(scenes.cylinder(radius=0.001, height=0.01), lights=(panel,))
    arriving = incident.arriving_lux_s(plan, place=np.array([0, 0.5, 0.0]), normal=np.array([0, 0, 1.0]))
    n = incident_f_number(exposure_lux_s=incident.planned_lux_s(plan, arriving), iso=100, dome=dome)
    assert 2 * math.log2(n / 11.3137) == approx(0.0, abs=0.02)


def test_a_far_panel_meets_its_guide_number():
    panel = scenes.panel("p", x=0, y=0.5, z=8.0, turn=180, power=0)
    plan = scenes.bare(scenes.cylinder(radius=0.001, height=0.01), lights=(panel,))
    arriving = incident.arriving_lux_s(plan, place=np.array([0, 0.5, 0.0]), normal=np.array([0, 0, 1.0]))
    assert incident_f_number(exposure_lux_s=float(arriving[0]), iso=100) == approx(22 / 8, rel=5e-3)


def test_two_heads_on_one_patch_are_one_stop_more():
    one = scenes.panel("a", x=0, y=0.5, z=2.0, turn=180)
    two = scenes.panel("b", x=0, y=0.5, z=2.001, turn=180)
    place, normal = np.array([0, 0.5, 0.0]), np.array([0, 0, 1.0])
    solid = scenes.cylinder(radius=0.001, height=0.01)
    single = incident.arriving_lux_s(scenes.bare(solid, lights=(one,)), place=place, normal=normal).sum()
    # The second would stand in the first one's shadow: read each alone and add.
    other = incident.arriving_lux_s(scenes.bare(solid, lights=(two,)), place=place, normal=normal).sum()
    assert math.log2((single + other) / single) == approx(1.0, abs=2e-3)


def test_power_names_and_notches():
    assert [power_name(s, steps_per_stop=3) for s in (0, -1, -1 / 3, -2 / 3, -4)] == [
        "1/1",
        "1/2",
        "1/2 +⅔",
        "1/2 +⅓",
        "1/16",
    ]
    assert power_name(-0.7, steps_per_stop=10) == "1/2 +0.3"
    thirds = PowerRange(lowest_stops=7, steps_per_stop=3)
    assert thirds.notch(-1.4) == approx(-4 / 3)
    assert thirds.notch(-99) == -7
    with pytest.raises(DomainError, match="between two notches"):
        thirds.check(-1.5)
    with pytest.raises(DomainError, match="goes from"):
        thirds.check(0.5)


def test_grid_lets_the_axis_through_and_nothing_past_half_its_angle():
    half = math.tan(math.radians(10))
    assert cell_transmission(np.array(0.0), half) == approx(1.0)
    assert cell_transmission(np.array(half), half) == 0.0
    # Two round holes shifted by half their width overlap by 39.1 % (lens area, textbook geometry).
    assert cell_transmission(np.array(half / 2), half) == approx(0.391, abs=5e-4)


@pytest.mark.parametrize(
    ("turn", "tilt", "front"), [(0, 0, (0, 0, 1)), (90, 0, (1, 0, 0)), (180, 0, (0, 0, -1)), (0, 90, (0, 1, 0))]
)
def test_turn_and_tilt(turn, tilt, front):
    across, up, looks = orientation.axes(turn_rad=math.radians(turn), tilt_rad=math.radians(tilt))
    assert looks == approx(front, abs=1e-12)
    assert np.cross(looks, across) == approx(up, abs=1e-12)


def test_aiming_is_the_inverse_of_turning():
    place, target = np.array([0.3, 0.8, 0.9]), np.array([0.0, 0.1, 0.0])
    turn, tilt = orientation.aim(place=place, target=target)
    _, _, front = orientation.axes(turn_rad=turn, tilt_rad=tilt)
    assert front == approx((target - place) / np.linalg.norm(target - place), abs=1e-12)
    with pytest.raises(DomainError):
        orientation.aim(place=place, target=place)
