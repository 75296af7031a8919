"""The list at the set: its order, what is touched, times from a studio's own history, what to mind; ticks kept and planned again."""

import json
from datetime import UTC, datetime, timedelta

import pytest

from fotaxis.core.errors import NoSolution
from fotaxis.core.lights.kit import Piece
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.services.captures.capture import capture_of
from fotaxis.services.captures.shooting import BLACK, GUIDE, PLATE, Shooting, shooting_list
from fotaxis.services.ports import Refused, StepShot
from tests.formats import samples
from tests.studios import add_studio

CODEC = JsonShots()
NOON = datetime(2026, 11, 25, 12, 0, tzinfo=UTC)


def five(**changes):
    document = json.loads((samples.DEMO / "gooseberry-five-captures.json").read_text())
    return CODEC.check({**document, **changes})


def keys(listed):
    return [row.key for row in listed.rows]


def test_a_black_frame_opens_and_the_guide_follows_what_is_whole():
    listed = shooting_list(five(), CODEC)
    assert keys(listed)[0] == BLACK
    whole = [key for key in keys(listed) if key not in ("ground", BLACK)]
    assert whole[-1] == GUIDE
    assert keys(listed)[-1] == "ground"  # cards lifted away last, not to be put back
    ground = listed.rows[-1]
    assert "Lift away the outline card left and the outline card right" in ground.doing
    assert not any("Put back" in doing for row in listed.rows for doing in row.doing)


def test_water_comes_after_dry_and_a_splash_last():
    document = five()
    document["captures"][1]["wet"] = True
    document["captures"][2]["splash"] = True
    document["captures"][3]["poured"] = False
    listed = keys(shooting_list(CODEC.check(document), CODEC))
    assert listed.index("label") < listed.index("foil") < listed.index("outlines") < listed.index("line")
    assert listed[-1] == "line"
    care = next(row.care for row in shooting_list(CODEC.check(document), CODEC).rows if row.key == "line")
    assert any("residual-current" in words for words in care)


def test_the_background_plate_is_without_the_product():
    listed = shooting_list(five(shooting={"background_plate": True}), CODEC)
    plate = next(row for row in listed.rows if row.key == PLATE)
    assert any("Lift away" in doing and "the product" in doing for doing in plate.doing)
    assert keys(listed)[-1] == PLATE


def test_times_run_from_the_clock_and_the_client_is_minded():
    document = five(shooting={"begin": "13:00", "client": "14:30"})
    listed = shooting_list(document, CODEC)
    assert listed.rows[0].begins == "13:00"
    assert any("before the client comes" in words for words in listed.words)
    late = shooting_list(document, CODEC, now="14:25")
    assert late.late
    assert any("is not" in words for words in late.words)
    assert late.rows[0].begins == "14:25"


def test_a_slow_studio_gets_longer_steps():
    history = [StepShot(step=f"s{i}", at=NOON, who="", reckoned_s=100, took_s=250) for i in range(5)]
    usual, slow = shooting_list(five(), CODEC), shooting_list(five(), CODEC, history=history)
    assert slow.rows[1].minutes == pytest.approx(2.5 * usual.rows[1].minutes, rel=0.06)
    assert any("2.5 times the usual" in words for words in slow.words)


def test_what_is_done_stays_and_the_rest_is_planned_from_there():
    done = [
        StepShot(step=key, at=NOON + timedelta(minutes=i), who="Bram", reckoned_s=60, took_s=90)
        for i, key in enumerate((BLACK, "label"))
    ]
    listed = shooting_list(five(), CODEC, shot=done)
    assert keys(listed)[:2] == [BLACK, "label"]
    assert [row.done for row in listed.rows[:3]] == [True, True, False]
    assert "Bram" in listed.rows[1].done_words
    assert listed.done == 2


def test_flashes_and_long_exposures_are_counted():
    document = five()
    document["lights"][2]["kind"] = "head"
    document["captures"][3]["shutter_s"] = 15.0
    head = {
        "kind": "head", "head": "snoot", "key": "painter", "name": "Painter", "place": {"x_cm": 60, "y_cm": 40, "z_cm": 40},
        "turn_deg": 0, "tilt_deg": 0, "power_stops": -3, "lowest_stops": 8, "steps_per_stop": 3, "pops": 30,
        "own_head": "Quick head", "to": {"place": {"x_cm": 60, "y_cm": 40, "z_cm": -40}, "turn_deg": 0, "tilt_deg": 0},
    }  # fmt: skip
    document = five(lights=[*five()["lights"], head])
    document["captures"] = [
        {**capture_of(document), "key": "painted", "name": "Painted", "lights": {"painter": -3}, "shutter_s": 15.0}
    ]
    kit = [Piece(kind="head", name="Quick head", count=1, values={"recycle_s": 0.5})]
    row = next(row for row in shooting_list(CODEC.check(document), CODEC, kit=kit).rows if row.key == "painted")
    assert (row.count_s, row.pops, row.beat_s, row.moved) == (15.0, 30, 0.5, True)
    assert row.reckoned_s >= 15 + 29 * 0.5
    assert any("nobody looks into the head" in words for words in row.care)


def test_captures_that_must_each_come_first_are_named():
    document = five()
    document["captures"][1]["after"], document["captures"][2]["after"] = ["line"], ["outlines"]
    with pytest.raises(NoSolution, match="must each be shot before the other"):
        shooting_list(CODEC.check(document), CODEC)


def test_ticks_are_kept_with_what_they_took(database):
    with database.transaction() as repo:
        studio = add_studio(repo, "Ticks")
        other = add_studio(repo, "Others")
        job = repo.add_job(studio, name="Range")
        shot = repo.add_shot(studio, job.id, name="Five", document=five(), label="Created")
    times = iter(NOON + timedelta(seconds=s) for s in (0, 100, 100 + 3 * 3600, 4 * 3600))
    shooting = Shooting(database, CODEC, lambda: next(times))
    for step in (BLACK, "label", "foil"):
        shooting.tick(studio, shot.id, step=step)
    with database.transaction() as repo:
        took = {one.step: one.took_s for one in repo.steps_shot(studio, shot.id)}
        assert took == {BLACK: None, "label": 100.0, "foil": None}  # three hours: they were away
        assert [one.step for one in repo.history_of_steps(studio, most=10)] == ["label"]
        assert repo.history_of_steps(other, most=10) == []
    shooting.untick(studio, shot.id, step="label")
    assert shooting.list_of(studio, shot.id).done == 2
    with pytest.raises(Refused, match="not on the list"):
        shooting.tick(studio, shot.id, step="nothing")
    shooting.begin_again(studio, shot.id)
    assert shooting.list_of(studio, shot.id).done == 0
