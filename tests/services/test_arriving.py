"""New things find a free place, aimed at the product, out of the frame, beside the last of their kind."""

from __future__ import annotations

import math

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.constants import MIDDLE_GREY, REC709_LUMINANCE
from fotaxis.core.frames.faults import crossings, things_in_frame
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.scene.checks import collisions, out_of_reach
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.services.arriving import arrived
from fotaxis.services.changes import fresh_key
from fotaxis.services.pictures import Pictures
from fotaxis.services.presets import BOXES, CARD_KINDS, HEAD_KINDS, OTHERS, QUICK, SHEET_KINDS, new_things, start_document

CODEC = JsonShots()
KINDS = sorted({*QUICK, *BOXES, *HEAD_KINDS[:4], *CARD_KINDS[:3], *SHEET_KINDS[:2], SHEET_KINDS[-1], "grid head"})


def began(start, **camera):
    document = CODEC.check(start_document(start))
    document["camera"] |= camera
    return document


def with_one_more(document, kind):
    for list_name, thing in arrived(kind, new_things(kind, document), document, CODEC):
        keyed = {**thing, "key": fresh_key(document, "new")}
        document = {**document, list_name: [*document.get(list_name, []), keyed]}
    return CODEC.check(document)


def faults(document):
    plan = CODEC.plan(document)
    return {
        **collisions(plan), **out_of_reach(plan), **{f.key: f.words for f in crossings(plan)},
        **{f.key: f.words for f in things_in_frame(plan, pack_static_scene(plan))},
    }  # fmt: skip


@pytest.mark.parametrize("start", ["bottle", "jar"])
@pytest.mark.parametrize("kind", KINDS)
def test_three_of_a_kind_arrive_free_and_out_of_the_frame(kind, start):
    document = began(start, focal_length_mm=85)
    before = faults(document)
    for _ in range(3):
        document = with_one_more(document, kind)
    assert {key: words for key, words in faults(document).items() if key not in before} == {}


@pytest.mark.parametrize("kind", [HEAD_KINDS[0], "dish 65°", "snoot"])
def test_a_head_arrives_aimed_at_the_product(kind):
    document = with_one_more(began("bottle"), kind)
    head = document["lights"][-1]
    plan = CODEC.plan(document)
    to = np.array([0.0, 100 * (plan.lift_m + plan.product.height_m / 2), 0.0]) - [
        head["place"][n] for n in ("x_cm", "y_cm", "z_cm")
    ]
    turn, tilt = math.radians(head["turn_deg"]), math.radians(head["tilt_deg"])
    ahead = np.array([math.sin(turn) * math.cos(tilt), math.sin(tilt), math.cos(turn) * math.cos(tilt)])
    assert math.degrees(math.acos(ahead @ to / np.linalg.norm(to))) == approx(0, abs=0.2)


def test_the_next_of_a_kind_stands_beside_the_last():
    document = with_one_more(began("empty"), "strip box")
    first = document["lights"][-1]["place"]
    second = with_one_more(document, "strip box")["lights"][-1]["place"]
    apart = math.hypot(first["x_cm"] - second["x_cm"], first["z_cm"] - second["z_cm"])
    assert 5 < apart < 60


@pytest.mark.parametrize("kind", sorted(OTHERS))
def test_a_new_product_stands_beside_the_others_not_in_them(kind):
    document = began("bottle")
    for _ in range(3):
        document = with_one_more(document, kind)
    assert len(document["others"]) == 3
    assert collisions(CODEC.plan(document)) == {}


@pytest.mark.parametrize(("kind", "stops"), [("grid head", 0.8), ("panel", 1.5), ("octabox", 1.0)])
def test_a_new_light_arrives_at_the_level_it_usually_has(kind, stops):
    """Independent reading: the light's own layer of the finished picture, brightest of the product."""
    document = with_one_more(began("empty"), kind)
    plan = CODEC.plan(document)
    made = Pictures().fine(plan, long_side=160)
    luminance = made.scaled_layers()[1].astype(np.float64) @ np.array(REC709_LUMINANCE)
    level = math.log2(float(np.quantile(luminance[made.is_product], 0.995)) / MIDDLE_GREY)
    assert level == approx(stops, abs=0.5)
