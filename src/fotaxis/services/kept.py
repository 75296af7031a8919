"""The last few results of something that costs much."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


class Kept(Generic[K, V]):
    """Keeps the `most` results that were last asked for. Two threads that ask at once may both make one."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._results: OrderedDict[K, V] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, key: K, make: Callable[[], V]) -> V:
        """The result kept under a key, else a new one."""
        with self._lock:
            if key in self._results:
                self._results.move_to_end(key)
                return self._results[key]
        made = make()
        with self._lock:
            self._results[key] = made
            while len(self._results) > self._most:
                self._results.popitem(last=False)
        return made

    def find(self, wanted: Callable[[K], bool]) -> V | None:
        """The newest result whose key is wanted; None where none is."""
        with self._lock:
            return next((self._results[key] for key in reversed(self._results) if wanted(key)), None)
