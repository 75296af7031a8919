"""What is kept stays within its bytes, and what is in use is not pushed out by newcomers."""

from dataclasses import dataclass

import numpy as np

from fotaxis.services.cache import FRESH_S, Kept, bytes_of

MB = 1_000_000


@dataclass
class Thing:
    first: np.ndarray
    more: dict


def test_bytes_are_counted_truly_and_once():
    array = np.zeros(MB, np.uint8)
    assert bytes_of(array) == MB
    assert bytes_of([array, array[10:], {"a": array}]) == MB  # views and repeats are the same bytes
    assert bytes_of(Thing(array, {"x": (np.zeros(10), b"abc")})) == MB + 83


class Clock:
    now = 0.0

    def __call__(self):
        return self.now


def kept(most, **more):
    clock = Clock()
    return Kept(most, clock=clock, **more), clock


def test_the_oldest_goes_when_room_is_needed():
    store, clock = kept(3 * MB)
    for key in "abc":
        store.get(key, lambda: np.zeros(MB, np.uint8))
        clock.now += FRESH_S + 1
    store.peek("a")
    clock.now += FRESH_S + 1
    store.get("d", lambda: np.zeros(MB, np.uint8))
    assert store.peek("b") is None  # used longest ago
    assert store.peek("a") is not None
    assert store.bytes == 3 * MB


def test_what_is_in_use_is_not_pushed_out_by_what_does_not_fit():
    # Five hands in turn on room for three: three of them are served from what is kept every time.
    store, clock = kept(3 * MB)
    made = []
    for _ in range(10):
        for key in "abcde":
            store.get(key, lambda key=key: made.append(key) or np.zeros(MB, np.uint8))
            clock.now += 0.1
    assert made.count("a") == made.count("b") == made.count("c") == 1
    assert store.bytes <= 3 * MB


def test_what_grows_is_measured_again():
    store, clock = kept(3 * MB, grows=True)
    thing = store.get("a", lambda: {"x": np.zeros(MB, np.uint8)})
    store.get("b", lambda: np.zeros(MB, np.uint8))
    clock.now += FRESH_S + 1
    thing["y"] = np.zeros(2 * MB, np.uint8)
    store.peek("a")
    assert store.bytes == 3 * MB
    assert store.peek("b") is None


def test_something_larger_than_all_room_is_made_and_not_kept():
    store, _ = kept(MB)
    assert len(store.get("a", lambda: np.zeros(2 * MB, np.uint8))) == 2 * MB
    assert store.bytes == 0
