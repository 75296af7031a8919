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
        try:
            with psycopg.connect(self._url, autocommit=True, **limits()) as line:  # type: ignore[arg-type]
                line.execute("select pg_notify(%s, %s)", (CHANNEL, json.dumps(news, default=str)))
        except psycopg.Error:
            log.warning("news could not be told: the database does not answer")

    def close(self) -> None:
        """Stop listening."""
        self._ended.set()
        if self._thread is not None:
            self._thread.join(5)

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
