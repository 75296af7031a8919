"""Signing in and out, and the first owner of a fresh installation."""

from __future__ import annotations

import hashlib
import secrets
from datetime import timedelta

from fotaxis.services.ports import Clock, Database, PasswordKeeper, Refused, SignIn
from fotaxis.services.text import keepable

SESSION_LENGTH = timedelta(days=14)
WINDOW = timedelta(minutes=15)
TRIES_PER_LOGIN = 5
TRIES_PER_ADDRESS = 30
LEAST_PASSWORD = 10
MOST_PASSWORD = 200


class Accounts:
    """Sign-in with a limit on attempts: 5 per name and 30 per address in 15 minutes."""

    def __init__(self, database: Database, passwords: PasswordKeeper, clock: Clock) -> None:
        self._database = database
        self._passwords = passwords
        self._clock = clock
        self._decoy = passwords.hash(secrets.token_urlsafe(16))

    def needs_owner(self) -> bool:
        """True on a fresh installation, before anybody can sign in."""
        with self._database.transaction() as repo:
            return not repo.any_user()

    def create_owner(self, *, studio_name: str, login: str, name: str, password: str) -> None:
        """Create the first studio and its owner. Raises Refused when there is one already or a value will not do."""
        studio_name, login, name = (keepable(text).strip() for text in (studio_name, login.lower(), name))
        for what, value, most in (
            ("the studio's name", studio_name, 80),
            ("a sign-in name", login, 80),
            ("your name", name, 80),
        ):
            if not 1 <= len(value) <= most:
                raise Refused(f"Please give {what} of 1 to {most} characters.")
        if not LEAST_PASSWORD <= len(password) <= MOST_PASSWORD:
            raise Refused(f"The password has {len(password)} characters; use {LEAST_PASSWORD} to {MOST_PASSWORD}.")
        hashed = self._passwords.hash(password)
        with self._database.transaction() as repo:
            if repo.any_user():
                raise Refused("This installation already has an owner; please sign in.")
            repo.add_owner(studio_name=studio_name, login=login, name=name, password_hash=hashed)

    def sign_in(self, *, login: str, password: str, address: str) -> str:
        """A session token for the right name and password. Raises Refused otherwise, and when tried too often."""
        login = keepable(login).strip().lower()[:80]
        now = self._clock()
        with self._database.transaction() as repo:
            by_login, by_address = repo.count_failures(login=login, address=address, since=now - WINDOW)
            user = repo.user_by_login(login)
        if by_login >= TRIES_PER_LOGIN or by_address >= TRIES_PER_ADDRESS:
            raise Refused("Too many attempts. Wait 15 minutes, then try again.")
        good = self._passwords.verify(password[:MOST_PASSWORD], user.password_hash if user else self._decoy)
        with self._database.transaction() as repo:
            if not (good and user):
                repo.add_failure(login=login, address=address, at=now)
            else:
                repo.clear_failures(login=login)
                token = secrets.token_urlsafe(32)
                repo.add_sign_in(
                    token_hash=_hashed(token), user_id=user.id, csrf_token=secrets.token_urlsafe(24),
                    expires_at=now + SESSION_LENGTH,
                )  # fmt: skip
                return token
        raise Refused("Name and password do not belong together. Check both; capitals count in the password.")

    def who(self, token: str | None) -> SignIn | None:
        """The live sign-in behind a token."""
        if not token:
            return None
        with self._database.transaction() as repo:
            return repo.sign_in(_hashed(token), now=self._clock())

    def sign_out(self, token: str | None) -> None:
        """End a sign-in on the server too."""
        if token:
            with self._database.transaction() as repo:
                repo.remove_sign_in(_hashed(token))


def _hashed(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
