"""Ways to meet wishes of whole shots: every one can be built, and the best ones are read in the picture they make."""

import json
import math

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.errors import NoSolution
from fotaxis.core.frames.zones_seen import zones_seen
from fotaxis.core.lights.kit import Piece
from fotaxis.core.scene.checks import collisions
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.services import wishes
from fotaxis.services.changes import applied
from fotaxis.services.marking import Mark, marked
from fotaxis.services.pictures import Pictures
from fotaxis.services.ports import OwnPiece
from fotaxis.services.proposals import asked_for, proposals, taken, wished_highlight
from fotaxis.services.proposals.maker import maker_of
from fotaxis.services.wish_sets import set_wishes
from tests.formats import samples

CODEC = JsonShots()
PICTURES = Pictures()


def shot(name="elder-cordial", key="", **changes):
    document = CODEC.check(json.loads((samples.DEMO / f"{name}.json").read_text()) | changes)
    if key:
        plan = CODEC.plan(document)
        document = CODEC.check(applied(document, set_wishes(document, key, zones_seen(plan, PICTURES.stage(plan)))))
    return document


def asked(document, key, kit=()):
    wish = next(one for one in CODEC.wishes(document) if one.key == key)
    return asked_for(PICTURES, CODEC, document, wish, kit)


def after(of, way):
    return CODEC.check(applied(of.document, taken(of, way)))


def judged(document, wish):
    plan, readings = CODEC.plan(document), CODEC.readings(document)
    PICTURES.fine(plan, long_side=400)
    whole = wishes.whole_for([wish], lambda: PICTURES.whole(plan))
    return wishes.judged_wishes(plan, [wish], readings, PICTURES.named(plan, readings), whole)[0].judged


@pytest.mark.parametrize(("name", "key"), [
    ("elder-cordial", "soft lines"), ("gift-carton", "foil"), ("gooseberry-dark-field", "dark field"), ("sparkling-can", "usual"),
    ("plum-preserve", "usual"), ("gooseberry-with-glass", "absences"), ("elder-household-lamp", "usual"),
])  # fmt: skip
def test_every_way_can_be_built(name, key):
    document = shot(name, key)
    names = set()
    for wish in CODEC.wishes(document):
        of = asked(document, wish.key)
        before = collisions(of.plan)
        try:
            ways = proposals(of)
        except NoSolution as error:
            assert len(str(error)) > 20
            continue
        assert [way.rank for way in ways] == sorted((way.rank for way in ways), reverse=True)
        assert len(ways) <= 6
        for way in ways:
            assert way.title
            assert way.reasons
            made = CODEC.plan(after(of, way))
            added = {change.value["key"] for change in way.changes if change.kind == "add"}
            assert not added & {*collisions(made)} - {*before}, way.title
        names |= {way.title for way in ways}
    assert names


@pytest.mark.parametrize("name", ["elder-cordial", "sparkling-can"])
@pytest.mark.parametrize("side", ["left", "right"])
def test_the_best_way_to_a_line_makes_it(name, side):
    document = shot(name, "usual", lights=[], cards=[])
    of = asked(document, f"{side}-place")
    assert judged(document, of.wish).state == "not seen"
    best = proposals(of)[0]
    assert best.covered > 0.9
    assert judged(after(of, best), of.wish).state == "met", best.title


def test_what_the_studio_owns_comes_before_what_must_be_made():
    box = Piece(kind="box", name="Tall strip", values={"width_cm": 25, "height_cm": 110}, count=2)
    own = [OwnPiece(id=None, piece=box)]
    of = asked(shot("elder-cordial", "usual", lights=[], cards=[]), "left-place", own)
    ways = proposals(of)
    assert ways[0].title.startswith("Tall strip")
    light = after(of, ways[0])["lights"][0]
    assert (light["width_cm"], light["height_cm"], light["own"]) == (25, 110, "Tall strip")
    assert judged(after(of, ways[0]), of.wish).state == "met"


def test_foil_gets_a_surface_to_reflect():
    document = shot("gift-carton", "foil", cards=[])
    of = asked(document, "foil-lit")
    for way in proposals(of)[:2]:
        assert judged(after(of, way), of.wish).state == "met", way.title


def test_a_sheet_moves_with_the_head_behind_it():
    document = shot("elder-cordial", lights=[], cards=[])
    plan = CODEC.plan(document)
    sheet = {
        "kind": "sheet", "key": "sheet", "name": "Sheet", "place": {"x_cm": -45, "y_cm": 40, "z_cm": -20}, "turn_deg": 66,
        "tilt_deg": 0, "width_cm": 40, "height_cm": 100, "material": "opal acrylic",
    }  # fmt: skip
    turn = math.radians(66)
    head = {
        "kind": "head", "head": "dish 65°", "key": "head", "name": "Head", "calibration": {"kind": "guide number", "metres": 50},
        "place": {"x_cm": round(-45 - 50 * math.sin(turn), 1), "y_cm": 40, "z_cm": round(-20 - 50 * math.cos(turn), 1)},
        "turn_deg": 66, "tilt_deg": 0, "power_stops": -2,
    }  # fmt: skip
    document = CODEC.check(document | {
        "lights": [head], "cards": [sheet],
        "readings": [{"kind": "edge", "key": "line", "name": "Line", "side": "left", "low": 0.45, "high": 0.6}],
        "wishes": [{"kind": "place", "key": "w", "reading": "line", "near": 0.75, "far": 0.9, "within": 0.05, "height": 0.3}],
    })  # fmt: skip
    assert plan.product
    of = asked(document, "w")
    maker = maker_of(wished_highlight(of))
    assert maker is not None
    assert maker.keys == {"sheet", "head"}
    way = next(one for one in proposals(of) if one.title.startswith("Sheet"))
    moved = after(of, way)
    card, lamp = moved["cards"][0], moved["lights"][0]
    assert card["place"] != sheet["place"]
    apart = [lamp["place"][axis] - card["place"][axis] for axis in ("x_cm", "y_cm", "z_cm")]
    assert np.linalg.norm(apart) == approx(50, abs=0.5)
    assert lamp["turn_deg"] - card["turn_deg"] == approx(0, abs=0.1)


def test_a_background_gets_as_dark_as_was_asked():
    light = {
        "kind": "panel", "key": "p", "name": "Panel", "place": {"x_cm": -90, "y_cm": 40, "z_cm": 30}, "turn_deg": 115, "tilt_deg": 0,
        "width_cm": 20, "height_cm": 20, "calibration": {"kind": "guide number", "metres": 30}, "power_stops": 0,
    }  # fmt: skip
    document = shot("elder-cordial", lights=[light], cards=[])
    document["background"] |= {"distance_cm": 70}
    document["readings"] = [{"kind": "frame", "key": "g", "name": "Ground", "x": 0.9, "y": 0.1}]
    document["wishes"] = [{"kind": "level", "key": "dark", "reading": "g", "stops": -3.0, "side": "at most"}]
    document = CODEC.check(document)
    of = asked(document, "dark")
    now = of.value.level_stops
    assert now > -2
    document["wishes"][0]["stops"] = round(now - 1.5, 1)
    of = asked(CODEC.check(document), "dark")
    ways = proposals(of)
    away = next(way for way in ways if way.title.startswith("Background"))
    assert PICTURES.named(CODEC.plan(after(of, away)), of.readings)["g"].level_stops == approx(now - 1.5, abs=0.25)
    assert any("Flag" in way.title for way in ways)


def test_veil_is_met_with_a_flag_or_a_mask():
    light = {
        "kind": "panel", "key": "p", "name": "Rear panel", "place": {"x_cm": -50, "y_cm": 40, "z_cm": -60}, "turn_deg": 30,
        "tilt_deg": 0, "width_cm": 15, "height_cm": 15, "calibration": {"kind": "guide number", "metres": 60}, "power_stops": 0,
    }  # fmt: skip
    document = shot("elder-cordial", lights=[light], cards=[])
    document["lens"] |= {"glare_percent": 2.0}
    document["wishes"] = [{"kind": "clean", "key": "veil", "what": "veil"}]
    of = asked(CODEC.check(document), "veil")
    assert judged(of.document, of.wish).state == "open"
    ways = proposals(of)
    for way in ways:
        assert judged(after(of, way), of.wish).state == "met", way.title
    assert any("flag" in way.title.lower() for way in ways)


def test_a_mark_on_a_gloss_table_asks_for_the_light_that_it_mirrors():
    # Water, a plate, black gloss: the light stands where the table mirrors it for this camera height, read in the picture.
    document = shot("elder-cordial", lights=[], cards=[], readings=[], wishes=[])
    document["camera"] |= {"height_cm": 60, "aim_height_cm": 12}
    document["table"] |= {"width_cm": 120, "depth_cm": 120}
    document = CODEC.check(document)
    plan = CODEC.plan(document)
    mark = Mark(x=0.08, y=0.72, to_x=0.3, to_y=0.8)
    made = CODEC.check(applied(document, marked(document, plan, PICTURES.stage(plan), mark)))
    assert [(wish["kind"], made["readings"][0]["kind"]) for wish in made["wishes"]] == [("cover", "frame area")]
    of = asked(made, made["wishes"][0]["key"])
    assert judged(made, of.wish).state == "open"
    best = proposals(of)[0]
    assert judged(after(of, best), of.wish).state == "met", best.title
    assert best.measures["z_cm"] < 0 < best.measures["y_cm"]


MARKS = {
    "left line": ((0.40, 0.47, 0.425, 0.57), ["place"]), "label": ((0.44, 0.62, 0.56, 0.72), ["level", "even"]),
    "highlight": ((0.46, 0.45, 0.54, 0.5), ["cover"]), "ground": ((0.02, 0.1, 0.3, 0.3), ["level"]),
}  # fmt: skip


@pytest.mark.parametrize("name", MARKS)
def test_a_mark_asks_for_what_it_lies_on(name):
    document = shot("elder-cordial", readings=[], wishes=[])
    (x, y, to_x, to_y), kinds = MARKS[name]
    plan = CODEC.plan(document)
    changes = marked(document, plan, PICTURES.stage(plan), Mark(x=x, y=y, to_x=to_x, to_y=to_y))
    made = CODEC.check(applied(document, changes))
    assert [wish["kind"] for wish in made["wishes"]] == kinds
    # What is read lies where the mark was drawn.
    value = PICTURES.named(plan, CODEC.readings(made))[made["readings"][0]["key"]]
    if name != "left line":
        marks = np.array(value.marks)
        assert marks.min(axis=0) == approx([x, y], abs=0.03)
        assert marks.max(axis=0) == approx([to_x, to_y], abs=0.03)
    again = CODEC.check(applied(made, marked(made, plan, PICTURES.stage(plan), Mark(x=to_x, y=to_y, to_x=x, to_y=y))))
    assert len({wish["key"] for wish in again["wishes"]}) == 2 * len(kinds)


def test_a_marked_line_is_where_the_mark_says_of_the_half_width():
    document = shot("elder-cordial", readings=[], wishes=[])
    plan = CODEC.plan(document)
    on = PICTURES.stage(plan).is_product
    row = int(0.52 * on.shape[0])
    columns = np.flatnonzero(on[row])
    left, middle = columns[0] / on.shape[1], (columns[0] + columns[-1] + 1) / 2 / on.shape[1]
    half = middle - left
    changes = marked(
        document, plan, PICTURES.stage(plan), Mark(x=middle - 0.9 * half, y=0.47, to_x=middle - 0.7 * half, to_y=0.57)
    )
    wish = changes[1].value
    assert (wish["near"], wish["far"]) == approx((0.7, 0.9), abs=0.02)
