"""Booms, circuits and the sun: against statics, Ohm's law, published tables and almanac examples."""

import math
from datetime import UTC, datetime, timedelta
from itertools import pairwise

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.lights.sun import sun_at
from tests.core.reckoner.asking import asked, problem, value, values


def test_a_lever_in_balance():
    # Textbook lever rule: 3 kg at 1.5 m hold 9 kg at 0.5 m, a weightless arm.
    assert value("boom", "counter", load=3, reach="150 cm", rear="50 cm", arm=0) == approx(9)
    # An even arm of 2 kg from -0.5 to 1.5 m has its weight at 0.5 m: 2 kg more at the rear end.
    assert value("boom", "counter", load=3, reach="150 cm", rear="50 cm", arm=2) == approx(11)


@pytest.mark.parametrize("counter", [0, 4])
def test_the_sandbag_by_adding_up_moments(counter):
    """Another way: masses in a row, a tipping line at half a leg's length, 1.5 times what lies beyond it."""
    load, reach, rear, arm, feet, stand = 4.0, 1.6, 0.6, 2.0, 0.5, 6.0
    found = (
        values("boom", "load", counter=counter, reach="160 cm", rear="60 cm", arm=arm, feet="50 cm", stand=stand, tilt=0)
        if counter
        else None
    )
    line = feet / 2
    load = found["load"] if found else load
    masses = [(load, reach), (arm, (reach - rear) / 2)]
    beyond = sum(m * (x - line) for m, x in masses)
    within = stand * line + counter * (rear + line)
    bag = max(0.0, (1.5 * beyond - within) / line)
    told = found or values("boom", "counter", load=load, reach="160 cm", rear="60 cm", arm=arm, feet="50 cm", stand=stand)
    assert told["sandbag" if counter else "alone"] == approx(bag)
    assert any("safety line" in said for said in asked("boom", "counter").cautions)


def test_a_circuit_by_ohms_law():
    # 2300 W on 230 V draw 10 A; 16 A breakers hold 3680 W, for hours 80 % of it (common practice).
    found = values("circuit", "part", watts=2300, volts=230, breaker=16)
    assert (found["amps"], found["part"]) == approx((10, 0.625))
    assert value("circuit", "watts", part="80 %") == approx(0.8 * 16 * 230)
    assert "will trip" in asked("circuit", "part", watts=4000).says[0]
    assert any("licensed person" in said for said in asked("circuit", "part").cautions)


@pytest.mark.parametrize(("section", "millivolts"), [(1.5, 29), (2.5, 18), (4, 11)])
def test_what_a_cable_loses_as_tables_have_it(section, millivolts):
    # BS 7671, appendix 4 (from memory): two-core copper at 70 °C,
    # millivolts per ampere and metre; rounded there to whole ones.
    found = values("circuit", "part", watts=2300, volts=230, length="100 m", section=section)
    assert found["lost"] * 230 / (10 * 100) * 1000 == approx(millivolts, rel=0.04)


def test_the_sun_of_a_published_example():
    # Reda & Andreas, Solar Position Algorithm (NREL/TP-560-34302), appendix A.5: 17 October 2003, 12:30:30 at UTC -7,
    # 105.1786° W,
    # 39.742476° N: height without refraction 39.8720°, azimuth 194.3402°. Half a minute: the hour is typed in whole minutes.
    found = values("sun", "height", latitude="39.742476", longitude="-105.1786", date="2003-10-17", zone=-7, clock="12:30")
    later = values("sun", "height", latitude="39.742476", longitude="-105.1786", date="2003-10-17", zone=-7, clock="12:31")
    assert math.degrees((found["height"] + later["height"]) / 2) == approx(39.872, abs=0.02)
    assert math.degrees((found["bearing"] + later["bearing"]) / 2) == approx(194.340, abs=0.02)


def test_noon_at_the_solstices():
    # Almanac: the sun's declination is 23.44° in June; at noon it stands 90° - latitude + that.
    found = max(values("sun", "height", latitude=52.5, longitude=13.4, clock=f"13:{m:02d}")["height"] for m in range(0, 20))
    assert math.degrees(found) == approx(90 - 52.5 + 23.44, abs=0.02)


def test_when_the_sun_climbs_to_a_height():
    clock = value("sun", "clock", height="30", latitude=40, longitude=-3, zone=1, date="2026-04-10")
    when = datetime(2026, 4, 10, tzinfo=UTC) + timedelta(hours=clock - 1)
    assert math.degrees(sun_at(latitude_deg=40, longitude_deg=-3, when=when).elevation_rad) == approx(30, abs=0.02)
    assert "does not climb" in problem("sun", "clock", height="80", latitude=60)


@pytest.mark.parametrize("bearing", [135, 180, 250])
def test_when_the_sun_clears_a_wall_by_casting_rays(bearing):
    """Another way: minute by minute, does the ray to the sun pass over the wall's top where it meets its plane?"""
    wall, away = 6.0, 8.0
    to_wall = np.array([math.sin(math.radians(bearing)), math.cos(math.radians(bearing))])
    reaches = []
    for minute in range(0, 1440):
        when = datetime(2026, 6, 21, tzinfo=UTC) + timedelta(minutes=minute - 120)
        sun = sun_at(latitude_deg=52.5, longitude_deg=13.4, when=when)
        ray = np.array([math.sin(sun.bearing_rad), math.cos(sun.bearing_rad)]) * math.cos(sun.elevation_rad)
        towards = float(ray @ to_wall)
        height = math.sin(sun.elevation_rad)
        clear = height > 0 and (towards <= 0 or height / towards * away > wall)
        if clear:
            reaches.append(minute)
    found = asked("sun", "height", latitude=52.5, longitude=13.4, wall="6 m", wall_distance="8 m", wall_bearing=bearing)
    gaps = [(a, b) for a, b in pairwise(reaches) if b > a + 1]
    edges = [reaches[0], *(edge for gap in gaps for edge in gap), reaches[-1]]
    told = [int(h) * 60 + int(m) for h, m in (clock.split(":") for clock in _clocks(found.says[0]))]
    assert told == approx(edges, abs=1.5)


def _clocks(words):
    return [word.strip(".,") for word in words.split() if ":" in word]
