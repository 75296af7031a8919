"""How delicate a set is: against closed forms, finite differences of their own, and by being off by just so much."""

import json
import math

import pytest
from pytest import approx

from fotaxis.core.placement.cylinder import highlight_shift_m, offset_ratio
from fotaxis.core.proposals.tolerance import Reading, tolerance
from fotaxis.core.wishes.place import Place
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.services.changes import Change, applied
from fotaxis.services.pictures import Pictures
from fotaxis.services.studies import FREEDOMS, delicate, offsets, swept
from tests.formats import samples

CODEC = JsonShots()


@pytest.mark.parametrize("step", [0.01, 1.0, 15.0])
def test_a_line_on_a_cylinder_is_as_delicate_as_its_derivative(step):
    # x / R = sin(a / 2): a hundredth of the width is seen after delta = 0.02 / (cos(a / 2) / 2).   See placement.mirror.
    angle = math.radians(110)

    def figures(off_deg):
        return {"place": Reading(value=offset_ratio(light_angle_rad=angle + math.radians(off_deg)), visible=0.02)}

    found = tolerance(figures, step=step, most=20.0)
    slope = highlight_shift_m(radius_m=1.0, normal_angle_rad=angle / 2, panel_shift_rad=1.0)
    assert math.radians(found.limit) == approx(0.02 / slope, rel=0.05)
    assert found.of == "place"


def test_a_light_is_as_delicate_as_the_square_of_its_distance():
    # By hand: a tenth of a stop by 2 log2(d / d0): d0 (2^0.05 - 1) = 3.5 cm at 1 m.
    found = tolerance(lambda off: {"level": Reading(value=-2 * math.log2(1 + off), visible=0.1)}, step=0.2, most=1.0)
    assert found.limit == approx(2**0.05 - 1, rel=0.05)


def test_what_changes_first_counts_and_what_does_not_change_is_no_limit():
    both = {"slow": lambda off: 0.1 * off, "fast": lambda off: 3 * off}
    found = tolerance(
        lambda off: {name: Reading(value=of(off), visible=0.1) for name, of in both.items()}, step=1.0, most=10.0
    )
    assert (found.of, found.limit) == ("fast", approx(0.1 / 3, rel=0.01))
    assert tolerance(lambda off: {"still": Reading(value=1.0, visible=0.1)}, step=1.0, most=10.0).limit == math.inf
    assert tolerance(lambda off: {"slow": Reading(value=0.001 * off, visible=0.1)}, step=1.0, most=10.0).limit == math.inf


def test_what_is_no_longer_seen_has_changed():
    found = tolerance(lambda off: {"line": Reading(value=0.0, visible=0.1)} if abs(off) < 0.5 else {}, step=2.0, most=4.0)
    assert found.limit <= 2.0


def two_lines():
    document = samples.raw()
    document["readings"] = [
        {"kind": "edge", "key": "line", "name": "Line", "side": "left", "low": 0.45, "high": 0.6},
        {"kind": "spot", "key": "label", "name": "Label", "across": 0.0, "height": 0.28},
    ]
    document["wishes"] = [
        {"kind": "place", "key": "w", "reading": "line", "near": 0.8, "far": 0.95, "within": 0.05, "height": 0.2},
        {"kind": "level", "key": "level", "reading": "label", "stops": 0.0},
    ]
    return CODEC.check(document)


@pytest.fixture(scope="module")
def studied():
    document = two_lines()
    return document, delicate(document, CODEC, Pictures())


def figures_of(document):
    plan, readings = CODEC.plan(document), CODEC.readings(document)
    pictures = Pictures()
    values = pictures.named(plan, readings)
    line = values["line"]
    return {
        "its inner end": abs(line.place) - line.width / 2, "its outer end": abs(line.place) + line.width / 2,
        "its level": values["label"].level_stops,
    }  # fmt: skip


def test_off_by_just_so_much_a_wish_has_just_changed(studied):
    # Independent: the set itself moved both ways by what is told, and read.
    document, found = studied
    assert [one["key"] for one in found]
    checked = 0
    for one in found:
        row = one["rows"][0]
        name = "lights" if any(light["key"] == one["key"] for light in document["lights"]) else "cards"
        field = FREEDOMS[row["way"]][0]
        thing = next(thing for thing in document[name] if thing["key"] == one["key"])
        path = (name, one["key"], "place", field) if field.endswith("_cm") else (name, one["key"], field)
        value = thing["place"][field] if field.endswith("_cm") else thing[field]
        figure = row["of"].split(" of ")[0]
        ends = []
        for side in (-1, 1):
            moved = applied(document, [Change(kind="set", path=path, value=value + side * row["limit"])])
            ends.append(figures_of(moved)[figure])
        visible = 0.1 if figure == "its level" else 0.02
        assert abs(ends[1] - ends[0]) / 2 == approx(visible, rel=0.3), (one["name"], row)
        checked += 1
    assert checked >= 2


def test_the_most_delicate_stands_first(studied):
    _, found = studied
    firsts = [one["rows"][0]["delicacy"] for one in found]
    assert firsts == sorted(firsts, reverse=True)
    assert all(row["limit"] > 0 for one in found for row in one["rows"])


def test_a_study_that_nobody_wants_any_more_stops():
    assert delicate(two_lines(), CODEC, Pictures(), lambda: False) is None


def test_variants_are_the_same_whoever_looks_and_begin_where_the_set_stands():
    whole = offsets(0, 64)
    assert (whole[0] == 0).all()
    assert (abs(whole) <= 1).all()
    assert (offsets(64, 100) == offsets(64, 128)[:36]).all()
    document = two_lines()
    payload = {"key": "left", "begin": 0, "end": 6, "span_cm": 10.0, "span_deg": 8.0}
    first, again = (swept(document, payload, CODEC, Pictures()) for _ in range(2))
    assert json.dumps(first) == json.dumps(again)
    assert first == sorted(first, key=lambda one: (-one["met"], one["lack"]))
    best = first[0]
    changes = [Change(kind="set", path=("lights", "left", name), value=value) for name, value in best["values"].items()]
    moved = applied(document, changes)
    wish = next(one.wish for one in CODEC.wishes(moved) if isinstance(one.wish, Place))
    assert wish is not None
