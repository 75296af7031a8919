"""Signing in and out, one's own sessions and password, and the first owner of a fresh installation."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import timedelta
from uuid import UUID

from fotaxis.services.people.factors import Factors
from fotaxis.services.people.secrets import hashed, new_token
from fotaxis.services.people.throttle import WINDOW, delay_s
from fotaxis.services.ports import Clock, Database, OpenSession, PasswordKeeper, Refused, SignIn, User
from fotaxis.services.sanitise import keepable

SESSION_LENGTH = timedelta(days=14)
SEEN_EVERY = timedelta(minutes=1)
LEAST_PASSWORD = 10
MOST_PASSWORD = 200
WRONG = "Name and password do not belong together. Check both; capitals count in the password."


@dataclass(frozen=True, slots=True, kw_only=True)
class Attempt:
    """A sign-in that was counted: how long it has to wait before its password is looked at."""

    login: str
    address: str
    delay_s: float


def checked_password(password: str) -> str:
    """A password of a length that will do. Raises Refused otherwise."""
    if not LEAST_PASSWORD <= len(password) <= MOST_PASSWORD:
        raise Refused(f"The password has {len(password)} characters; use {LEAST_PASSWORD} to {MOST_PASSWORD}.")
    return password


def checked_person(*, login: str, name: str) -> tuple[str, str]:
    """Sign-in name and name, trimmed. Raises Refused for an empty or overlong one."""
    login, name = keepable(login).strip().lower(), " ".join(keepable(name).split())
    for what, value in (("a sign-in name", login), ("your name", name)):
        if not 1 <= len(value) <= 80:
            raise Refused(f"Please give {what} of 1 to 80 characters.")
    return login, name


class Accounts:
    """A password is looked at after the wait that earlier wrong ones have earned; a second factor, where there is one, too."""

    def __init__(self, database: Database, passwords: PasswordKeeper, clock: Clock, factors: Factors) -> None:
        self._database = database
        self._passwords = passwords
        self._clock = clock
        self._factors = factors
        self._decoy = passwords.hash(secrets.token_urlsafe(16))

    def needs_owner(self) -> bool:
        """True on a fresh installation, before anybody can sign in."""
        with self._database.transaction() as repo:
            return not repo.any_user()

    def create_owner(self, *, studio_name: str, login: str, name: str, password: str) -> None:
        """Create the first studio and its owner. Raises Refused when there is one already or a value will not do."""
        with self._database.transaction() as repo:
            if repo.any_user():
                raise Refused("This installation already has an owner; please sign in.")
        self.create_studio(studio_name=studio_name, login=login, name=name, password=password)

    def create_studio(self, *, studio_name: str, login: str, name: str, password: str) -> User:
        """Another studio on the same installation, by the command line. Raises Refused when a value will not do."""
        studio_name = " ".join(keepable(studio_name).split())
        if not 1 <= len(studio_name) <= 80:
            raise Refused("Please give the studio's name of 1 to 80 characters.")
        login, name = checked_person(login=login, name=name)
        hash_ = self._passwords.hash(checked_password(password))
        with self._database.transaction() as repo:
            if repo.user_by_login(login):
                raise Refused(f"Somebody signs in as {login} already; choose another sign-in name.")
            return repo.add_owner(studio_name=studio_name, login=login, name=name, password_hash=hash_)

    def attempt(self, *, login: str, address: str) -> Attempt:
        """Count an attempt to sign in before anything of it is looked at."""
        login, now = keepable(login).strip().lower()[:80], self._clock()
        with self._database.transaction() as repo:
            repo.prune_failures(before=now - WINDOW)
            repo.add_failure(login=login, address=address, at=now)
        with self._database.transaction() as repo:
            here, for_name, from_address = repo.count_failures(login=login, address=address, since=now - WINDOW)
        delay = delay_s(here=here, for_name=for_name, from_address=from_address)
        return Attempt(login=login, address=address, delay_s=delay)

    def sign_in(self, attempt: Attempt, *, password: str, code: str = "", agent: str = "") -> str:
        """A session token for the right name and password. Raises Refused otherwise, CodeWanted where a code is missing."""
        with self._database.transaction() as repo:
            user = repo.user_by_login(attempt.login)
        good = self._passwords.verify(password[:MOST_PASSWORD], user.password_hash if user else self._decoy)
        if not (good and user and not user.removed):
            raise Refused(WRONG)
        self._factors.check_code(user, code)
        return self.begin_session(user, address=attempt.address, agent=agent, login=attempt.login)

    def begin_session(self, user: User, *, address: str, agent: str, login: str) -> str:
        """A session token for somebody who has shown who they are."""
        now, token = self._clock(), new_token()
        with self._database.transaction() as repo:
            repo.clear_failures(login=login, address=address)
            repo.add_sign_in(
                token_hash=hashed(token), user_id=user.id, csrf_token=secrets.token_urlsafe(24),
                expires_at=now + SESSION_LENGTH, address=address, agent=keepable(agent),
            )  # fmt: skip
        return token

    def who(self, token: str | None) -> SignIn | None:
        """The live sign-in behind a token."""
        if not token:
            return None
        now = self._clock()
        with self._database.transaction() as repo:
            found = repo.sign_in(hashed(token), now=now)
            if found and now - found.seen_at > SEEN_EVERY:
                repo.see_sign_in(found.token_hash, at=now)
            return found

    def sign_out(self, token: str | None) -> None:
        """End a sign-in on the server too; its open sockets are closed."""
        if token:
            with self._database.transaction() as repo:
                repo.remove_sign_in(hashed(token))

    def sessions(self, user_id: UUID) -> list[OpenSession]:
        """Where somebody is signed in, the one used last first."""
        with self._database.transaction() as repo:
            return repo.sessions(user_id, now=self._clock())

    def end_session(self, user_id: UUID, *, session_id: UUID) -> None:
        with self._database.transaction() as repo:
            repo.end_sessions(user_id, only=session_id)

    def end_other_sessions(self, here: SignIn) -> None:
        """Sign out everywhere but here."""
        with self._database.transaction() as repo:
            repo.end_sessions(here.user.id, but=here.token_hash)

    def change_password(self, here: SignIn, *, old: str, new: str) -> None:
        """A new password for oneself; all other sessions end. Raises Refused when the old one is wrong or the new one will not do."""
        if not self._passwords.verify(old[:MOST_PASSWORD], here.user.password_hash):
            raise Refused("The present password is another one. Nothing was changed.")
        hash_ = self._passwords.hash(checked_password(new))
        with self._database.transaction() as repo:
            repo.set_password(here.user.studio_id, here.user.id, hash_)
            repo.end_sessions(here.user.id, but=here.token_hash)
            repo.add_event(here.user.studio_id, kind="people", words=f"{here.user.name} changed their password")
