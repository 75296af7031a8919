"""What sheets take: by the table in the usual test position, and from a pair of readings of one's own."""

from __future__ import annotations

from dataclasses import replace

import pytest
from pytest import approx

from fotaxis.core.errors import DomainError
from fotaxis.core.lights.calibration import GuideNumber
from fotaxis.core.lights.card_finishes import FINISH, SHEETS, passing
from fotaxis.core.lights.fixtures import Card, Emission, Lamp
from fotaxis.core.lights.heads import HEAD
from fotaxis.core.metering.path_losses import path_losses
from fotaxis.core.metering.sheet_loss import loss_from_readings, taken_stops
from fotaxis.services.lighting_tools import measured_loss
from tests import scenes

WIDE = "dish 110°"


def behind(finish, head=WIDE, *, gap=0.3, away=2.0):
    lamp = Lamp(
        key="h", name="h", stance=scenes.stance(0, 0.15, away, 180), head=HEAD[head], diameter_m=HEAD[head].diameter_m,
        emission=Emission(calibration=GuideNumber(metres=45), power_stops=-2.0),
    )  # fmt: skip
    card = Card(key="s", name="s", stance=scenes.stance(0, 0.15, away - gap, 180), width_m=1.2, height_m=1.2, finish=finish)
    return scenes.bare(scenes.cylinder(), lights=(lamp,), cards=(card,))


@pytest.mark.parametrize("gap", [0.1, 0.3, 0.6])
@pytest.mark.parametrize("sheet", SHEETS, ids=lambda one: one.name)
def test_in_the_usual_test_position_a_sheet_takes_what_the_table_says(sheet, gap):
    # Common practice: a sheet of 120 cm close before a head that fills it, the meter at the subject; within a third of a stop.
    plan = behind(sheet, gap=gap)
    assert path_losses(plan, plan.lights[0]).losses[0].stops == approx(sheet.stops, abs=1 / 3)


def test_a_narrow_head_loses_its_throw_and_a_bare_one_gains():
    """A sheet gives its light evenly in front of it, whatever came: what a dish threw forward is lost on top, and what a bare tube
    sent to the sides is sent forward."""
    narrow, wide, bare = (
        path_losses(plan := behind(FINISH["dense white"], head, gap=0.1), plan.lights[0]).losses[0].stops
        for head in ("dish 65°", WIDE, "bare head")
    )
    assert narrow > wide + 0.5 > bare + 1.0


@pytest.mark.parametrize("name", ["light frost", "half white", "full grid cloth"])
@pytest.mark.parametrize("loss", [0.4, 1.1, 2.3])
def test_a_pair_of_readings_gives_back_the_sheet_it_was_taken_of(name, loss):
    sheet, head = passing(FINISH[name], loss), HEAD["dish 65°"]
    here = {"head_m": 0.5, "meter_m": 1.2, "size_m": (0.8, 0.8)}
    stops = taken_stops(sheet, head, **here)
    assert loss_from_readings(FINISH[name], head, stops=stops, **here) == approx(loss, abs=0.02)


def test_readings_that_cannot_be_are_refused_with_what_could():
    with pytest.raises(DomainError, match="takes from"):
        loss_from_readings(FINISH["half white"], HEAD[WIDE], head_m=0.4, meter_m=1.0, size_m=(1.2, 1.2), stops=12.0)
    plan = behind(FINISH["half white"])
    with pytest.raises(DomainError, match="larger f-number"):
        measured_loss(plan, "s", without_f=8, with_f=11, head_m=0.4, meter_m=1.0)


def test_a_measured_sheet_holds_wherever_it_stands():
    """Taken at 40 cm with the head that stands behind it on the set, it predicts the meter in another position."""
    real = passing(FINISH["opal frost"], 1.9)
    plan = behind(real, "dish 65°")
    head = HEAD["dish 65°"]
    taken = taken_stops(real, head, head_m=0.4, meter_m=1.5, size_m=(1.2, 1.2))
    loss = measured_loss(plan, "s", without_f=16.0, with_f=16.0 * 2 ** (-taken / 2), head_m=0.4, meter_m=1.5)
    assert loss == approx(1.9, abs=0.02)
    elsewhere = {"head_m": 0.9, "meter_m": 0.8, "size_m": (0.6, 0.6)}
    own = passing(FINISH["opal frost"], loss)
    assert taken_stops(own, head, **elsewhere) == approx(taken_stops(real, head, **elsewhere), abs=0.03)
    assert replace(plan, cards=()) != plan
