"""How quantities are typed and shown."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pytest import approx

from fotaxis.core.errors import DomainError
from fotaxis.core.reckoner import units
from fotaxis.core.reckoner.numbers import figures, number, plain


@pytest.mark.parametrize(
    ("text", "value"),
    [("1 1/3", 4 / 3), ("⅔", 2 / 3), ("1⅓", 4 / 3), ("−0,7", -0.7), ("+2", 2), ("3/4", 0.75), (".5", 0.5), ("-1 1/2", -1.5)],
)
def test_numbers_as_people_type_them(text, value):
    assert number(plain(text)) == approx(value)


@pytest.mark.parametrize("text", ["", "x", "1/0", "1 2", "--1", "1e400x", "nan", "inf", "1/2/3", "٣"])
def test_what_is_no_number_is_none(text):
    assert number(plain(text)) is None


@pytest.mark.parametrize(
    ("value", "text"),
    [
        (128.4, "128"),
        (12.54, "12.5"),
        (0.0834, "0.0834"),
        (0, "0"),
        (-3.2, "−3.2"),
        (12345, "12\u202f345"),
        (1200, "1200"),
        (math.inf, "∞"),
    ],
)
def test_figures_are_as_many_as_are_of_use(value, text):
    assert figures(value) == text


@pytest.mark.parametrize(
    ("unit", "text", "value"),
    [
        (units.CM, "120", 1.2), (units.CM, "1.2 m", 1.2), (units.CM, "48 in", 1.2192), (units.CM, '48"', 1.2192),
        (units.CM, "4'", 1.2192), (units.CM, "4 ft 6", 1.3716), (units.CM, "4'6\"", 1.3716), (units.MM, "85", 0.085),
        (units.METRES, "120 cm", 1.2),
        # ISO 517: f/5.6 is 4 times the root of 2, f/11 8 times.
        (units.F_NUMBER, "5.6", 4 * math.sqrt(2)), (units.F_NUMBER, "f/11", 8 * math.sqrt(2)), (units.F_NUMBER,
            "f 8 + 1/3", 8 * 2 ** (1 / 6)),
        (units.F_NUMBER, "8+0.3", 8 * 2**0.15), (units.F_NUMBER, "3.7", 3.7),
        (units.SHUTTER, "1/125", 2**-7), (units.SHUTTER, "1/125 s", 2**-7), (units.SHUTTER, "1/2000", 2**-11),
            (units.SHUTTER, "2 min", 120),
        (units.SHUTTER, "0.5", 0.5), (units.TIME, "12 ms", 0.012), (units.TIME, "1/2000", 1 / 2000), (units.TIME,
            "2 min 5 s", 125),
        (units.ISO, "160", 100 * 2 ** (2 / 3)), (units.ISO, "ISO 100", 100), (units.ISO, "12800", 12800),
        (units.STOPS, "+1⅓", 4 / 3), (units.STOPS, "−0.7 stops", -0.7), (units.STOPS, "1 stop", 1),
        (units.POWER, "1/8", -3), (units.POWER, "1/8 +1/3", -3 + 1 / 3), (units.POWER, "-3", -3), (units.POWER, "12.5 %",
            -3), (units.POWER, "full", 0),
        (units.POWER, "1/3", -5 / 3),
        (units.ANGLE, "40°", math.radians(40)), (units.PERCENT, "85 %", 0.85), (units.CLOCK, "14:30", 14.5), (units.DATE,
            "2000-01-11", 10),
        (units.KELVIN, "5600", 5600), (units.SQUARE_MM, "2.5 mm²", 2.5),
    ],
)  # fmt: skip
def test_quantities_as_people_type_them(unit, text, value):
    assert unit.read(text) == approx(value, rel=1e-9)


@pytest.mark.parametrize(
    ("unit", "value", "text"),
    [
        (units.CM, 1.2351, "123.5 cm"), (units.CM, 0.123, "12.3 cm"), (units.CM, 0.0062, "0.62 cm"), (units.CM, 30.58,
            "30.6 m"),
        (units.METRES, 0.547, "54.7 cm"), (units.MM, 0.1, "100 mm"), (units.F_NUMBER, 8, "f/8"), (units.F_NUMBER, 8.3,
            "f/8"),
        (units.SHUTTER, 1 / 125, "1/125 s"), (units.SHUTTER, 1 / 8000, "1/8000 s"), (units.SHUTTER, 90, "90 s"),
            (units.TIME, 1 / 2000, "1/2000 s"),
        (units.TIME, 0.0719, "71.9 ms"), (units.TIME, 125, "2 min 5 s"), (units.FRACTION, 0.01, "1/100 s"), (units.ISO,
            126, "125"),
        (units.STOPS, 4 / 3, "+1⅓ stops"), (units.STOPS, -1, "−1 stop"), (units.STOPS, 0, "0 stops"), (units.LOST, 0.5,
            "0.5 stops"),
        (units.POWER, -3, "1/8"), (units.POWER, -2 - 2 / 3, "1/8 +⅓"), (units.CLOCK, 14.5, "14:30"), (units.DATE, 10,
            "2000-01-11"),
        (units.PERCENT, 0.125, "12.5 %"), (units.ANGLE, math.radians(116.4), "116°"),
    ],
)  # fmt: skip
def test_quantities_as_they_are_shown(unit, value, text):
    assert unit.write(value) == text


def test_inches_where_they_are_thought_in():
    assert units.CM.read("48", inches=True) == approx(1.2192)
    assert units.CM.write(1.2192, inches=True) == "48 in"
    assert units.METRES.write(3.048, inches=True) == "10 ft"
    assert units.METRES.read("10", inches=True) == approx(3.048)
    assert units.MM.read("85", inches=True) == approx(0.085)  # lenses are in millimetres everywhere


def test_what_is_rounded_to_what_can_be_set_is_told_exactly_beside():
    # 10.4 is 0.1 stop over f/10, the nearest third; a meter says f/8 and tenths: 2 log2(10.4 / 8) = 0.76.
    assert units.F_NUMBER.write(10.4) == "f/10"
    assert units.F_NUMBER.finer(10.4) == "f/8 +0.8"
    assert units.F_NUMBER.finer(8.0) == ""
    assert units.SHUTTER.finer(1 / 112).startswith("1/112")
    assert units.POWER.write(-2.5) == "1/8 +0.5"  # not a third: in tenths, which most heads have


@pytest.mark.parametrize(
    ("unit", "value"),
    [
        (units.F_NUMBER, 9.37),
        (units.SHUTTER, 1 / 37),
        (units.SHUTTER, 1.13),
        (units.ISO, 135.0),
        (units.POWER, -3.55),
        (units.STOPS, 4 / 3),
    ],
)
def test_a_shots_own_value_is_told_so_that_it_reads_the_same(unit, value):
    read = unit.read(unit.typed(value))
    off = abs(read - value) if unit in (units.POWER, units.STOPS) else abs(2 * math.log2(read / value))
    assert off < 0.05


STEPPED = [
    units.F_NUMBER,
    units.SHUTTER,
    units.ISO,
    units.POWER,
    units.STOPS,
    units.CM,
    units.MM,
    units.KELVIN,
    units.PERCENT,
    units.TIME,
]


@pytest.mark.parametrize("unit", STEPPED, ids=lambda unit: unit.key)
def test_a_press_up_and_one_down_come_back(unit):
    start = {
        "power": -3.0,
        "stops": 1.0,
        "kelvin": 5600.0,
        "percent": 0.5,
        "f_number": 8.0,
        "iso": 100.0,
        "shutter": 2.0**-7,
    }.get(unit.key, 0.25)
    there = unit.stepped(start, 1)
    assert there > start
    assert unit.stepped(there, -1) == approx(start, rel=1e-6)


def test_steps_of_the_camera_are_thirds():
    # ISO 517 and common practice: the next third after f/8 is f/9, three thirds are f/11.
    assert units.F_NUMBER.write(units.F_NUMBER.stepped(8, 1)) == "f/9"
    assert units.F_NUMBER.write(units.F_NUMBER.stepped(8, 3)) == "f/11"
    assert units.SHUTTER.write(units.SHUTTER.stepped(2.0**-7, 1)) == "1/100 s"
    assert units.ISO.write(units.ISO.stepped(100, 2)) == "160"


@given(st.floats(0.5, 100))
def test_f_numbers_keep_within_a_sixth_of_a_stop_through_their_names(value):
    assert abs(2 * math.log2(units.F_NUMBER.read(units.F_NUMBER.write(value)) / value)) <= 1 / 6 + 0.02


@given(st.floats(1e-4, 3000))
def test_shutter_times_keep_within_a_sixth_of_a_stop_through_their_names(value):
    assert abs(math.log2(units.SHUTTER.read(units.SHUTTER.write(value)) / value)) <= 1 / 6 + 0.03


@given(st.floats(1e-5, 1e4))
def test_times_and_lengths_keep_within_a_part_in_a_hundred(value):
    assert units.TIME.read(units.TIME.write(value)) == approx(value, rel=0.02)
    assert units.METRES.read(units.METRES.write(value)) == approx(value, rel=0.01, abs=6e-4)


@pytest.mark.parametrize(
    ("unit", "text"),
    [(units.CM, "wide"), (units.F_NUMBER, "f"), (units.SHUTTER, "soon"), (units.ISO, "fast"), (units.POWER, "1/x"),
        (units.CLOCK, "25:00"),
     (units.DATE, "21.6.2026"), (units.choice("flat", "dome"), "round"), (units.named({"net": 0.5}), "cloth")],
)  # fmt: skip
def test_what_cannot_be_read_says_how_it_is_written(unit, text):
    with pytest.raises(DomainError) as caught:
        unit.read(text)
    assert "write it as" in str(caught.value) or "choose" in str(caught.value)


def test_lists_of_names_and_numbers():
    nets = units.named({"single net": 0.5, "opal frost": 4 / 3})
    assert nets.read("opal frost, 2 x single net") == ("opal frost", "single net", "single net")
    assert nets.read("") == ()
    assert units.listed(units.F_NUMBER).read("f/5.6, 8") == (4 * math.sqrt(2), 8.0)
    with pytest.raises(DomainError, match="at most 24"):
        units.listed(units.F_NUMBER).read(", ".join(["8"] * 25))


@given(st.text(max_size=60))
def test_no_text_breaks_a_field(text):
    for unit in (
        units.CM,
        units.F_NUMBER,
        units.SHUTTER,
        units.TIME,
        units.ISO,
        units.POWER,
        units.STOPS,
        units.CLOCK,
        units.DATE,
        units.KELVIN,
    ):
        try:
            value = unit.read(text)
        except DomainError:
            continue
        assert isinstance(value, float | int)
