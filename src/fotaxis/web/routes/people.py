"""One's own account, and the studio: its people, limits, history, what was removed."""

from __future__ import annotations

import base64
import binascii
import io
from functools import partial
from typing import Annotated, Any
from uuid import UUID

import segno
from fastapi import APIRouter, Depends, Form, Request
from fastapi.responses import RedirectResponse, Response

from fotaxis.services.people.staff import WHAT_ROLES_MAY
from fotaxis.services.ports import Refused, Role, SignIn
from fotaxis.services.studio import GRACE
from fotaxis.web import links
from fotaxis.web.auth import AppServices, CurrentUser, Maker, Owner, Services, check_role, signed_in_anywhere
from fotaxis.web.concurrency import PASSWORDS
from fotaxis.web.responses import gone_to, page
from fotaxis.web.routes.accounts import AnswerForm, site
from fotaxis.web.views import bench as view
from fotaxis.web.views import people as people_view

router = APIRouter()

Text = Annotated[str, Form(max_length=300)]
Anywhere = Annotated[SignIn, Depends(signed_in_anywhere)]


# ---- one's own account


def _account(request: Request, app: Services, here: SignIn, *, status: int = 200, **more: Any) -> Response:
    data: dict[str, Any] = {"offer": None, "message": "", **more}
    return page(
        request, "account.html", here, sessions=people_view.sessions(app.accounts.sessions(here.user.id), here),
        passkeys=people_view.passkeys(app.factors.passkeys(here)), codes=bool(here.user.totp_secret), status=status, **data,
    )  # fmt: skip


@router.get(links.ACCOUNT)
def account_page(request: Request, app: AppServices, here: CurrentUser) -> Response:
    return _account(request, app, here)


@router.post("/account/password")
async def change_password(app: AppServices, here: CurrentUser, old: Text = "", new: Text = "") -> Response:
    await PASSWORDS.run(partial(app.accounts.change_password, here, old=old, new=new))
    return gone_to(links.ACCOUNT)


@router.post("/account/sessions/others/end")
def end_other_sessions(app: AppServices, here: CurrentUser) -> Response:
    app.accounts.end_other_sessions(here)
    return gone_to(links.ACCOUNT)


@router.post("/account/sessions/{session_id}/end")
def end_session(app: AppServices, here: CurrentUser, session_id: UUID) -> Response:
    app.accounts.end_session(here.user.id, session_id=session_id)
    return gone_to(links.SIGN_IN if session_id == here.id else links.ACCOUNT)


@router.get("/account/codes")
def offer_codes(request: Request, app: AppServices, here: CurrentUser) -> Response:
    """A new secret as a square to photograph; nothing is switched on yet."""
    secret, address = app.factors.offer(here)
    out = io.BytesIO()
    segno.make(address, error="m").save(out, kind="svg", scale=4, border=3, dark="#000", light="#fff", xmldecl=False)
    picture = "data:image/svg+xml;base64," + base64.b64encode(out.getvalue()).decode()
    spaced = " ".join(secret[i : i + 4] for i in range(0, len(secret), 4))
    return _account(request, app, here, offer={"secret": secret, "spaced": spaced, "picture": picture})


@router.post("/account/codes/on")
def codes_on(app: AppServices, here: CurrentUser, secret: Text = "", code: Text = "") -> Response:
    app.factors.switch_on(here, secret=secret, code=code.strip().replace(" ", ""))
    return gone_to(links.ACCOUNT)


@router.post("/account/codes/off")
def codes_off(app: AppServices, here: CurrentUser, code: Text = "") -> Response:
    app.factors.switch_off(here, code=code or " ")
    return gone_to(links.ACCOUNT)


@router.get("/account/passkeys")
def passkey_options(request: Request, app: AppServices, here: CurrentUser) -> Response:
    return Response(app.factors.begin_passkey(here, site=site(request)), media_type="application/json")


@router.post("/account/passkeys")
def add_passkey(request: Request, app: AppServices, here: CurrentUser, form: AnswerForm) -> Response:
    app.factors.add_passkey(here, answer=form.answer, name=form.name, site=site(request))
    return gone_to(links.ACCOUNT)


@router.post("/account/passkeys/remove")
def remove_passkey(app: AppServices, here: CurrentUser, key: Text = "") -> Response:
    try:
        credential_id = base64.urlsafe_b64decode(key)
    except (binascii.Error, ValueError):
        raise Refused("This passkey is not known. Reload the page.") from None
    app.factors.remove_passkey(here, credential_id=credential_id)
    return gone_to(links.ACCOUNT)


# ---- the studio


@router.get(links.STUDIO)
def studio_page(request: Request, app: AppServices, here: CurrentUser, link: str = "") -> Response:
    studio = here.user.studio_id
    return page(
        request, "studio.html", here, people=people_view.people(app.staff.people(studio), here),
        invitations=people_view.invitations(app.staff.invitations(studio)) if here.user.role is Role.OWNER else [],
        roles=WHAT_ROLES_MAY, usage=people_view.usage(app.studio.usage(studio)), grace_days=GRACE.days,
    )  # fmt: skip


def _told(request: Request, here: SignIn, address: str, words: str) -> Response:
    """A link that is shown once, as a piece of the page."""
    whole = str(request.base_url).rstrip("/") + address
    return page(request, "link_fragment.html", here, address=whole, words=words)


@router.post("/studio/invitations")
def invite(request: Request, app: AppServices, here: Owner, role: Text = "", note: Text = "") -> Response:
    token = app.staff.invite(here, role=role, note=note)
    words = "Give this link to whom you invite. It is shown only now, works once, and for seven days."
    return _told(request, here, links.join(token), words)


@router.post("/studio/invitations/{invitation_id}/take-back")
def take_back(app: AppServices, here: Owner, invitation_id: UUID) -> Response:
    app.staff.take_back(here, invitation_id=invitation_id)
    return gone_to(links.STUDIO)


@router.post("/studio/people/{user_id}/role")
def set_role(app: AppServices, here: Owner, user_id: UUID, role: Text = "") -> Response:
    app.staff.set_role(here, user_id=user_id, role=role)
    return gone_to(links.STUDIO)


@router.post("/studio/people/{user_id}/remove")
def remove_person(app: AppServices, here: Owner, user_id: UUID) -> Response:
    app.staff.remove(here, user_id=user_id)
    return gone_to(links.STUDIO)


@router.post("/studio/people/{user_id}/take-in")
def take_in(app: AppServices, here: Owner, user_id: UUID) -> Response:
    app.staff.take_in_again(here, user_id=user_id)
    return gone_to(links.STUDIO)


@router.post("/studio/people/{user_id}/new-password")
def prepare_password(request: Request, app: AppServices, here: Owner, user_id: UUID) -> Response:
    token = app.staff.reset_link(here.user.studio_id, user_id=user_id)
    words = "Give this link to that person alone. It is shown only now, works once within a day, and switches codes off."
    return _told(request, here, links.new_password(token), words)


@router.post("/studio/rename")
def rename_studio(app: AppServices, here: Owner, name: Text = "") -> Response:
    app.studio.rename(here.user.studio_id, name=name)
    return gone_to(links.STUDIO)


@router.post("/studio/limits")
def set_limits(
    app: AppServices, here: Owner, photo_gb: Annotated[float, Form()] = 0, final_gb: Annotated[float, Form()] = 0,
    states: Annotated[int, Form()] = 0,
) -> Response:  # fmt: skip
    app.studio.set_limits(here.user.studio_id, photo_gb=photo_gb, final_gb=final_gb, states=states)
    return gone_to(links.STUDIO)


@router.post("/studio/remove")
def remove_studio(app: AppServices, here: Owner, name: Text = "") -> Response:
    app.studio.remove(here.user.studio_id, typed_name=name, name=here.user.studio_name)
    return gone_to(links.STUDIO_REMOVED)


@router.get(links.STUDIO_REMOVED)
def removed_studio_page(request: Request, here: Anywhere) -> Response:
    check_role(here, Role.OWNER)
    if here.user.studio_deleted_at is None:
        return RedirectResponse(links.STUDIO, status_code=303)
    return page(request, "studio_removed.html", here, until=here.user.studio_deleted_at + GRACE)


@router.post("/studio/bring-back")
def bring_back_studio(app: AppServices, here: Anywhere) -> Response:
    check_role(here, Role.OWNER)
    app.studio.bring_back(here.user.studio_id)
    return gone_to(links.STUDIO)


# ---- who did what, and what was removed


@router.get(links.HISTORY)
def history_page(request: Request, app: AppServices, here: CurrentUser) -> Response:
    check_role(here, Role.ASSISTANT)
    events = people_view.events(app.studio.history(here.user.studio_id))
    return page(request, "history.html", here, events=events, shot=None, export=f"{links.HISTORY}.csv")


@router.get("/history.csv")
def history_file(app: AppServices, here: Maker) -> Response:
    headers = {"content-disposition": view.attachment(f"{here.user.studio_name} history", ".csv")}
    return Response(app.studio.history_csv(here.user.studio_id), media_type="text/csv", headers=headers)


@router.get("/shots/{shot_id}/history")
def shot_history_page(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    check_role(here, Role.ASSISTANT)
    shot = app.shots.open(here.user.studio_id, shot_id).shot
    events = people_view.events(app.studio.history(here.user.studio_id, shot_id=shot_id))
    return page(request, "history.html", here, events=events, shot=shot, export=links.shot_part(shot_id, "history.csv"))


@router.get("/shots/{shot_id}/history.csv")
def shot_history_file(app: AppServices, here: Maker, shot_id: UUID) -> Response:
    name = app.shots.open(here.user.studio_id, shot_id).shot.name
    headers = {"content-disposition": view.attachment(f"{name} history", ".csv")}
    return Response(app.studio.history_csv(here.user.studio_id, shot_id=shot_id), media_type="text/csv", headers=headers)


@router.get(links.REMOVED)
def removed_page(request: Request, app: AppServices, here: Maker) -> Response:
    studio = here.user.studio_id
    people = app.staff.removed(studio) if here.user.role is Role.OWNER else []
    return page(
        request, "removed.html", here, jobs=people_view.removed(app.jobs.removed(studio)),
        shots=people_view.removed(app.shots.removed(studio)), people=people, grace_days=GRACE.days,
    )  # fmt: skip
