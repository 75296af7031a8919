"""The people of a studio: invited by link, given roles, removed; new passwords by link or by command."""

from __future__ import annotations

from datetime import timedelta
from uuid import UUID

from fotaxis.services.people.accounts import checked_password, checked_person
from fotaxis.services.people.secrets import hashed, new_token
from fotaxis.services.ports import (
    Clock,
    Database,
    Invitation,
    NotFound,
    PasswordKeeper,
    Refused,
    Repository,
    Role,
    SignIn,
    User,
)
from fotaxis.services.sanitise import keepable

INVITATION_LASTS = timedelta(days=7)
RESET_LASTS = timedelta(hours=24)
MOST_PEOPLE = 200
MOST_INVITATIONS = 50

WHAT_ROLES_MAY = {
    Role.OWNER: "everything, people and limits too",
    Role.PHOTOGRAPHER: "everything with jobs and shots",
    Role.ASSISTANT: "change shots, attach photographs, ask for finals",
    Role.CLIENT: "look, and nothing else",
}


class Staff:
    """An owner's wishes about people. There is always one owner who can sign in."""

    def __init__(self, database: Database, passwords: PasswordKeeper, clock: Clock) -> None:
        self._database, self._passwords, self._clock = database, passwords, clock

    def people(self, studio_id: UUID) -> list[User]:
        with self._database.transaction() as repo:
            return [person for person in repo.people(studio_id) if not person.removed]

    # invitations

    def invite(self, here: SignIn, *, role: str, note: str) -> str:
        """A link's token for somebody new; told once. Raises Refused for an unknown role or too many."""
        if role not in [*Role]:
            raise Refused(f"{keepable(role)[:20]!r} is no role; choose owner, photographer, assistant or client.")
        token, now = new_token(), self._clock()
        with self._database.transaction() as repo:
            repo.lock_studio(here.user.studio_id)
            if len(repo.invitations(here.user.studio_id, now=now)) >= MOST_INVITATIONS:
                raise Refused(f"{MOST_INVITATIONS} invitations are open; take one back first.")
            repo.add_invitation(
                here.user.studio_id, token_hash=hashed(token), role=Role(role), note=keepable(note).strip()[:80],
                made_by=here.user.name, expires_at=now + INVITATION_LASTS,
            )  # fmt: skip
            repo.add_event(here.user.studio_id, kind="people", words=f"{here.user.name} invited somebody as {role}")
        return token

    def invitations(self, studio_id: UUID) -> list[Invitation]:
        with self._database.transaction() as repo:
            return repo.invitations(studio_id, now=self._clock())

    def take_back(self, here: SignIn, *, invitation_id: UUID) -> None:
        with self._database.transaction() as repo:
            repo.remove_invitation(here.user.studio_id, invitation_id)
            repo.add_event(here.user.studio_id, kind="people", words=f"{here.user.name} took an invitation back")

    def invitation(self, token: str) -> Invitation:
        """Raises NotFound when it was used, taken back, or is too old."""
        with self._database.transaction() as repo:
            return repo.invitation(hashed(token), now=self._clock())

    def accept(self, token: str, *, login: str, name: str, password: str) -> User:
        """Become one of the studio; the link works once. Raises NotFound or Refused."""
        self.invitation(token)  # before a password is hashed for nothing
        login, name = checked_person(login=login, name=name)
        hash_ = self._passwords.hash(checked_password(password))
        with self._database.transaction() as repo:
            found = repo.invitation(hashed(token), now=self._clock(), lock=True)
            repo.lock_studio(found.studio_id)
            if repo.user_by_login(login):
                raise Refused(f"Somebody signs in as {login} already; choose another sign-in name.")
            if len([p for p in repo.people(found.studio_id) if not p.removed]) >= MOST_PEOPLE:
                raise Refused(f"The studio has {MOST_PEOPLE} people already; an owner must remove somebody first.")
            repo.remove_invitation(found.studio_id, found.id)
            person = repo.add_person(found.studio_id, login=login, name=name, role=found.role, password_hash=hash_)
            repo.add_event(
                found.studio_id, kind="people", words=f"{name} joined as {found.role.value}, invited by {found.made_by}"
            )
            return person

    # roles and removal

    def set_role(self, here: SignIn, *, user_id: UUID, role: str) -> None:
        """Raises Refused for an unknown role, or when no owner would be left."""
        if role not in [*Role]:
            raise Refused(f"{keepable(role)[:20]!r} is no role; choose owner, photographer, assistant or client.")
        with self._database.transaction() as repo:
            repo.lock_studio(here.user.studio_id)
            person = repo.person(here.user.studio_id, user_id)
            if Role(role) is not Role.OWNER:
                self._keep_an_owner(repo, person)
            repo.set_role(person.studio_id, person.id, Role(role))
            repo.tell(kind="role", user=person.id)
            repo.add_event(person.studio_id, kind="people", words=f"{person.name} is {role} now, was {person.role.value}")

    def remove(self, here: SignIn, *, user_id: UUID) -> None:
        """Take somebody out; their sessions end at once, what they did stays under their name. Raises Refused for the last owner."""
        with self._database.transaction() as repo:
            repo.lock_studio(here.user.studio_id)
            person = repo.person(here.user.studio_id, user_id)
            self._keep_an_owner(repo, person)
            repo.set_removed(person.studio_id, person.id, removed=True)
            repo.end_sessions(person.id)
            repo.remove_resets(person.id)
            repo.add_event(person.studio_id, kind="people", words=f"{person.name} was removed")

    def take_in_again(self, here: SignIn, *, user_id: UUID) -> None:
        """Undo a removal within its grace period."""
        with self._database.transaction() as repo:
            person = repo.person(here.user.studio_id, user_id)
            repo.set_removed(person.studio_id, person.id, removed=False)
            repo.add_event(person.studio_id, kind="people", words=f"{person.name} was taken in again")

    def removed(self, studio_id: UUID) -> list[User]:
        with self._database.transaction() as repo:
            return [person for person in repo.people(studio_id) if person.removed]

    @staticmethod
    def _keep_an_owner(repo: Repository, person: User) -> None:
        others = [p for p in repo.people(person.studio_id) if p.role is Role.OWNER and not p.removed and p.id != person.id]
        if person.role is Role.OWNER and not others:
            raise Refused("A studio needs an owner. Make somebody else an owner first.")

    # new passwords

    def reset_link(self, studio_id: UUID, *, user_id: UUID) -> str:
        """A link's token with which that person sets a new password, within a day, once."""
        token = new_token()
        with self._database.transaction() as repo:
            person = repo.person(studio_id, user_id)
            if person.removed:
                raise NotFound
            repo.add_reset(studio_id, user_id, token_hash=hashed(token), expires_at=self._clock() + RESET_LASTS)
            repo.add_event(studio_id, kind="people", words=f"A new password was prepared for {person.name}")
        return token

    def reset_of(self, token: str) -> User:
        """Whose password a link sets. Raises NotFound when it was used or is too old."""
        with self._database.transaction() as repo:
            return repo.reset(hashed(token), now=self._clock())

    def set_new_password(self, token: str, *, password: str) -> None:
        """All sessions of that person end, and codes are switched off: the owner knows whom the link was given to."""
        self.reset_of(token)
        hash_ = self._passwords.hash(checked_password(password))
        with self._database.transaction() as repo:
            person = repo.reset(hashed(token), now=self._clock(), lock=True)
            repo.set_password(person.studio_id, person.id, hash_)
            repo.set_totp(person.studio_id, person.id, "")
            repo.remove_resets(person.id)
            repo.end_sessions(person.id)
            repo.add_event(person.studio_id, kind="people", words=f"{person.name} has a new password")

    # by the command line

    def everybody(self) -> list[User]:
        with self._database.transaction() as repo:
            return repo.everybody()

    def by_login(self, login: str) -> User:
        """Raises Refused where nobody signs in so."""
        with self._database.transaction() as repo:
            found = repo.user_by_login(login.strip().lower())
        if found is None:
            raise Refused(f"Nobody signs in as {login[:80]}. `fotaxis people list` shows everybody.")
        return found

    def make_owner(self, login: str) -> User:
        """Give a studio an owner again, taken in again if need be."""
        person = self.by_login(login)
        with self._database.transaction() as repo:
            repo.set_role(person.studio_id, person.id, Role.OWNER)
            repo.set_removed(person.studio_id, person.id, removed=False)
            repo.add_event(person.studio_id, kind="people", words=f"{person.name} was made owner by command")
        return person

    def remove_by_login(self, login: str) -> User:
        person = self.by_login(login)
        with self._database.transaction() as repo:
            repo.lock_studio(person.studio_id)
            self._keep_an_owner(repo, person)
            repo.set_removed(person.studio_id, person.id, removed=True)
            repo.end_sessions(person.id)
            repo.add_event(person.studio_id, kind="people", words=f"{person.name} was removed by command")
        return person
