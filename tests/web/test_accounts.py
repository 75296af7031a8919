"""First start, signing in and out, attempts that are too many."""

from datetime import UTC, datetime, timedelta

import pytest

from fotaxis.services import accounts as rules

OWNER = {"studio": "Studio North", "login": "Owner@North.example", "name": "Nor", "password": "long enough a word"}


@pytest.fixture
def clock(app):
    """The application's clock, set by hand."""
    accounts = app.state.services.accounts
    kept, now = accounts._clock, [datetime.now(UTC)]
    accounts._clock = lambda: now[0]
    yield now
    accounts._clock = kept


def test_a_fresh_installation_asks_for_its_owner_once(nobody):
    assert nobody.get("/jobs").headers["location"] == "/sign-in"
    assert nobody.get("/sign-in").headers["location"] == "/set-up"
    short = nobody.post("/set-up", data={**OWNER, "password": "short"})
    assert short.status_code == 422
    assert "use 10 to 200" in short.text
    assert "Studio North" in short.text  # what was typed is still there
    assert OWNER["password"] not in short.text
    assert nobody.post("/set-up", data={**OWNER, "studio": " "}).status_code == 422
    assert nobody.post("/set-up", data=OWNER).headers["location"] == "/sign-in"
    again = nobody.post("/set-up", data={**OWNER, "login": "second@north.example"})
    assert again.status_code == 422
    assert "already has an owner" in again.text
    assert nobody.get("/set-up").headers["location"] == "/sign-in"


def sign_in(client, password=OWNER["password"], login=OWNER["login"]):
    return client.post("/sign-in", data={"login": login, "password": password})


def test_signing_in_sets_a_cookie_that_scripts_cannot_read(nobody):
    answer = sign_in(nobody, login="owner@north.EXAMPLE ")
    assert answer.headers["location"] == "/jobs"
    cookie = answer.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=lax" in cookie
    assert nobody.get("/jobs").status_code == 200


def test_signing_out_ends_the_session_on_the_server_too(nobody):
    sign_in(nobody)
    kept = dict(nobody.cookies)
    token = nobody.get("/jobs").text.split('X-CSRF-Token": "')[1].split('"')[0]
    assert nobody.post("/sign-out", headers={"x-csrf-token": token}).headers["hx-redirect"] == "/sign-in"
    nobody.cookies.update(kept)  # a stolen copy
    assert nobody.get("/jobs").status_code == 303


def test_a_session_ends_after_its_time(nobody, clock):
    sign_in(nobody)
    clock[0] += rules.SESSION_LENGTH - timedelta(minutes=1)
    assert nobody.get("/jobs").status_code == 200
    clock[0] += timedelta(minutes=2)
    assert nobody.get("/jobs").status_code == 303


def test_a_tampered_cookie_is_no_session(nobody):
    sign_in(nobody)
    value = nobody.cookies["fotaxis"]
    nobody.cookies.clear()
    nobody.cookies.set("fotaxis", value[:-3] + "abc")
    assert nobody.get("/jobs").status_code == 303


def test_five_wrong_passwords_close_a_name_for_a_quarter_of_an_hour(nobody, clock):
    for _ in range(rules.TRIES_PER_LOGIN):
        answer = sign_in(nobody, "wrong")
        assert answer.status_code == 422
        assert "do not belong together" in answer.text
    assert "Too many attempts" in sign_in(nobody).text  # even the right one
    clock[0] += rules.WINDOW + timedelta(seconds=1)
    assert sign_in(nobody).status_code == 303


def test_an_unknown_name_is_answered_as_a_known_one(nobody, clock):
    clock[0] += timedelta(hours=1)
    unknown, known = sign_in(nobody, "wrong", "nobody@north.example"), sign_in(nobody, "wrong")
    assert unknown.status_code == known.status_code == 422
    assert unknown.text.replace("nobody@north.example", "") == known.text.replace(OWNER["login"], "")


def test_many_names_from_one_address_are_stopped_too(nobody, clock):
    clock[0] += timedelta(hours=2)
    answers = [sign_in(nobody, "wrong", f"guess{i}@north.example").text for i in range(rules.TRIES_PER_ADDRESS + 1)]
    assert "Too many attempts" not in answers[rules.TRIES_PER_ADDRESS - 1]
    assert "Too many attempts" in answers[rules.TRIES_PER_ADDRESS]


def test_forms_from_other_sites_are_refused_before_sign_in(nobody):
    for headers in ({"sec-fetch-site": "cross-site"}, {"origin": "http://elsewhere.test"}):
        assert nobody.post("/sign-in", data={"login": "a", "password": "b"}, headers=headers).status_code == 403


def test_passwords_are_kept_as_argon2(app):
    with app.state.services.accounts._database.transaction() as repo:
        kept = repo.user_by_login("owner@north.example").password_hash
    assert kept.startswith("$argon2id$")
