"""Stops, black frame, meter, sync and the hand: against standards, the trade and the exposure chain of the core."""

import math

import pytest
from pytest import approx

from fotaxis.core.camera.exposure import Exposure, incident_f_number, stops_between
from tests.core.reckoner.asking import asked, problem, value, values

NEAR = 0.05
"""Stops: the reckoner and the core must agree within this."""


@pytest.mark.parametrize(
    ("changes", "stops"),
    [
        # ISO 517: full stops of the series are factors of the root of 2; common practice: f/8 to f/4 two,
        # ISO 100 to 400 two.
        ({"f_number": "8", "new_f_number": "4"}, 2), ({"iso": 100, "new_iso": 400}, 2), ({"power": "1/1",
            "new_power": "1/16"}, -4),
        ({"distance": "100 cm", "new_distance": "200 cm"}, -2), ({"f_number": "5.6", "new_f_number": "11"}, -2),
        ({"shutter": "1/60", "new_shutter": "1/15", "light": "burns on"}, 2), ({"shutter": "1/60", "new_shutter": "1/15"},
            0),
        ({"f_number": "8", "new_f_number": "11", "iso": 100, "new_iso": 200}, 0),
    ],
)  # fmt: skip
def test_stops_of_a_change(changes, stops):
    assert value("stops", "difference", **changes) == approx(stops, abs=0.01)


@pytest.mark.parametrize("continuous", [False, True])
@pytest.mark.parametrize(
    ("n", "t", "iso", "power"),
    [("5.6", "1/60", "200", "1/4"), ("11", "1/30", "400", "1/16"), ("16", "1/125", "50", "1/1")],
)
def test_stops_are_those_of_the_exposure_chain(n, t, iso, power, continuous):
    # Against the core: the gain of one light's picture before and after, at the exact values behind the names (ISO 517).
    exact = {"5.6": 4 * math.sqrt(2), "11": 8 * math.sqrt(2), "16": 16, "1/60": 2**-6, "1/30": 2**-5, "1/125": 2**-7}
    before = Exposure(iso=100, shutter_s=2**-7, f_number=8, sync_s=1 / 200)
    after = Exposure(iso=float(iso), shutter_s=exact[t], f_number=exact[n], sync_s=1 / 200)
    stops = -math.log2(int(power.removeprefix("1/")))
    gains = [e.layer_gain(power_stops=p, continuous=continuous) for e, p in ((after, stops), (before, -3))]
    told = value(
        "stops", "difference", light="burns on" if continuous else "flash", f_number=8, new_f_number=n, iso=100, new_iso=iso,
        shutter="1/125", new_shutter=t, power="1/8", new_power=power,
    )  # fmt: skip
    assert told == approx(stops_between(*gains), abs=NEAR)


def test_what_makes_up_for_a_smaller_aperture():
    assert asked("stops", "new_power", f_number="8", new_f_number="11", power="1/8").gives[0].text == "1/4"
    assert asked("stops", "new_iso", f_number="8", new_f_number="16").gives[0].text == "400"
    assert value("stops", "new_distance", f_number="8", new_f_number="11", distance="140 cm") == approx(0.99, abs=0.01)
    assert "power now" in problem("stops", "new_power", f_number="4", new_f_number="16", power="1/8").lower()


def test_the_room_under_the_exposure():
    # Common practice: a fair frame of the room at 1/50 f/2.8, black at 1/250 f/8: 5.3 stops less.
    found = asked("black-frame", "under", room_f_number="2.8", room_shutter="1/50", f_number="8", shutter="1/250")
    assert found.gives[0].value == approx(5.33, abs=0.05)
    assert "just holds" in found.says[0]
    # By hand: 1/125 is a stop more, f/7.1 a third: 4.0 under, 2.0 short of 6.
    assert "does not hold: 2.0" in asked("black-frame", "under", shutter="1/125", f_number="7.1").says[0]
    assert value("black-frame", "f_number", under=6, shutter="1/250") == approx(8 * 2 ** (0.667 / 2), rel=0.01)


@pytest.mark.parametrize(
    ("ev", "lux", "shutter"), [(0, 2.5, "2 s"), (5, 80, "1 s"), (10, 2560, "1/8"), (15, 81920, "1/125")]
)
def test_exposure_values_and_light(ev, lux, shutter):
    # ISO 2720 with C = 250: E = 2.5 lx times 2 to the EV at ISO 100, as published in tables of exposure values.
    found = values("meter", "f_number", light=lux, shutter=shutter, iso=100)
    assert found["ev100"] == approx(ev, abs=1e-9)
    seconds = {"2 s": 2, "1 s": 1, "1/8": 1 / 8, "1/125": 2**-7}[shutter]
    assert found["f_number"] == approx(math.sqrt(2**ev * seconds), rel=1e-9)


@pytest.mark.parametrize("dome", [False, True])
def test_the_meter_agrees_with_the_cores(dome):
    for lux_s, iso in ((16, 100), (2.3, 400), (300, 64)):
        told = value("meter", "f_number", light=lux_s * 100, shutter="10 ms", iso=iso, receptor="dome" if dome else "flat")
        assert 2 * math.log2(told / incident_f_number(exposure_lux_s=lux_s, iso=iso, dome=dome)) == approx(0, abs=NEAR)


def test_sync_and_what_the_room_gains():
    # 1/250 to 1/60 is two stops: common practice. The whole flash of 1/1000 s fits into 1/60 s.
    found = asked("sync", "ambient", sync="1/250", shutter="1/60")
    assert found.gives[0].value == approx(2, abs=0.01)
    assert "falls into the time" in found.says[0]
    assert "its tail is cut" in asked("sync", "ambient", sync="1/250", shutter="1/250", duration="1/200").says[0]
    refused = problem("sync", "ambient", sync="1/200", shutter="1/250")
    assert "faster than sync (1/200 s)" in refused
    assert "Choose 1/200 s or slower" in refused


def test_the_hand_held_limit():
    # Common practice: one over the focal length on a full frame; a crop of 1.5 wants 1.5 times less.
    assert value("hand-held", "shutter", focal="50 mm", stricter=0) == approx(1 / 50)
    assert value("hand-held", "shutter", focal="50 mm", stricter=0, sensor="24 mm") == approx(1 / 75)
    assert value("hand-held", "shutter", focal="50 mm", stricter=0, steadied=3) == approx(8 / 50)


@pytest.mark.parametrize(
    ("key", "unknown", "given", "words"),
    [
        ("black-frame", "under", {"f_number": "0"}, "Working aperture is f/0; it must be from f/0.5 to f/128."),
        ("meter", "f_number", {"light": "-3"}, "it must be more than"),
        ("stops", "difference", {"new_distance": "-1 m"}, "it must be more than 0 cm"),
        ("guide-number", "f_number", {"heads": "1.5"}, "it must be a whole number"),
        ("meter", "iso", {"iso": "5"}, ""),
    ],
)
def test_what_cannot_be_is_refused_with_what_can(key, unknown, given, words):
    if words:
        assert words in problem(key, unknown, **given)
    else:
        assert value(key, unknown, **given) > 0  # what is asked for is not read
