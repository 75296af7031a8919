"""Quick pictures take turns: a bounded queue, fair by studio and then by person, with threads of its own.

Pages and saves never stand in it. Whoever waits holds no thread.
"""

from __future__ import annotations

import os
import threading
from collections import deque
from collections.abc import Callable
from concurrent.futures import Future
from dataclasses import dataclass
from typing import Any, TypeVar

from fotaxis.services.ports import Busy

T = TypeVar("T")

MOST_WAITING = 400
MOST_OF_ONE = 24
"""So many wishes of one person may wait at once: a page of small pictures asks for about as many."""


@dataclass(slots=True)
class _Turn:
    future: Future[Any]
    work: Callable[[], Any]


class Turns:
    """Runs wishes for pictures, at most `threads` at once."""

    def __init__(self, threads: int | None = None, *, not_ready: Callable[[], str] = lambda: "") -> None:
        """not_ready: why no picture can be made yet, "" when one can."""
        self._not_ready = not_ready
        self._waiting: dict[str, dict[str, deque[_Turn]]] = {}
        self._served: dict[str, int] = {}
        self._clock = 0
        self._count = 0
        self._lock = threading.Condition()
        self._threads = threads or max(1, os.cpu_count() or 1)
        self._started = 0
        self._ended = False

    @property
    def length(self) -> int:
        """How many wishes wait."""
        return self._count

    def ask(self, studio: str, person: str, work: Callable[[], T]) -> Future[T]:
        """Put a wish in the queue. Raises Busy when too many of this person, or of all, wait already, or none can be met yet."""
        if words := self._not_ready():
            raise Busy(words)
        future: Future[T] = Future()
        with self._lock:
            own = self._waiting.setdefault(studio, {}).setdefault(person, deque())
            while own and own[0].future.cancelled():
                own.popleft()
                self._count -= 1
            if len(own) >= MOST_OF_ONE or self._count >= MOST_WAITING:
                raise Busy(
                    "More pictures are being asked for than can be made just now. This one is asked for again in a moment."
                )
            own.append(_Turn(future, work))
            self._count += 1
            if self._started < self._threads:
                self._started += 1
                threading.Thread(target=self._work, name=f"picture-{self._started}", daemon=True).start()
            self._lock.notify()
        return future

    def close(self) -> None:
        """No more wishes are begun."""
        with self._lock:
            self._ended = True
            self._lock.notify_all()

    def _next(self) -> _Turn | None:
        """The oldest wish of the person served longest ago, of the studio served longest ago."""
        if not self._count:
            return None
        studio = min(self._waiting, key=lambda s: self._served.get(s, 0))
        people = self._waiting[studio]
        person = min(people, key=lambda p: self._served.get(f"{studio}/{p}", 0))
        turn = people[person].popleft()
        self._count -= 1
        self._clock += 1
        self._served[studio] = self._served[f"{studio}/{person}"] = self._clock
        if not people[person]:
            del people[person]
        if not people:
            del self._waiting[studio]
        if len(self._served) > 10_000:
            self._served = {k: v for k, v in self._served.items() if self._clock - v < 5_000}
        return turn

    def _work(self) -> None:
        while True:
            with self._lock:
                while not self._count and not self._ended:
                    self._lock.wait()
                if self._ended:
                    return
                turn = self._next()
                if turn is None or not turn.future.set_running_or_notify_cancel():
                    continue
            try:
                turn.future.set_result(turn.work())
            except BaseException as error:
                turn.future.set_exception(error)
