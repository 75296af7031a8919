"""People, sessions, limits and history as the pages show them."""

from __future__ import annotations

import base64
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from fotaxis.services.ports import Event, Invitation, Job, OpenSession, Passkey, Shot, SignIn, Usage, User
from fotaxis.services.studio import GRACE

WHEN = "%-d %b, %H:%M"


@dataclass(frozen=True, slots=True, kw_only=True)
class Person:
    id: UUID
    name: str
    login: str
    role: str
    since: str
    me: bool
    codes: bool


def people(users: list[User], here: SignIn) -> list[Person]:
    return [
        Person(
            id=u.id, name=u.name, login=u.login, role=u.role.value, me=u.id == here.user.id, codes=bool(u.totp_secret),
            since=u.created_at.strftime("%-d %B %Y") if u.created_at else "",
        )
        for u in users
    ]  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Session:
    id: UUID
    words: str
    here: bool


def sessions(found: list[OpenSession], here: SignIn) -> list[Session]:
    return [
        Session(
            id=s.id, here=s.id == here.id,
            words=f"{browser(s.agent)}, from {s.address or 'unknown'}, since {s.made_at:{WHEN}}, last used {s.seen_at:{WHEN}} UTC",
        )
        for s in found
    ]  # fmt: skip


def browser(agent: str) -> str:
    """What a browser says of itself, short: its system and kind."""
    system = next((name for mark, name in (
        ("Android", "an Android device"), ("iPhone", "a phone"), ("iPad", "a tablet"), ("Windows", "a Windows machine"),
        ("Mac OS", "a Mac"), ("Linux", "a Linux machine"),
    ) if mark in agent), "a browser")  # fmt: skip
    return system[0].upper() + system[1:]


@dataclass(frozen=True, slots=True, kw_only=True)
class Key:
    key: str
    name: str
    words: str


def passkeys(found: list[Passkey]) -> list[Key]:
    return [
        Key(
            key=base64.urlsafe_b64encode(p.credential_id).decode(), name=p.name,
            words=f"added {p.created_at:{WHEN}}" + (f", last used {p.used_at:{WHEN}} UTC" if p.used_at else ", not used yet"),
        )
        for p in found
    ]  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Invited:
    id: UUID
    words: str


def invitations(found: list[Invitation]) -> list[Invited]:
    return [
        Invited(
            id=i.id,
            words=f"{i.role.value}{f', {i.note}' if i.note else ''}: invited by {i.made_by} {i.created_at:{WHEN}}, "
            f"open until {i.expires_at:{WHEN}} UTC",
        )
        for i in found
    ]  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Kept:
    """One of the things that a studio keeps within a limit."""

    what: str
    words: str
    percent: int


@dataclass(frozen=True, slots=True, kw_only=True)
class UsageView:
    kept: list[Kept]
    photo_gb: str
    final_gb: str
    states: int


def usage(u: Usage) -> UsageView:
    def gigabytes(n: int) -> str:
        if n >= 1e8:
            return f"{n / 1e9:.3g} GB"
        return f"{n / 1e6:.1f} MB" if n >= 1e6 else f"{n / 1e3:.0f} kB"

    def part(n: int, most: int) -> int:
        return min(100, round(100 * n / max(most, 1)))

    bytes_kept = (
        ("Photographs", u.photo_bytes, u.photo_limit),
        ("Finals", u.final_bytes, u.final_limit),
    )
    return UsageView(
        kept=[
            *(
                Kept(what=what, words=f"{gigabytes(n)} of {gigabytes(most)}", percent=part(n, most))
                for what, n, most in bytes_kept
            ),
            Kept(what="States of shots", words=f"{u.states:,} of {u.states_limit:,}", percent=part(u.states, u.states_limit)),
        ],
        photo_gb=f"{u.photo_limit / 1e9:g}", final_gb=f"{u.final_limit / 1e9:g}", states=u.states_limit,
    )  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Done:
    when: str
    who: str
    words: str
    shot_id: UUID | None
    shot_name: str


def events(found: list[Event]) -> list[Done]:
    return [
        Done(
            when=f"{e.at:%-d %b %Y, %H:%M}",
            who=e.who or "not signed in",
            words=e.words,
            shot_id=e.shot_id,
            shot_name=e.shot_name,
        )
        for e in found
    ]


@dataclass(frozen=True, slots=True, kw_only=True)
class Gone:
    id: UUID
    name: str
    words: str


def removed(found: Sequence[Job | Shot]) -> list[Gone]:
    return [
        Gone(
            id=one.id,
            name=one.name,
            words=f"removed {_when(one.deleted_at)}, deleted for good {_when(one.deleted_at, GRACE.days)}",
        )
        for one in found
    ]


def _when(at: datetime | None, days: int = 0) -> str:
    if at is None:
        return ""
    return (at + GRACE if days else at).strftime("%-d %B")
