"""Wishes of whole shots: begun, judged, met by powers that the finished picture is then read at."""

import json
import math

import numpy as np
import pytest

from fotaxis.cli import main
from fotaxis.core.constants import REC709_LUMINANCE
from fotaxis.core.errors import FormatError
from fotaxis.core.frames.readings.spot import SpotValue
from fotaxis.core.frames.zones_seen import zones_seen
from fotaxis.core.render.layers import layer_gains, mixed
from fotaxis.core.wishes import WISHES
from fotaxis.formats import shot_file
from fotaxis.services import wishes
from fotaxis.services.pictures import Pictures
from fotaxis.services.wish_sets import SETS, set_wishes
from tests.formats import samples

SIDE = 320


def shot(name="elder-cordial", **changes):
    document = json.loads((samples.DEMO / f"{name}.json").read_text()) | changes
    return json.loads(shot_file.write(shot_file.from_raw(document)))


def with_set(document, key="usual"):
    """A document with a ready-made set of wishes."""
    plan = shot_file.from_raw(document).plan()
    for change in set_wishes(document, key, zones_seen(plan, Pictures().stage(plan))):
        document = document | {change.path[0]: change.value}
    return document


def begun(document):
    return shot_file.from_raw(with_set(document))


def answered(read, plan=None):
    """The document's balance, and how its readings read at the powers found, of a fine picture."""
    pictures, plan = Pictures(), plan or read.plan()
    readings = read.named_readings()

    def of(now):
        pictures.fine(now, long_side=SIDE)
        return pictures.named(now, readings, long_side=SIDE)

    answer = wishes.balanced(plan, read.held, read.named_wishes(), of)
    return answer, of


@pytest.mark.parametrize("name", ["elder-cordial", "gooseberry-with-glass", "gift-carton", "plum-preserve"])
def test_levels_wished_for_are_read_in_the_picture_at_the_powers_found(name):
    read = begun(shot(name))
    answer, of = answered(read)
    made, about, after = answer.balance, answer.about, answer.plan
    values = of(after)
    for met, one, level in zip(made.met, about, made.levels, strict=True):
        target = one.wish.target
        now = values[target.reading].level_stops - (values[target.over].level_stops if target.over else 0)
        assert now == pytest.approx(level, abs=0.06), one.key  # what the sum of layers says is what the picture shows
        if met:
            assert abs(target.gap(now)) <= target.within + 0.06, one.key
    assert sum(made.met) >= len(made.met) - len(made.bounds)


def test_a_level_is_read_in_the_pixels_themselves():
    # Not by the reading: the mean of the picture's own pixels about the label's middle.
    document = shot() | {
        "readings": [{"kind": "spot", "key": "label", "name": "Label", "across": 0.3, "height": 0.3}],
        "wishes": [{"kind": "level", "key": "w", "reading": "label", "stops": -1.0}],
    }
    read = shot_file.from_raw(document)
    answer, of = answered(read)
    after = answer.plan
    value = of(after)["label"]
    assert isinstance(value, SpotValue)
    layers = Pictures().fine(after, long_side=SIDE).layers
    picture = mixed(layers, layer_gains(after)) @ np.array(REC709_LUMINANCE)
    row, column = int(value.y * picture.shape[0]), int(value.x * picture.shape[1])
    shown = float(picture[row - 1 : row + 2, column - 1 : column + 2].mean())
    assert math.log2(shown / 0.18) == pytest.approx(-1.0, abs=0.18)


def test_heads_that_are_held_stay():
    document = shot() | {"held": ["label"]}
    read = begun(document)
    lights = {light.key for light in read.lights}
    assert "label" in lights
    answer, _ = answered(read)
    assert "label" not in answer.balance.powers


@pytest.mark.parametrize("key", SETS)
@pytest.mark.parametrize("name", ["elder-cordial", "gift-carton", "gooseberry-dark-field"])
def test_a_set_of_wishes_comes_once_and_with_its_readings(name, key):
    document = with_set(shot(name), key)
    readings = {reading["key"] for reading in document["readings"]}
    for wish in document["wishes"]:
        assert all(wish[ref] in readings for ref in WISHES[wish["kind"]].refs)
    read = shot_file.from_raw(document)
    assert with_set(json.loads(shot_file.write(read)), key)["wishes"] == json.loads(shot_file.write(read))["wishes"]


def test_the_usual_wishes_are_about_label_lines_and_both_sides():
    wanted = {wish["key"] for wish in with_set(shot())["wishes"]}
    assert wanted >= {"label-level", "label-evenness", "left-place", "right-place", "left-right"}


@pytest.mark.parametrize(("wish", "words"), [
    ({"kind": "place", "reading": "a", "near": 0.9, "far": 0.8}, "further out"),
    ({"kind": "ratio", "reading": "a", "over": "a"}, "two readings"),
])  # fmt: skip
def test_a_wish_that_cannot_be_is_refused_with_its_shot(wish, words):
    with pytest.raises(FormatError, match=words):
        shot_file.from_raw(shot() | {"wishes": [wish | {"key": "w"}]})
    level = {"kind": "level", "reading": "a", "key": "w"}
    with pytest.raises(FormatError, match="two wishes share a key"):
        shot_file.from_raw(shot() | {"wishes": [level, level]})


def test_the_command_line_balances_a_shot(tmp_path, capsys):
    file, out = tmp_path / "shot.json", tmp_path / "balanced.json"
    file.write_bytes(shot_file.write(begun(shot())))
    assert main(["balance", str(file), "--json", "--out", str(out)]) == 0
    told = json.loads(capsys.readouterr().out)
    balanced = shot_file.read(out.read_bytes())
    powers = {light.key: light.power_stops for light in balanced.lights}
    assert told["powers"]
    assert all(powers[key] == power for key, power in told["powers"].items())
    assert {wish["key"] for wish in told["wishes"]} == {wish.key for wish in balanced.wishes}
    assert main(["balance", str(file)]) == 0
    assert "Label" in capsys.readouterr().out
    file.write_bytes(shot_file.write(shot_file.from_raw(shot() | {"wishes": []})))
    assert main(["balance", str(file)]) == 2
    assert "holds no wishes" in capsys.readouterr().err


def test_the_command_line_places_the_panels_of_lines(tmp_path, capsys):
    file, out = tmp_path / "shot.json", tmp_path / "placed.json"
    file.write_bytes(shot_file.write(begun(shot() | {"lights": [], "cards": []})))
    assert main(["place", str(file), "--json", "--out", str(out)]) == 0
    told = {one["wish"]: one for one in json.loads(capsys.readouterr().out)}
    assert told["left-place"]["x_cm"] < 0 < told["right-place"]["x_cm"]
    assert told["left-place"]["turn_deg"] == pytest.approx(-told["right-place"]["turn_deg"], abs=1.5)
    placed = shot_file.read(out.read_bytes())
    assert [light.name.split()[0] for light in placed.lights] == ["Left", "Right"]
    pictures, plan = Pictures(), placed.plan()
    pictures.fine(plan, long_side=SIDE)
    judged = wishes.judged_wishes(
        plan, placed.named_wishes(), placed.named_readings(), pictures.named(plan, placed.named_readings(), long_side=SIDE)
    )
    states = {one.wish.key: one.judged.state for one in judged}
    assert states["left-place"] == states["right-place"] == "met"
    file.write_bytes(shot_file.write(shot_file.from_raw(shot() | {"wishes": []})))
    assert main(["place", str(file)]) == 2
    assert "no wish about where a line or a highlight lies" in capsys.readouterr().err
