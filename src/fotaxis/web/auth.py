"""Who is asking, may this role do it, and does the request come from our own pages?"""

from __future__ import annotations

import secrets
from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated
from urllib.parse import urlsplit

from fastapi import Depends, HTTPException, Request
from starlette.requests import HTTPConnection

from fotaxis.services.book import Book
from fotaxis.services.briefs import Briefs
from fotaxis.services.captures.exports import WholeShots
from fotaxis.services.captures.merges import Merges
from fotaxis.services.captures.shooting import Shooting
from fotaxis.services.finals import Finals
from fotaxis.services.jobs import Jobs
from fotaxis.services.kit import Kit
from fotaxis.services.people.accounts import Accounts
from fotaxis.services.people.factors import Factors
from fotaxis.services.people.staff import Staff
from fotaxis.services.photographs import TestFrames
from fotaxis.services.pictures import Pictures
from fotaxis.services.ports import AlreadyKept, Busy, Forbidden, News, Role, ShotCodec, SignIn, acting
from fotaxis.services.reckoning import Reckoning
from fotaxis.services.saves import Saves
from fotaxis.services.screens import Screens
from fotaxis.services.series import Series
from fotaxis.services.shots import Shots
from fotaxis.services.studies import Studies
from fotaxis.services.studio import Studio
from fotaxis.services.turns import Turns
from fotaxis.services.view_links import ViewLinks
from fotaxis.services.watch import Watch

SAFE = {"GET", "HEAD", "OPTIONS"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Services:
    """Everything the routes call."""

    accounts: Accounts
    factors: Factors
    staff: Staff
    studio: Studio
    jobs: Jobs
    kit: Kit
    briefs: Briefs
    shots: Shots
    pictures: Pictures
    screens: Screens
    studies: Studies
    turns: Turns
    frames: TestFrames
    finals: Finals
    merges: Merges
    shooting: Shooting
    whole_shots: WholeShots
    series: Series
    reckoning: Reckoning
    book: Book
    view_links: ViewLinks
    saves: Saves
    watch: Watch
    news: News
    codec: ShotCodec
    set_up_code: str
    not_ready: Callable[[], str] = lambda: ""
    """Why pages that compute cannot be shown yet, "" when they can."""


class NeedsSignIn(Exception):
    """Nobody is signed in."""


class StudioRemoved(Exception):
    """The studio waits to be deleted; only an owner can bring it back."""


def services(connection: HTTPConnection) -> Services:
    found: Services = connection.app.state.services
    return found


def ready(connection: HTTPConnection) -> None:
    """For routes that compute on the spot. Raises Busy while the kernels are being compiled."""
    if words := services(connection).not_ready():
        raise Busy(words)


def same_origin(connection: HTTPConnection) -> bool:
    """Does the request come from our own pages? Judged by Sec-Fetch-Site and Origin."""
    site = connection.headers.get("sec-fetch-site")
    if site is not None and site not in ("same-origin", "none"):
        return False
    origin = connection.headers.get("origin")
    return origin is None or urlsplit(origin).netloc == connection.headers.get("host")


def optional_sign_in(request: Request) -> SignIn | None:
    return services(request).accounts.who(request.session.get("token"))


def signed_in(request: Request) -> SignIn:
    """The sign-in behind this request; changes must carry its token and come from our own pages."""
    found = signed_in_anywhere(request)
    if found.user.studio_deleted_at is not None:
        raise StudioRemoved
    return found


def signed_in_anywhere(request: Request) -> SignIn:
    """As signed_in, in a studio that waits to be deleted too."""
    found = optional_sign_in(request)
    if found is None:
        raise NeedsSignIn
    request.state.here = found
    if request.method in SAFE:
        return found
    given = request.headers.get("x-csrf-token", "")
    if not same_origin(request) or not secrets.compare_digest(given.encode(), found.csrf_token.encode()):
        raise HTTPException(403, "This page is out of date. Reload it and try again; what you typed is still in the page.")
    who = acting()
    who.user_id, who.studio_id, who.name = found.user.id, found.user.studio_id, found.user.name
    if who.key:
        kept = services(request).saves.kept(found.user.id, who.key)
        if kept is not None:
            raise AlreadyKept(kept)
    return found


def needs(role: Role) -> Callable[[SignIn], SignIn]:
    """A dependency: signed in, with a role that may do what this one may."""

    def allowed(here: Annotated[SignIn, Depends(signed_in)]) -> SignIn:
        check_role(here, role)
        return here

    return allowed


WHO_MAY = {
    Role.ASSISTANT: "an assistant, a photographer or an owner",
    Role.PHOTOGRAPHER: "a photographer or an owner",
    Role.OWNER: "an owner",
    Role.CLIENT: "anybody",
}


def check_role(here: SignIn, role: Role) -> None:
    """Raises Forbidden when the person's role may not do it."""
    if not here.user.role.may(role):
        raise Forbidden(
            f"You are here as {here.user.role.value}: this is for {WHO_MAY[role]}. Ask an owner of {here.user.studio_name} for it."
        )


def from_own_page(request: Request) -> None:
    """For forms before sign-in: refuse requests that other sites' pages send."""
    if request.method not in SAFE and not same_origin(request):
        raise HTTPException(403, "This form must be sent from the application's own page.")


CurrentUser = Annotated[SignIn, Depends(signed_in)]
"""Anybody of the studio, to look or for what is one's own."""

Helper = Annotated[SignIn, Depends(needs(Role.ASSISTANT))]
Maker = Annotated[SignIn, Depends(needs(Role.PHOTOGRAPHER))]
Owner = Annotated[SignIn, Depends(needs(Role.OWNER))]
AppServices = Annotated[Services, Depends(services)]
