"""Set-up, sign-in by password, code or passkey, sign-out, and what a page asks to go on after signing in again."""

from __future__ import annotations

import time
from functools import partial
from typing import Annotated

from anyio import to_thread
from fastapi import APIRouter, Depends, Form, Request
from fastapi.responses import JSONResponse, RedirectResponse, Response
from pydantic import BaseModel, ConfigDict, Field

from fotaxis.services.people.accounts import Attempt
from fotaxis.services.people.factors import CodeWanted
from fotaxis.services.ports import Busy, Refused
from fotaxis.web import links, passwords
from fotaxis.web.auth import AppServices, Services, from_own_page, optional_sign_in, signed_in_anywhere
from fotaxis.web.concurrency import PASSWORDS
from fotaxis.web.responses import page

router = APIRouter()

Text = Annotated[str, Form(max_length=300)]
HALF_LASTS_S = 300
"""Between the right password and its code may lie so much time."""


@router.get("/")
def home() -> Response:
    return RedirectResponse(links.HOME, status_code=303)


@router.get(links.SIGN_IN)
def sign_in_page(request: Request, app: AppServices) -> Response:
    if app.accounts.needs_owner():
        return RedirectResponse(links.SET_UP, status_code=303)
    if optional_sign_in(request):
        return RedirectResponse(links.HOME, status_code=303)
    return page(request, "sign_in.html", login="", message="")


def _address(request: Request) -> str:
    return request.client.host if request.client else "unknown"


async def _counted(request: Request, app: Services, login: str) -> Attempt:
    """An attempt that was counted, after the wait that earlier wrong ones have earned."""
    attempt = await to_thread.run_sync(partial(app.accounts.attempt, login=login, address=_address(request)))
    await passwords.pause(attempt.delay_s)
    return attempt


def _session(request: Request, token: str) -> None:
    request.session.clear()
    request.session["token"] = token


@router.post(links.SIGN_IN, dependencies=[Depends(from_own_page)])
async def sign_in(request: Request, app: AppServices, login: Text = "", password: Text = "") -> Response:
    agent = request.headers.get("user-agent", "")
    try:
        attempt = await _counted(request, app, login)
        token = await PASSWORDS.run(partial(app.accounts.sign_in, attempt, password=password, agent=agent))
    except CodeWanted as error:
        request.session.clear()
        request.session["half"] = {"login": attempt.login, "at": time.time()}
        return page(request, "sign_in_code.html", message="", words=str(error))
    except (Refused, Busy) as error:
        status = 503 if isinstance(error, Busy) else 422
        return page(request, "sign_in.html", login=login, message=str(error), status=status)
    _session(request, token)
    return RedirectResponse(links.HOME, status_code=303)


@router.post(links.CODE, dependencies=[Depends(from_own_page)])
async def sign_in_code(request: Request, app: AppServices, code: Text = "") -> Response:
    """The code that goes with a password that was right a moment ago."""
    half = request.session.get("half") or {}
    if not half or time.time() - half.get("at", 0) > HALF_LASTS_S:
        request.session.clear()
        return page(
            request, "sign_in.html", login="", message="That took too long. Give name and password again.", status=422
        )
    try:
        attempt = await _counted(request, app, half["login"])
        user = await to_thread.run_sync(app.staff.by_login, half["login"])
        await to_thread.run_sync(app.factors.check_code, user, code or " ")
    except (Refused, Busy) as error:
        return page(request, "sign_in_code.html", message=str(error), words="", status=422)
    agent = request.headers.get("user-agent", "")
    begin = partial(app.accounts.begin_session, user, address=attempt.address, agent=agent, login=attempt.login)
    _session(request, await to_thread.run_sync(begin))
    return RedirectResponse(links.HOME, status_code=303)


class AnswerForm(BaseModel):
    """What a browser's passkey answered, as JSON text."""

    model_config = ConfigDict(extra="forbid")
    answer: Annotated[str, Field(max_length=20_000)]
    name: Annotated[str, Field(max_length=80)] = ""


def site(request: Request) -> str:
    """Our own address as the browser knows it."""
    return str(request.base_url).rstrip("/")


@router.get(links.PASSKEY_IN)
def passkey_wanted(request: Request, app: AppServices) -> Response:
    return Response(app.factors.begin_sign_in(site=site(request)), media_type="application/json")


@router.post(links.PASSKEY_IN, dependencies=[Depends(from_own_page)])
def sign_in_by_passkey(request: Request, app: AppServices, form: AnswerForm) -> Response:
    user = app.factors.owner_of(form.answer, site=site(request))
    agent = request.headers.get("user-agent", "")
    _session(request, app.accounts.begin_session(user, address=_address(request), agent=agent, login=user.login))
    return JSONResponse({"go": links.HOME})


@router.get(links.SESSION)
def session(request: Request) -> Response:
    """For a page that was signed out meanwhile: the token of the sign-in that this browser has now."""
    here = signed_in_anywhere(request)
    return JSONResponse({"token": here.csrf_token, "user": str(here.user.id), "name": here.user.name})


@router.post(links.SIGN_OUT)
def sign_out(request: Request, app: AppServices) -> Response:
    signed_in_anywhere(request)
    app.accounts.sign_out(request.session.get("token"))
    request.session.clear()
    return Response(status_code=204, headers={"hx-redirect": links.SIGN_IN})


@router.get(links.SET_UP)
def set_up_page(request: Request, app: AppServices) -> Response:
    if not app.accounts.needs_owner():
        return RedirectResponse(links.SIGN_IN, status_code=303)
    return page(request, "set_up.html", form={}, message="")


@router.post(links.SET_UP, dependencies=[Depends(from_own_page)])
async def set_up(
    request: Request,
    app: AppServices,
    studio: Text = "",
    login: Text = "",
    name: Text = "",
    password: Text = "",
    code: Text = "",
) -> Response:
    try:
        await _counted(request, app, "set-up")
        if code.strip().upper() != app.set_up_code:
            raise Refused("The set-up code is another one. The server prints it where it is started.")
        await PASSWORDS.run(
            partial(app.accounts.create_owner, studio_name=studio, login=login, name=name, password=password)
        )
    except (Refused, Busy) as error:
        form = {"studio": studio, "login": login, "name": name, "code": code}
        return page(request, "set_up.html", form=form, message=str(error), status=422)
    return RedirectResponse(links.SIGN_IN, status_code=303)


# links with which somebody joins a studio or sets a new password


@router.get("/join/{token}")
def join_page(request: Request, app: AppServices, token: str) -> Response:
    return page(request, "join.html", invitation=app.staff.invitation(token[:80]), form={}, message="")


@router.post("/join/{token}", dependencies=[Depends(from_own_page)])
async def join(
    request: Request, app: AppServices, token: str, login: Text = "", name: Text = "", password: Text = ""
) -> Response:
    invitation = await to_thread.run_sync(app.staff.invitation, token[:80])
    try:
        await PASSWORDS.run(partial(app.staff.accept, token[:80], login=login, name=name, password=password))
    except (Refused, Busy) as error:
        form = {"login": login, "name": name}
        return page(request, "join.html", invitation=invitation, form=form, message=str(error), status=422)
    return RedirectResponse(links.SIGN_IN, status_code=303)


@router.get("/new-password/{token}")
def new_password_page(request: Request, app: AppServices, token: str) -> Response:
    return page(request, "new_password.html", person=app.staff.reset_of(token[:80]), message="")


@router.post("/new-password/{token}", dependencies=[Depends(from_own_page)])
async def new_password(request: Request, app: AppServices, token: str, password: Text = "") -> Response:
    person = await to_thread.run_sync(app.staff.reset_of, token[:80])
    try:
        await PASSWORDS.run(partial(app.staff.set_new_password, token[:80], password=password))
    except (Refused, Busy) as error:
        return page(request, "new_password.html", person=person, message=str(error), status=422)
    return RedirectResponse(links.SIGN_IN, status_code=303)
