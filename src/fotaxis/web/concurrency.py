"""Work that is dear for a moment: a few at once, some may wait, the rest is told to come again. Nobody who waits holds a thread."""

from __future__ import annotations

import asyncio
import weakref
from collections.abc import Callable
from typing import TypeVar

from anyio import CapacityLimiter, to_thread

from fotaxis.services.ports import Busy

T = TypeVar("T")


class Few:
    """Runs work in threads, at most `at_once`; Busy with `words` when `most_waiting` wait already."""

    def __init__(self, *, at_once: int, most_waiting: int, words: str) -> None:
        self._at_once, self._most_waiting, self._words = at_once, most_waiting, words
        self._waiting = 0
        self._limiters: weakref.WeakKeyDictionary[asyncio.AbstractEventLoop, CapacityLimiter] = weakref.WeakKeyDictionary()

    async def run(self, work: Callable[[], T]) -> T:
        if self._waiting >= self._most_waiting:
            raise Busy(self._words)
        self._waiting += 1
        try:
            limiter = self._limiters.setdefault(asyncio.get_running_loop(), CapacityLimiter(self._at_once))
            return await to_thread.run_sync(work, limiter=limiter)
        finally:
            self._waiting -= 1


PASSWORDS = Few(
    at_once=2, most_waiting=40, words="Too many people are signing in just now. Wait a few seconds and try again."
)
"""Each costs 64 MB while it is looked at."""

FILES = Few(
    at_once=2,
    most_waiting=12,
    words="Many files are being read just now. Wait a moment and send yours again; nothing was changed.",
)
"""Photographs and models: each is read by a process with up to 3 GB."""
