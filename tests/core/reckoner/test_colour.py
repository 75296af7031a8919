"""Mired and white balance: against published conversions, every pair of gels, and colour-science."""

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.lights.gels import GEL, shifted_kelvin
from fotaxis.core.reckoner.calculations.mired import CONVERSION, SEEN_MIRED, nearest_gels
from tests.core.reckoner.asking import asked, problem, value, values


@pytest.mark.parametrize(
    ("light", "wanted", "mired"),
    # Published conversions of photographic filters (tables of mired shifts, from memory): amber 5500 to 3200 K +131,
    # blue 3200 to
    # 5500 K -131, 6500 to 3200 K +159, 3400 to 5500 K -112, 5500 to 3400 K +112, 3200 to 3400 K -18.
    [(5500, 3200, 131), (3200, 5500, -131), (6500, 3200, 159), (3400, 5500, -112), (5500, 3400, 112), (3200, 3400, -18)],
)
def test_mired_shifts(light, wanted, mired):
    assert value("mired", "shift", light=light, wanted=wanted) == approx(mired, abs=0.6)
    assert value("mired", "wanted", light=light, shift=mired) == approx(wanted, rel=0.003)


def test_the_gels_that_are_named_for_a_shift():
    assert asked("mired", "shift", light=3200, wanted=5500).gives[1].text == "full cool"
    assert asked("mired", "shift", light=6500, wanted=3200).gives[1].text == "full warm"
    # Two quarters make a half: they add in mired. Common practice.
    assert 2 * GEL["quarter warm"].mired == approx(GEL["half warm"].mired, abs=4)
    assert asked("mired", "shift", light=5600, wanted=5600).gives[1].text == "none"


@pytest.mark.parametrize("shift", range(-250, 330, 7))
def test_no_other_gel_or_pair_comes_much_nearer(shift):
    chosen = abs(shift - sum(gel.mired for gel in nearest_gels(shift)))
    alone = min(abs(shift - gel.mired) for gel in CONVERSION)
    pairs = min(abs(shift - a.mired - b.mired) for a in CONVERSION for b in CONVERSION if a.mired * b.mired > 0)
    assert chosen <= min(alone + SEEN_MIRED / 2, pairs + SEEN_MIRED, abs(shift)) + 1e-9


def test_what_a_gel_makes_of_a_light_is_what_the_core_makes_of_it():
    for light, wanted in ((5600, 3200), (3200, 5600), (6500, 4300)):
        found = values("mired", "shift", light=light, wanted=wanted)
        shift = sum(GEL[name].mired for name in found["gel"].split(" + "))
        assert found["becomes"] == approx(shifted_kelvin(light, shift), rel=1e-9)


def _mixture_kelvin(first, second, stops):
    """Correlated colour temperature of two black bodies' light, by colour-science (Kang 2002, Robertson 1968)."""
    import colour

    weight = 1 / (1 + 2.0**-stops)
    total = np.zeros(3)
    for kelvin, part in ((first, weight), (second, 1 - weight)):
        x, y = colour.temperature.CCT_to_xy(kelvin, method="Kang 2002")
        total += part * np.array([x / y, 1.0, (1 - x - y) / y])
    return float(colour.temperature.uv_to_CCT(colour.UCS_to_uv(colour.XYZ_to_UCS(total)), method="Robertson 1968")[0])


@pytest.mark.filterwarnings("ignore")
@pytest.mark.parametrize("stops", [-2, -1, 0, 1, 2])
@pytest.mark.parametrize(("first", "second", "near"), [(5600, 3200, 5), (5600, 4300, 5), (6500, 2700, 10)])
def test_the_white_between_two_lights(first, second, stops, near):
    told = value("white-balance", "white", first=first, second=second, stops=stops)
    assert 1e6 / told == approx(1e6 / _mixture_kelvin(first, second, stops), abs=near)


def test_the_gel_that_joins_two_lights():
    found = asked("white-balance", "white", first=6500, second=3200)
    assert next(one.text for one in found.gives if one.name == "gel") == "full warm"
    assert "does not lie between" in problem("white-balance", "stops", first=5600, second=3200, white=7000)
    assert asked("white-balance", "white", first=5600, second=5500).says == (
        "The two agree: one white balance serves both.",
    )
