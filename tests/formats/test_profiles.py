"""Outlines from typed text, CSV and SVG paths."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fotaxis.core.errors import FormatError
from fotaxis.formats import profile_csv, profile_svg

PAIRS = [(0.0, 6.6), (12.5, 7.4), (20.0, 3.0)]


@pytest.mark.parametrize(
    "text",
    [
        "0, 6.6\n12.5, 7.4\n20, 3",
        "0 6.6\n12.5 7.4\n20 3",
        "0;6,6\n12,5;7,4\n20;3",
        "0\t6.6\n12.5\t7.4\n20\t3",
        "height,diameter\n0,6.6\n\n# foot above\n12.5,7.4\n20,3\n",
        "\ufeff0, 6.6\r\n12.5, 7.4\r\n20, 3\r\n",
        '"0","6.6"\n"12.5","7.4"\n"20","3"',
    ],
    ids=["comma", "blanks", "decimal comma", "tabs", "heading", "BOM", "quoted"],
)
def test_ways_to_write_the_same_outline(text):
    assert profile_csv.parse(text) == PAIRS


def test_text_comes_back():
    assert profile_csv.parse(profile_csv.text(PAIRS)) == PAIRS


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "give 2 to 400"),
        ("0, 6\n10, wide", "line 2"),
        ("0, 6\n10, 7, 8", "line 2: 3 numbers"),
        ("0, 6\n10, nan", "line 2"),
        ("0, 6\n10, inf", "line 2"),
        ("0, 6\n10, -7", "point 2"),
        ("0, 0\n10, 0", "every diameter is 0"),
        ("5, 6\n0, 6\n10, 6", "not the lowest"),
        ("0,6\n10,6\n10,2\n5,8\n20,1", "cross itself"),
        ("0, 6\n" * 2, "repeats point 1|less than 1 mm"),
        ("x" * 300_000, "longer than"),
        ("\n".join(f"{i / 10},5" for i in range(500)), "more than 400"),
    ],
)  # fmt: skip
def test_wrong_text_is_refused_with_the_line(text, words):
    with pytest.raises(FormatError, match=words):
        profile_csv.parse(text)


@given(st.text(max_size=80))
def test_any_text_is_an_outline_or_a_clear_error(text):
    try:
        pairs = profile_csv.parse(text)
    except FormatError as error:
        assert str(error)
    else:
        assert len(pairs) >= 2


def test_svg_path_with_straight_lines_is_scaled_to_the_height():
    # By hand: 100 units high drawn for 20 cm, so 0.2 cm a unit; axis at x = 10.
    pairs = profile_svg.parse(b"M10 110 L40 110 L40 60 l-10 -10 V10 H10", height_cm=20)
    assert pairs == [(0, 0), (0, 12), (10, 12), (12, 8), (20, 8), (20, 0)]


def test_svg_document_with_its_axis_and_a_curve():
    # A quarter circle of radius 5 as a cubic: the standard handle length 0.5523 r is within 0.03 % of the circle.
    k = 5 * 0.5522847498
    svg = (
        f'<svg xmlns="http://www.w3.org/2000/svg"><g><path data-axis-x="0" d="M5 5 C5 {5 - k} {k} 0 0 0"/></g></svg>'
    ).encode()
    pairs = profile_svg.parse(svg, height_cm=5)
    assert len(pairs) > 4
    for height, diameter in pairs:
        assert math.hypot(height, diameter / 2) == pytest.approx(5, rel=5e-4)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"M0 0", "fewer than two|no height"),
        (b"M0 0 L5 0", "no height"),
        (b"M0 10 A5 5 0 0 1 5 0", "arc"),
        (b"M0 10 L5", "L needs 2 numbers"),
        (b"10 10 20 20", "begin with M"),
        (b"M0 10 L5 0 <", "not path data"),
        (b"<svg><path d='M0 10 L5 0'", "line 1"),
        (b"<svg></svg>", "no path"),
        (b'<!DOCTYPE svg [<!ENTITY a "b">]><svg><path d="M0 10 L5 0"/></svg>', "entities"),
        (b"\x89PNG\r\n\x1a\n", "not text"),
        (b"M" + b"1 1 " * 200_000, "bytes"),
        (b"M0 1e400 L5 0", "too large"),
    ],
)
def test_wrong_svg_is_refused(data, words):
    with pytest.raises(FormatError, match=words):
        profile_svg.parse(data, height_cm=20)


@pytest.mark.parametrize("height", [0, -3, math.nan, math.inf, 1000])
def test_a_height_that_cannot_be_is_refused(height):
    with pytest.raises(FormatError, match="real height"):
        profile_svg.parse(b"M0 10 L5 0", height_cm=height)


@given(st.text(alphabet="MLHVCSQTAZmlhvcsqtaz0123456789.-+e, ", max_size=60))
def test_any_path_data_is_an_outline_or_a_clear_error(text):
    try:
        profile_svg.parse(text.encode(), height_cm=20)
    except FormatError as error:
        assert str(error)
