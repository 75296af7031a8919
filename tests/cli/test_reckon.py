"""`fotaxis reckon`: the arithmetic of the set on the command line."""

import json

import pytest

from fotaxis.cli import main
from fotaxis.core.reckoner.calculations import CALCULATIONS
from tests.formats import samples


def said(capsys, *arguments):
    assert main(["reckon", *arguments]) == 0
    return capsys.readouterr().out


def refused(capsys, *arguments):
    assert main(["reckon", *arguments]) == 2
    return capsys.readouterr().err


def test_all_are_listed(capsys):
    listed = said(capsys, "--list")
    assert all(one.key in listed and one.name in listed for one in CALCULATIONS)
    assert len(json.loads(said(capsys, "--list", "--json"))) == len(CALCULATIONS)
    assert "distance=" in said(capsys, "guide-number", "--list")


def test_the_first_that_is_not_told_is_asked_for(capsys):
    # ISO 1230: guide number 56 m at 7 m is f/8.
    assert said(capsys, "guide-number", "guide=56m", "distance=7m", "power=1/1").startswith("Aperture: f/8\n")
    assert said(capsys, "guide-number", "guide=56m", "f_number=8", "power=1/1", "distance=?").startswith(
        "Head to product: 7 m\n"
    )


def test_as_json_numbers_are_si(capsys):
    told = json.loads(said(capsys, "mired", "light=5500", "wanted=3200", "--json"))
    assert told["gives"][0]["value"] == pytest.approx(130.7, abs=0.1)
    assert told["unknown"] == "shift"


def test_how_it_is_reckoned_is_told_on_request(capsys):
    assert "Source: " not in said(capsys, "circuit")
    told = said(capsys, "circuit", "--how")
    assert "I = P / U" in told
    assert "Source: Ohm's law" in told
    assert "Local codes come first" in told


def test_inches_and_feet(capsys):
    # By hand: 184 / 10 is 18.4, which is 0.4 over f/16.
    assert said(capsys, "guide-number", "guide=184 ft", "distance=10 ft", "power=1/1", "--inches").startswith(
        "Aperture: f/16 +0.4"
    )
    assert (
        "ft"
        in said(capsys, "guide-number", "guide=184", "f_number=16", "distance=?", "power=1/1", "--inches").splitlines()[0]
    )


def test_a_shots_own_numbers(capsys):
    told = said(capsys, "depth-of-field", "--shot", str(samples.DEMO / "elder-cordial.json"))
    assert "Focal length 100 mm, Lens to focus 150 cm, Aperture f/8" in told


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["dof"], "perhaps depth-of-field"),
        ([], "--list"),
        (["sync", "shutter=1/500"], "Choose 1/250 s or slower"),
        (["depth-of-field", "f_number=0"], "it must be from f/0.5"),
        (["guide-number", "distance=-1"], "it must be more than 0 m"),
        (["guide-number", "distance"], "write KEY=VALUE"),
        (["guide-number", "gold=1"], "has no 'gold'"),
        (["stops", "--shot", "nowhere.json"], "No such file"),
    ],
)
def test_what_is_wrong_is_said_with_what_would_be_right(capsys, arguments, words):
    assert words in refused(capsys, *arguments)
