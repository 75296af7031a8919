"""How alike two pictures are: CIE Lab against colour-science, differences by hand."""

import numpy as np
import pytest

from fotaxis.core.captures.likeness import Line, Look, colour_difference, differences, lab


@pytest.mark.filterwarnings("ignore")
def test_lab_agrees_with_colour_science():
    import colour

    rgb = np.random.default_rng(2).uniform(0.001, 1, (200, 3))
    xyz = colour.RGB_to_XYZ(rgb, "sRGB", apply_cctf_decoding=False)
    theirs = colour.XYZ_to_Lab(xyz, colour.CCS_ILLUMINANTS["CIE 1931 2 Degree Standard Observer"]["D65"])
    assert np.abs(lab(rgb) - theirs).max() < 0.05  # their matrix has four digits


def test_brightness_alone_is_no_difference_of_colour():
    green = np.array([0.1, 0.3, 0.05])
    assert colour_difference(green, 4 * green) == pytest.approx(0, abs=1e-9)
    assert colour_difference(green, green[::-1]) > 10
    assert colour_difference(np.zeros(3), np.full(3, 0.4)) == pytest.approx(0, abs=0.1)  # black and grey: no hue


def test_a_departure_is_told_and_what_is_as_it_was_is_not():
    pattern = Look(
        lines={"left": Line(place=0.9, width=0.08)}, levels={"left": 1.0, "label": 0.0}, colour=np.array([0.2, 0.4, 0.1])
    )
    same = differences(pattern, pattern)
    assert not any(one.seen for one in same)
    assert {(one.of, one.what) for one in same} == {
        ("left", "place"), ("left", "width"), ("left", "level"), ("label", "level"), ("", "colour"),
    }  # fmt: skip
    other = Look(
        lines={"left": Line(place=0.82, width=0.09)}, levels={"left": 1.2, "label": -1.0}, colour=np.array([0.4, 0.2, 0.1])
    )
    found = {(one.of, one.what): one for one in differences(pattern, other)}
    assert found["left", "place"].seen
    assert "8 % of the half width further in" in found["left", "place"].words
    assert not found["left", "width"].seen  # a hundredth
    assert not found["left", "level"].seen  # a fifth of a stop
    assert "1.0 stops darker" in found["label", "level"].words
    assert found["", "colour"].seen
    gone = {(one.of, one.what): one for one in differences(pattern, Look(levels={"left": 1.0}))}
    assert gone["left", "line"].words == "no line, which the pattern shows"
