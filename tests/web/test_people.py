"""A studio of several people: invitations, roles, removal, new passwords, what a role may, history."""

import csv
import io
from datetime import UTC, datetime, timedelta

import pytest
from starlette.testclient import TestClient

from fotaxis.services.people.staff import INVITATION_LASTS
from tests.web.people import PASSWORD, Person
from tests.web.test_isolation import every_route, filled, send, socket_to


def token_in(answer):
    return answer.text.split('value="')[1].split('"')[0].rsplit("/", 1)[1]


def newcomer(app):
    return TestClient(app, base_url="http://fotaxis.test", follow_redirects=False, raise_server_exceptions=False)


@pytest.fixture
def studio(app):
    """A studio of its own for every test."""
    studio.number = getattr(studio, "number", 0) + 1
    return Person.of_new_studio(app, f"owner{studio.number}")


def invited(app, owner, role, name):
    answer = owner.post("/studio/invitations", data={"role": role, "note": "for the shoot"})
    assert answer.status_code == 200, answer.text
    token = token_in(answer)
    client = newcomer(app)
    assert role in client.get(f"/join/{token}").text
    data = {"login": f"{name}@test.example", "name": name, "password": PASSWORD}
    assert client.post(f"/join/{token}", data=data).headers["location"] == "/sign-in"
    return token, Person.signing_in(app, f"{name}@test.example", PASSWORD)


def test_somebody_is_invited_by_link_and_works_in_the_studio(app, studio):
    job = studio.new_job("Shared range")
    token, ash = invited(app, studio, "photographer", "ash")
    assert "Shared range" in ash.get("/jobs", json=False).text
    assert ash.get(f"/jobs/{job}").status_code == 200
    assert newcomer(app).get(f"/join/{token}").status_code == 404  # once
    people = studio.get("/studio", json=False).text
    assert "ash@test.example" in people
    assert "joined as photographer" in studio.get("/history", json=False).text


def test_an_invitation_ends_and_can_be_taken_back(app, studio):
    staff = app.state.services.staff
    token = token_in(studio.post("/studio/invitations", data={"role": "client", "note": ""}))
    page = studio.get("/studio", json=False).text
    number = page.split("/take-back")[0].rsplit("/", 1)[1]
    assert studio.post(f"/studio/invitations/{number}/take-back").status_code == 204
    assert newcomer(app).get(f"/join/{token}").status_code == 404
    token = token_in(studio.post("/studio/invitations", data={"role": "client", "note": ""}))
    kept, staff._clock = staff._clock, lambda: datetime.now(UTC) + INVITATION_LASTS + timedelta(minutes=1)
    try:
        assert newcomer(app).get(f"/join/{token}").status_code == 404
    finally:
        staff._clock = kept


def test_a_sign_in_name_that_is_taken_is_refused_with_what_was_typed(app, studio):
    token = token_in(studio.post("/studio/invitations", data={"role": "assistant", "note": ""}))
    data = {"login": studio.login, "name": "Second", "password": PASSWORD}
    answer = newcomer(app).post(f"/join/{token}", data=data)
    assert answer.status_code == 422
    assert "choose another sign-in name" in answer.text
    assert 'value="Second"' in answer.text
    assert newcomer(app).get(f"/join/{token}").status_code == 200  # the link still works


def user_id(app, login):
    with app.state.services.accounts._database.transaction() as repo:
        return repo.user_by_login(login).id


def test_the_last_owner_stays(app, studio):
    own = user_id(app, studio.login)
    for part, data in (("remove", {}), ("role", {"role": "client"})):
        answer = studio.post(f"/studio/people/{own}/{part}", data=data)
        assert answer.status_code == 422
        assert "needs an owner" in answer.json()["problem"]


def test_somebody_removed_is_out_at_once_and_can_be_taken_in_again(app, studio):
    elm = studio.colleague(app, "elm-removed", "photographer")
    shot = studio.new_shot()
    elm_id = user_id(app, elm.login)
    with socket_to(elm.client, f"/shots/{shot}/live") as socket:
        assert studio.post(f"/studio/people/{elm_id}/remove").status_code == 204
        while True:  # news and presence come first
            message = socket.receive()
            if message["type"] == "websocket.close":
                assert message["code"] == 4401
                break
    assert elm.get("/jobs").status_code == 401
    client = newcomer(app)
    assert client.post("/sign-in", data={"login": elm.login, "password": PASSWORD}).status_code == 422
    assert "elm-removed" in studio.get("/removed", json=False).text
    assert studio.post(f"/studio/people/{elm_id}/take-in").status_code == 204
    Person.signing_in(app, elm.login, PASSWORD)


def test_an_owner_gives_a_link_for_a_new_password(app, studio):
    yew = studio.colleague(app, "yew", "assistant")
    answer = studio.post(f"/studio/people/{user_id(app, yew.login)}/new-password")
    token = token_in(answer)
    client = newcomer(app)
    assert "yew@test.example" in client.get(f"/new-password/{token}").text
    assert client.post(f"/new-password/{token}", data={"password": "short"}).status_code == 422
    assert client.post(f"/new-password/{token}", data={"password": "another long one"}).status_code == 303
    assert client.get(f"/new-password/{token}").status_code == 404  # once
    assert yew.get("/jobs").status_code == 401
    Person.signing_in(app, yew.login, "another long one")


def test_another_studios_owner_cannot_touch_people(app, studio):
    other = Person.of_new_studio(app, "stranger-owner")
    theirs = user_id(app, studio.login)
    for part in ("remove", "role", "new-password", "take-in"):
        answer = other.post(f"/studio/people/{theirs}/{part}", data={"role": "client"})
        assert answer.status_code == 404, part
    assert studio.get("/jobs").status_code == 200


ALLOWED_TO_ALL = {
    "/sign-out", "/sign-in", "/sign-in/code", "/sign-in/passkey", "/set-up", "/join/{token}", "/new-password/{token}",
    "/account/password", "/account/sessions/others/end", "/account/sessions/{session_id}/end", "/account/codes/on",
    "/account/codes/off", "/account/passkeys", "/account/passkeys/remove",
}  # fmt: skip
"""What changes nothing but one's own account."""

FOR_ASSISTANTS = {
    f"/shots/{{shot_id}}/{part}" for part in (
        "changes", "things", "mirror",
        "reckoner", "school", "usual-readings", "undo", "redo", "go", "pin", "profile", "shape", "model", "lamp",
        "frames", "finals", "sheet-loss", "reframe", "artwork", "outline", "wish-set", "mark", "balance", "proposals",
        "delicate", "sweep", "captures", "captures/changes", "captures/undo", "captures/redo", "captures/{key}/set-up",
        "captures/{key}/from-bench", "captures/{key}/frame", "captures/needed", "composite/preview", "merges", "shooting/tick",
        "shooting/untick", "shooting/again",
    )
} | {
    "/beginnings/outline", "/frames/{frame_id}/note", "/frames/{frame_id}/capture", "/finals/{final_id}/cancel",
    "/merges/{merge_id}/cancel",
}  # fmt: skip

FOR_OWNERS = {
    "/studio/invitations", "/studio/invitations/{invitation_id}/take-back", "/studio/people/{user_id}/role",
    "/studio/people/{user_id}/remove", "/studio/people/{user_id}/take-in", "/studio/people/{user_id}/new-password",
    "/studio/rename", "/studio/limits", "/studio/remove", "/studio/bring-back",
}  # fmt: skip


def test_every_change_is_refused_to_roles_that_may_not_make_it(app, studio):
    # A route added later is tried too: it is for photographers unless one of the lists above says otherwise.
    people = {
        role: studio.colleague(app, f"{role}-of-{studio.login.split('@')[0]}", role)
        for role in ("photographer", "assistant", "client")
    }
    job = studio.new_job()
    shot = studio.new_shot(job)
    frame = studio.new_frame(shot)
    final = studio.new_final(shot)
    before = studio.document(shot)
    ids = {
        "job_id": job, "shot_id": shot, "frame_id": frame, "final_id": final, "merge_id": final,
        "session_id": user_id(app, studio.login),
        "invitation_id": user_id(app, studio.login), "user_id": user_id(app, studio.login),
        "piece_id": user_id(app, studio.login),
    }  # fmt: skip
    tried = 0
    for method, path in every_route(app):
        if method != "POST" or path in ALLOWED_TO_ALL:
            continue
        may_not = ["client"]
        if path not in FOR_ASSISTANTS:
            may_not.append("assistant")
        if path in FOR_OWNERS:
            may_not.append("photographer")
        for role in may_not:
            answer = send(people[role], method, path, filled(path, **ids))
            assert answer.status_code == 403, (path, role, answer.text[:200])
            assert f"You are here as {role}" in answer.json()["problem"]
            tried += 1
    assert tried > 50
    assert studio.document(shot) == before


def test_a_client_looks_at_the_frame_and_an_assistant_works(app, studio):
    shot = studio.new_shot()
    client = studio.colleague(app, "client-looks", "client")
    helper = studio.colleague(app, "helper", "assistant")
    assert client.get(f"/shots/{shot}", json=False).headers["location"] == f"/shots/{shot}/look"
    assert client.get(f"/shots/{shot}/look", json=False).status_code == 200
    picture = client.get(f"/shots/{shot}/look/picture.png")
    assert picture.content[:4] == b"\x89PNG"
    changed = send(helper, "POST", "/shots/{shot_id}/changes", f"/shots/{shot}/changes")
    assert changed.status_code == 200
    states = studio.get(f"/shots/{shot}/states").json()["states"]
    assert states[-1]["who"] == "helper"


def test_who_did_what_is_kept_shown_and_exported(app, studio):
    helper = studio.colleague(app, "=sum(1)", "photographer")  # a name that a table program might run
    shot = studio.new_shot()
    send(helper, "POST", "/shots/{shot_id}/changes", f"/shots/{shot}/changes")
    helper.post(f"/shots/{shot}/archive")
    page = studio.get(f"/shots/{shot}/history", json=False).text
    assert "Archived" in page
    assert "(state 2)" in page
    rows = list(csv.reader(io.StringIO(studio.get("/history.csv").content.decode("utf-8-sig"))))
    assert rows[0] == ["time (UTC)", "who", "what", "in words", "shot"]
    archived = next(row for row in rows if row[3] == "Archived")
    assert archived[1] == "'=sum(1)"
    assert archived[4] == "Bottle"


def test_a_removed_studio_waits_and_comes_back(app, studio):
    helper = studio.colleague(app, "helper-of-removed", "photographer")
    name = f"Studio {studio.login.split('@')[0]}"
    wrong = studio.post("/studio/remove", data={"name": "another"})
    assert f"type its name exactly: {name}" in wrong.json()["problem"]
    assert studio.post("/studio/remove", data={"name": name}).headers["hx-redirect"] == "/studio/removed"
    assert helper.get("/jobs").status_code == 401
    assert studio.get("/jobs", json=False).headers["location"] == "/studio/removed"
    assert studio.get("/jobs").status_code == 403
    assert "Bring it back" in studio.get("/studio/removed", json=False).text
    assert studio.post("/studio/bring-back").status_code == 204
    assert studio.get("/jobs").status_code == 200


def test_limits_are_shown_and_kept(app, studio):
    shot = studio.new_shot()
    assert "20 GB" in studio.get("/studio", json=False).text
    assert studio.post("/studio/limits", data={"photo_gb": 0.0000001, "final_gb": 1, "states": 100}).status_code == 204
    from tests.formats import samples

    file = {"file": ("frame.png", samples.encoded("PNG"), "image/png")}
    refused = studio.post(f"/shots/{shot}/frames", files=file)
    assert refused.status_code == 422
    assert "ask an owner for more room" in refused.json()["problem"]
    odd = studio.post("/studio/limits", data={"photo_gb": -1, "final_gb": 1, "states": 100})
    assert odd.status_code == 422
