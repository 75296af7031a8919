"""Pictures while something is dragged: one WebSocket, newest wish first, binary answers."""

from __future__ import annotations

import asyncio
from typing import Annotated, Any
from uuid import UUID

from anyio import to_thread
from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from fotaxis.core.errors import FotaxisError
from fotaxis.core.prediction.drag import Drag
from fotaxis.formats.picture_files import jpeg
from fotaxis.services.changes import applied
from fotaxis.services.pictures import Shown
from fotaxis.services.ports import Document, NotFound
from fotaxis.web.guard import Services, same_origin, services
from fotaxis.web.routes.bench import ChangeForm, ViewForm
from fotaxis.web.views import bench as view

router = APIRouter()

DRAFT_SIDE = 400
MOST_MESSAGE = 20_000
LOOK_EVERY_S = 0.7
"""So often a window's socket looks whether the shot has changed elsewhere."""


class LiveForm(BaseModel):
    """One wish: the shot at a revision with some changes on top, not kept; read: only what the line reads, by layer."""

    model_config = ConfigDict(extra="forbid")
    seq: int
    revision: int
    changes: Annotated[list[ChangeForm], Field(max_length=40)] = []
    alone: Annotated[str, Field(max_length=60)] = ""
    black: bool = False
    read: bool = False
    view: ViewForm = ViewForm()


class LiveSession:
    """What one window's socket remembers: the document of the revision it works on, and what its drag keeps."""

    def __init__(self, all_: Services, studio_id: UUID, shot_id: UUID) -> None:
        self._all, self._studio_id, self._shot_id = all_, studio_id, shot_id
        self._revision = -1
        self._document: Document = {}
        self._plan = all_.codec.follower()
        self._drag = Drag()
        self._drawn: dict[str, list[str]] = {}

    def answer(self, message: str) -> bytes:
        """Header and JPEG for one wish, or a header with the problem."""
        try:
            form = LiveForm.model_validate_json(message)
        except ValidationError as error:
            return view.packed({"seq": -1, "problem": f"not understood: {error.errors()[0]['msg']}"}, b"")
        try:
            return self._picture(form)
        except (FotaxisError, NotFound) as error:
            return view.packed({"seq": form.seq, "problem": str(error)}, b"")

    def _picture(self, form: LiveForm) -> bytes:
        if form.revision != self._revision:
            opened = self._all.shots.open(self._studio_id, self._shot_id)
            self._document, self._revision = opened.document, opened.shot.revision
        document = applied(self._document, [c.change() for c in form.changes])
        plan = self._plan(document)
        line = self._all.codec.line(document)
        if form.read:
            return view.packed({"seq": form.seq, "line": view.line_reading(self._all.pictures.read(plan, line))}, b"")
        shown = Shown(alone=form.alone, black=form.black)
        picture, reading = self._all.pictures.follow(plan, line, shown=shown, long_side=DRAFT_SIDE, drag=self._drag)
        header: dict[str, Any] = {
            "seq": form.seq,
            "line": view.line_reading(reading),
            **self._news(view.drawings(plan, form.view.view())),
            "thing": view.thing_held(plan, form.view.selected, form.view.unit),
        }
        return view.packed(header, jpeg(picture))

    def _news(self, drawings: dict[str, Any]) -> dict[str, Any]:
        """Drawings with null for every piece that the window has from the last picture."""
        news = dict(drawings)
        for name in ("floor", "side"):
            pieces, last = drawings[name], self._drawn.get(name, [])
            if len(pieces) == len(last):
                news[name] = [None if a == b else a for a, b in zip(pieces, last, strict=True)]
            self._drawn[name] = pieces
        return news


@router.websocket("/shots/{shot_id}/live")
async def live(socket: WebSocket, shot_id: UUID) -> None:
    all_ = services(socket)
    token = socket.session.get("token")
    here = await to_thread.run_sync(all_.accounts.who, token)
    if here is None or not same_origin(socket) or socket.headers.get("origin") is None:
        await socket.close(code=4401)
        return
    try:
        await to_thread.run_sync(all_.shots.open, here.user.studio_id, shot_id)
    except NotFound:
        await socket.close(code=4404)
        return
    await socket.accept()
    session = LiveSession(all_, here.user.studio_id, shot_id)
    newest: asyncio.Queue[str] = asyncio.Queue(maxsize=1)

    async def listen() -> None:
        """Keep only the newest wish; older ones are out of date before they are painted."""
        while True:
            message = await socket.receive_text()
            if len(message) > MOST_MESSAGE:
                continue
            if newest.full():
                newest.get_nowait()
            newest.put_nowait(message)

    async def paint() -> None:
        while True:
            message = await newest.get()
            await socket.send_bytes(await to_thread.run_sync(session.answer, message))

    async def watch() -> None:
        """Tell the page when the shot has changed, in whatever window or server."""
        told = await to_thread.run_sync(all_.shots.revision_of, here.user.studio_id, shot_id)
        while True:
            await asyncio.sleep(LOOK_EVERY_S)
            number = await to_thread.run_sync(all_.shots.revision_of, here.user.studio_id, shot_id)
            if number != told:
                told = number
                await socket.send_bytes(view.packed({"state": number}, b""))

    tasks = [asyncio.create_task(listen()), asyncio.create_task(paint()), asyncio.create_task(watch())]
    try:
        done, _ = await asyncio.wait(tasks, return_when=asyncio.FIRST_EXCEPTION)
        for task in done:
            error = task.exception()
            if error is not None and not isinstance(error, WebSocketDisconnect | RuntimeError | NotFound):
                raise error
    finally:
        for task in tasks:
            task.cancel()
