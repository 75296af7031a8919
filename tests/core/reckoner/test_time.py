"""Falls, flashes, painted light, film and flicker: against textbook mechanics, integrals done by hand, common practice."""

import math

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera.exposure import incident_f_number
from tests.core.reckoner.asking import asked, problem, value, values


def test_a_drop_at_two_metres_a_second():
    # Common practice: it moves 1 mm in 1/2000 s.
    assert value("freeze", "duration", speed="2 m/s", blur="1 mm") == approx(1 / 2000)
    assert value("freeze", "blur", speed="2 m/s", duration="1/2000") == approx(0.001)
    # Textbook: v² = 2 g h, so 2 m/s after 20.4 cm.
    assert values("freeze", "duration", speed="2 m/s")["fall"] == approx(0.204, abs=0.001)
    assert values("freeze", "duration", width="36 cm", pixels=3600, blur="0.1 mm")["on_sensor"] == approx(1)


def fallen(height, barrier):
    """Time from the barrier to the surface, in small steps."""
    y, speed, t, passed, dt = height, 0.0, 0.0, None if barrier < height else 0.0, 1e-5
    while y > 0:
        speed += 9.80665 * dt
        y -= speed * dt
        t += dt
        if passed is None and y <= barrier:
            passed = t
    return t - passed


@pytest.mark.parametrize(("height", "barrier"), [(0.5, 0.2), (1.0, 1.0), (0.3, 0.05)])
def test_the_delay_of_a_fall(height, barrier):
    found = values("splash-delay", "delay", height=f"{height} m", barrier=f"{barrier} m", after="0 s")
    assert found["delay"] == approx(fallen(height, barrier), abs=2e-5)
    # Textbook: a metre takes 0.4515 s and ends with 4.43 m/s.
    if height == 1.0:
        assert (found["whole"], found["impact"]) == approx((0.4516, 4.429), abs=0.001)


def test_what_is_added_and_taken_from_a_delay():
    plain, later = (
        value("splash-delay", "delay", after=after, lag=lag) for after, lag in (("0 s", "0 s"), ("40 ms", "5 ms"))
    )
    assert later - plain == approx(0.035)
    assert "it must be lower" in problem("splash-delay", "delay", height="20 cm", barrier="30 cm")


def test_flashes_for_a_level():
    # Each doubling of flashes is one stop: common practice.
    found = values("pops", "pops", stops=3, one="f/4", recycle="2 s")
    assert (found["pops"], found["lasts"]) == approx((8, 14))
    assert found["f_number"] == approx(4 * math.sqrt(8))
    assert values("pops", "pops", stops="1.5")["whole"] == 3


@pytest.mark.parametrize("passes", [1, 3])
def test_painted_light_by_adding_up_what_a_place_gets(passes):
    """Another way: a lamp's even patch moved past a place in small steps of time."""
    candela, distance, beam, speed = 100.0, 0.5, math.radians(16), 0.2
    t = np.arange(-5, 5, 1e-4)
    lit = np.abs(speed * t) <= distance * math.tan(beam / 2)
    lux_s = passes * candela / distance**2 * lit.sum() * 1e-4
    told = value("light-painting", "f_number", candela=candela, distance="50 cm", beam="16", speed="0.2", passes=passes)
    assert 2 * math.log2(told / incident_f_number(exposure_lux_s=lux_s, iso=100)) == approx(0, abs=0.01)
    again = value(
        "light-painting", "passes", candela=candela, distance="50 cm", beam="16", speed="0.2", f_number=told * 0.999
    )
    assert again == passes


def test_recycling_goes_with_energy():
    # Common practice: half the power, half the time and twice the flashes.
    full, half = (values("recycle", "recycle", full="2 s", power=power, flashes_full=200) for power in ("1/1", "1/2"))
    assert (full["recycle"], half["recycle"]) == approx((2, 1))
    assert (full["flashes"], half["flashes"]) == (200, 400)
    assert values("recycle", "recycle", frames=1000, flashes_full=400, power="1/1")["batteries"] == 3


@pytest.mark.parametrize(
    ("rate", "angle", "shutter"), [(24, 180, 1 / 48), (60, 180, 1 / 120), (120, 180, 1 / 240), (25, 90, 1 / 100)]
)
def test_shutter_angles(rate, angle, shutter):
    # Common practice: one over twice the frame rate; each doubling costs a stop.
    assert value("shutter-angle", "shutter", rate=rate, angle=angle) == approx(shutter)
    assert values("shutter-angle", "shutter", rate=100, shown=25)["light"] == approx(2)
    assert values("shutter-angle", "shutter", rate=100, shown=25)["slower"] == approx(4)


@pytest.mark.parametrize(("mains", "shutter"), [(50, "1/125"), (60, "1/80"), (50, "1/1000"), (60, "1/50")])
def test_flicker_by_the_brightest_and_darkest_exposure(mains, shutter):
    """Another way: the mean of a sine over the shutter time, begun at every phase."""
    depth, seconds = 0.4, {"1/125": 2**-7, "1/80": 2 ** (-19 / 3), "1/1000": 2**-10, "1/50": 2 ** (-17 / 3)}[shutter]
    begins = np.linspace(0, 1 / mains, 2001)
    w = 2 * math.pi * 2 * mains
    means = 1 + depth * (np.cos(w * begins) - np.cos(w * (begins + seconds))) / (w * seconds)
    told = value("flicker", "apart", mains=mains, depth="40 %", shutter=shutter)
    assert told == approx(float(np.log2(means.max() / means.min())), abs=1e-4)


def test_safe_shutter_times():
    # Common practice: 1/100 s and 1/50 s on 50 Hz, 1/120 s and 1/60 s on 60 Hz.
    for mains, shutter, safe in ((50, "1/125", 1 / 100), (50, "1/60", 1 / 50), (60, "1/125", 1 / 120), (60, "1/50", 1 / 60)):
        found = values("flicker", "apart", mains=mains, shutter=shutter)
        assert found["safe"] == approx(safe)
    assert "pumps" in " ".join(asked("flicker", "apart", mains=50, rate=24, depth="60 %").says)
    assert "pumps" not in " ".join(asked("flicker", "apart", mains=50, rate=25, depth="60 %").says)
