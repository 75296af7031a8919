"""The kit on a set: what a piece brings, how it is found, and what is told where it is asked too much of."""

from types import SimpleNamespace
from uuid import uuid4

import pytest

from fotaxis.core.lights.kit import piece
from fotaxis.formats import kit_csv
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.services import kit
from fotaxis.services.ports import OwnPiece
from fotaxis.services.presets import start_document
from tests.formats.samples import DEMO


@pytest.fixture(scope="module")
def own():
    return [OwnPiece(id=uuid4(), piece=one) for one in kit_csv.parse((DEMO / "kit.csv").read_bytes())[0]]


@pytest.mark.parametrize(
    ("typed", "name"),
    [("softbox", "Strip 35 × 140"), ("floppy", "Black 100 × 200"), ("v-flat", "White 100 × 200"),
     ("scrim", "Full grid cloth 120 × 120"),
     ("boom", "Boom 180"), ("honeycomb", "Grid 20°"), ("strobe mono", "Mono 500"), ("bounce gold", "Gold 20 × 30")],
)  # fmt: skip
def test_pieces_are_found_by_the_words_people_use(own, typed, name):
    assert name in [one.piece.name for one in kit.found(own, typed)]


def test_what_nobody_calls_so_is_not_found(own):
    assert kit.found(own, "teapot") == []


def by_name(own, name):
    return next(one.piece for one in own if one.piece.name == name)


def test_a_piece_comes_with_its_own_size_range_and_steps(own):
    head = kit.placed(by_name(own, "Mono 250"))
    assert (head["lowest_stops"], head["steps_per_stop"]) == (6, 10)
    assert head["calibration"] == {"kind": "guide number", "metres": 41}
    metered = kit.placed(by_name(own, "Battery head"))
    assert metered["calibration"] == {"kind": "meter", "distance_cm": 200, "f_number": 22, "power_stops": 0}
    box = kit.placed(by_name(own, "Strip 35 × 140"))
    assert (box["width_cm"], box["height_cm"]) == (35, 140)
    sheet = kit.placed(by_name(own, "Opal frost 60 × 80"))
    assert (sheet["material"], sheet["width_cm"]) == ("opal frost", 60)


def test_every_piece_that_stands_on_a_set_makes_a_shot_that_holds(own):
    codec = JsonShots()
    for one in own:
        if one.piece.kind not in kit.ON_SETS:
            continue
        document = start_document("bottle")
        thing = {**kit.placed(one.piece), "key": "new"}
        codec.plan(codec.check({**document, ("lights" if one.piece.kind in ("head", "box") else "cards"): [thing]}))


def shot(*lights, cards=()):
    return {
        "lights": [{"place": {"y_cm": 50}, **light} for light in lights],
        "cards": list(cards),
        "table": {"above_floor_cm": 75},
    }


def test_a_fourth_head_of_three_is_told(own):
    told = kit.asked_too_much(shot(*({"key": f"l{i}", "own_head": "Mono 500"} for i in range(4))), own)
    assert list(told) == ["l3"]
    assert told["l3"] == "4 × Mono 500: the kit has 3."


def test_a_packs_shared_sockets_are_told(own):
    told = kit.asked_too_much(shot(*({"key": f"l{i}", "own": "Pack head"} for i in range(4))), own)
    assert list(told) == ["l3"]
    assert "4 heads on Pack 1200, which has 3 sockets." in told["l3"]
    assert "Discharge" in told["l3"]


def test_a_boom_that_carries_too_much_is_told_with_its_caution(own):
    light = {"key": "a", "own": "Octa 120", "own_head": "Mono 500", "stand": "Boom 180"}
    told = kit.asked_too_much(shot(light), own)
    assert "4.8 kg, but its boom carries 3.5 kg at full reach." in told["a"]
    assert "Counterweight, sandbag, safety line" in told["a"]
    assert kit.asked_too_much(shot({**light, "own": "Square 60", "own_head": "Mono 250"}), own) == {}


def test_a_stand_that_does_not_reach_is_told(own):
    told = kit.asked_too_much(shot({"key": "a", "own_head": "Mono 250", "stand": "Low stand"}), own)
    assert told == {"a": "Stands 125 cm above the floor; Low stand goes up to 110 cm."}


def test_what_is_not_of_the_kit_is_nobodys_concern(own):
    assert kit.asked_too_much(shot({"key": "a", "own": "Borrowed", "stand": "Ladder"}), own) == {}
    assert kit.asked_too_much(shot({"key": "a"}), [SimpleNamespace(piece=piece("head", "X", 1, {}))]) == {}
