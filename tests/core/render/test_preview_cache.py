"""What a drag keeps from picture to picture never changes the picture."""

from __future__ import annotations

import itertools
import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.lights.calibration import GuideNumber
from fotaxis.core.lights.card_finishes import FINISH
from fotaxis.core.lights.fixtures import Card, Emission, Lamp
from fotaxis.core.lights.heads import HEAD
from fotaxis.core.materials.material import Skin
from fotaxis.core.render.layers import layer_gains
from fotaxis.core.render.preview.preview_cache import PreviewCache
from fotaxis.core.render.preview.render_preview import render_preview
from fotaxis.core.render.preview.traced_scene import trace_scene
from fotaxis.core.scene.plan import Table
from fotaxis.core.values import Reflectance
from tests import material_scenes, scenes

PIXELS = np.arange(0, 60 * 76, 7)


def flat(key, finish, *, x, z, turn, width=0.3, height=0.5, y=0.2):
    return Card(
        key=key, name=key, stance=scenes.stance(x, y, z, turn), width_m=width, height_m=height, finish=FINISH[finish]
    )


def full_set(plan):
    """A head behind a sheet, another behind a frost, a net before the label light; silver, mirror, white and black cards."""
    lamps = [
        Lamp(
            key=key, name=key, stance=scenes.stance(x, 0.3, z, turn), head=HEAD["dish 65°"], diameter_m=0.18,
            emission=Emission(calibration=GuideNumber(metres=45), power_stops=-4),
        )
        for key, x, z, turn in (("behind-left", -0.7, -0.75, 45), ("behind-right", 0.85, -0.4, -62))
    ]  # fmt: skip
    cards = (
        flat("sheet", "opal acrylic", x=-0.42, z=-0.35, turn=50),
        flat("frost", "half white", x=0.45, z=-0.25, turn=-60),
        flat("silver", "silver card", x=0.3, z=0.35, turn=-140, width=0.15, height=0.2),
        flat("mirror", "mirror card", x=-0.3, z=0.3, turn=130, width=0.15, height=0.2),
        flat("black", "black card", x=-0.2, z=0.1, turn=100, width=0.06, height=0.3),
        flat("net", "single net", x=0.15, y=0.5, z=0.5, turn=-164, width=0.2, height=0.2),
    )
    return replace(plan, lights=(*lamps, *plan.lights[2:]), cards=cards)


def moved(plan, key, *, x=0.0, z=0.0, turn=0.0):
    """The same with one thing elsewhere."""

    def other(thing):
        if thing.key != key:
            return thing
        s = thing.stance
        place = replace(s.place, x_m=s.place.x_m + x, z_m=s.place.z_m + z)
        return replace(thing, stance=replace(s, place=place, turn_rad=s.turn_rad + math.radians(turn)))

    return replace(plan, lights=tuple(map(other, plan.lights)), cards=tuple(map(other, plan.cards)))


def story(plan):
    """What a hand does: drags a sheet, then a card into its light, then the head behind it, changes power and cloth, drags on."""
    yield plan
    for step in range(3):
        plan = moved(plan, "sheet", x=0.02 * step, z=0.01, turn=3)
        yield plan
    for step in range(2):
        plan = moved(plan, "black", x=-0.06, z=-0.1 - 0.02 * step)
        yield plan
    plan = moved(moved(plan, "behind-left", x=0.1, z=0.05), "behind-right", turn=5)
    yield plan
    louder = replace(plan.lights[0], emission=replace(plan.lights[0].emission, power_stops=-1.0))
    plan = replace(plan, lights=(louder, *plan.lights[1:]))
    yield plan
    plan = moved(plan, "behind-left", x=-0.05)
    yield plan
    plan = replace(plan, cards=(replace(plan.cards[0], finish=FINISH["full grid cloth"]), *plan.cards[1:]))
    yield plan
    plan = moved(plan, "net", x=0.03, z=0.02)
    yield plan
    # Another frost, as finely cut: what its lobes showed holds no longer.
    cards = [replace(card, finish=FINISH["opal frost"]) if card.key == "frost" else card for card in plan.cards]
    plan = moved(replace(plan, cards=tuple(cards)), "net", x=0.01)
    yield plan
    yield replace(plan, cards=plan.cards[1:])


TABLES = {
    "black gloss": scenes.plan().table,
    "white gloss": Table(skin=Skin(reflectance=Reflectance.grey(0.7), coat_index=1.49), width_m=1.2, depth_m=0.8),
    "none": None,
}


@pytest.mark.parametrize(
    ("glass", "table"), [(False, "black gloss"), (True, "black gloss"), (False, "white gloss"), (False, "none")]
)
def test_a_drag_gives_what_the_same_set_gives_at_once(glass, table):
    plan = full_set(material_scenes.filled_bottle(coloured=True) if glass else scenes.plan(room_lux=5.0))
    plan = replace(plan, table=TABLES[table])
    stage = trace_scene(plan, width=60, height=76)
    drag, seen = PreviewCache(), []
    for now in story(plan):
        gains = layer_gains(now)
        picture, read, _ = render_preview(stage, now, gains=gains, pixels=PIXELS, drag=drag)
        whole, level, _ = render_preview(stage, now, gains=gains, pixels=PIXELS)
        # The same sums, kept in float32 between pictures.
        assert read == approx(level, rel=1e-4, abs=1e-6 * float(level.max()))
        assert np.abs(picture.astype(int) - whole.astype(int)).max() <= 1
        seen.append(read)
    changes = [not np.array_equal(a, b) for a, b in itertools.pairwise(seen)]
    assert sum(changes) >= 9, f"too little changed to test anything: {changes}"


def test_a_set_without_lights_shows_its_cards_dark():
    plan = replace(full_set(scenes.plan(room_lux=5.0)), lights=())
    stage = trace_scene(plan, width=60, height=76)
    drag = PreviewCache()
    for now in (plan, moved(plan, "sheet", x=0.05), moved(plan, "frost", z=0.05)):
        _, read, _ = render_preview(stage, now, gains=layer_gains(now), pixels=np.arange(60 * 76), drag=drag)
        # By hand: 5 lux on white paper, at 1/125 s, f/8, ISO 100 is far under grey; nothing shines by itself.
        assert np.isfinite(read).all()
        assert 0 <= read.min() <= read.max() < 0.18


def test_a_set_without_lights_and_cards_can_be_followed():
    # A new shot is empty, and its camera is moved before the first light comes.
    plan = scenes.plan(lights=(), cards=())
    stage, drag = trace_scene(plan, width=60, height=76), PreviewCache()
    first, again = (render_preview(stage, plan, gains=layer_gains(plan), pixels=PIXELS, drag=drag)[0] for _ in range(2))
    assert np.array_equal(first, again)
    lit = scenes.plan(cards=())
    picture, _, _ = render_preview(stage, lit, gains=layer_gains(lit), pixels=PIXELS, drag=drag)
    plain, _, _ = render_preview(stage, lit, gains=layer_gains(lit), pixels=PIXELS)
    assert picture.max() > 0
    assert np.array_equal(picture, plain)
