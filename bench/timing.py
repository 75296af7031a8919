"""Repeated timings and how they are printed."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable


def repeated_ms(work: Callable[[], object], *, times: int = 15, warm: int = 2) -> list[float]:
    """Wall-clock milliseconds of each run, after `warm` runs that do not count."""
    for _ in range(warm):
        work()
    taken = []
    for _ in range(times):
        began = time.perf_counter()
        work()
        taken.append(1000 * (time.perf_counter() - began))
    return taken


def high(values: list[float], share: float = 0.95) -> float:
    """The value that a share of all values does not exceed."""
    ordered = sorted(values)
    return ordered[min(len(ordered) - 1, int(share * len(ordered)))]


def line(name: str, values: list[float], *, wanted: str = "") -> str:
    """Median and 95th percentile in one printed line."""
    text = f"  {name:<52} median {statistics.median(values):8.1f} ms   95 % {high(values):8.1f} ms"
    return f"{text}   {wanted}".rstrip()
