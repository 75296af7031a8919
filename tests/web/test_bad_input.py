"""Whatever arrives: a clear answer, nothing lost, never a fault of ours."""

import json

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.formats import samples
from tests.web.test_isolation import OPEN, every_route


@pytest.fixture(scope="module")
def shot(alder):
    return alder.new_shot()


def change(person, shot, path, value, kind="set"):
    body = {"changes": [{"kind": kind, "path": path, "value": value}], "label": "Tried"}
    return person.post(
        f"/shots/{shot}/changes", content=json.dumps(body), headers={"content-type": "application/json"}
    )  # fmt: skip


WRONG = {
    "zero width": (["lights", "left", "width_cm"], 0, "more than 0"),
    "negative size": (["lights", "left", "height_cm"], -5, "more than 0"),
    "camera inside": (["camera", "distance_cm"], 0.5, "move the camera back"),
    "not a number": (["camera", "height_cm"], "NaN", "can be measured"),
    "crossing": (
        ["subject", "profile"],
        [{"height_cm": h, "diameter_cm": d} for h, d in ((0, 6), (10, 6), (10, 2), (5, 8), (20, 1))],
        "must not cross itself",
    ),
    "nowhere": (["lights", "gone", "power_stops"], -1, "removed in another window"),
    "through a number": (["exposure", "iso", "deep"], 1, "does not exist"),
    "NUL": (["name"], "a\u0000b", "cannot be kept"),
    "long name": (["name"], "x" * 81, "80"),
    "power": (["lights", "left", "power_stops"], 5, "power"),
    "far away": (["lights", "left", "place", "x_cm"], 1e7, "position x"),
    "two shutters": (["exposure", "shutter_s"], 0, "more than 0"),
}


@pytest.mark.parametrize("case", WRONG)
def test_a_wrong_change_is_refused_in_words_and_changes_nothing(alder, shot, case):
    import re

    path, value, words = WRONG[case]
    before = alder.document(shot)
    answer = change(alder, shot, path, value)
    assert answer.status_code == 422, answer.text
    assert re.search(words, answer.json()["problem"]), answer.json()
    assert alder.document(shot) == before


def test_numbers_that_are_none_are_refused(alder, shot):
    for text in ("NaN", "Infinity", "-Infinity", "1e999"):
        body = '{"changes": [{"path": ["room_lux"], "value": ' + text + "}]}"
        answer = alder.post(f"/shots/{shot}/changes", content=body, headers={"content-type": "application/json"})
        assert answer.status_code == 422, f"{text}: {answer.text}"
        assert answer.json()["problem"]


def upload(person, address, name, data, **form):
    return person.post(address, files={"file": (name, data, "application/octet-stream")}, data=form)


def test_a_hundred_megabytes_are_refused_before_they_are_read(alder, shot):
    data = b"\0" * 100_000_000
    for address in (f"/shots/{shot}/frames", f"/jobs/{alder.new_job()}/import"):
        answer = upload(alder, address, "large.tif", data)
        assert answer.status_code == 413
        assert "at most 84 MB" in answer.json()["problem"]


def test_a_body_without_a_stated_length_is_stopped_at_the_limit(alder, shot):
    def endless():
        for _ in range(100):
            yield b"x" * 1_000_000

    answer = alder.post(f"/shots/{shot}/changes", content=endless(), headers={"content-type": "application/json"})
    assert answer.status_code == 413


def test_a_picture_named_json_and_json_named_picture(alder, shot):
    job = alder.new_job()
    picture = upload(alder, f"/jobs/{job}/import", "shot.json", samples.encoded("JPEG"))
    assert picture.status_code == 422
    assert "this is not text" in picture.json()["problem"]
    text = upload(alder, f"/shots/{shot}/frames", "frame.jpg", b'{"format": "fotaxis-shot"}')
    assert text.status_code == 422
    assert "not a JPEG, PNG or TIFF" in text.json()["problem"]
    assert "No shots yet" in alder.get(f"/jobs/{job}", json=False).text
    assert "No frames yet" in alder.get(f"/shots/{shot}/frames", json=False).text


def test_a_wrong_outline_keeps_the_old_one(alder, shot):
    before = alder.document(shot)
    for form in ({"text": "0, 6\n10, -7"}, {"text": "M0 0 L5 0", "height_cm": "20"}, {"text": ""}, {"text": "a\x00b"}):
        answer = alder.post(f"/shots/{shot}/profile", data=form)
        assert answer.status_code == 422, answer.text
    assert upload(alder, f"/shots/{shot}/profile", "o.csv", b"\xff\xfe\x00", text="").status_code == 422
    assert alder.document(shot) == before


def test_a_file_name_is_only_a_name(alder, shot):
    evil = '../../etc/"><script>alert(1)</script>\r\nx: y.png'
    answer = upload(alder, f"/shots/{shot}/frames", evil, samples.encoded("PNG"), note="<b>bold</b>\x00")
    assert answer.status_code == 204
    page = alder.get(answer.headers["hx-redirect"], json=False).text
    assert "<script>alert" not in page
    assert "<b>bold" not in page
    file = alder.get(answer.headers["hx-redirect"] + "/file", json=False)
    assert file.content == samples.encoded("PNG")  # as it came
    assert "\r\n" not in file.headers["content-disposition"]
    assert file.headers["content-disposition"].startswith("attachment")


@pytest.mark.parametrize("kind", ["changes", "things", "undo", "profile"])
@pytest.mark.parametrize(
    "body", [b"", b"{", b"[]", b"null", b'{"changes": []}', b"\xff", b'{"changes": [{"path": [], "value": 1}]}']
)
def test_bodies_that_are_none(alder, shot, kind, body):
    answer = alder.post(f"/shots/{shot}/{kind}", content=body, headers={"content-type": "application/json"})
    assert answer.status_code in (200, 400, 422)
    assert "problem" in answer.json() or kind in ("undo",)


def test_addresses_that_lead_nowhere(alder):
    for address in ("/nowhere", "/jobs/not-an-id", "/shots/1/sheet", "/static/../../main.py", "/static/nothing.js"):
        answer = alder.get(address, json=False)
        assert answer.status_code == 404, address
        assert "There is nothing here" in answer.text


def test_sizes_outside_reason(alder, shot):
    for address in ("layers?side=100000", "layers?side=x", "picture.png?side=1", "state?width=-1"):
        assert alder.get(f"/shots/{shot}/{address}").status_code == 422


def test_the_socket_answers_nonsense_with_a_problem(alder, shot):
    with alder.client.websocket_connect(
        f"ws://fotaxis.test/shots/{shot}/live", headers={"origin": "http://fotaxis.test"}
    ) as socket:
        for message in ("", "{}", "[1]", '{"seq": 1, "revision": 1, "changes": [{"path": ["nowhere", "x"], "value": 1}]}',
                        '{"seq": 2, "revision": 1, "changes": [{"path": ["camera", "distance_cm"], "value": -1}]}',
                        '{"seq": 3, "revision": 99, "view": {"fit": [1, 1, 0, 0, 0, 0]}}',
                        '{"seq": 3, "revision": 1, "view": {"fit": [1e308, -1e308, 0, 0, 1e308, 0]}}'):  # fmt: skip
            socket.send_text(message)
            assert socket.receive_bytes()
        socket.send_bytes(b"\x00\xff")  # once a binary frame ended the socket
        assert b"short messages of text" in socket.receive_bytes()
        socket.send_text("x" * 30_000)
        assert b"short messages of text" in socket.receive_bytes()
        socket.send_text('{"seq": 7, "revision": 1}')
        assert b'"seq": 7' in socket.receive_bytes()


def test_the_answer_carries_its_guards(app, alder, shot):
    for address in ("/sign-in", "/jobs", f"/shots/{shot}", "/nowhere", "/static/app.css"):
        headers = alder.get(address, json=False).headers
        policy = dict(part.strip().split(" ", 1) for part in headers["content-security-policy"].split(";"))
        assert policy["default-src"] == "'none'"
        assert policy["script-src"] == policy["style-src"] == policy["connect-src"] == "'self'"
        assert policy["frame-ancestors"] == "'none'"
        assert "unsafe" not in headers["content-security-policy"]
        assert headers["x-content-type-options"] == "nosniff"


@given(data=st.data())
@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_any_text_in_any_field_of_any_form_is_no_fault_of_ours(app, alder, shot, data):
    routes = [r for r in every_route(app) if r[0] == "POST" and r[1] not in OPEN | {"/sign-out"}]
    _, path = data.draw(st.sampled_from(routes))
    ids = dict.fromkeys(
        ("shot_id", "job_id", "frame_id", "final_id", "merge_id", "session_id", "user_id", "invitation_id", "token", "key"),
        shot,
    )
    names = ("name", "note", "text", "start", "height_cm", "label")
    form = data.draw(st.dictionaries(st.sampled_from(names), st.text(max_size=30), max_size=4))
    if path.endswith(("/archive", "/duplicate", "/remove", "/end")):
        return
    answer = alder.post(path.format(**ids), data={k: v.encode("utf-8", "replace") for k, v in form.items()})
    assert answer.status_code < 500, f"{path} {form}"
