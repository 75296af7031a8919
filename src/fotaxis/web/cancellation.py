"""Work whose answer somebody waits for: quick pictures in their turn, fine ones by workers. Nothing here holds a thread."""

from __future__ import annotations

import asyncio
from collections import Counter
from collections.abc import Callable
from functools import partial
from typing import Any, TypeVar
from uuid import UUID

from anyio import to_thread
from fastapi import Request

from fotaxis.services.ports import Busy, Document, SharedPicture, SignIn
from fotaxis.services.screens import Screens
from fotaxis.web.auth import Services

T = TypeVar("T")
ASK_EVERY_S = 0.15
LOOK_EVERY_S = 1.0
"""So often it is looked whether a picture is there, should news of it have been missed."""

LONGEST_S, PATIENT_S = 120.0, 25.0
"""The longest wait for a picture, and for a worker: one that has just been started takes a while on a machine that is busy."""


class Gone(Exception):
    """The browser does not wait any more; there is nobody to answer."""


async def drawn(request: Request, app: Services, here: SignIn | None, work: Callable[[], T], *, whose: str = "") -> T:
    """The result of work() in its turn among quick pictures. Raises Gone when the browser has gone meanwhile, Busy when too much
    waits already. whose: whom to count it for where nobody is signed in."""
    studio = str(here.user.studio_id) if here else whose
    future = app.turns.ask(studio, str(here.user.id) if here else whose, work)
    task = asyncio.ensure_future(asyncio.wrap_future(future))
    while not task.done():
        await asyncio.wait({task}, timeout=ASK_EVERY_S)
        if not task.done() and await request.is_disconnected():
            future.cancel()
            task.cancel()
            raise Gone
    return task.result()


_waiting: Counter[tuple[UUID, str]] = Counter()
"""How many requests of this process wait for a picture."""


async def shared_picture(request: Request, app: Services, studio_id: UUID, name: str, document: Document) -> SharedPicture:
    """A fine picture: at once where any process has had it made, else when a worker has. Raises Gone, and has it called off, when
    the browser has gone and nobody else here waits for it; Busy when no worker makes it in time."""
    screens: Screens = app.screens
    found = await to_thread.run_sync(screens.find, studio_id, name)
    if found is not None:
        return found
    loop, told = asyncio.get_running_loop(), asyncio.Event()

    def heard(news: dict[str, Any]) -> None:
        kind = news.get("kind")
        if kind == "again" or (kind == "picture" and news.get("key") == name):
            loop.call_soon_threadsafe(told.set)

    end_listening = await to_thread.run_sync(app.news.listen, heard)
    which = (studio_id, name)
    _waiting[which] += 1
    try:
        await to_thread.run_sync(screens.ask, studio_id, name, document)
        return await _until_made(request, screens, studio_id, name, document, told)
    except Gone:
        if _waiting[which] == 1:
            await to_thread.run_sync(screens.call_off, studio_id, name)
        raise
    finally:
        _waiting[which] -= 1
        if not _waiting[which]:
            del _waiting[which]
        end_listening()


async def _until_made(
    request: Request, screens: Screens, studio_id: UUID, name: str, document: Document, told: asyncio.Event
) -> SharedPicture:
    waited, look = 0.0, 0.0
    while waited < LONGEST_S:
        try:
            await asyncio.wait_for(told.wait(), ASK_EVERY_S)
        except TimeoutError:
            waited += ASK_EVERY_S
        if await request.is_disconnected():
            raise Gone
        if told.is_set() or waited - look >= LOOK_EVERY_S:
            told.clear()
            look = waited
            found = await to_thread.run_sync(screens.find, studio_id, name)
            if found is not None:
                return found
            if waited > PATIENT_S and not await to_thread.run_sync(screens.has_workers):
                raise Busy("No worker makes fine pictures just now: this is a quick one. Start one with ./run worker.")
            # Another process may have called it off, not knowing of us.
            await to_thread.run_sync(partial(screens.ask, studio_id, name, document))
    raise Busy("No worker has made this picture within two minutes. Start one with ./run worker, or try again.")
