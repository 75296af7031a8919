"""The reckoner and a shot: its numbers in the fields agree with the bench, an answer changes what it says and nothing "
"else."""

import json
import math
from datetime import UTC, datetime

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera import lens
from fotaxis.core.errors import FormatError
from fotaxis.core.frames.black_frame import room_verdict
from fotaxis.core.lights.kit import piece
from fotaxis.core.placement.framing import filled
from fotaxis.core.reckoner.asked import answered, calculation_of
from fotaxis.core.reckoner.calculations import CALCULATIONS
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.services.ports import NotFound, OwnPiece, Refused
from fotaxis.services.reckoning import TAKEABLE, Reckoning, middle_of, reckoned_lines, shot_numbers
from fotaxis.services.sheet import camera_figures
from fotaxis.services.shots import Shots
from tests.formats import samples
from tests.studios import add_studio

CODEC = JsonShots()


def document(name="elder-cordial", **changes):
    return CODEC.check({**json.loads((samples.DEMO / f"{name}.json").read_text()), **changes})


def numbers(given=None, **more):
    given = given or document()
    return shot_numbers(CODEC.plan(given), given, **more)


def clock():
    return datetime(2026, 11, 28, tzinfo=UTC)


@pytest.fixture
def shots(database):
    return Shots(database, CODEC, clock)


@pytest.fixture
def shot(database, studio, shots):
    with database.transaction() as repo:
        job = repo.add_job(studio, name="Winter range")
    return shots.create(studio, job.id, name="Elder", document=document())


@pytest.fixture
def take(shots, studio, shot):
    """Take an answer into the shot; the document after it, and what was said."""

    def taking(key, unknown, own=(), *, selected="left", into_set=True, **typed):
        texts = {name: str(text) for name, text in typed.items()}
        opened, words = Reckoning(shots, CODEC).take(
            studio, shot.id, own, key=key, typed=texts, unknown=unknown, selected=selected, into_set=into_set
        )
        return opened.document, words

    return taking


def test_the_numbers_are_those_of_the_bench():
    given = document()
    plan, found = CODEC.plan(given), numbers(given, selected="left")
    assert found["exposure.f_number"] == plan.exposure.f_number
    assert found["light.power"] == plan.lights[0].emission.power_stops
    # By hand: the left panel stands at (-42, 22, -35) cm, the product's middle half its height over its riser.
    assert found["light.distance"] == approx(math.dist((-0.42, 0.22, -0.35), middle_of(plan)))
    assert found["light.from_axis"] == approx(math.hypot(0.42, 0.35))
    figures = camera_figures(plan)
    assert found["camera.width"] == approx(figures.field_width_cm / 100, rel=1e-6)
    assert found["camera.circle"] == approx(figures.circle_um * 1e-6, rel=1e-6)


def test_sharpness_and_framing_agree_with_the_sheet_and_the_bench():
    given = document()
    plan, found = CODEC.plan(given), numbers(given)
    told = answered(calculation_of("depth-of-field"), {}, found, unknown="depth", inches=False)
    by_name = {one.name: one.value for one in told.gives}
    near, far = lens.depth_of_field_m(
        focal_length_m=0.1, f_number=plan.exposure.f_number, circle_m=found["camera.circle"], subject_distance_m=1.5
    )
    # What the fields show is rounded to a hundredth of a millimetre and a centimetre.
    assert (by_name["near"], by_name["far"]) == approx((near, far), rel=0.002)
    share = answered(calculation_of("field-of-view"), {}, found, unknown="share", inches=False).gives[0].value
    assert share == approx(filled(plan, plan.camera), rel=0.03)


@pytest.mark.parametrize("lux", [3.0, 40.0])
@pytest.mark.parametrize("filters", [{}, {"nd_stops": 2.0}])
def test_the_room_is_as_far_under_as_the_bench_says(lux, filters):
    given = document(room_lux=lux, lens={**(document()["lens"]), **filters})
    plan = CODEC.plan(given)
    told = answered(calculation_of("black-frame"), {}, numbers(given), unknown="under", inches=False).gives[0].value
    bench = room_verdict(room_lux=lux * plan.before_lens.transmission, exposure=plan.exposure).stops
    assert told == approx(-bench, abs=0.05)


def test_every_number_that_can_be_taken_is_asked_for_somewhere():
    names = {one.shot for calculation in CALCULATIONS for one in (*calculation.asks, *calculation.gives) if one.taken}
    assert set(TAKEABLE) <= names
    names -= {"exposure.at_least"}  # given alone
    known = set(numbers(document(room_lux=5.0), selected="label")) | {
        "light.weight",
        "head.recycle",
        "pack.energy",
        "light.grid",
        "light.guide",
    }
    assert {name for name in names if name} <= known


def test_the_kit_tells_weights_packs_and_recycling():
    given = document()
    given["lights"][0]["own"] = "Small head"
    own = [
        OwnPiece(id=None, piece=piece("head", "Small head", 1, {"weight_kg": 2.5, "recycle_s": 1.4, "pack": "Pack 1200"})),
        OwnPiece(id=None, piece=piece("pack", "Pack 1200", 1, {"energy_ws": 1200, "sockets": 2})),
    ]
    found = numbers(given, own=own, selected="left")
    assert (found["light.weight"], found["pack.energy"], found["head.recycle"]) == (2.5, 1200, 1.4)


def test_an_aperture_is_taken_and_stands_on_the_sheet(take, shots, studio, shot):
    after, words = take("guide-number", "f_number", guide="22 m", distance="54.7 cm")
    assert words == "aperture f/10"
    assert after["exposure"]["f_number"] == approx(2 ** (20 / 6))
    (line,) = reckoned_lines(after)
    assert line.name == "Guide number: Left panel"
    assert line.gives.startswith("Aperture f/10")
    assert "guide number at ISO 100 22 m" in line.given
    # One step: undo takes both back.
    back = shots.undo(studio, shot.id).document
    assert back["exposure"]["f_number"] == document()["exposure"]["f_number"]
    assert back.get("reckoned", []) == []


def test_what_was_given_otherwise_than_the_shot_goes_along(take):
    after, words = take("guide-number", "f_number", distance="1.1 m", iso=200)
    assert "ISO 200" in words
    assert "Left panel to 110 cm" in words
    plan = CODEC.plan(after)
    assert float(np.linalg.norm(plan.lights[0].stance.place.array() - middle_of(plan))) == approx(1.1, abs=0.002)
    assert numbers(after, selected="left")["light.distance"] == approx(1.1, abs=0.002)


@pytest.mark.parametrize(
    ("key", "unknown", "typed", "path", "value"),
    [
        ("stops", "new_power", {"new_f_number": "11"}, ("lights", 0, "power_stops"), -3.0),
        ("stops", "new_iso", {"new_f_number": "16"}, ("exposure", "iso"), 400.0),
        ("black-frame", "shutter", {"room_shutter": "1/50", "room_f_number": "2.8", "room_iso": "100", "under": "6"},
            ("exposure", "shutter_s"), 2 ** (-26 / 3)),
        ("field-of-view", "focal", {"share": "40 %"}, ("camera", "focal_length_mm"), None),
        ("depth-between", "f_number", {"near": "140 cm", "far": "160 cm"}, ("lens", "focus_cm"), 149.3),
        ("white-balance", "white", {"first": 5600, "second": 3200}, ("exposure", "white_k"), 4073.0),
    ],
)  # fmt: skip
def test_each_answer_goes_where_it_belongs(take, key, unknown, typed, path, value):
    after, _ = take(key, unknown, **typed)
    found = after
    for step in path:
        found = found[step]
    assert found == (approx(value, rel=1e-3) if value is not None else approx(found))
    before = document()
    for one in path:
        before = before.get(one, {}) if isinstance(before, dict) else before[one]
    assert found != before


def test_the_camera_is_moved_along_the_way_it_looks(take):
    after, words = take("field-of-view", "distance", share="50 %", focal="100 mm")
    plan = CODEC.plan(after)
    assert "camera to" in words
    height, sensor = plan.product.height_m, plan.camera.used_sensor_m[1]
    assert plan.camera.aim_distance_m == approx(0.1 * (1 + height / 0.5 / sensor), rel=0.002)
    assert plan.camera.place.y_m == approx(plan.camera.aim.y_m)  # it looked level, it still does


def test_an_open_shutter_is_never_cut_short(take):
    # By hand: 30 cm and the patch of 14.1 cm at 0.2 m/s are 2.2 s; the next third that is no shorter is 2.5 s.
    after, words = take("light-painting", "f_number", way="30 cm")
    assert "shutter 2.5 s" in words
    assert after["exposure"]["shutter_s"] >= 2.2


def test_the_near_end_is_the_products_own(take):
    after, _ = take("fall-off", "distance", depth="30 cm", difference="1/3")
    plan = CODEC.plan(after)
    away = float(np.linalg.norm(plan.lights[0].stance.place.array() - middle_of(plan)))
    assert away - plan.product.reach_m == approx(0.3 / (2 ** (1 / 6) - 1), abs=0.002)


def test_what_cannot_be_set_is_refused_and_nothing_is_changed(take, shots, studio, shot):
    with pytest.raises(Refused, match="cannot be set"):
        take("stops", "new_power", new_f_number="1.4", f_number="8")
    with pytest.raises(Refused, match="nothing of this answer is set on the bench"):
        take("boom", "counter")
    with pytest.raises(Refused, match="it must be from f/0"):
        take("depth-of-field", "depth", f_number="0")
    now = shots.open(studio, shot.id).document
    assert now == document() | {"name": "Elder"}


def test_onto_the_sheet_alone_the_set_stays(take):
    after, words = take("boom", "counter", into_set=False, load="4 kg")
    assert words == ""
    assert after["lights"] == document()["lights"]
    (line,) = reckoned_lines(after)
    assert line.gives.startswith("Counterweight")
    assert any("safety line" in said for said in line.cautions)


def test_the_same_question_about_the_same_light_is_told_anew(take):
    take("guide-number", "f_number", into_set=False, selected="left")
    take("guide-number", "f_number", into_set=False, selected="right")
    after, _ = take("guide-number", "f_number", into_set=False, selected="left", heads=2)
    assert [one["of"] for one in after["reckoned"]] == ["Left panel", "Right panel"]
    assert len({one["key"] for one in after["reckoned"]}) == 2
    assert after["reckoned"][0]["given"]["heads"] == "2"


def test_a_shot_file_with_an_unknown_calculation_is_refused_with_the_place():
    for odd in ({"calculation": "alchemy"}, {"unknown": "gold"}, {"given": {"gold": "1"}}, {"given": {"iso": "x" * 300}}):
        kept = {"key": "a", "calculation": "guide-number", "unknown": "f_number", "given": {"iso": "100"}} | odd
        with pytest.raises(FormatError, match="reckoned"):
            document(reckoned=[kept])


def test_another_studio_takes_nothing(database, shots, shot):
    with database.transaction() as repo:
        other = add_studio(repo, "Else")
    with pytest.raises(NotFound):
        Reckoning(shots, CODEC).take(other, shot.id, (), key="stops", typed={}, unknown="difference")
