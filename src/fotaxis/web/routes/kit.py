"""What the studio owns: listed, searched, added by hand, taken in and out as CSV."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Form, Query, Request, UploadFile
from fastapi.responses import Response

from fotaxis.core.errors import DomainError, FormatError
from fotaxis.core.lights.kit import KINDS, piece
from fotaxis.formats import kit_csv
from fotaxis.services import kit as kits
from fotaxis.web import links
from fotaxis.web.auth import AppServices, CurrentUser, Maker
from fotaxis.web.responses import gone_to, page

router = APIRouter()

Text = Annotated[str, Form(max_length=80)]


@router.get(links.KIT)
def kit_page(
    request: Request, app: AppServices, here: CurrentUser, find: Annotated[str, Query(max_length=80)] = ""
) -> Response:
    own = app.kit.all(here.user.studio_id)
    shown = kits.found(own, find)
    by_kind = {kind: [one for one in shown if one.piece.kind == kind.key] for kind in KINDS.values()}
    return page(request, "kit.html", here, by_kind=by_kind, kinds=KINDS, find=find, count=len(own), shown=len(shown))


@router.post(links.KIT)
async def add_piece(request: Request, app: AppServices, here: Maker) -> Response:
    """One piece from the page's form: kind, name, count, and the fields of its kind."""
    form = {name: str(value)[:80] for name, value in (await request.form()).items()}
    try:
        made = piece(
            form.pop("kind", ""), form.pop("name", ""), form.pop("count", "1"),
            {name: value for name, value in form.items() if name in kit_csv.columns()},
        )  # fmt: skip
    except DomainError as error:
        raise FormatError(str(error)) from error
    app.kit.put(here.user.studio_id, made)
    return gone_to(f"{links.KIT}#{made.kind}")


@router.post(f"{links.KIT}/import")
def take_in(request: Request, app: AppServices, here: Maker, file: UploadFile) -> Response:
    """Rows of a CSV file; those that are none are told, each with its number, and the others are kept."""
    pieces, wrong = kit_csv.parse(file.file.read(kit_csv.MAX_BYTES + 1))
    app.kit.take_in(here.user.studio_id, pieces)
    return page(request, "kit_taken.html", here, taken=len(pieces), wrong=wrong)


@router.get(f"{links.KIT}.csv")
def export(app: AppServices, here: CurrentUser) -> Response:
    text = kit_csv.write(own.piece for own in app.kit.all(here.user.studio_id))
    return Response(text, media_type="text/csv", headers={"content-disposition": 'attachment; filename="kit.csv"'})


@router.post(f"{links.KIT}/{{piece_id}}/remove")
def remove(app: AppServices, here: Maker, piece_id: UUID) -> Response:
    app.kit.remove(here.user.studio_id, piece_id)
    return gone_to(links.KIT)
