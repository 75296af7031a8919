"""Who is asking, and may this request change anything."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from typing import Annotated
from urllib.parse import urlsplit

from fastapi import Depends, HTTPException, Request
from starlette.requests import HTTPConnection

from fotaxis.services.accounts import Accounts
from fotaxis.services.finals import Finals
from fotaxis.services.jobs import Jobs
from fotaxis.services.pictures import Pictures
from fotaxis.services.ports import ShotCodec, SignIn
from fotaxis.services.shots import Shots
from fotaxis.services.test_frames import TestFrames
from fotaxis.services.view_links import ViewLinks

SAFE = {"GET", "HEAD", "OPTIONS"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Services:
    """Everything the routes call."""

    accounts: Accounts
    jobs: Jobs
    shots: Shots
    pictures: Pictures
    frames: TestFrames
    finals: Finals
    view_links: ViewLinks
    codec: ShotCodec


class NeedsSignIn(Exception):
    """Nobody is signed in."""


def services(connection: HTTPConnection) -> Services:
    found: Services = connection.app.state.services
    return found


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
    found = optional_sign_in(request)
    if found is None:
        raise NeedsSignIn
    if request.method not in SAFE:
        given = request.headers.get("x-csrf-token", "")
        if not same_origin(request) or not secrets.compare_digest(given.encode(), found.csrf_token.encode()):
            raise HTTPException(
                403, "This page is out of date. Reload it and try again; what you typed is still in the page."
            )
    return found


def from_own_page(request: Request) -> None:
    """For forms before sign-in: refuse requests that other sites' pages send."""
    if request.method not in SAFE and not same_origin(request):
        raise HTTPException(403, "This form must be sent from the application's own page.")


Here = Annotated[SignIn, Depends(signed_in)]
All = Annotated[Services, Depends(services)]
