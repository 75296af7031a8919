"""Lamps that are carried while the shutter is open, against the mean of many pictures of lamps that stand still."""

from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.errors import DomainError
from fotaxis.core.lights.calibration import Candela
from fotaxis.core.lights.fixtures import Emission, Lamp
from fotaxis.core.lights.heads import HEAD
from fotaxis.core.lights.way import lit_way, on_way
from fotaxis.core.render.final.final_render import predict
from fotaxis.core.render.final.quality import SCREEN
from fotaxis.core.render.layers import layer_gains
from fotaxis.core.render.preview.render_preview import render_preview
from fotaxis.core.render.preview.traced_scene import trace_scene
from tests import scenes

BURNING = Emission(calibration=Candela(value=100), power_stops=0, continuous=True)
BULB = next(head for head in HEAD.values() if head.ball)
TORCH = next(head for head in HEAD.values() if not head.ball and head.continuous)
MANY = 160


def carried(
    head=BULB, *, diameter=0.03, way=((0.25, 0.35),), lit=(0.0, 1.0), emission=BURNING, z=-0.3, turn=0.0, **more
) -> Lamp:
    points = tuple(scenes.stance(x, y, z, turn) for x, y in way)
    return Lamp(
        key="lamp", name="Lamp", stance=scenes.stance(-0.2, 0.05, z, turn), head=head, diameter_m=diameter, way=points, lit=lit,
        emission=emission, **more,
    )  # fmt: skip


def alone(lamp, **changes):
    return scenes.bare(scenes.cylinder(height=0.2), lights=(lamp,), **changes)


def picture(lamp, side=120, **changes):
    return predict(alone(lamp, **changes), long_side=side, quality=SCREEN).pictures[1, ..., 1]


def of_many(lamp, side=120):
    """The mean of pictures of the lamp standing at places close together on its way."""
    begin, end = lamp.lit
    total = 0.0
    for i in range(MANY):
        stance = on_way(lamp, begin + (end - begin) * (i + 0.5) / MANY)
        total = total + (end - begin) / MANY * picture(replace(lamp, stance=stance, way=(), lit=(0.0, 1.0)), side)
    return total


@pytest.mark.parametrize(
    "lamp",
    [
        carried(),
        carried(TORCH, diameter=0.05, turn=10.0),
        carried(way=((0.2, 0.1), (0.2, 0.3), (-0.1, 0.35)), lit=(0.2, 0.7)),
    ],
    ids=["bulb", "torch", "by points, lit for half"],
)
def test_a_streak_has_the_light_of_its_places(lamp):
    ours, expected = picture(lamp), of_many(lamp)
    assert ours.sum() == approx(expected.sum(), rel=0.02)
    # Whole pictures, four pixels each way to one.
    coarse, fine = (p.reshape(30, 4, 24, 4).mean(axis=(1, 3)) for p in (ours, expected))
    assert np.abs(coarse - fine).max() < 0.05 * fine.max()
    assert (fine > 0.2 * fine.max()).sum() > 10


@pytest.mark.parametrize("side", [100, 400, 1000])
def test_a_streak_is_one_line_at_every_size(side):
    level = carried(way=((0.2, 0.05),), diameter=0.01)
    plan = replace(alone(level), product=replace(scenes.plan().product, x_m=3.0))
    streak = predict(plan, long_side=side, quality=SCREEN).pictures[1, ..., 1].sum(axis=0)
    (x0, _), (x1, _) = (
        plan.camera.project(np.array([x, 0.05, -0.3]), width=len(streak), height=side) for x in (-0.19, 0.19)
    )
    inner = streak[max(0, int(x0)) + 1 : int(x1)]
    assert len(inner) > 0.7 * len(streak) * 0.5
    assert inner.min() > 0
    assert inner.std() < 0.02 * inner.mean()


def test_its_body_hides_what_is_behind_it_for_its_share_of_the_time():
    # A ball of 6 cm carried over 45 cm before a lit panel: it stands before a place for 6 / 45 of the time, at most.
    panel = scenes.panel("back", x=0, y=0.15, z=-0.8, turn=0, width=1.5, height=1.5)
    dark = replace(BURNING, on=False)
    lamp = carried(diameter=0.06, way=((0.25, 0.05),), emission=dark)
    plan = replace(alone(lamp), lights=(lamp, panel), product=replace(scenes.plan().product, x_m=3.0))
    layer = predict(plan, long_side=200, quality=SCREEN).pictures[2, ..., 1]
    free, least = np.median(layer), layer.min()
    assert least == approx(free * (1 - 0.06 / 0.45), rel=0.03)
    below = layer[int(plan.camera.project(np.array([0, 0.05, -0.3]), width=160, height=200)[1])]
    middle = below[40:110]
    assert middle.min() > 0.97 * middle.max()  # no row of discs


def test_a_drag_shows_the_streak_of_the_picture_at_rest():
    plan = alone(carried())
    stage = trace_scene(plan, width=96, height=120)
    draft, _, _ = render_preview(stage, plan, gains=layer_gains(plan), pixels=np.zeros(1, np.int64))
    still = predict(plan, long_side=120, quality=SCREEN)
    bright = np.tensordot(layer_gains(plan), still.pictures, axes=1)[..., 1] > 0.05
    assert bright.sum() > 100
    assert (draft[..., 1] > 30)[bright].mean() > 0.9


def test_where_it_shines_on_its_way():
    lamp = carried(way=((0.1, 0.05), (0.1, 0.25)), lit=(0.25, 0.9))
    places = [(s.place.x_m, s.place.y_m) for s in lit_way(lamp)]
    # 30 cm across, then 20 cm up: a quarter of 50 cm is 12.5 cm.
    assert places == [approx((-0.075, 0.05)), approx((0.1, 0.05)), approx((0.1, 0.2))]
    for lit in ((0.5, 0.5), (0.8, 0.2), (-0.1, 1.0)):
        with pytest.raises(DomainError, match="must begin before it ends"):
            carried(lit=lit)
    with pytest.raises(DomainError, match="12 at most"):
        carried(way=((0.1, 0.1),) * 13)
