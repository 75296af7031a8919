"""A second factor: codes of an authenticator (RFC 6238), and passkeys (WebAuthn) where the browser has them."""

from __future__ import annotations

import secrets
from datetime import timedelta
from typing import Protocol

from fotaxis.services.ports import Clock, Database, NotFound, Passkey, Refused, SignIn, User
from fotaxis.services.sanitise import keepable

STEP_S = 30
CHALLENGE_LASTS = timedelta(minutes=5)
MOST_PASSKEYS = 10


class CodeWanted(Refused):
    """The password is right; a code is wanted too."""


class Codes(Protocol):
    """One-time codes by a kept library."""

    def new_secret(self) -> str: ...
    def step_of(self, secret: str, code: str, *, at: float) -> int | None:
        """The number of the half minute whose code this is, now or just before or after; None where it is none of them."""
        ...

    def address(self, secret: str, *, login: str) -> str: ...


class KeyCeremony(Protocol):
    """Passkeys by a kept library. Options go to the browser as JSON; what it answers is checked here. site: our own address."""

    def creation(self, *, challenge: bytes, user: User, known: list[Passkey], site: str) -> str: ...
    def created(self, answer: str, *, challenge: bytes, site: str) -> tuple[bytes, bytes, int]:
        """Credential's id, public key, count. Raises Refused."""
        ...

    def request(self, *, challenge: bytes, site: str) -> str: ...
    def challenge_of(self, answer: str) -> bytes:
        """The challenge that an answer claims to answer. Raises Refused."""
        ...

    def credential_of(self, answer: str) -> bytes: ...
    def proven(self, answer: str, *, challenge: bytes, key: Passkey, site: str) -> int:
        """The key's new count. Raises Refused."""
        ...


class Factors:
    """Switching codes and passkeys on and off, and checking them."""

    def __init__(self, database: Database, codes: Codes, keys: KeyCeremony, clock: Clock) -> None:
        self._database, self._codes, self._keys, self._clock = database, codes, keys, clock

    # codes

    def offer(self, here: SignIn) -> tuple[str, str]:
        """A new secret and its otpauth address; nothing is kept until a code of it is given back."""
        secret = self._codes.new_secret()
        return secret, self._codes.address(secret, login=here.user.login)

    def switch_on(self, here: SignIn, *, secret: str, code: str) -> None:
        """From now on signing in wants a code. Raises Refused when this one is not of the secret."""
        step = self._codes.step_of(secret, code, at=self._clock().timestamp())
        if step is None:
            raise Refused(
                "That is not the code for this secret. Codes last half a minute: check the phone's clock, take the next one."
            )
        with self._database.transaction() as repo:
            repo.set_totp(here.user.studio_id, here.user.id, secret)
            repo.use_totp_step(here.user.id, step)
            repo.add_event(here.user.studio_id, kind="people", words=f"{here.user.name} switched codes on")

    def switch_off(self, here: SignIn, *, code: str) -> None:
        """Signing in wants no code any more. Raises Refused for a wrong code."""
        self.check_code(here.user, code)
        with self._database.transaction() as repo:
            repo.set_totp(here.user.studio_id, here.user.id, "")
            repo.add_event(here.user.studio_id, kind="people", words=f"{here.user.name} switched codes off")

    def check_code(self, user: User, code: str) -> None:
        """Nothing where the person uses no codes. Raises CodeWanted without one, Refused for a wrong or used one."""
        if not user.totp_secret:
            return
        if not code.strip():
            raise CodeWanted("Now the six digits that your authenticator shows.")
        step = self._codes.step_of(user.totp_secret, code.strip().replace(" ", ""), at=self._clock().timestamp())
        if step is None:
            raise CodeWanted("That code is not right, or its half minute is over. Give the one shown now.")
        with self._database.transaction() as repo:
            if not repo.use_totp_step(user.id, step):
                raise CodeWanted("That code was used before. Wait for the next one.")

    # passkeys

    def _new_challenge(self) -> bytes:
        challenge, now = secrets.token_bytes(32), self._clock()
        with self._database.transaction() as repo:
            repo.keep_challenge(challenge, expires_at=now + CHALLENGE_LASTS, now=now)
        return challenge

    def _take(self, answer: str) -> bytes:
        challenge = self._keys.challenge_of(answer)
        with self._database.transaction() as repo:
            if not repo.take_challenge(challenge, now=self._clock()):
                raise Refused("That took longer than five minutes. Begin again.")
        return challenge

    def passkeys(self, here: SignIn) -> list[Passkey]:
        with self._database.transaction() as repo:
            return repo.passkeys(here.user.id)

    def begin_passkey(self, here: SignIn, *, site: str) -> str:
        """What the browser needs to make a passkey, as JSON."""
        known = self.passkeys(here)
        if len(known) >= MOST_PASSKEYS:
            raise Refused(f"You have {MOST_PASSKEYS} passkeys already; remove one first.")
        return self._keys.creation(challenge=self._new_challenge(), user=here.user, known=known, site=site)

    def add_passkey(self, here: SignIn, *, answer: str, name: str, site: str) -> None:
        credential_id, public_key, count = self._keys.created(answer, challenge=self._take(answer), site=site)
        name = " ".join(keepable(name).split())[:80] or "Passkey"
        with self._database.transaction() as repo:
            if repo.passkey(credential_id):
                raise Refused("This passkey is known already.")
            repo.add_passkey(
                here.user.studio_id,
                here.user.id,
                credential_id=credential_id,
                public_key=public_key,
                sign_count=count,
                name=name,
            )
            repo.add_event(here.user.studio_id, kind="people", words=f"{here.user.name} added the passkey {name}")

    def remove_passkey(self, here: SignIn, *, credential_id: bytes) -> None:
        with self._database.transaction() as repo:
            repo.remove_passkey(here.user.id, credential_id)
            repo.add_event(here.user.studio_id, kind="people", words=f"{here.user.name} removed a passkey")

    def begin_sign_in(self, *, site: str) -> str:
        """What the browser needs to sign in by a passkey, as JSON."""
        return self._keys.request(challenge=self._new_challenge(), site=site)

    def owner_of(self, answer: str, *, site: str) -> User:
        """Who has shown a passkey. Raises Refused when nobody has."""
        challenge = self._take(answer)
        with self._database.transaction() as repo:
            key = repo.passkey(self._keys.credential_of(answer))
            if key is None:
                raise Refused("This passkey is not known here. Sign in with name and password, then add it under Account.")
            count = self._keys.proven(answer, challenge=challenge, key=key, site=site)
            repo.use_passkey(key.credential_id, sign_count=count, at=self._clock())
            try:
                user = repo.person(key.studio_id, key.user_id)
            except NotFound:
                raise Refused("The person of this passkey is no longer here.") from None
        if user.removed:
            raise Refused("The person of this passkey is no longer here.")
        return user
