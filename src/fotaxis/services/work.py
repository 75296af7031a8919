"""What a worker does: take the next piece of work, hold it while it lives, do it, and give it up when nobody wants it any more.

A piece belongs to a worker for a few seconds at a time. One that dies, or is cut off from the database, holds nothing any more,
and another takes the piece from the start. A piece that has ended its workers too often is set aside.
"""

from __future__ import annotations

import logging
import secrets
import threading
import time
from collections.abc import Callable, Mapping
from datetime import timedelta
from typing import Any, Protocol

from fotaxis.services.ports import Clock, Database, Lane, News, Unavailable, Work

log = logging.getLogger("fotaxis.work")

HOLD = timedelta(seconds=8)
RENEW_S = 2.0
ALIVE = timedelta(seconds=10)
MOST_ATTEMPTS = 3
LOOK_S = 2.0
"""So often a worker looks for work that it was not told of."""

SWEEP_S = 600.0
AGAIN_S = 1.0


class Maker(Protocol):
    """Does one kind of work."""

    def make(self, work: Work, wanted: Callable[[], bool]) -> None:
        """Do it; stop soon once wanted() says no. May be done twice."""
        ...

    def set_aside(self, work: Work) -> None: ...
    def fault(self, work: Work, number: str) -> None: ...


class Worker:
    """Takes pieces of one lane, one at a time."""

    def __init__(
        self, database: Database, news: News, makers: Mapping[str, Maker], *, lane: Lane, name: str, clock: Clock,
        sweep: Callable[[], None] = lambda: None, after: Callable[[], None] = lambda: None,
    ) -> None:  # fmt: skip
        """sweep: called now and then; after: called when a piece is done."""
        self._database, self._news, self._makers, self._clock = database, news, makers, clock
        self._lane, self._name, self._sweep, self._after = lane, name, sweep, after
        self._wake = threading.Event()
        self._ended = threading.Event()
        self._doing: Work | None = None
        self._wanted = True

    def stop(self) -> None:
        """End after the present piece, which is given back to be done by another."""
        self._ended.set()
        self._wake.set()
        self._wanted = False

    def run(self, *, until_empty: bool = False) -> None:
        """Work until stopped, or until there is nothing left."""
        end_listening = self._news.listen(self._heard)
        beat = threading.Thread(target=self._beat, name="heartbeat", daemon=True)
        beat.start()
        swept = 0.0
        try:
            while not self._ended.is_set():
                try:
                    if time.monotonic() - swept > SWEEP_S:
                        self._sweep()
                        swept = time.monotonic()
                    work = self._claim()
                except Unavailable:
                    self._ended.wait(AGAIN_S)
                    continue
                if work is not None:
                    self._do(work)
                elif until_empty:
                    return
                else:
                    self._wake.wait(LOOK_S)
                    self._wake.clear()
        finally:
            self._ended.set()
            end_listening()
            beat.join(RENEW_S + 1)
            self._forget()

    def _claim(self) -> Work | None:
        now = self._clock()
        with self._database.transaction() as repo:
            work = repo.claim_work(lane=self._lane, worker=self._name, now=now, until=now + HOLD)
            self._doing, self._wanted = work, True
            return work

    def _do(self, work: Work) -> None:
        maker = self._makers[work.kind]
        try:
            if work.attempts > MOST_ATTEMPTS:
                maker.set_aside(work)
            else:
                self._make(maker, work)
            if self._ended.is_set() and not self._wanted:
                self._until_done(lambda: self._release(work))
                return
            if self._wanted:
                self._until_done(lambda: self._end(work))
        except Unavailable:
            log.warning("the database went away while %s %s was made; it is made again", work.kind, work.ref)
        finally:
            self._doing = None
            self._after()

    def _make(self, maker: Maker, work: Work) -> None:
        try:
            maker.make(work, lambda: self._wanted)
        except Unavailable:
            raise
        except Exception:
            number = secrets.token_hex(4)
            log.exception("fault %s while making %s %s", number, work.kind, work.ref)
            maker.fault(work, number)

    def _until_done(self, done: Callable[[], None]) -> None:
        """Tell the database as soon as it is there again; a worker that is to end does not wait for that: what it held falls free by
        itself when its claim runs out."""
        while True:
            try:
                return done()
            except Unavailable:
                if self._ended.is_set():
                    return None
                time.sleep(AGAIN_S)

    def _end(self, work: Work) -> None:
        with self._database.transaction() as repo:
            repo.end_work(work.id)

    def _release(self, work: Work) -> None:
        with self._database.transaction() as repo:
            repo.release_work(work.id, worker=self._name)

    def _heard(self, news: dict[str, Any]) -> None:
        kind = news.get("kind")
        if kind == "dropped" and self._doing is not None and news.get("work") == str(self._doing.id):
            self._wanted = False
        elif kind == "again" or (kind == "work" and news.get("lane") == self._lane.value):
            self._wake.set()

    def _beat(self) -> None:
        """Every two seconds: here I am, and what I do is still mine."""
        while True:
            try:
                now, doing = self._clock(), self._doing
                with self._database.transaction() as repo:
                    repo.see_worker(self._name, lane=self._lane, at=now)
                    held = doing is None or repo.hold_work(doing.id, worker=self._name, until=now + HOLD)
                if not held and self._doing is doing:
                    self._wanted = False
            except Unavailable:
                pass  # what is being made goes on; if another took it meanwhile, that shows when the database is back
            except Exception:
                log.exception("the heartbeat failed")
            if self._ended.wait(RENEW_S):
                return

    def _forget(self) -> None:
        try:
            with self._database.transaction() as repo:
                repo.forget_worker(self._name)
        except Unavailable:
            return
