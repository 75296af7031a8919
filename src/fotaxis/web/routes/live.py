"""Pictures while something is dragged, news of the shot, and who else is here: one WebSocket, newest wish first."""

from __future__ import annotations

import asyncio
from contextlib import suppress
from datetime import UTC, datetime
from functools import partial
from secrets import token_hex
from typing import Annotated, Any
from uuid import UUID

from anyio import to_thread
from fastapi import APIRouter, Query, WebSocket, WebSocketDisconnect
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from fotaxis.core.camera.camera import PREVIEW_SIDE
from fotaxis.core.errors import FotaxisError
from fotaxis.core.scene.plan import Plan
from fotaxis.formats.picture_files import jpeg
from fotaxis.formats.wording import fault_words
from fotaxis.services import wishes
from fotaxis.services.changes import applied
from fotaxis.services.ports import Busy, Document, NotFound, Role, SignIn, Unavailable
from fotaxis.services.shown import Shown
from fotaxis.web.auth import Services, same_origin, services
from fotaxis.web.routes.bench import ChangeForm, ViewForm
from fotaxis.web.views import bench as view

router = APIRouter()

MOST_MESSAGE = 20_000

AGAIN_S = 0.25
"""A wish that found the queue full is asked again after so long, unless a newer one came."""

HERE_EVERY_S = 8.0
SIGNED_OUT, NOT_HERE, TOO_ODD = 4401, 4404, 4400
MOST_ODD = 100


class LiveForm(BaseModel):
    """One wish: the shot at a revision with some changes on top, not kept; read: only what the line reads, by layer;
    judge: told, too, what becomes of the wishes."""

    model_config = ConfigDict(extra="forbid")
    seq: int
    revision: int
    changes: Annotated[list[ChangeForm], Field(max_length=40)] = []
    alone: Annotated[str, Field(max_length=60)] = ""
    black: bool = False
    read: bool = False
    judge: bool = False
    view: ViewForm = ViewForm()


class HoldsForm(BaseModel):
    """What the hand at this window holds: a thing's key, '' for nothing."""

    model_config = ConfigDict(extra="forbid")
    holds: Annotated[str, Field(max_length=60)]


class LiveSession:
    """What one window's socket remembers: the document of the revision it works on, and what its drag keeps."""

    def __init__(self, app: Services, studio_id: UUID, shot_id: UUID, hand: str) -> None:
        self._all, self._studio_id, self._shot_id = app, studio_id, shot_id
        self._revision = -1
        self._document: Document = {}
        self._plan = app.codec.follower()
        self._hand = hand
        self._drawn: dict[str, list[str]] = {}

    def answer(self, form: LiveForm) -> bytes:
        """Header and JPEG for one wish, or a header with the problem."""
        try:
            return self._picture(form)
        except (FotaxisError, NotFound, Unavailable) as error:
            return view.packed({"seq": form.seq, "problem": str(error)}, b"")

    def _picture(self, form: LiveForm) -> bytes:
        if form.revision != self._revision:
            opened = self._all.shots.open(self._studio_id, self._shot_id)
            self._document, self._revision = opened.document, opened.shot.revision
        document = applied(self._document, [c.change() for c in form.changes])
        plan = self._plan(document)
        line, shown = self._all.codec.line(document, plan), Shown(alone=form.alone, black=form.black)
        if form.read:
            self._all.screens.know(self._studio_id, plan, document)
            reading = self._all.pictures.read(plan, line, shown=shown)
            return view.packed({"seq": form.seq, "line": view.line_reading(reading)}, b"")
        picture, reading = self._all.pictures.preview(plan, line, shown=shown, long_side=PREVIEW_SIDE, hand=self._hand)
        header: dict[str, Any] = {
            "seq": form.seq,
            "line": view.line_reading(reading),
            **self._news(view.drawings(plan, form.view.view())),
            "thing": view.thing_held(plan, form.view.selected, form.view.unit),
        }
        if form.judge and document.get("wishes"):
            header["wishes"] = self._wishes(document, plan)
        return view.packed(header, jpeg(picture))

    def _wishes(self, document: Document, plan: Plan) -> list[dict[str, str]]:
        """What becomes of the wishes."""
        pictures, codec = self._all.pictures, self._all.codec
        named, readings = codec.wishes(document), codec.readings(document)
        values = pictures.named(plan, readings)
        whole = wishes.whole_for(named, lambda: pictures.whole(plan))
        return [one.told for one in wishes.judged_wishes(plan, named, readings, values, whole)]

    def _news(self, drawings: dict[str, Any]) -> dict[str, Any]:
        """Drawings with null for every piece that the window has from the last picture."""
        news = dict(drawings)
        for name in ("floor", "side"):
            pieces, last = drawings[name], self._drawn.get(name, [])
            if len(pieces) == len(last):
                news[name] = [None if a == b else a for a, b in zip(pieces, last, strict=True)]
            self._drawn[name] = pieces
        return news


class Line:
    """One window's socket while it is open."""

    def __init__(self, socket: WebSocket, app: Services, here: SignIn, shot_id: UUID, window: str) -> None:
        self._socket, self._all, self._here, self._shot_id = socket, app, here, shot_id
        self._number = token_hex(6)
        self._window = window
        self._holds = ""
        self._newest: asyncio.Queue[LiveForm] = asyncio.Queue(maxsize=1)
        self._heard: asyncio.Queue[dict[str, Any]] = asyncio.Queue(maxsize=200)
        self._session = LiveSession(app, here.user.studio_id, shot_id, self._number)
        self._sending = asyncio.Lock()

    async def run(self) -> None:
        loop, studio = asyncio.get_running_loop(), str(self._here.user.studio_id)

        def told(news: dict[str, Any]) -> None:
            if (
                news.get("kind") == "again"
                or news.get("shot") == str(self._shot_id)
                or news.get("session") == self._here.token_hash
                or (news.get("kind") == "progress" and news.get("studio") == studio)
            ):
                loop.call_soon_threadsafe(self._take, news)

        end_listening = await to_thread.run_sync(self._all.news.listen, told)
        tasks = [asyncio.create_task(part()) for part in (self._listen, self._paint, self._spread, self._expire, self._stay)]
        try:
            done, _ = await asyncio.wait(tasks, return_when=asyncio.FIRST_COMPLETED)
            for task in done:
                error = task.exception()
                if error is not None and not isinstance(error, WebSocketDisconnect | RuntimeError | NotFound):
                    raise error
        finally:
            end_listening()
            for task in tasks:
                task.cancel()
            self._all.pictures.let_go(self._number)
            # Not waited for: the request may have been called off, and then nothing can be.
            asyncio.get_running_loop().run_in_executor(None, self._all.news.tell, self._news("here", gone=True))

    def _take(self, news: dict[str, Any]) -> None:
        if self._heard.full():
            self._heard.get_nowait()
        self._heard.put_nowait(news)

    async def _send(self, data: bytes) -> None:
        async with self._sending:
            await self._socket.send_bytes(data)

    async def _listen(self) -> None:
        """Keep only the newest wish; older ones are out of date before they are painted."""
        odd = 0
        while odd < MOST_ODD:
            message = await self._socket.receive()
            if message["type"] == "websocket.disconnect":
                raise WebSocketDisconnect(message.get("code", 1000))
            text = message.get("text")
            if text is None or len(text) > MOST_MESSAGE:
                odd += 1
                await self._send(
                    view.packed({"seq": -1, "problem": "Only short messages of text are understood here."}, b"")
                )
                continue
            try:
                if '"holds"' in text and '"seq"' not in text:
                    self._holds = HoldsForm.model_validate_json(text).holds
                    await self._tell()
                    continue
                form = LiveForm.model_validate_json(text)
            except ValidationError as error:
                odd += 1
                await self._send(
                    view.packed({"seq": -1, "problem": f"Not understood: {fault_words(error.errors()[0])}"}, b"")
                )
                continue
            if self._newest.full():
                self._newest.get_nowait()
            self._newest.put_nowait(form)
        await self._socket.close(code=TOO_ODD)

    async def _paint(self) -> None:
        studio, person = str(self._here.user.studio_id), f"{self._here.user.id}/{self._number}"
        while True:
            form = await self._newest.get()
            while True:
                try:
                    answer = await asyncio.wrap_future(
                        self._all.turns.ask(studio, person, partial(self._session.answer, form))
                    )
                    break
                except Busy:
                    await asyncio.sleep(AGAIN_S)
                    if not self._newest.empty():
                        form = self._newest.get_nowait()
            await self._send(answer)

    async def _spread(self) -> None:
        """Tell the page what it should know: another state, somebody else here, the end of the sign-in."""
        revision = -1
        while True:
            news = await self._heard.get()
            kind = news.get("kind")
            if kind == "ended":
                await self._socket.close(code=SIGNED_OUT)
                return
            if kind == "again":
                with suppress(Unavailable):
                    news = {"kind": "shot", "revision": await to_thread.run_sync(
                        self._all.shots.revision_of, self._here.user.studio_id, self._shot_id)}  # fmt: skip
                    kind = "shot"
            if kind == "shot":
                if news["revision"] == -1:
                    await self._socket.close(code=NOT_HERE)
                    return
                if news["revision"] != revision:
                    revision = news["revision"]
                    await self._send(view.packed({"state": revision}, b""))
            elif kind == "progress":
                await self._send(view.packed({"progress": {"key": news["key"].split(":")[1], "done": news["done"]}}, b""))
            elif kind == "here?" and news.get("from") != self._number:
                await self._tell()
            elif kind == "here" and news.get("from") != self._number:
                shown = {name: news.get(name) for name in ("from", "who", "holds", "gone", "window")}
                await self._send(view.packed({"here": shown}, b""))

    async def _expire(self) -> None:
        """When the sign-in is over the socket closes; the page keeps what it has and waits."""
        left = (self._here.expires_at - datetime.now(UTC)).total_seconds()
        await asyncio.sleep(max(left, 0))
        await self._socket.close(code=SIGNED_OUT)

    async def _stay(self) -> None:
        await self._tell("here?")
        while True:
            await self._tell()
            await asyncio.sleep(HERE_EVERY_S)

    async def _tell(self, kind: str = "here") -> None:
        """Say to all windows of the shot, on whatever server, who is here and what they hold."""
        await to_thread.run_sync(self._all.news.tell, self._news(kind))

    def _news(self, kind: str, *, gone: bool = False) -> dict[str, Any]:
        return {
            "kind": kind, "shot": str(self._shot_id), "from": self._number, "window": self._window,
            "who": self._here.user.name, "holds": self._holds, "gone": gone,
        }  # fmt: skip


@router.websocket("/shots/{shot_id}/live")
async def live(socket: WebSocket, shot_id: UUID, window: Annotated[str, Query(max_length=40)] = "") -> None:
    app = services(socket)
    token = socket.session.get("token")
    try:
        here = await to_thread.run_sync(app.accounts.who, token)
        if here is None or not same_origin(socket) or socket.headers.get("origin") is None:
            await socket.close(code=SIGNED_OUT)
            return
        await to_thread.run_sync(app.shots.open, here.user.studio_id, shot_id)
    except NotFound:
        await socket.close(code=NOT_HERE)
        return
    except Unavailable:
        await socket.close(code=1013)
        return
    if here.user.studio_deleted_at is not None or not here.user.role.may(Role.ASSISTANT):
        await socket.close(code=NOT_HERE)
        return
    await socket.accept()
    await Line(socket, app, here, shot_id, window).run()
