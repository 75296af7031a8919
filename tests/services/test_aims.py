"""Things that stay aimed while they, or what they are aimed at, are moved."""

import math

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.geometry import orientation
from fotaxis.formats import shot_file
from fotaxis.services.aims import aimed
from fotaxis.services.changes import Change, applied
from fotaxis.services.mirror_pairs import mirrored
from tests.formats import samples


def document():
    import json

    return json.loads((samples.DEMO / "elder-cordial.json").read_text())


def changed(before, *sets):
    return applied(before, [Change(kind="set", path=tuple(path.split(".")), value=value) for path, value in sets])


def light(document, key):
    return next(one for one in document["lights"] if one["key"] == key)


def off_deg(thing, target):
    """How far a thing's axis passes its target, degrees; by the front that its turn and tilt give."""
    _, _, front = orientation.axes(turn_rad=math.radians(thing["turn_deg"]), tilt_rad=math.radians(thing["tilt_deg"]))
    way = np.array([target[axis] - thing["place"][axis] for axis in ("x_cm", "y_cm", "z_cm")])
    return math.degrees(math.acos(min(1.0, float(front @ way) / float(np.linalg.norm(way)))))


LABEL = {"x_cm": 0.0, "y_cm": 12.0, "z_cm": 3.7}


@pytest.mark.parametrize("seed", range(10))
def test_a_light_stays_aimed_at_a_place_wherever_it_is_moved(seed):
    random = np.random.default_rng(seed)
    made = changed(document(), ("lights.label.aim", {"at": "place", "on": "Label", **LABEL}))
    assert off_deg(light(made, "label"), LABEL) < 0.1
    x, y, z = random.uniform((-150, -20, -150), (150, 200, 200))
    moved = changed(made, ("lights.label.place.x_cm", x), ("lights.label.place.y_cm", y), ("lights.label.place.z_cm", z))
    assert off_deg(light(moved, "label"), LABEL) < 0.1
    shot_file.from_raw(moved)


def test_what_it_is_aimed_at_takes_it_along():
    made = changed(document(), ("lights.label.aim", {"at": "left"}))
    before = light(made, "label")["turn_deg"]
    moved = changed(made, ("lights.left.place.x_cm", -90.0), ("lights.left.place.y_cm", 60.0))
    assert light(moved, "label")["turn_deg"] != before
    assert off_deg(light(moved, "label"), light(moved, "left")["place"]) < 0.1
    lens = changed(made, ("lights.label.aim", {"at": "camera"}))
    raised = changed(lens, ("camera.height_cm", 55.0))
    camera = raised["camera"]
    at = {"x_cm": camera.get("side_cm", 0.0), "y_cm": camera["height_cm"], "z_cm": camera["distance_cm"]}
    assert off_deg(light(raised, "label"), at) < 0.1


def test_turned_by_hand_or_left_without_its_aim_it_is_aimed_no_more():
    made = changed(document(), ("lights.label.aim", {"at": "left"}))
    by_hand = changed(made, ("lights.label.turn_deg", 10.0))
    assert light(by_hand, "label")["aim"] is None
    assert light(by_hand, "label")["turn_deg"] == 10.0
    gone = applied(made, [Change(kind="remove", path=("lights", "left"))])
    assert light(gone, "label")["aim"] is None


def test_a_card_throws_a_light_where_it_is_aimed():
    # Law of reflection: its front halves the angle between light and place, to 0.1 degrees.
    card = {"kind": "white card", "key": "card", "name": "Card", "place": {"x_cm": 30, "y_cm": 20, "z_cm": 25}, "turn_deg": 0,
            "width_cm": 20, "height_cm": 20, "aim": {"at": "place", "source": "label", **LABEL}}  # fmt: skip
    made = applied(document() | {"cards": []}, [Change(kind="add", path=("cards",), value=card)])
    made = changed(made, ("lights.label.place.x_cm", 60.0))
    thing = made["cards"][0]
    assert off_deg(thing, LABEL) == approx(off_deg(thing, light(made, "label")["place"]), abs=0.05)
    _, _, front = orientation.axes(turn_rad=math.radians(thing["turn_deg"]), tilt_rad=math.radians(thing["tilt_deg"]))
    own, source, target = (
        np.array([at[axis] for axis in ("x_cm", "y_cm", "z_cm")])
        for at in (thing["place"], light(made, "label")["place"], LABEL)
    )
    incoming = (own - source) / np.linalg.norm(own - source)
    out = incoming - 2 * float(incoming @ front) * front
    assert float(out @ (target - own)) / np.linalg.norm(target - own) == approx(1.0, abs=1e-5)


def test_a_bisector_by_hand():
    # Light from the left, place straight ahead: the front looks 45 degrees to the left.
    turn, tilt = aimed(np.zeros(3), np.array([0, 0, 1.0]), np.array([-1.0, 0, 0]))
    assert (math.degrees(turn), math.degrees(tilt)) == approx((-45, 0))


def test_a_pair_follows_the_one_that_is_aimed():
    before = document()
    for one, other in (("left", "right"), ("right", "left")):
        light(before, one)["pair"] = other
    made = changed(before, ("lights.left.aim", {"at": "place", **LABEL}), ("lights.left.place.z_cm", -60.0))
    left, right = light(made, "left"), light(made, "right")
    assert right["turn_deg"] == approx(-left["turn_deg"])
    assert right["place"]["z_cm"] == -60.0


def test_a_mirrored_copy_is_aimed_at_the_mirrored_place():
    thing = light(document(), "label") | {"aim": {"at": "place", "x_cm": 2.0, "y_cm": 12.0, "z_cm": 3.0}}
    assert mirrored(thing)["aim"]["x_cm"] == -2.0
