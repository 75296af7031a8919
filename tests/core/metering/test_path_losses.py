"""A light's way to the product: what stands on it and what that takes, against the handbook's table and the virtual meter."""

from __future__ import annotations

import math
from dataclasses import replace

import pytest
from pytest import approx

from fotaxis.core.lights.card_finishes import FINISH
from fotaxis.core.lights.fixtures import Card
from fotaxis.core.lights.gels import GEL
from fotaxis.core.metering import incident
from fotaxis.core.metering.path_losses import path_losses, weakest
from tests import scenes

FAR = 1.5


def before(finish, *, away=0.012, size=0.62, key="sheet"):
    """A sheet or net close before a panel that stands straight in front of the product."""
    return Card(
        key=key, name=key, stance=scenes.stance(0.0, 0.15, FAR - away, 180.0), width_m=size, height_m=size, finish=FINISH[finish]
    )  # fmt: skip


def plan_with(*cards):
    box = scenes.panel("box", x=0.0, y=0.15, z=FAR, turn=180.0, width=0.6, height=0.6)
    return scenes.bare(scenes.cylinder(), lights=(box,), cards=cards)


ON_A_BOX = [
    ("full white", 1.0), ("opal frost", 4 / 3), ("half white", 1.0), ("full grid cloth", 2.0), ("quarter silk", 0.5),
]  # fmt: skip


@pytest.mark.parametrize(("finish", "stops"), ON_A_BOX)
def test_a_sheet_on_the_front_of_a_box_takes_what_the_table_says(finish, stops):
    # Common practice: stops lost on the front of a box; sheets vary by a third, the catalogue is held to a sixth.
    found = path_losses(plan_with(before(finish)), plan_with().lights[0])
    assert [(loss.key, loss.name) for loss in found.losses] == [("sheet", finish)]
    assert found.losses[0].stops == approx(stops, abs=1 / 6)


@pytest.mark.parametrize(("finish", "stops"), [("single net", 0.5), ("double net", 1.0), ("triple net", 1.5)])
def test_a_net_takes_what_it_is_named_for(finish, stops):
    # Common practice; straight through, so the loss is that of normal incidence but for the box's own width.
    assert path_losses(plan_with(before(finish)), plan_with().lights[0]).losses[0].stops == approx(stops, abs=0.06)


def test_two_on_the_way_stand_in_their_order_and_multiply():
    plan = plan_with(before("single net", away=0.3, key="net"), before("full white", key="cloth"))
    found = path_losses(plan, plan.lights[0])
    assert [loss.key for loss in found.losses] == ["cloth", "net"]
    bare = path_losses(plan_with(), plan.lights[0])
    whole = math.log2(bare.full_lux_s / found.full_lux_s)
    assert sum(loss.stops for loss in found.losses) == approx(whole, abs=1e-6)


def test_what_stands_beside_the_way_is_not_on_it():
    card = before("full white")
    aside = replace(card, stance=scenes.stance(0.8, 0.15, FAR - 0.012, 180.0))
    assert path_losses(plan_with(aside), plan_with().lights[0]).losses == ()


def test_a_grid_takes_what_the_meter_says_it_takes():
    # Independent way: the incident meter before the product with the grid and without.
    plan = scenes.bare(scenes.cylinder(), lights=(scenes.head("spot", x=0.0, y=0.15, z=0.8, turn=180.0, tilt=0.0),))
    lit = plan.lights[0]
    open_ = replace(plan, lights=(replace(lit, grid_angle_rad=0.0),))
    place, normal = incident.front_of_product(plan, height_m=0.15)
    lux = [float(incident.arriving_lux_s(p, place=place, normal=normal)[0]) for p in (open_, plan)]
    found = path_losses(plan, lit)
    assert [loss.name for loss in found.losses] == ["20° grid"]
    assert found.losses[0].stops == approx(math.log2(lux[0] / lux[1]), abs=0.03)


def test_gels_take_their_own_stops():
    lit = plan_with().lights[0]
    gelled = replace(lit, emission=replace(lit.emission, gels=(GEL["ND 2 stops"],)))
    plan = replace(plan_with(), lights=(gelled,))
    assert path_losses(plan, gelled).losses[0].stops == approx(2.0, abs=0.01)
    bare = path_losses(plan_with(), lit)
    assert bare.full_lux_s / path_losses(plan, gelled).full_lux_s == approx(4.0, rel=0.01)


def test_the_weakest_light_is_the_one_that_gives_least_at_full_power():
    plan = scenes.plan()
    chains = {light.key: path_losses(plan, light) for light in plan.lights}
    key = weakest(plan, chains)
    assert chains[key].full_lux_s == min(one.full_lux_s for one in chains.values())
    # By hand: f-number squared goes with the light: N = sqrt(H S / C), C = 250 (ISO 2720).
    assert chains[key].full_f_number == approx(math.sqrt(chains[key].full_lux_s * 100 / 250))
    off = replace(plan.lights[0], emission=replace(plan.lights[0].emission, on=False))
    assert weakest(replace(plan, lights=(off,)), chains) == ""
