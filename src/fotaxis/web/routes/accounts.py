"""Set-up, sign-in, sign-out, health."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Form, Request
from fastapi.responses import JSONResponse, RedirectResponse, Response

from fotaxis.services.ports import Refused
from fotaxis.web import links
from fotaxis.web.guard import All, Here, from_own_page, optional_sign_in
from fotaxis.web.pages import page

router = APIRouter()

Text = Annotated[str, Form(max_length=300)]


@router.get("/")
def home() -> Response:
    return RedirectResponse(links.HOME, status_code=303)


@router.get("/health")
def health(all_: All) -> Response:
    """For whoever watches the server: answers when the database does."""
    all_.accounts.needs_owner()
    return JSONResponse({"state": "up"})


@router.get(links.SIGN_IN)
def sign_in_page(request: Request, all_: All) -> Response:
    if all_.accounts.needs_owner():
        return RedirectResponse(links.SET_UP, status_code=303)
    if optional_sign_in(request):
        return RedirectResponse(links.HOME, status_code=303)
    return page(request, "sign_in.html", login="", message="")


@router.post(links.SIGN_IN, dependencies=[Depends(from_own_page)])
def sign_in(request: Request, all_: All, login: Text = "", password: Text = "") -> Response:
    address = request.client.host if request.client else "unknown"
    try:
        token = all_.accounts.sign_in(login=login, password=password, address=address)
    except Refused as error:
        return page(request, "sign_in.html", login=login, message=str(error), status=422)
    request.session.clear()
    request.session["token"] = token
    return RedirectResponse(links.HOME, status_code=303)


@router.post(links.SIGN_OUT)
def sign_out(request: Request, all_: All, here: Here) -> Response:
    all_.accounts.sign_out(request.session.get("token"))
    request.session.clear()
    return Response(status_code=204, headers={"hx-redirect": links.SIGN_IN})


@router.get(links.SET_UP)
def set_up_page(request: Request, all_: All) -> Response:
    if not all_.accounts.needs_owner():
        return RedirectResponse(links.SIGN_IN, status_code=303)
    return page(request, "set_up.html", form={}, message="")


@router.post(links.SET_UP, dependencies=[Depends(from_own_page)])
def set_up(
    request: Request, all_: All, studio: Text = "", login: Text = "", name: Text = "", password: Text = ""
) -> Response:
    try:
        all_.accounts.create_owner(studio_name=studio, login=login, name=name, password=password)
    except Refused as error:
        form = {"studio": studio, "login": login, "name": name}
        return page(request, "set_up.html", form=form, message=str(error), status=422)
    return RedirectResponse(links.SIGN_IN, status_code=303)
