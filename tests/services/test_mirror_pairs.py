"""Two things that stand as each other's mirror image: moving one moves the other."""

import pytest

from fotaxis.services.changes import Change, applied
from fotaxis.services.mirror_pairs import mirrored, other_side_name

LEFT = {
    "key": "left", "kind": "panel", "name": "Left", "pair": "right", "turn_deg": 50.0, "tilt_deg": -5.0, "width_cm": 30.0,
    "place": {"x_cm": -42.0, "y_cm": 22.0, "z_cm": -35.0}, "power_stops": -4.0,
}  # fmt: skip
RIGHT = {
    **LEFT, "key": "right", "name": "Right", "pair": "left", "turn_deg": -50.0, "power_stops": -3.0,
    "place": {"x_cm": 42.0, "y_cm": 22.0, "z_cm": -35.0},
}  # fmt: skip
SET = {"lights": [LEFT, RIGHT, {**LEFT, "key": "alone", "pair": None}], "cards": []}


def after(path, value, document=SET):
    lights = applied(document, [Change(kind="set", path=("lights", *path.split(".")), value=value)])["lights"]
    return {light["key"]: light for light in lights}


def test_the_mirror_image_has_the_other_side_the_other_turn_and_its_doors_swapped():
    image = mirrored({**LEFT, "doors_deg": [10, 20, 30, 40]})
    assert image["place"] == {"x_cm": 42.0, "y_cm": 22.0, "z_cm": -35.0}
    assert (image["turn_deg"], image["tilt_deg"]) == (-50.0, -5.0)
    assert image["doors_deg"] == [20, 10, 30, 40]
    assert mirrored(image) == {**LEFT, "doors_deg": [10, 20, 30, 40]}


@pytest.mark.parametrize("key", ["left", "right"])
def test_the_other_of_a_pair_follows_whichever_is_moved(key):
    lights = after(f"{key}.place.x_cm", -60.0)
    other = {"left": "right", "right": "left"}[key]
    assert lights[other]["place"]["x_cm"] == 60.0
    assert lights["alone"] == SET["lights"][2]


def test_measures_are_shared_and_powers_and_names_are_not():
    assert after("left.width_cm", 25.0)["right"]["width_cm"] == 25.0
    assert after("left.power_stops", -6.0)["right"]["power_stops"] == -3.0
    assert after("left.name", "Key")["right"]["name"] == "Right"


def test_one_whose_partner_is_gone_is_no_longer_one_of_a_pair():
    left_alone = applied(SET, [Change(kind="remove", path=("lights", "right"))])
    assert [light["pair"] for light in left_alone["lights"]] == [None, None]
    assert after("left.place.x_cm", -10.0, left_alone)["left"]["place"]["x_cm"] == -10.0


def test_a_value_that_makes_no_sense_moves_nothing_else():
    assert after("left.place", "here")["right"] == RIGHT


@pytest.mark.parametrize(("name", "other"), [("Left panel", "Right panel"), ("right", "left"), ("Top", "Top, other side")])
def test_the_other_side_is_named_after_the_first(name, other):
    assert other_side_name(name) == other
