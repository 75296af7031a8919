"""The exposure chain against its standards."""

import math

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera.exposure import (
    Exposure,
    decode_srgb,
    encode_srgb,
    image_exposure_lux_s,
    incident_f_number,
    stops_between,
    stops_from_grey,
)  # fmt: skip
from fotaxis.core.camera.nominal_scales import (
    exact_f_number,
    f_number_name,
    f_number_with_tenths,
    shutter_choices,
    shutter_name,
)
from fotaxis.core.constants import SATURATION_EXPOSURE_LUX_S
from fotaxis.core.errors import DomainError
from fotaxis.core.stops import stops_name

WORKING = {"iso": 100.0, "shutter_s": 2.0**-7, "f_number": 8.0}


def test_sos_exposure_gives_the_118_of_the_standard():
    # ISO 12232: at H = 10 / S the output level of 18 % grey in sRGB is 118.
    exposure = Exposure(**WORKING)
    luminance_time = 10 / 100 * 8.0**2 / 0.65  # H = q L t / N^2 solved for L t
    level = luminance_time * exposure.level_per_luminance_time()
    assert level == approx(0.18, rel=1e-12)
    assert int(encode_srgb(np.array([level]))[0]) == 118


def test_image_exposure_formula():
    # By hand: q = 0.65, L t = 100 cd s/m2, f/8: 0.65 * 100 / 64.
    assert image_exposure_lux_s(luminance_time_cd_s_m2=100, f_number=8) == approx(1.015625)


def test_an_incident_meter_and_a_grey_card_agree_with_iso_2720():
    # Flat receptor, C = 250: N^2 = H S / C. An 18 % card under that light has L t = 0.18 H / pi.
    # ISO 12232's H = 10 / S for it needs C = 10 pi / (0.18 * 0.65) = 268.5, within 0.11 stop of 250: the two standards'
    # constants are rounded independently, so that is the tolerance.
    light, iso = 160.0, 100.0
    n = incident_f_number(exposure_lux_s=light, iso=iso)
    assert n == approx(math.sqrt(160 * 100 / 250))
    level = 0.18 * light / math.pi * Exposure(iso=iso, shutter_s=2**-7, f_number=n).level_per_luminance_time()
    assert abs(stops_between(level, 0.18)) < 0.11
    # The dome reads C = 330: log2(330 / 250) / 2 = 0.20 f-stop names apart, 0.40 stop of light.
    assert stops_between(light, light * 330 / 250) == approx(-0.4005, abs=1e-3)


def test_saturation_speed_lies_above_the_srgb_clip_by_half_a_stop():
    # ISO 12232: S = 78 / H_sat, and the output clips at level 1: H = 10 / (0.18 S) = 55.6 / S. log2(78 / 55.6) = 0.49.
    assert math.log2(SATURATION_EXPOSURE_LUX_S / (10 / 0.18)) == approx(0.49, abs=0.005)


@pytest.mark.parametrize(
    ("first", "second", "stops"),
    [
        ({"f_number": 8.0}, {"f_number": 4.0}, 2.0),  # common practice: f/8 -> f/4 is two stops
        ({"iso": 100.0}, {"iso": 400.0}, 2.0),
        ({"f_number": 4 * math.sqrt(2)}, {"f_number": 4.0}, 1.0),  # ISO 517: f/5.6 is 4 sqrt 2
    ],
)
def test_one_stop_is_a_factor_of_two(first, second, stops):
    gain = [Exposure(**{**WORKING, **change}).layer_gain(power_stops=0, continuous=False) for change in (first, second)]
    assert math.log2(gain[1] / gain[0]) == approx(stops, abs=1e-12)


def test_flash_ignores_the_shutter_and_continuous_light_follows_it():
    slow, fast = (Exposure(**{**WORKING, "shutter_s": t}) for t in (2.0**-5, 2.0**-7))
    assert slow.layer_gain(power_stops=-1, continuous=False) == fast.layer_gain(power_stops=-1, continuous=False)
    assert slow.layer_gain(power_stops=-1, continuous=True) == approx(4 * fast.layer_gain(power_stops=-1, continuous=True))


def test_flash_above_sync_is_an_error_and_not_a_number():
    beyond = Exposure(**{**WORKING, "shutter_s": 2.0**-9})
    with pytest.raises(DomainError, match="sync"):
        beyond.layer_gain(power_stops=0, continuous=False)
    assert beyond.layer_gain(power_stops=0, continuous=True) > 0


@pytest.mark.parametrize("name", ["iso", "shutter_s", "f_number", "sync_s"])
@pytest.mark.parametrize("value", [0.0, -1.0, math.nan, math.inf])
def test_impossible_settings_are_refused(name, value):
    with pytest.raises(DomainError):
        Exposure(**{**WORKING, name: value})


def test_nominal_names_of_the_exact_series():
    # ISO 517 full stops.
    full = [f_number_name(2 ** (k / 2)) for k in range(13)]
    assert full == ["f/1", "f/1.4", "f/2", "f/2.8", "f/4", "f/5.6", "f/8", "f/11", "f/16", "f/22", "f/32", "f/45", "f/64"]
    assert exact_f_number(5.6) == approx(4 * math.sqrt(2))
    assert exact_f_number(11) == approx(8 * math.sqrt(2))
    assert shutter_name(2.0**-7) == "1/125 s"
    assert dict(shutter_choices())["1/250 s"] == approx(2.0**-8)
    assert f_number_with_tenths(8 * 2**0.15) == "f/8 +0.3"
    assert f_number_with_tenths(2 ** (4 / 2 + 0.999 / 2)) == "f/5.6"
    assert [stops_name(s) for s in (0.04, 1.26, -0.7, -math.inf)] == ["0.0", "+1.3", "−0.7", "black"]


def test_srgb_curve_of_the_standard_and_back():
    # IEC 61966-2-1: 0.0031308 is the knee; 255 codes survive a round trip.
    codes = np.arange(256, dtype=np.uint8)
    assert np.array_equal(encode_srgb(decode_srgb(codes)), codes)
    assert int(encode_srgb(np.array([2.0]))[0]) == 255


def test_stops_from_grey_hold_at_the_sensor_floor():
    assert stops_from_grey(np.array([0.18, 0.36, 0.0], np.float32)) == approx([0.0, 1.0, -16.0], abs=1e-6)
