"""The reckoner: a page of its own that also works without the server, and its answers for page and bench."""

from __future__ import annotations

import json
from typing import Annotated, Any, Literal
from uuid import UUID

from fastapi import APIRouter, Query, Request
from fastapi.responses import FileResponse, JSONResponse, Response
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from fotaxis.core.reckoner.asked import asked, described
from fotaxis.core.reckoner.numbers import LONGEST
from fotaxis.formats.wording import fault_words
from fotaxis.services.ports import Refused
from fotaxis.services.reckoning import TAKEABLE, chosen_light, reckoned_lines, shot_numbers
from fotaxis.web import links, reckoner_bundle
from fotaxis.web.auth import AppServices, CurrentUser, Helper
from fotaxis.web.middleware import POLICY
from fotaxis.web.responses import STATIC, page
from fotaxis.web.routes.bench import ViewForm, state_answer

router = APIRouter()

Name = Annotated[str, Field(max_length=40)]
Typed = Annotated[str, Field(max_length=LONGEST)]
Texts = Annotated[dict[Name, Typed], Field(max_length=24)]

WITH_PYTHON = {"content-security-policy": POLICY.replace("script-src 'self'", "script-src 'self' 'wasm-unsafe-eval'")}
"""The script that computes in the browser compiles Python's own machine; no other page may."""


class QuestionForm(BaseModel):
    """A question as the page asks it."""

    model_config = ConfigDict(extra="forbid")
    key: Name
    texts: Texts = {}
    unknown: Name = ""
    inches: bool = False
    step: Annotated[tuple[Name, Annotated[int, Field(ge=-100, le=100)]] | None, Field()] = None
    shot: Annotated[dict[Name, float | Typed], Field(max_length=60)] = {}


class TakeForm(BaseModel):
    """An answer to be taken: into the set, or onto its sheet alone; light: the one it is told of."""

    model_config = ConfigDict(extra="forbid")
    key: Name
    texts: Texts = {}
    unknown: Name = ""
    inches: bool = False
    light: Annotated[str, Field(max_length=60)] = ""
    into: Literal["set", "sheet"] = "set"
    view: ViewForm = ViewForm()


@router.get(links.RECKONER)
def reckoner(request: Request, here: CurrentUser) -> Response:
    """The page: the same for everybody and every shot, so that a browser may keep it; who looks and what shot it is, it asks."""
    addresses = {
        "answer": links.RECKONER_ANSWER, "core": reckoner_bundle.archive_address(), "compute": links.RECKONER_COMPUTE,
        "offline": links.RECKONER_OFFLINE, "python": f"/static/{reckoner_bundle.PYTHON}/", "session": links.SESSION,
    }  # fmt: skip
    return page(request, "reckoner.html", None, calculations=described(), addresses=addresses)


@router.get(links.RECKONER_CALCULATIONS)
def reckoner_calculations(here: CurrentUser) -> Response:
    return JSONResponse(described())


@router.get(links.RECKONER_ANSWER)
def reckoner_answer(here: CurrentUser, question: Annotated[str, Query(max_length=12_000)]) -> Response:
    try:
        form = QuestionForm.model_validate_json(question)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(step) for step in first["loc"])
        raise Refused(f"{where or 'The question'}: {fault_words(first)}.") from None
    return JSONResponse(asked(form.model_dump()))


@router.get(links.RECKONER_CORE)
def reckoner_core(here: CurrentUser) -> Response:
    """The modules that compute, for a browser that carries Python."""
    lasting = {"cache-control": "private, max-age=31536000, immutable"}
    return Response(reckoner_bundle.archive(), media_type="application/zip", headers=lasting)


@router.get(links.RECKONER_COMPUTE)
def reckoner_compute() -> Response:
    return FileResponse(STATIC / "js" / "reckoner" / "compute.js", media_type="text/javascript", headers=WITH_PYTHON)


@router.get(links.RECKONER_OFFLINE)
def reckoner_offline() -> Response:
    """The script that keeps the page: what to keep is told at its beginning, so that any change of it makes it anew."""
    kept = {"version": reckoner_bundle.version(), "page": links.RECKONER, "parts": reckoner_bundle.page_parts()}
    text = f"self.RECKONER = {json.dumps(kept)};\n" + (STATIC / "js" / "reckoner" / "offline.js").read_text()
    return Response(text, media_type="text/javascript", headers={"service-worker-allowed": links.RECKONER})


@router.get("/shots/{shot_id}/reckoner")
def numbers(
    app: AppServices, here: CurrentUser, shot_id: UUID, light: Annotated[str, Query(max_length=60)] = ""
) -> Response:
    """The numbers of a shot that calculations begin with, and those that stand on its sheet."""
    opened = app.shots.open(here.user.studio_id, shot_id)
    plan, document = app.codec.plan(opened.document), opened.document
    chosen = chosen_light(plan, light)
    return JSONResponse({
        "name": opened.shot.name, "numbers": shot_numbers(plan, document, app.kit.all(here.user.studio_id), selected=light),
        "light": chosen.name if chosen else "", "takeable": TAKEABLE,
        "reckoned": [{"key": one.key, "calculation": one.calculation, "name": one.name, "gives": one.gives, "unknown": one.unknown,
                      "texts": one.typed} for one in reckoned_lines(document)],
    })  # fmt: skip


@router.post("/shots/{shot_id}/reckoner")
def take(app: AppServices, here: Helper, shot_id: UUID, form: TakeForm) -> Response:
    studio = here.user.studio_id
    opened, words = app.reckoning.take(
        studio, shot_id, app.kit.all(studio), key=form.key, typed=form.texts, unknown=form.unknown, selected=form.light,
        inches=form.inches, into_set=form.into == "set",
    )  # fmt: skip
    more: dict[str, Any] = {
        "note": f"Taken: {words}. It stands on the set sheet." if words else "It stands on the set sheet."
    }
    return state_answer(app, opened, form.view, **more)
