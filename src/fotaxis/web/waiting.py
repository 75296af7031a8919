"""Work in a thread for as long as somebody waits for its answer."""

from __future__ import annotations

import asyncio
import threading
from collections.abc import Callable
from typing import TypeVar

from anyio import to_thread
from fastapi import Request

T = TypeVar("T")
ASK_EVERY_S = 0.2


async def while_waited_for(request: Request, work: Callable[[Callable[[], bool]], T]) -> T:
    """The result of work(wanted) in a thread; wanted() says no once the browser has gone or called the request off."""
    gone = threading.Event()
    task = asyncio.create_task(to_thread.run_sync(work, lambda: not gone.is_set()))
    while not task.done():
        await asyncio.wait({task}, timeout=ASK_EVERY_S)
        if not gone.is_set() and await request.is_disconnected():
            gone.set()
    return task.result()
