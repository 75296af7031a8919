"""Pictures are given up when nobody waits for them any more."""

from __future__ import annotations

import asyncio
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import count

import pytest

from fotaxis.core.prediction.rest import GivenUp
from fotaxis.services.pictures import Pictures
from fotaxis.web.waiting import while_waited_for
from tests import scenes


def test_a_picture_nobody_wants_any_more_is_given_up_and_the_next_one_gets_its_turn():
    pictures, plan = Pictures(), scenes.plan()
    asked = count()
    with pytest.raises(GivenUp):
        pictures.fine_of(lambda: plan, long_side=60, wanted=lambda: next(asked) < 1)
    assert next(asked) == 2, "it went on after it was told to stop"
    assert pictures.fine_of(lambda: plan, long_side=60).layers.pictures.shape[1] == 60


def test_a_picture_that_waits_for_its_turn_is_given_up_too():
    pictures, plan = Pictures(), scenes.plan()

    def plan_of_the_first():
        with pytest.raises(GivenUp):
            pictures.fine_of(lambda: plan, long_side=60, wanted=lambda: False)
        return plan

    pictures.fine_of(plan_of_the_first, long_side=60)


@dataclass
class Asked:
    """A request whose browser goes away."""

    gone: bool

    async def is_disconnected(self) -> bool:
        return self.gone


@pytest.mark.parametrize("gone", [True, False])
def test_work_learns_that_its_browser_has_gone(gone):
    def work(wanted):
        for _ in range(100):
            if not wanted():
                return "stopped"
            time.sleep(0.01)
        return "finished"

    with ThreadPoolExecutor() as beside:  # a browser test may have left an event loop running in this thread
        answer = beside.submit(asyncio.run, while_waited_for(Asked(gone=gone), work)).result()
    assert answer == ("stopped" if gone else "finished")
