"""A save sent twice is kept once; changes of two people merge; the loser is told; faults have numbers."""

import json
import logging
import re
import threading
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from uuid import uuid4

import pytest

from fotaxis.services.people.secrets import hashed
from fotaxis.storage.tables import SignInRow
from tests.web.people import PASSWORD, Person

JSON = {"content-type": "application/json", "accept": "application/json"}


def save(person, address, body, key="", window="", **more):
    headers = {**JSON, **({"x-save-key": key} if key else {}), **({"x-window": window} if window else {})}
    return person.ask("POST", address, content=json.dumps(body), headers=headers, **more)


def change(person, shot, path, value, *, key="", window="", seen=None, **more):
    body = {"changes": [{"path": path.split("."), "value": value, **more}], "label": "Changed"}
    if seen is not None:
        body["seen"] = seen
    return save(person, f"/shots/{shot}/changes", body, key, window)


def new_key():
    return uuid4().hex


# the same save twice


def test_a_change_sent_twice_is_kept_once_and_answered_with_the_state(alder):
    shot, key = alder.new_shot(), new_key()
    first = change(alder, shot, "exposure.iso", 200, key=key)
    again = change(alder, shot, "exposure.iso", 200, key=key)
    assert first.status_code == again.status_code == 200
    assert again.json()["revision"] == first.json()["revision"] == 2
    assert change(alder, shot, "exposure.iso", 400, key=new_key()).json()["revision"] == 3


def test_a_thing_added_twice_stands_there_once(alder):
    shot, key = alder.new_shot(), new_key()
    before = len(alder.document(shot)["lights"])
    answers = [save(alder, f"/shots/{shot}/things", {"kind": "panel"}, key) for _ in range(3)]
    assert len(alder.document(shot)["lights"]) == before + 1
    assert answers[0].json()["selected"] == answers[2].json()["selected"]  # what was told then is told again


@pytest.mark.parametrize("what", ["job", "shot", "duplicate", "final", "link"])
def test_forms_sent_twice_make_one_thing(alder, what):
    job = alder.new_job()
    shot = alder.new_shot(job)
    address, data = {
        "job": ("/jobs", {"name": "Twice"}),
        "shot": (f"/jobs/{job}/shots", {"name": "Twice", "start": "jar"}),
        "duplicate": (f"/shots/{shot}/duplicate", {}),
        "final": (f"/shots/{shot}/finals", {"side": 200}),
        "link": ("/studio/invitations", {"role": "client", "note": "x"}),
    }[what]
    key = new_key()
    first, again = (alder.post(address, data=data, headers={"x-save-key": key}) for _ in range(2))
    assert again.status_code in (200, 204), again.text
    assert first.headers.get("hx-redirect") == again.headers.get("hx-redirect")
    if what == "final":
        assert len(alder.client.app.state.services.finals.of_shot(*ids(alder, shot))) == 1
    if what in ("shot", "duplicate"):
        assert alder.get(f"/jobs/{job}", json=False).text.count('<img src="/shots/') == 2


def ids(person, shot):
    from uuid import UUID

    with person.client.app.state.services.accounts._database.transaction() as repo:
        return repo.user_by_login(person.login).studio_id, UUID(shot)


def test_a_photograph_whose_row_was_not_kept_is_not_taken_for_kept(app, alder, monkeypatch):
    from fotaxis.storage.repository import SqlRepository
    from tests.formats import samples

    shot, key = alder.new_shot(), new_key()
    file = {"file": ("frame.png", samples.encoded("PNG"), "image/png")}
    whole = SqlRepository.add_frame

    def fails(*_, **__):
        raise RuntimeError("the server dies between the bytes and the row")

    monkeypatch.setattr(SqlRepository, "add_frame", fails)
    assert alder.post(f"/shots/{shot}/frames", files=file, headers={"x-save-key": key}).status_code == 500
    monkeypatch.setattr(SqlRepository, "add_frame", whole)
    answer = alder.post(f"/shots/{shot}/frames", files=file, headers={"x-save-key": key})
    assert "/frames/" in answer.headers["hx-redirect"]


def test_many_at_once_with_one_key_keep_one(app, alder):
    shot, key = alder.new_shot(), new_key()
    people = [Person.signing_in(app, alder.login, PASSWORD) for _ in range(6)]
    with ThreadPoolExecutor(6) as at_once:
        answers = list(at_once.map(lambda p: save(p, f"/shots/{shot}/things", {"kind": "panel"}, key), people))
    assert [a.status_code for a in answers] == [200] * 6
    assert {a.json()["revision"] for a in answers} == {2}


def test_a_key_belongs_to_one_person(alder, birch):
    key = new_key()
    for person in (alder, birch):
        shot = person.new_shot()
        assert change(person, shot, "exposure.iso", 200, key=key).json()["revision"] == 2


def test_a_refused_save_may_be_sent_again_under_its_key(alder):
    shot, key = alder.new_shot(), new_key()
    assert change(alder, shot, "camera.distance_cm", 0.5, key=key).status_code == 422
    assert change(alder, shot, "camera.distance_cm", 160, key=key).json()["revision"] == 2


# two people on one shot


@pytest.fixture
def two(app, alder):
    return alder, alder.colleague(app, f"colleague{new_key()[:8]}", "photographer")


def test_changes_at_different_places_both_stay(two):
    one, other = two
    shot = one.new_shot()
    was = one.document(shot)["lights"][1]["place"]["x_cm"]
    assert change(other, shot, "lights.left.power_stops", -3, window="w2").status_code == 200
    answer = change(one, shot, "lights.right.place.x_cm", 44, window="w1", seen=1, was=was)
    assert answer.status_code == 200
    lights = answer.json()["document"]["lights"]
    assert (lights[0]["power_stops"], lights[1]["place"]["x_cm"]) == (-3, 44)


def test_the_loser_is_told_who_set_what_and_can_repeat(two):
    one, other = two
    shot = one.new_shot()
    was = one.document(shot)["exposure"]["iso"]
    assert change(other, shot, "exposure.iso", 400, window="w2", seen=1, was=was).status_code == 200
    lost = change(one, shot, "exposure.iso", 200, window="w1", seen=1, was=was)
    assert lost.status_code == 409
    assert lost.json()["conflict"]
    assert re.match(r"colleague\w+ has changed iso of the exposure meanwhile, to 400; yours \(200\)", lost.json()["problem"])
    assert one.document(shot)["exposure"]["iso"] == 400
    repeated = change(one, shot, "exposure.iso", 200, window="w1")
    assert repeated.json()["document"]["exposure"]["iso"] == 200


def test_one_window_never_contradicts_itself(alder):
    shot = alder.new_shot()
    was = alder.document(shot)["exposure"]["iso"]
    for value in (200, 320, 400):  # sent one after the other before any answer was seen
        assert change(alder, shot, "exposure.iso", value, window="w1", seen=1, was=was).status_code == 200


def test_eighteen_that_add_at_once_all_succeed(app, alder):
    shot = alder.new_shot()
    before = len(alder.document(shot)["lights"])
    people = [Person.signing_in(app, alder.login, PASSWORD) for _ in range(6)]

    def add(person):
        return [save(person, f"/shots/{shot}/things", {"kind": "panel"}, new_key()).status_code for _ in range(3)]

    with ThreadPoolExecutor(6) as at_once:
        assert [code for codes in at_once.map(add, people) for code in codes] == [200] * 18
    lights = alder.document(shot)["lights"]
    assert len(lights) == before + 18
    assert len({light["key"] for light in lights}) == len(lights)


def heard(socket, wanted, most=40):
    """The next header on a socket that has what is wanted."""
    for _ in range(most):
        data = socket.receive_bytes()
        header = json.loads(data[4 : 4 + int.from_bytes(data[:4], "little")])
        if wanted(header):
            return header
    raise AssertionError("it was never said")


def socket_of(person, shot, window):
    return person.client.websocket_connect(
        f"ws://fotaxis.test/shots/{shot}/live?window={window}", headers={"origin": "http://fotaxis.test"}
    )


def test_windows_know_who_else_is_here_and_what_they_hold(two):
    one, other = two
    shot = one.new_shot()
    with socket_of(one, shot, "w1") as first:
        with socket_of(other, shot, "w2") as second:
            second.send_text('{"holds": "left"}')
            found = heard(first, lambda h: h.get("here", {}).get("holds") == "left")["here"]
            assert found["who"].startswith("colleague")
            assert found["window"] == "w2"
            assert heard(second, lambda h: "here" in h)["here"]["window"] == "w1"
        assert heard(first, lambda h: h.get("here", {}).get("gone"))["here"]["window"] == "w2"


def test_a_window_that_signs_out_elsewhere_is_closed_and_another_studio_hears_nothing(app, birch):
    willow = Person.of_new_studio(app, "willow")
    shot = willow.new_shot()
    with socket_of(willow, shot, "w1") as socket, socket_of(birch, birch.new_shot(), "w9") as other:
        socket.send_text('{"holds": "left"}')
        app.state.services.accounts.sign_out(session_token(willow))
        while (message := socket.receive())["type"] != "websocket.close":
            pass
        assert message["code"] == 4401
        other.send_text('{"seq": 5, "revision": 1}')
        assert heard(other, lambda h: True)["seq"] == 5  # the first it hears


def test_a_socket_closes_when_its_sign_in_is_over(app):
    larch = Person.of_new_studio(app, "larch")
    shot = larch.new_shot()
    accounts = app.state.services.accounts
    with accounts._database.transaction() as repo:
        found = repo._s.get(SignInRow, hashed(session_token(larch)))
        found.expires_at = datetime.now(UTC) + timedelta(seconds=1.5)
    with socket_of(larch, shot, "w1") as socket:
        while (message := socket.receive())["type"] != "websocket.close":
            pass
    assert message["code"] == 4401
    assert larch.get("/jobs").status_code == 401


def session_token(person):
    import base64

    return json.loads(base64.b64decode(person.client.cookies["fotaxis"].split(".")[0] + "=="))["token"]


def test_after_signing_in_again_the_page_gets_its_new_token_and_goes_on(app):
    rowan = Person.of_new_studio(app, "rowan")
    shot = rowan.new_shot()
    app.state.services.accounts.sign_out(session_token(rowan))
    signed_out = change(rowan, shot, "exposure.iso", 200, key="k" * 12)
    assert signed_out.status_code == 401
    assert "nothing is lost" in signed_out.json()["problem"]
    rowan.client.post("/sign-in", data={"login": rowan.login, "password": PASSWORD})  # in another tab
    assert change(rowan, shot, "exposure.iso", 200, key="k" * 12).status_code == 403  # the old token
    rowan.token = rowan.get("/session").json()["token"]
    assert change(rowan, shot, "exposure.iso", 200, key="k" * 12).json()["revision"] == 2


# what nobody foresaw


def test_each_fault_has_a_number_that_the_log_has_too_and_no_secrets(app, alder, monkeypatch, caplog):
    def fails(*_):
        raise RuntimeError("boom")

    monkeypatch.setattr(app.state.services.jobs, "all", fails)
    with caplog.at_level(logging.ERROR, "fotaxis"):
        answer = alder.get("/jobs")
    assert answer.status_code == 500
    number = re.search(r"fault ([0-9a-f]{8})", answer.json()["problem"]).group(1)
    assert f"fault {number}" in caplog.text
    assert "RuntimeError" not in answer.text
    for secret in (session_token(alder), alder.token, PASSWORD):
        assert secret not in caplog.text


def test_the_link_of_a_faulty_request_is_not_logged(app, alder, monkeypatch, caplog):
    token = save(alder, f"/shots/{alder.new_shot()}/view-links", {"days": 7}).json()["address"].rsplit("/", 1)[1]

    def fails(*_, **__):
        raise RuntimeError("boom")

    monkeypatch.setattr(app.state.services.view_links, "shot_of", fails)
    with caplog.at_level(logging.ERROR, "fotaxis"):
        assert alder.get(f"/view/{token}", json=False).status_code == 500
    assert "/view/{token}" in caplog.text
    assert token not in caplog.text


@pytest.mark.parametrize(
    "address", ["states/2147483648/small.png", "states/99999999999999/picture.png", "states/0/small.png"]
)
def test_state_numbers_beyond_all_are_nowhere(alder, address):
    assert alder.get(f"/shots/{alder.new_shot()}/{address}").status_code == 404


@pytest.mark.parametrize(("path", "value"), [
    ("cards", 5), ("lights", [{"key": [1]}]), ("lights", {"a": 1}), ("others", "x"), ("readings", [[]]), ("lights", [None]),
])  # fmt: skip
def test_lists_of_nonsense_are_refused_in_words(alder, path, value):
    shot = alder.new_shot()
    answer = change(alder, shot, path, value)
    assert answer.status_code == 422
    assert path in answer.json()["problem"]
    with socket_of(alder, shot, "w1") as socket:
        body = {"seq": 1, "revision": 1, "changes": [{"path": [path], "value": value}]}
        socket.send_text(json.dumps(body))
        assert path in heard(socket, lambda h: "problem" in h)["problem"]


def test_health_answers_in_time_whatever_hangs(app, nobody, monkeypatch):
    held = threading.Event()
    monkeypatch.setattr(app.state.services.watch, "look", lambda: held.wait(5))
    try:
        import time

        began = time.monotonic()
        answer = nobody.get("/health")
        assert time.monotonic() - began < 2.0  # 0.8 s by itself; a busy machine may be slower to say so
        assert answer.status_code == 503
        assert answer.json()["database"] == "down"
    finally:
        held.set()
