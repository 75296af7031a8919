"""First start, signing in and out, wrong passwords, sessions, passwords, codes."""

import asyncio
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta

import pyotp
import pytest

from fotaxis.services.people import accounts as rules
from fotaxis.services.people.throttle import FREE, MOST_BY_OTHERS_S, MOST_S, WINDOW, delay_s
from fotaxis.services.ports import Busy
from fotaxis.web import passwords
from fotaxis.web.concurrency import Few
from tests.web.people import PASSWORD, Person

OWNER = {"studio": "Studio North", "login": "Owner@North.example", "name": "Nor", "password": "long enough a word"}


@pytest.fixture
def clock(app):
    """The application's clock, set by hand."""
    all_ = app.state.services
    parts = (all_.accounts, all_.factors, all_.staff)
    kept, now = all_.accounts._clock, [datetime.now(UTC)]
    for part in parts:
        part._clock = lambda: now[0]
    yield now
    for part in parts:
        part._clock = kept


@pytest.fixture
def paused(monkeypatch):
    """Pauses are noted instead of waited for."""
    noted = []

    async def note(seconds):
        noted.append(seconds)

    monkeypatch.setattr(passwords, "pause", note)
    return noted


def test_the_first_owner_needs_the_code_that_the_server_prints(app, nobody):
    code = app.state.services.set_up_code
    assert nobody.get("/jobs").headers["location"] == "/sign-in"
    assert nobody.get("/sign-in").headers["location"] == "/set-up"
    for wrong in ("", "0000-0000-0000"):
        refused = nobody.post("/set-up", data={**OWNER, "code": wrong})
        assert refused.status_code == 422
        assert "prints it where it is started" in refused.text
    short = nobody.post("/set-up", data={**OWNER, "password": "short", "code": code})
    assert "use 10 to 200" in short.text
    assert "Studio North" in short.text  # what was typed is still there
    assert OWNER["password"] not in short.text
    assert nobody.post("/set-up", data={**OWNER, "code": code.lower()}).headers["location"] == "/sign-in"
    again = nobody.post("/set-up", data={**OWNER, "login": "second@north.example", "code": code})
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


# wrong passwords


def test_wrong_passwords_slow_down_and_never_lock_out(nobody, clock, paused):
    for _ in range(9):
        assert "do not belong together" in sign_in(nobody, "wrong").text
    assert paused == [0.0] * FREE + [1, 2, 4, 8, 16, 30]
    assert sign_in(nobody).status_code == 303  # the right one, after its wait, is always taken
    assert paused[-1] == MOST_S
    sign_in(nobody, "wrong")
    assert paused[-1] == 0  # forgotten with the right one
    clock[0] += WINDOW + timedelta(seconds=1)
    sign_in(nobody, "wrong")
    assert paused[-1] == 0


def test_what_others_fail_costs_the_owner_seconds_at_most():
    # By hand: 500 attempts on the name from elsewhere, the owner's own first one.
    assert delay_s(here=1, for_name=501, from_address=1) == MOST_BY_OTHERS_S
    assert delay_s(here=1, for_name=1, from_address=20) == 0
    assert delay_s(here=1, for_name=1, from_address=60) == MOST_S  # one address that tries many names waits, too


def test_attempts_at_once_are_all_counted_before_any_is_looked_at(app, clock, paused):
    clock[0] += timedelta(hours=3)
    attempts = [app.state.services.accounts.attempt(login="many@north.example", address="10.1.1.1") for _ in range(8)]
    assert [a.delay_s for a in attempts] == [0, 0, 0, 1, 2, 4, 8, 16]


def test_old_attempts_are_pruned(app, clock):
    accounts = app.state.services.accounts
    accounts.attempt(login="old@north.example", address="10.1.1.2")
    clock[0] += WINDOW + timedelta(minutes=1)
    accounts.attempt(login="new@north.example", address="10.1.1.3")
    with accounts._database.transaction() as repo:
        long_ago = datetime(2000, 1, 1, tzinfo=UTC)
        assert repo.count_failures(login="old@north.example", address="10.1.1.2", since=long_ago) == (0, 0, 0)


def test_a_flood_of_sign_ins_is_told_to_come_again():
    # Two at once, three wait: the sixth is refused, nobody holds a thread meanwhile.
    few = Few(at_once=2, most_waiting=5, words="come again")
    running, most = [0], [0]
    lock = threading.Lock()

    def work():
        with lock:
            running[0] += 1
            most[0] = max(most[0], running[0])
        time.sleep(0.05)
        with lock:
            running[0] -= 1

    async def flood():
        return await asyncio.gather(*(few.run(work) for _ in range(9)), return_exceptions=True)

    with ThreadPoolExecutor() as beside:  # a browser test may have left an event loop in this thread
        answers = beside.submit(asyncio.run, flood()).result()
    assert most[0] == 2
    assert sum(isinstance(a, Busy) for a in answers) == 4
    assert sum(a is None for a in answers) == 5


def test_an_unknown_name_is_answered_as_a_known_one(nobody, clock):
    clock[0] += timedelta(hours=1)
    unknown, known = sign_in(nobody, "wrong", "nobody@north.example"), sign_in(nobody, "wrong")
    assert unknown.status_code == known.status_code == 422
    assert unknown.text.replace("nobody@north.example", "") == known.text.replace(OWNER["login"], "")


def test_forms_from_other_sites_are_refused_before_sign_in(nobody):
    for headers in ({"sec-fetch-site": "cross-site"}, {"origin": "http://elsewhere.test"}):
        assert nobody.post("/sign-in", data={"login": "a", "password": "b"}, headers=headers).status_code == 403


def test_passwords_are_kept_as_argon2_and_never_told(app):
    with app.state.services.accounts._database.transaction() as repo:
        user = repo.user_by_login("owner@north.example")
    assert user.password_hash.startswith("$argon2id$")
    assert "argon2" not in repr(user)


# one's own account


def test_a_password_is_changed_and_all_other_sessions_end(app):
    fern = Person.of_new_studio(app, "fern")
    other = Person.signing_in(app, "fern@test.example", PASSWORD)
    wrong = fern.post("/account/password", data={"old": "another one", "new": "a new long one"})
    assert wrong.status_code == 422
    assert "present password is another one" in wrong.json()["problem"]
    short = fern.post("/account/password", data={"old": PASSWORD, "new": "short"})
    assert "use 10 to 200" in short.json()["problem"]
    assert fern.post("/account/password", data={"old": PASSWORD, "new": "a new long one"}).status_code == 204
    assert other.get("/jobs").status_code == 401
    assert fern.get("/jobs").status_code == 200
    Person.signing_in(app, "fern@test.example", "a new long one")


def test_sessions_are_listed_and_ended_one_by_one(app):
    gorse = Person.of_new_studio(app, "gorse")
    other = Person.signing_in(app, "gorse@test.example", PASSWORD)
    accounts = app.state.services.accounts
    user = accounts._database
    with user.transaction() as repo:
        gorse_id = repo.user_by_login("gorse@test.example").id
    found = accounts.sessions(gorse_id)
    assert len(found) == 2
    page = gorse.get("/account", json=False).text
    assert page.count("last used") == 2
    assert page.count("· here") == 1
    newest = min(found, key=lambda s: s.made_at)  # gorse's own, the first
    others = next(s for s in found if s.id != newest.id)
    assert gorse.post(f"/account/sessions/{others.id}/end").headers["hx-redirect"] == "/account"
    assert other.get("/jobs").status_code == 401
    birch = Person.of_new_studio(app, "birch-of-sessions")
    birch.post(f"/account/sessions/{newest.id}/end")  # not theirs: nothing happens
    assert gorse.get("/jobs").status_code == 200


def code_of(secret, at):
    return pyotp.TOTP(secret).at(at)


def test_codes_are_switched_on_asked_for_and_good_once(app, nobody, clock):
    # pyotp is the outside reading here; RFC 6238's own values stand in tests/identity.
    hazel = Person.of_new_studio(app, "hazel")
    page = hazel.get("/account/codes", json=False).text
    secret = page.split('name="secret" value="')[1].split('"')[0]
    wrong = hazel.post("/account/codes/on", data={"secret": secret, "code": "000000"})
    assert "Codes last half a minute" in wrong.json()["problem"]
    code = code_of(secret, clock[0])
    assert hazel.post("/account/codes/on", data={"secret": secret, "code": code}).status_code == 204

    asked = sign_in(nobody, PASSWORD, "hazel@test.example")
    assert asked.status_code == 200
    assert 'autocomplete="one-time-code"' in asked.text
    assert nobody.get("/jobs").status_code == 303  # half way in is not in
    used = nobody.post("/sign-in/code", data={"code": code})
    assert "was used before" in used.text
    clock[0] += timedelta(seconds=31)
    assert nobody.post("/sign-in/code", data={"code": "123"}).status_code == 422
    done = nobody.post("/sign-in/code", data={"code": code_of(secret, clock[0])})
    assert done.headers["location"] == "/jobs"
    assert nobody.get("/jobs").status_code == 200

    off = hazel.post("/account/codes/off", data={"code": "000000"})
    assert off.status_code == 422
    clock[0] += timedelta(seconds=31)
    assert hazel.post("/account/codes/off", data={"code": code_of(secret, clock[0])}).status_code == 204
    Person.signing_in(app, "hazel@test.example", PASSWORD)


def test_a_code_without_a_password_before_it_opens_nothing(nobody):
    assert nobody.post("/sign-in/code", data={"code": "123456"}).status_code == 422
    assert nobody.get("/jobs").status_code == 303
