"""Row bands in worker threads: the kernels release the interpreter lock."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import lru_cache
from typing import TypeVar

LEAST_BAND = 512

Done = TypeVar("Done")


@lru_cache(maxsize=1)
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(max_workers=os.cpu_count() or 1, thread_name_prefix="band")


def in_bands(work: Callable[[int, int], Done], count: int, *, least: int = LEAST_BAND) -> list[Done]:
    """Run work(first, last) over bands that cover 0..count, some per core and of at least `least`; results in order."""
    if count <= 0:
        return []
    cores = os.cpu_count() or 1
    size = max(least, -(-count // (4 * cores)))
    edges = [(a, min(a + size, count)) for a in range(0, count, size)]
    if len(edges) == 1:
        return [work(*edges[0])]
    return list(_pool().map(lambda e: work(*e), edges))
