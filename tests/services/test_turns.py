"""Quick pictures take turns: fair by studio and person, bounded, called off while they wait."""

import threading
import time
from collections import Counter

import pytest

from fotaxis.services.ports import Busy
from fotaxis.services.turns import MOST_OF_ONE, Turns


@pytest.fixture
def turns():
    made = Turns(threads=1)
    yield made
    made.close()


def hold(turns):
    """Keep the only thread until told."""
    begun, go = threading.Event(), threading.Event()

    def work():
        begun.set()
        go.wait(10)

    turns.ask("x", "x", work)
    begun.wait(5)
    return go


def test_results_and_errors_come_back(turns):
    assert turns.ask("a", "p", lambda: 7).result(5) == 7
    with pytest.raises(ZeroDivisionError):
        turns.ask("a", "p", lambda: 1 / 0).result(5)
    assert turns.ask("a", "p", lambda: 8).result(5) == 8


def test_studios_take_turns_and_people_of_one_studio_too(turns):
    go, order = hold(turns), []
    futures = [turns.ask("large", "one", lambda i=i: order.append(f"one{i}")) for i in range(4)]
    futures += [turns.ask("large", "two", lambda i=i: order.append(f"two{i}")) for i in range(2)]
    futures += [turns.ask("small", "three", lambda i=i: order.append(f"three{i}")) for i in range(2)]
    go.set()
    for future in futures:
        future.result(5)
    # By hand: studios in turn; in the large one its people in turn; each one's own wishes in their order.
    assert [name[:-1] in ("one", "two") for name in order[:4]] == [True, False, True, False]
    assert order.index("two0") < order.index("one1")
    assert [n for n in order if n.startswith("one")] == ["one0", "one1", "one2", "one3"]


def test_each_of_thirty_gets_as_much_as_any(turns):
    counts, ended = Counter(), time.monotonic() + 1.0
    threads = []

    def drag(person):
        while time.monotonic() < ended:
            turns.ask("studio", person, lambda: time.sleep(0.001)).result(5)
            counts[person] += 1

    for i in range(30):
        threads.append(threading.Thread(target=drag, args=(f"p{i}",)))
        threads[-1].start()
    for thread in threads:
        thread.join()
    middle = sorted(counts.values())[15]
    assert min(counts.values()) * 2 >= middle
    assert max(counts.values()) <= middle * 2


def test_too_many_of_one_person_are_refused_and_others_are_not(turns):
    go = hold(turns)
    futures = [turns.ask("a", "greedy", lambda: None) for _ in range(MOST_OF_ONE)]
    with pytest.raises(Busy, match="asked for again"):
        turns.ask("a", "greedy", lambda: None)
    other = turns.ask("a", "modest", lambda: 1)
    go.set()
    assert other.result(5) == 1
    for future in futures:
        future.result(5)
    assert turns.length == 0


def test_a_wish_that_nobody_waits_for_is_never_begun(turns):
    go, done = hold(turns), []
    futures = [turns.ask("a", "p", lambda i=i: done.append(i)) for i in range(3)]
    assert futures[0].cancel()
    assert futures[1].cancel()
    go.set()
    futures[2].result(5)
    assert done == [2]
