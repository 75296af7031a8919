"""Captures made from the present state, in words, taken as they say; which a set asks for; the composite read."""

import itertools
import json
import math

import numpy as np
import pytest

from fotaxis.core.errors import DomainError, FormatError
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.services.briefs import Deliverable
from fotaxis.services.captures.capture import capture_of, captured, found, set_up
from fotaxis.services.captures.composite import crops, joined, read_composite, read_line_in
from fotaxis.services.captures.needed import ONE_FRAME, PER_PART, focus_stack, needed
from fotaxis.services.captures.words import capture_words, each_in_words, joining_words
from fotaxis.services.changes import Change, applied
from fotaxis.services.pictures import Pictures
from fotaxis.services.presets import usual_readings
from tests.formats import samples

CODEC = JsonShots()


def shot(name="elder-cordial", **changes):
    return CODEC.check({**json.loads((samples.DEMO / f"{name}.json").read_text()), **changes})


def alone(document, key, **more):
    lit = [{**one, "on": one["key"] == key} for one in document["lights"]]
    return {**capture_of({**document, "lights": lit}), **more}


def test_a_capture_holds_the_present_state_and_setting_up_another_leaves_it():
    document = shot()
    document["captures"] = [alone(document, "left", name="Left")]
    brighter = applied(document, [Change(kind="set", path=("lights", "left", "power_stops"), value=-1.0)])
    assert captured(brighter, brighter["captures"][0])["lights"][0]["power_stops"] == document["lights"][0]["power_stops"]
    # Set up on the bench: lights, powers and exposure come back; places do not.
    moved = applied(brighter, [Change(kind="set", path=("lights", "left", "place", "x_cm"), value=-77.0)])
    back = applied(moved, set_up(moved, moved["captures"][0]))
    assert [one["on"] for one in back["lights"]] == [True, False, False]
    assert back["lights"][0]["power_stops"] == document["lights"][0]["power_stops"]
    assert back["lights"][0]["place"]["x_cm"] == -77.0
    assert back["captures"] == moved["captures"]
    CODEC.check(back)


def test_what_is_lifted_away_is_gone_from_its_frame_alone():
    document = shot("gooseberry-with-glass")
    capture = {**capture_of(document), "away": ["outline-left", "glass"], "poured": False}
    taken = captured(document, capture)
    assert [one["key"] for one in taken["cards"]] == ["outline-right"]
    assert taken["others"] == []
    assert taken["subject"]["liquid"] is None
    plan = CODEC.plan(taken)
    assert len(plan.products) == 1
    without = captured(document, {**capture, "away": ["product"]})
    assert CODEC.plan(without).product.shape is not CODEC.plan(document).product.shape
    assert without["subject"]["kind"] == "nothing"
    assert len(document["cards"]) == 2


def test_a_pair_or_aim_does_not_hang_on_what_was_lifted_away():
    document = shot()
    card = {"kind": "white card", "key": "bounce", "name": "Bounce", "place": {"x_cm": 40, "y_cm": 20, "z_cm": 20}}
    card |= {"turn_deg": 0, "tilt_deg": 0, "width_cm": 30, "height_cm": 40}
    document = CODEC.check({**document, "cards": [card]})
    document["lights"][0]["aim"] = {"at": "bounce"}
    taken = captured(document, {**capture_of(document), "away": ["bounce"]})
    assert taken["lights"][0]["aim"] is None
    CODEC.plan(taken)


def test_captures_differ_in_words():
    document = shot("gooseberry-with-glass")
    first = alone(document, "glow", name="Glow")
    second = {**alone(document, "label", name="Label"), "away": ["glass"], "f_number": 11.313708498984761}
    second["lights"] = {"label": document["lights"][2]["power_stops"] + 2 / 3}
    third = {**capture_of(document), "key": "third", "poured": False, "polariser_deg": 30.0}
    words = each_in_words(document, [first, second, third])
    assert words[0] == "Glow panel alone"
    assert words[1].startswith("Label light alone, +⅔, f/11")
    assert words[1].endswith("lifted away")
    assert "not poured yet" in words[2]
    assert "polariser at 30°" in words[2]
    assert "back" in words[2]  # the glass
    assert (
        joining_words({"blend": "sum", "mask": [1], "strength_stops": -1.0}) == "adds its light, within its mask, −1 stops"
    )
    assert capture_words(document, {**first, "lights": {}}).startswith("No light")


def test_a_capture_that_was_removed_is_said():
    with pytest.raises(FormatError, match="was removed"):
        found(shot(), "gone")


@pytest.mark.parametrize(
    ("part", "words"),
    [
        ({"kind": "brush", "points": [], "radius": 0.1}, "points"), ({"kind": "scene", "area": ""}, "area"),
        ({"kind": "depth", "near_cm": 50, "far_cm": 20}, "second must be more"),
        ({"kind": "gradient", "begin": [0.1, 0.1], "end": [0.1, 0.1]}, "begins where it ends"),
        ({"kind": "scene", "area": "product", "feather_mm": -1}, "feather"), ({"kind": "lasso"}, "mask"),
    ],
)  # fmt: skip
def test_a_mask_that_cannot_be_is_refused_with_its_place(part, words):
    document = shot()
    with pytest.raises(FormatError, match=words):
        CODEC.check({**document, "captures": [{**alone(document, "left"), "mask": [part]}]})


def test_two_captures_of_one_key_are_refused():
    document = shot()
    one = alone(document, "left")
    with pytest.raises(FormatError, match="captures share a key"):
        CODEC.check({**document, "captures": [one, one]})


def test_readings_and_wishes_work_on_the_composite():
    document = shot()
    document = CODEC.check({**document, "readings": usual_readings(document)})
    captures = []
    for light in document["lights"]:
        captures.append({**alone({**document, "captures": captures}, light["key"])})
    pictures = Pictures()
    made = joined(CODEC.check({**document, "captures": captures}), CODEC, pictures)
    values, _ = read_composite(document, made, CODEC, pictures)
    whole = pictures.named(CODEC.plan(document), CODEC.readings(document))
    for key, value in values.items():
        # Independent: the same readings of one frame with everything on; the sum of captures is that frame.
        assert value is not None, key
        if whole[key].level_stops > -10:
            assert value.level_stops == pytest.approx(whole[key].level_stops, abs=0.02), key
        if hasattr(value, "place"):
            assert value.place == pytest.approx(whole[key].place, abs=0.005)
            assert value.width == pytest.approx(whole[key].width, abs=0.01)
    line = read_line_in(made, CODEC.line(document, made.base), pictures)
    assert line.words == pictures.read(CODEC.plan(document), CODEC.line(document, made.base)).words
    # Left out, the right line is gone from words and readings.
    captures[1]["shown"] = False
    without = joined(CODEC.check({**document, "captures": captures}), CODEC, pictures)
    assert "right line" not in " ".join(read_line_in(without, CODEC.line(document, made.base), pictures).words)
    assert read_composite(document, without, CODEC, pictures)[0]["right-line"] is None


def test_a_composite_of_nothing_says_what_to_do():
    with pytest.raises(DomainError, match="keep the present state as one"):
        joined(shot(), CODEC, Pictures())


def test_the_white_that_is_shown_changes_colour_not_luminance_of_white():
    document = shot()
    document["captures"] = [capture_of(document)]
    pictures = Pictures()
    plain = joined(document, CODEC, pictures, long_side=120)
    warm = joined({**document, "finish": {**document["finish"], "white_k": 4000}}, CODEC, pictures, long_side=120)
    label = plain.levels[..., 1] > 0.1
    assert warm.levels[label][:, 2].mean() > plain.levels[label][:, 2].mean()  # balanced for warm light, daylight looks blue
    assert warm.levels[label][:, 0].mean() < plain.levels[label][:, 0].mean()


def test_crops_are_as_large_as_they_fit():
    document = shot()  # 4:5
    square, wide = crops(document, [Deliverable(name="Shop", wide=1, high=1), Deliverable(name="Card", wide=16, high=9)])
    assert (square["wide"], square["high"]) == (1, pytest.approx(0.8))
    assert (wide["wide"], wide["high"]) == (1, pytest.approx(0.45))
    tall = crops(document, [Deliverable(name="Story", wide=9, high=16)])[0]
    assert (tall["wide"], tall["high"]) == (pytest.approx(9 / 16 * 1.25), 1)
    assert tall["left"] == pytest.approx((1 - tall["wide"]) / 2)


# ---- which are needed


def wishing(document, *levels):
    readings = usual_readings(document)
    wishes = [
        {"kind": "level", "key": f"w{i}", "reading": reading, "stops": stops, "within": 0.2}
        for i, (reading, stops) in enumerate(levels)
    ]  # fmt: skip
    return CODEC.check({**document, "readings": readings, "wishes": wishes})


def test_one_frame_will_do_where_everything_agrees():
    asked = needed(shot(), CODEC, Pictures(), school=ONE_FRAME)
    assert asked.single
    assert [one["name"] for one in asked.captures] == ["Everything"]
    assert "One frame will do" in asked.words


def test_levels_that_contradict_each_other_ask_for_a_capture_of_their_own():
    # One lamp makes label and everything else: the label at 0 and the ground at +2 cannot both be.
    document = shot("elder-household-lamp")
    document = wishing(document, ("label-centre", 0.0), ("left-line", 3.0))
    pictures = Pictures()
    asked = needed(document, CODEC, pictures, school=ONE_FRAME)
    assert not asked.single
    assert any("stops too" in why for why in asked.reasons)
    own = [one for one in asked.captures if one["name"].startswith("For ")]
    assert own
    assert own[0]["blend"] == "over"
    assert own[0]["mask"]
    base = asked.captures[0]
    assert any(own[0][name] != base[name] for name in ("lights", "iso", "f_number"))
    CODEC.check({**document, "captures": list(asked.captures)})


def test_a_deep_product_asks_for_focuses_by_the_thin_lens():
    plan = CODEC.plan(shot("plum-preserve"))
    stack = focus_stack(plan)
    n, f, d = plan.exposure.f_number, plan.camera.focal_length_m, plan.camera.focus_distance_m
    circle = math.hypot(*plan.camera.used_sensor_m) / 1500
    # By hand, thin lens near its aim: both limits together are about 2 N c d^2 / f^2.
    sharp = 2 * n * circle * (d * (d - f)) / f**2
    depth = plan.product.reach_m
    assert len(stack.distances_cm) == math.ceil(depth / sharp)
    assert stack.distances_cm[0] < stack.distances_cm[-1] <= plan.camera.place.z_m * 100
    asked = needed(shot("plum-preserve"), CODEC, Pictures())
    masks = [one["mask"][0] for one in asked.captures]
    assert masks[0]["near_cm"] == 0
    assert masks[-1]["far_cm"] is None
    assert all(a["far_cm"] == b["near_cm"] for a, b in itertools.pairwise(masks))


def test_a_card_in_the_frame_asks_for_a_frame_without_it():
    asked = needed(shot("gooseberry-with-glass"), CODEC, Pictures())
    gone = [one for one in asked.captures if one.get("away")]
    assert gone[0]["away"] == ["outline-left", "outline-right"]
    assert any("lifted away" in why for why in asked.reasons)


def test_a_polariser_that_takes_a_wanted_line_is_told():
    document = shot()
    document["lens"]["polariser"] = {"turn_deg": 90.0, "loss_stops": 1.5}
    readings = usual_readings(document)
    wish = {"kind": "place", "key": "line", "reading": "left-line", "near": 0.8, "far": 0.95, "within": 0.1, "height": 0.1}
    document = CODEC.check({**document, "readings": readings, "wishes": [wish]})
    asked = needed(document, CODEC, Pictures())
    told = [why for why in asked.reasons if "polariser takes" in why]
    plan = CODEC.plan(document)
    from dataclasses import replace

    bare = replace(plan, before_lens=replace(plan.before_lens, polariser=None))
    pictures = Pictures()
    with_it = pictures.named(plan, CODEC.readings(document))["left-line"]
    without = pictures.named(bare, CODEC.readings(document))["left-line"]
    gone = with_it is None or without.level_stops - 1.5 - with_it.level_stops > 1
    assert bool(told) == gone
    assert gone == any(one["polariser_deg"] is None for one in asked.captures)


def test_one_per_part_is_a_capture_for_each_light_that_is_on():
    document = shot()
    asked = needed(document, CODEC, Pictures(), school=PER_PART)
    assert [list(one["lights"]) for one in asked.captures] == [["left"], ["right"], ["label"]]
    assert [bool(one.get("mask")) for one in asked.captures] == [False, False, True]
    off = CODEC.check({**document, "lights": [{**document["lights"][0], "on": False}, *document["lights"][1:]]})
    assert len(needed(off, CODEC, Pictures(), school=PER_PART).captures) == 2


def test_masks_of_the_demo_lie_on_what_they_name():
    document = json.loads((samples.DEMO / "gooseberry-five-captures.json").read_text())
    made = joined(CODEC.check(document), CODEC, Pictures(), long_side=200)
    by_name = dict(zip((one["key"] for one in document["captures"]), made.plates, strict=True))
    assert by_name["ground"].mask is None
    label = by_name["label"].mask
    rows, columns = np.nonzero(label > 0.5)
    assert 0.5 < rows.mean() / label.shape[0] < 0.75  # the label lies in the lower half of this frame
    assert columns.mean() < label.shape[1] / 2  # and the bottle left of its middle
    assert (by_name["foil"].mask > 0.5)[: label.shape[0] // 3].any()
