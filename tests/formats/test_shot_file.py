"""The shot file: exact round trip, a schema that says the same, faults named by place."""

import json
import math

import jsonschema
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fotaxis.core.errors import FormatError
from fotaxis.formats import shot_file
from fotaxis.services.presets import STARTS, start_document
from tests.formats import samples

ROOT = samples.DEMO.parents[2]  # src/fotaxis/demo


@pytest.mark.parametrize("path", samples.FILES, ids=lambda p: p.stem)
def test_round_trip_is_exact(path):
    data = path.read_bytes()
    document = shot_file.read(data)
    assert shot_file.read(shot_file.write(document)) == document
    assert shot_file.write(shot_file.read(shot_file.write(document))) == shot_file.write(document)


@given(st.floats(allow_nan=False, allow_infinity=False, min_value=-300, max_value=300))
@settings(max_examples=50)
def test_every_number_comes_back_as_it_was(value):
    # Python writes the shortest decimal that reads back to the same double.
    document = shot_file.from_raw(samples.changed(["lights", 0, "place", "x_cm"], value))
    assert shot_file.read(shot_file.write(document)).lights[0].place.x_cm == value


@pytest.mark.parametrize("path", samples.FILES, ids=lambda p: p.stem)
def test_the_published_schema_takes_every_good_file(path):
    jsonschema.Draft202012Validator(shot_file.json_schema()).validate(json.loads(path.read_bytes()))


def test_the_published_schema_is_the_one_in_the_docs():
    published = json.loads((ROOT / "docs/shot-file.schema.json").read_text())
    assert published == shot_file.json_schema()
    jsonschema.Draft202012Validator.check_schema(published)


@pytest.mark.parametrize("start", STARTS)
def test_every_start_makes_a_set(start):
    document, plan = shot_file.with_plan(start_document(start))
    assert plan.product.profile.widest_m > 0
    jsonschema.validate(document.model_dump(mode="json"), shot_file.json_schema())


def test_a_document_that_follows_a_hand_comes_to_the_same_set():
    raw = samples.raw()
    values = shot_file.Values()
    card = {
        "key": "card", "name": "Card", "kind": "white card", "place": {"x_cm": 30, "y_cm": 20, "z_cm": 0}, "turn_deg": 0,
        "tilt_deg": 0, "width_cm": 20, "height_cm": 30,
    }  # fmt: skip
    seen = []
    for step in range(4):
        light = {**raw["lights"][0], "turn_deg": 90 + step}
        now = {**raw, "lights": [light, *raw["lights"][1:]], "cards": [card] if step > 1 else []}
        document, plan = shot_file.with_plan(now, values)
        assert plan == document.plan()
        seen.append(plan)
    assert len(set(seen)) == 4
    assert seen[0].lights[1] is seen[3].lights[1]
    with pytest.raises(FormatError, match="turn_deg"):
        shot_file.with_plan({**raw, "lights": [{**raw["lights"][0], "turn_deg": "left"}]}, values)


POINTS = [{"height_cm": h, "diameter_cm": d} for h, d in ((0, 6), (10, 6), (10, 2), (5, 8), (20, 1))]

INSIDE = {"distance_cm": 2, "height_cm": 15, "aim_height_cm": 15, "focal_length_mm": 8}

WRONG = {
    "negative diameter": (["subject", "profile", 2, "diameter_cm"], -7.4, "profile, point 3", "0 to 600 cm"),
    "profile crossing itself": (["subject", "profile"], POINTS, "", "must not cross itself"),
    "text for a number": (["camera", "focal_length_mm"], "long", "camera.focal_length_mm", "it is \"long\""),
    "zero width": (["lights", 0, "width_cm"], 0, "lights[0].width_cm", "more than 0"),
    "negative card": (["lights", 1, "height_cm"], -3, "lights[1].height_cm", "more than 0"),
    "unknown name": (["camera", "colour"], 1, "camera.colour", "not known here"),
    "unknown kind": (["lights", 0, "kind"], "torch", "lights[0]", "panel"),
    "lens in the product": (["camera", "distance_cm"], 2, "", "move the camera back"),
    "camera inside": (["camera"], INSIDE, "", "camera is inside the product"),
    "power off the rail": (["lights", 0, "power_stops"], 3, "", "power"),
    "too much gain": (["subject", "body", "reflectance"], [1.2, 0, 0], "", "reflectance red is 1.2"),
    "wild shutter": (["exposure", "shutter_s"], 1e9, "", "shutter"),
    "version": (["version"], 9, "version", "reads versions 1 and 2"),
    "format": (["format"], "drawing", "format", "not a shot file"),
    "control character": (["name"], "a\u0000b", "name", "cannot be kept"),
    "half a surrogate": (["name"], "\ud800", "name", "cannot be kept"),
    "same key twice": (["lights", 1, "key"], "left", "", "share the key"),
    "line without length": (["reading_line"], {"x0": 0.5, "y0": 0.5, "x1": 0.5, "y1": 0.5}, "", "line"),
}  # fmt: skip


@pytest.mark.parametrize("case", WRONG)
def test_a_wrong_value_is_refused_with_its_place_and_reason(case):
    path, value, place, words = WRONG[case]
    with pytest.raises(FormatError) as caught:
        shot_file.from_raw(samples.changed(path, value))
    assert place in str(caught.value)
    assert words in str(caught.value)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "line 1"),
        (b"{", "line 1, column 2"),
        (b"[]", "one JSON object"),
        (b"\xff\xd8\xff\xe0 a picture", "this is not text"),
        (b'{"format": "fotaxis-shot", "version": 1, "room_lux": NaN}', "not a number that can be measured"),
        (b'{"format": "fotaxis-shot", "version": 1, "room_lux": -Infinity}', "not a number that can be measured"),
        (b"[" * 100_000, "nested"),
        (b"[" + b"9" * 10_000 + b"]", "endless number"),
        (b" " * (shot_file.MAX_BYTES + 1), "Is it a picture"),
        (b'{"format": "fotaxis-shot", "version": 1}', "must be given"),
    ],
    ids=["empty", "cut off", "list", "picture", "nan", "inf", "deep", "digits", "huge", "bare"],
)
def test_hostile_bytes_are_refused(data, words):
    with pytest.raises(FormatError, match=words):
        shot_file.read(data)


def test_a_number_too_large_for_a_double_is_refused():
    text = json.dumps(samples.raw()).replace('"room_lux": 0.0', '"room_lux": 1e999')
    assert "1e999" in text
    with pytest.raises(FormatError, match="room_lux"):
        shot_file.read(text.encode())


json_values = st.recursive(
    st.none() | st.booleans() | st.floats() | st.integers() | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=8), inner, max_size=4),
    max_leaves=12,
)


@given(st.sampled_from(sorted(samples.raw())), json_values)
@settings(max_examples=200)
def test_any_value_anywhere_is_taken_or_refused_in_words(key, value):
    document = samples.changed([key], value)
    try:
        made = shot_file.from_raw(document)
    except FormatError as error:
        assert str(error)
        return
    assert math.isfinite(made.camera.focal_length_mm)
    assert shot_file.read(shot_file.write(made)) == made


def test_cards_sheets_and_riser_may_be_as_they_were_measured():
    raw = samples.raw()
    face = {"place": {"x_cm": 30, "y_cm": 20, "z_cm": 20}, "turn_deg": -120, "width_cm": 20, "height_cm": 40}
    raw["cards"] = [
        {"kind": "white card", "key": "a", "name": "A", **face, "reflects_percent": 72},
        {"kind": "sheet", "key": "b", "name": "B", **face, "material": "half white", "loss_stops": 1.3},
    ]
    raw["riser"] = {"height_cm": 4, "diameter_cm": 6.6, "surface": "black matte", "colour": [0.3, 0.2, 0.1]}
    plan = shot_file.read(json.dumps(raw).encode()).plan()
    card, sheet = plan.cards
    assert card.finish.reflectance.green == pytest.approx(0.72)
    assert sheet.finish.stops == pytest.approx(1.3)
    assert plan.riser.skin.reflectance.red == pytest.approx(0.3)
    raw["riser"]["height_cm"] = 0.05
    with pytest.raises(FormatError, match="riser height"):
        shot_file.read(json.dumps(raw).encode()).plan()
