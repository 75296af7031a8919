"""Row bands in worker threads: the kernels release the interpreter lock."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from functools import lru_cache
from typing import TypeVar

LEAST_BAND = 512

CANCELLABLE_BANDS = 6
"""Where somebody may call the work off, it is cut into so many times more bands: between two of them it is asked."""

Done = TypeVar("Done")


class RenderCancelled(Exception):
    """Nobody wants the work any more."""


CORES = os.cpu_count() or 1
_here = threading.local()


@contextmanager
def beside_a_page() -> Iterator[None]:
    """Inside, this thread's bands use half of the processors at most: the page that shows the pictures needs the others.

    Where all are busy anyway, handing work from thread to thread only costs: a tenth of a picture on two processors.
    """
    before = getattr(_here, "most", CORES)
    _here.most = max(1, CORES // 2)
    try:
        yield
    finally:
        _here.most = before


@contextmanager
def cancellable(wanted: Callable[[], bool]) -> Iterator[None]:
    """Inside, this thread's bands raise RenderCancelled between two of them once wanted() says no."""
    before = getattr(_here, "wanted", None)
    _here.wanted = wanted
    try:
        yield
    finally:
        _here.wanted = before


@lru_cache(maxsize=1)
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(max_workers=CORES, thread_name_prefix="band")


def in_bands(work: Callable[[int, int], Done], count: int, *, least: int = LEAST_BAND) -> list[Done]:
    """Run work(first, last) over bands that cover 0..count, some per core and of at least `least`; results in order.

    The calling thread works too: a hundred small calls a second pay for no thread that must wake up first. Bands within a band are
    one: its thread does them alone.
    """
    if count <= 0:
        return []
    most, wanted = getattr(_here, "most", CORES), getattr(_here, "wanted", None)
    if getattr(_here, "in_band", False) or (most == 1 and wanted is None):
        return [work(0, count)]
    size = max(least, -(-count // (3 * most * (CANCELLABLE_BANDS if wanted else 1))))
    edges = [(a, min(a + size, count)) for a in range(0, count, size)]
    if wanted is not None and not wanted():
        raise RenderCancelled
    if len(edges) == 1:
        return [work(*edges[0])]
    done: dict[int, Done] = {}
    turns = iter(range(len(edges)))

    def share() -> None:
        _here.in_band = True
        try:
            for i in turns:  # the interpreter lock gives each number to one thread
                if wanted is not None and not wanted():
                    raise RenderCancelled
                done[i] = work(*edges[i])
        finally:
            _here.in_band = False

    others = [_pool().submit(share) for _ in range(min(most, len(edges)) - 1)]
    share()
    for other in others:
        if not other.cancel():
            other.result()
    return [done[i] for i in range(len(edges))]
