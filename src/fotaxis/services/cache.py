"""Results that cost much, kept within a number of bytes."""

from __future__ import annotations

import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

import numpy as np

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")

FRESH_S = 4.0
"""What was used within so many seconds is in somebody's hand."""

MEASURE_S = 0.5
"""What may grow is measured again after so long."""


def bytes_of(thing: Any, seen: set[int] | None = None) -> int:
    """Bytes of all arrays and byte strings that hang on a thing, each counted once."""
    seen = set() if seen is None else seen
    if id(thing) in seen:
        return 0
    seen.add(id(thing))
    if isinstance(thing, np.ndarray):
        if isinstance(thing.base, np.ndarray):
            return bytes_of(thing.base, seen)
        return int(thing.nbytes)
    if isinstance(thing, bytes):
        return len(thing)
    if isinstance(thing, dict):
        return sum(bytes_of(value, seen) for value in list(thing.values()))
    if isinstance(thing, list | tuple | set):
        return sum(bytes_of(value, seen) for value in thing)
    names = list(getattr(thing, "__dict__", ()))
    names += [name for kind in type(thing).__mro__ for name in getattr(kind, "__slots__", ())]
    return sum(bytes_of(getattr(thing, name, None), seen) for name in names)


@dataclass(slots=True)
class _Entry(Generic[V]):
    value: V
    size: int
    used: float
    measured: float


class Kept(Generic[K, V]):
    """Keeps what was last asked for within `most_bytes`; two threads that ask at once may both make one.

    When there is more in use than fits, what is in use stays and the newcomer is made for this once: were each to push out
    another, all would be made anew all the time. grows: a kept thing may grow while it is used, so its size is looked at again.
    """

    def __init__(self, most_bytes: int, *, grows: bool = False, clock: Callable[[], float] = time.monotonic) -> None:
        self._most = most_bytes
        self._grows = grows
        self._clock = clock
        self._results: OrderedDict[K, _Entry[V]] = OrderedDict()
        self._bytes = 0
        self._lock = threading.Lock()

    @property
    def bytes(self) -> int:
        """What is kept now."""
        return self._bytes

    def get(self, key: K, make: Callable[[], V]) -> V:
        """The result kept under a key, else a new one."""
        found = self.peek(key)
        if found is not None:
            return found
        made = make()
        self.keep(key, made)
        return made

    def peek(self, key: K) -> V | None:
        """The result kept under a key; None without one."""
        with self._lock:
            entry = self._results.get(key)
            if entry is None:
                return None
            self._results.move_to_end(key)
            entry.used = self._clock()
            if self._grows and entry.used - entry.measured > MEASURE_S:
                entry.measured = entry.used
                size = bytes_of(entry.value)
                self._bytes += size - entry.size
                entry.size = size
                self._shrink(key)
            return entry.value

    def keep(self, key: K, value: V) -> None:
        """Keep a result where there is room, or what has not been used for a while can go."""
        size = bytes_of(value)
        with self._lock:
            self._drop(key)
            self._results[key] = _Entry(value, size, now := self._clock(), now)
            self._bytes += size
            self._shrink(key, newcomer=True)

    def _shrink(self, key: K, *, newcomer: bool = False) -> None:
        """Until it fits: what has rested goes, the oldest first; then the newcomer; without one, whatever was used longest ago."""
        now = self._clock()
        while self._bytes > self._most:
            oldest, entry = next(iter(self._results.items()))
            if oldest == key and len(self._results) == 1:
                if newcomer:
                    self._drop(key)
                return
            if newcomer and (oldest == key or now - entry.used < FRESH_S):
                self._drop(key)
                return
            self._drop(oldest if oldest != key else next(k for k in self._results if k != key))

    def _drop(self, key: K) -> None:
        entry = self._results.pop(key, None)
        if entry is not None:
            self._bytes -= entry.size

    def drop(self, key: K) -> None:
        """Let go of one result."""
        with self._lock:
            self._drop(key)

    def find(self, wanted: Callable[[K], bool]) -> V | None:
        """The newest result whose key is wanted; None where none is."""
        with self._lock:
            return next((self._results[key].value for key in reversed(self._results) if wanted(key)), None)
