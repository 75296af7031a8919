"""People, their sign-ins, invitations, new passwords and passkeys."""

from __future__ import annotations

from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import delete, func, select, update

from fotaxis.services.ports import Invitation, NotFound, OpenSession, Passkey, Role, SignIn, User
from fotaxis.storage.rows import Rows
from fotaxis.storage.tables import (
    ChallengeRow,
    FailureRow,
    InvitationRow,
    PasskeyRow,
    ResetRow,
    SignInRow,
    StudioRow,
    UserRow,
    now,
)


class PeopleTables(Rows):
    """services.ports.PeopleRows."""

    def any_user(self) -> bool:
        return self._s.scalar(select(UserRow.id).limit(1)) is not None

    def add_owner(self, *, studio_name: str, login: str, name: str, password_hash: str) -> User:
        studio = StudioRow(name=studio_name)
        self._s.add(studio)
        self._s.flush()
        return self.add_person(studio.id, login=login, name=name, role=Role.OWNER, password_hash=password_hash)

    def add_person(self, studio_id: UUID, *, login: str, name: str, role: Role, password_hash: str) -> User:
        user = UserRow(studio_id=studio_id, login=login, name=name, role=role.value, password_hash=password_hash)
        self._s.add(user)
        self._s.flush()
        studio = self._s.get_one(StudioRow, studio_id)
        return self._user(user, studio)

    @staticmethod
    def _user(user: UserRow, studio: StudioRow) -> User:
        return User(
            id=user.id, studio_id=studio.id, studio_name=studio.name, login=user.login, name=user.name, role=Role(user.role),
            removed=user.removed_at is not None, password_hash=user.password_hash, totp_secret=user.totp_secret,
            created_at=user.created_at, studio_deleted_at=studio.deleted_at,
        )  # fmt: skip

    def _users(self) -> Any:
        return select(UserRow, StudioRow).join(StudioRow, StudioRow.id == UserRow.studio_id)

    def user_by_login(self, login: str) -> User | None:
        found = self._s.execute(self._users().where(UserRow.login == login)).first()
        return self._user(*found) if found else None

    def _person(self, studio_id: UUID, user_id: UUID, *, lock: bool = False) -> UserRow:
        query = select(UserRow).where(UserRow.id == user_id, UserRow.studio_id == studio_id)
        row = self._s.scalar(query.with_for_update() if lock else query)
        if row is None:
            raise NotFound
        return row

    def person(self, studio_id: UUID, user_id: UUID, *, lock: bool = False) -> User:
        return self._user(self._person(studio_id, user_id, lock=lock), self._s.get_one(StudioRow, studio_id))

    def people(self, studio_id: UUID) -> list[User]:
        rows = self._s.execute(self._users().where(UserRow.studio_id == studio_id).order_by(UserRow.created_at))
        return [self._user(*row) for row in rows]

    def everybody(self) -> list[User]:
        """For the command line alone: no page shows it."""
        return [self._user(*row) for row in self._s.execute(self._users().order_by(StudioRow.name, UserRow.created_at))]

    def set_role(self, studio_id: UUID, user_id: UUID, role: Role) -> None:
        self._person(studio_id, user_id, lock=True).role = role.value

    def set_removed(self, studio_id: UUID, user_id: UUID, *, removed: bool) -> None:
        self._person(studio_id, user_id, lock=True).removed_at = now() if removed else None

    def set_password(self, studio_id: UUID, user_id: UUID, password_hash: str) -> None:
        self._person(studio_id, user_id, lock=True).password_hash = password_hash

    def set_totp(self, studio_id: UUID, user_id: UUID, secret: str) -> None:
        row = self._person(studio_id, user_id, lock=True)
        row.totp_secret, row.totp_step = secret, 0

    def use_totp_step(self, user_id: UUID, step: int) -> bool:
        """Take a moment's code for used up; False where it, or a later one, was used before."""
        done = self._s.execute(
            update(UserRow)
            .where(UserRow.id == user_id, UserRow.totp_step < step)
            .values(totp_step=step)
            .returning(UserRow.id)
        )
        return done.first() is not None

    # sign-ins

    def add_sign_in(
        self, *, token_hash: str, user_id: UUID, csrf_token: str, expires_at: datetime, address: str, agent: str
    ) -> None:
        self._s.execute(delete(SignInRow).where(SignInRow.expires_at < now()))
        self._s.add(
            SignInRow(
                token_hash=token_hash, user_id=user_id, csrf_token=csrf_token, expires_at=expires_at, address=address[:64],
                agent=agent[:200],
            )
        )  # fmt: skip

    def sign_in(self, token_hash: str, *, now: datetime) -> SignIn | None:
        found = self._s.execute(
            select(SignInRow, UserRow, StudioRow)
            .join(UserRow, UserRow.id == SignInRow.user_id)
            .join(StudioRow, StudioRow.id == UserRow.studio_id)
            .where(SignInRow.token_hash == token_hash, SignInRow.expires_at > now, UserRow.removed_at.is_(None))
        ).first()
        if not found:
            return None
        row, user, studio = found
        return SignIn(
            user=self._user(user, studio), csrf_token=row.csrf_token, expires_at=row.expires_at, id=row.id,
            token_hash=row.token_hash, seen_at=row.seen_at,
        )  # fmt: skip

    def see_sign_in(self, token_hash: str, *, at: datetime) -> None:
        self._s.execute(update(SignInRow).where(SignInRow.token_hash == token_hash).values(seen_at=at))

    def sessions(self, user_id: UUID, *, now: datetime) -> list[OpenSession]:
        rows = self._s.scalars(
            select(SignInRow)
            .where(SignInRow.user_id == user_id, SignInRow.expires_at > now)
            .order_by(SignInRow.seen_at.desc())
        )
        return [OpenSession(id=r.id, made_at=r.made_at, seen_at=r.seen_at, address=r.address, agent=r.agent) for r in rows]

    def remove_sign_in(self, token_hash: str) -> None:
        self._s.execute(delete(SignInRow).where(SignInRow.token_hash == token_hash))
        self.tell(kind="ended", session=token_hash)

    def end_sessions(self, user_id: UUID, *, only: UUID | None = None, but: str = "") -> None:
        """End one sign-in of a person, or all but that with a token's hash; their sockets are closed, too."""
        query = delete(SignInRow).where(SignInRow.user_id == user_id, SignInRow.token_hash != but)
        if only is not None:
            query = query.where(SignInRow.id == only)
        for token_hash in self._s.scalars(query.returning(SignInRow.token_hash)).all():
            self.tell(kind="ended", session=token_hash)

    # wrong passwords

    def count_failures(self, *, login: str, address: str, since: datetime) -> tuple[int, int, int]:
        """Attempts for a name from an address, for the name, and from the address."""
        recent = select(func.count()).select_from(FailureRow).where(FailureRow.at > since)
        name, where = FailureRow.login == login, FailureRow.address == address[:64]
        counts = [self._s.scalar(recent.where(*wanted)) or 0 for wanted in ((name, where), (name,), (where,))]
        return counts[0], counts[1], counts[2]

    def add_failure(self, *, login: str, address: str, at: datetime) -> None:
        self._s.add(FailureRow(login=login, address=address[:64], at=at))

    def clear_failures(self, *, login: str, address: str) -> None:
        """The right password was given: what this name failed from this address is forgotten, and the attempt itself."""
        ours = (FailureRow.login == login, FailureRow.address == address[:64])
        self._s.execute(delete(FailureRow).where(*ours))

    def prune_failures(self, *, before: datetime) -> None:
        self._s.execute(delete(FailureRow).where(FailureRow.at < before))

    # invitations and new passwords

    def add_invitation(
        self, studio_id: UUID, *, token_hash: str, role: Role, note: str, made_by: str, expires_at: datetime
    ) -> None:
        self._s.add(
            InvitationRow(
                token_hash=token_hash,
                studio_id=studio_id,
                role=role.value,
                note=note,
                made_by=made_by,
                expires_at=expires_at,
            )
        )

    def _invitations(self, now: datetime) -> Any:
        return (
            select(InvitationRow, StudioRow.name)
            .join(StudioRow, StudioRow.id == InvitationRow.studio_id)
            .where(InvitationRow.expires_at > now, StudioRow.deleted_at.is_(None))
        )

    @staticmethod
    def _invitation(row: InvitationRow, studio_name: str) -> Invitation:
        return Invitation(
            id=row.id, studio_id=row.studio_id, studio_name=studio_name, role=Role(row.role), note=row.note,
            made_by=row.made_by, created_at=row.created_at, expires_at=row.expires_at,
        )  # fmt: skip

    def invitations(self, studio_id: UUID, *, now: datetime) -> list[Invitation]:
        rows = self._s.execute(
            self._invitations(now).where(InvitationRow.studio_id == studio_id).order_by(InvitationRow.created_at)
        )
        return [self._invitation(*row) for row in rows]

    def invitation(self, token_hash: str, *, now: datetime, lock: bool = False) -> Invitation:
        query = self._invitations(now).where(InvitationRow.token_hash == token_hash)
        found = self._s.execute(query.with_for_update(of=InvitationRow) if lock else query).first()
        if found is None:
            raise NotFound
        return self._invitation(*found)

    def remove_invitation(self, studio_id: UUID, invitation_id: UUID) -> None:
        self._s.execute(delete(InvitationRow).where(InvitationRow.studio_id == studio_id, InvitationRow.id == invitation_id))

    def add_reset(self, studio_id: UUID, user_id: UUID, *, token_hash: str, expires_at: datetime) -> None:
        self._person(studio_id, user_id)
        self.remove_resets(user_id)
        self._s.add(ResetRow(token_hash=token_hash, studio_id=studio_id, user_id=user_id, expires_at=expires_at))

    def reset(self, token_hash: str, *, now: datetime, lock: bool = False) -> User:
        query = select(ResetRow).where(ResetRow.token_hash == token_hash, ResetRow.expires_at > now)
        row = self._s.scalar(query.with_for_update() if lock else query)
        if row is None:
            raise NotFound
        return self.person(row.studio_id, row.user_id)

    def remove_resets(self, user_id: UUID) -> None:
        self._s.execute(delete(ResetRow).where(ResetRow.user_id == user_id))

    # passkeys

    def add_passkey(
        self, studio_id: UUID, user_id: UUID, *, credential_id: bytes, public_key: bytes, sign_count: int, name: str
    ) -> None:
        self._person(studio_id, user_id)
        self._s.add(
            PasskeyRow(
                credential_id=credential_id, studio_id=studio_id, user_id=user_id, public_key=public_key,
                sign_count=sign_count, name=name,
            )
        )  # fmt: skip

    @staticmethod
    def _passkey(row: PasskeyRow) -> Passkey:
        return Passkey(
            credential_id=row.credential_id, user_id=row.user_id, studio_id=row.studio_id, public_key=row.public_key,
            sign_count=row.sign_count, name=row.name, created_at=row.created_at, used_at=row.used_at,
        )  # fmt: skip

    def passkeys(self, user_id: UUID) -> list[Passkey]:
        rows = self._s.scalars(select(PasskeyRow).where(PasskeyRow.user_id == user_id).order_by(PasskeyRow.created_at))
        return [self._passkey(row) for row in rows]

    def passkey(self, credential_id: bytes) -> Passkey | None:
        row = self._s.get(PasskeyRow, credential_id)
        return self._passkey(row) if row else None

    def use_passkey(self, credential_id: bytes, *, sign_count: int, at: datetime) -> None:
        row = self._s.get_one(PasskeyRow, credential_id)
        row.sign_count, row.used_at = sign_count, at

    def remove_passkey(self, user_id: UUID, credential_id: bytes) -> None:
        self._s.execute(delete(PasskeyRow).where(PasskeyRow.user_id == user_id, PasskeyRow.credential_id == credential_id))

    def keep_challenge(self, challenge: bytes, *, expires_at: datetime, now: datetime) -> None:
        self._s.execute(delete(ChallengeRow).where(ChallengeRow.expires_at < now))
        self._s.add(ChallengeRow(challenge=challenge, expires_at=expires_at))

    def take_challenge(self, challenge: bytes, *, now: datetime) -> bool:
        """Use a challenge up; False where there is none, or no more."""
        found = self._s.execute(
            delete(ChallengeRow)
            .where(ChallengeRow.challenge == challenge, ChallengeRow.expires_at > now)
            .returning(ChallengeRow.challenge)
        )
        return found.first() is not None
