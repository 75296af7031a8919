"""services.ports.News by PostgreSQL's LISTEN and NOTIFY: one connection of each process hears what happens in all of them."""

from __future__ import annotations

import json
import logging
import threading
from collections.abc import Callable
from typing import Any

import psycopg

from fotaxis.storage.database import limits, plain_url
from fotaxis.storage.rows import CHANNEL

log = logging.getLogger("fotaxis.news")

Told = Callable[[dict[str, Any]], None]
LOOK_S, AGAIN_S = 0.5, 1.0


class SqlNews:
    """Listens in a thread of its own from the first listener on, and begins anew when the line breaks."""

    def __init__(self, url: str) -> None:
        self._url = plain_url(url)
        self._listeners: dict[int, Told] = {}
        self._next = 0
        self._lock = threading.Lock()
        self._thread: threading.Thread | None = None
        self._ended = threading.Event()
        self._stands = threading.Event()
        self._telling = threading.Lock()
        self._teller: psycopg.Connection[Any] | None = None

    def listen(self, told: Told) -> Callable[[], None]:
        with self._lock:
            number, self._next = self._next, self._next + 1
            self._listeners[number] = told
            if self._thread is None:
                self._thread = threading.Thread(target=self._run, name="news", daemon=True)
                self._thread.start()
        self._stands.wait(2)

        def end() -> None:
            with self._lock:
                self._listeners.pop(number, None)

        return end

    def tell(self, news: dict[str, Any]) -> None:
        told = json.dumps(news, default=str)
        with self._telling:
            for _ in range(2):  # a line that was broken since the last time is opened anew
                try:
                    if self._teller is None:
                        self._teller = psycopg.connect(self._url, autocommit=True, **limits())  # type: ignore[arg-type]
                    self._teller.execute("select pg_notify(%s, %s)", (CHANNEL, told))
                    return
                except psycopg.Error:
                    if self._teller is not None:
                        self._teller.close()
                    self._teller = None
        log.warning("news could not be told: the database does not answer")

    def close(self) -> None:
        """Stop listening."""
        self._ended.set()
        if self._thread is not None:
            self._thread.join(5)
        with self._telling:
            if self._teller is not None:
                self._teller.close()
                self._teller = None

    def _spread(self, news: dict[str, Any]) -> None:
        with self._lock:
            listeners = list(self._listeners.values())
        for told in listeners:
            try:
                told(news)
            except Exception:
                log.exception("a listener failed")

    def _run(self) -> None:
        broken = False
        while not self._ended.is_set():
            try:
                with psycopg.connect(self._url, autocommit=True, **limits()) as line:  # type: ignore[arg-type]
                    line.execute(f"listen {CHANNEL}")
                    self._stands.set()
                    if broken:
                        self._spread({"kind": "again"})
                    while not self._ended.is_set():
                        for notice in line.notifies(timeout=LOOK_S):
                            self._spread(json.loads(notice.payload))
                            if self._ended.is_set():
                                return
            except psycopg.Error:
                broken = True
                self._ended.wait(AGAIN_S)
