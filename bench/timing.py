"""Repeated timings and how they are printed."""

from __future__ import annotations

import statistics
import threading
import time
from collections.abc import Callable
from pathlib import Path


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


class Stolen:
    """Share of the processors' time that the host gave to other machines inside the block; 0 where it does not say."""

    def __enter__(self) -> Stolen:
        self._before = self._read()
        self.share = 0.0
        return self

    def __exit__(self, *_: object) -> None:
        stolen, total = (after - before for after, before in zip(self._read(), self._before, strict=True))
        self.share = stolen / total if total else 0.0

    @staticmethod
    def _read() -> tuple[int, int]:
        try:
            fields = [int(word) for word in Path("/proc/stat").read_text().splitlines()[0].split()[1:9]]
        except (OSError, ValueError, IndexError):
            return 0, 0
        return fields[7], sum(fields)


ADDITIONS = 20_000


class Pace:
    """How fast this machine's processors were inside the block, over the fastest they have been since the program began.

    A shared machine runs at half its speed for seconds or minutes. Measured by a little work every tenth of a second, in
    processor time, so that waiting for a turn does not count.
    """

    best = 0.0

    def __enter__(self) -> Pace:
        self.share = 0.0
        self._found: list[float] = []
        self._over = threading.Event()
        self._thread = threading.Thread(target=self._look, daemon=True)
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._over.set()
        self._thread.join()
        self.share = statistics.mean(self._found) / Pace.best

    def _look(self) -> None:
        while True:
            began = time.thread_time()
            sum(i for i in range(ADDITIONS))
            self._found.append(1 / (time.thread_time() - began))
            Pace.best = max(Pace.best, self._found[-1])
            if self._over.wait(0.1):
                return
