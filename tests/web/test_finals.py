"""The page of final pictures: asking, watching, calling off, fetching."""

import pytest

from fotaxis.services.ports import Final, FinalState
from fotaxis.web.views import finals as view


@pytest.fixture
def shot(alder):
    return alder.new_shot(alder.new_job())


def listed(person, shot):
    return person.get(f"/shots/{shot}/finals/list", json=False).text


def test_a_final_waits_is_called_off_and_removed(alder, shot):
    assert "None yet" in listed(alder, shot)
    assert alder.post(f"/shots/{shot}/finals", data={"side": 400}).status_code == 204
    text = listed(alder, shot)
    assert "waits for a worker" in text
    assert "every 1s" in text  # the list asks again while something is being made
    final = text.split("/finals/")[-1].split("/")[0]
    assert alder.get(f"/finals/{final}/picture.png").status_code == 404
    assert alder.post(f"/finals/{final}/cancel").status_code == 204
    text = listed(alder, shot)
    assert "cancelled" in text
    assert "every 1s" not in text
    assert alder.post(f"/finals/{final}/remove").status_code == 204
    assert "None yet" in listed(alder, shot)


def test_a_finished_final_is_seen_and_fetched(alder, shot):
    final = alder.new_final(shot)
    assert f"/finals/{final}/picture.png" in alder.get(f"/shots/{shot}/finals", json=False).text
    picture = alder.get(f"/finals/{final}/picture.png", json=False)
    assert picture.headers["content-type"] == "image/png"
    layers = alder.get(f"/finals/{final}/layers.exr", json=False)
    assert layers.headers["content-disposition"].startswith('attachment; filename="Bottle-200-px.exr"')


@pytest.mark.parametrize("side", ["90", "99999", "wide"])
def test_a_size_that_cannot_be_is_refused_in_words(alder, shot, side):
    answer = alder.post(f"/shots/{shot}/finals", data={"side": side})
    assert answer.status_code == 422
    assert "None yet" in listed(alder, shot)


def test_time_left_follows_from_what_is_done():
    from datetime import UTC, datetime, timedelta
    from uuid import uuid4

    from fotaxis.services.finals import seconds_left

    now = datetime(2026, 11, 25, 12, 0, tzinfo=UTC)
    final = Final(
        id=uuid4(), studio_id=uuid4(), shot_id=uuid4(), revision=1, label="", long_side=800, state=FinalState.WORKING, done=0.25,
        problem="", created_at=now, began_at=now - timedelta(seconds=10), ended_at=None,
    )  # fmt: skip
    assert seconds_left(final, now=now) == pytest.approx(30)
    assert view.spoken(30) == "30 s"
    assert view.spoken(200) == "4 min"


def test_the_page_says_when_no_worker_makes_finals(alder):
    shot = alder.new_shot()
    assert "No worker is running" not in alder.get(f"/shots/{shot}/finals", json=False).text
    alder.post(f"/shots/{shot}/finals", data={"side": 300})
    assert "Start one with ./run worker" in alder.get(f"/shots/{shot}/finals", json=False).text
