"""The order of the shoot against every permutation of small plans, and its precedences on many random ones."""

import itertools
import random

import numpy as np
import pytest

from fotaxis.core.captures.clock import Took, clock_name, pace_of, reckoned_s, seconds_of, timetable
from fotaxis.core.captures.order import (
    BACK,
    LIFT,
    MOST_EXACT,
    Step,
    costs,
    keeps,
    length,
    must_precede,
    planned,
    precedence,
    touches,
)
from fotaxis.core.errors import DomainError, NoSolution

LIGHTS = ("left", "right", "glow", "label", "cap")
START = Step(key="now", lights={"left": -4.0, "right": -4.0})


def drawn(seed, count):
    """A random plan whose conditions cannot contradict each other: `after` names earlier steps that are no wetter."""
    rng = random.Random(seed)
    steps = []
    for i in range(count):
        on = rng.sample(LIGHTS, rng.randint(1, len(LIGHTS)))
        stage = rng.choice([0, 1, 1, 1, 2, 3])  # clean, poured, wet, splash
        earlier = [one.key for one in steps if one_stage(one) <= stage]
        steps.append(
            Step(
                key=f"s{i}", lights={key: -rng.randint(0, 18) / 3 for key in on},
                settings=(100.0, rng.choice([0.004, 0.5]), rng.choice([8.0, 11.3])), focus=rng.choice(["near", "far"]),
                polariser=rng.choice([None, 0.0]), away=frozenset(k for k in ("glass", "card") if rng.random() < 0.3),
                poured=stage > 0, wet=stage == 2, splash=stage == 3, opens=False,
                after=tuple(rng.sample(earlier, min(len(earlier), rng.choice([0, 0, 1])))),
            )
        )  # fmt: skip
    return steps


def one_stage(step):
    return 3 if step.splash else 2 if step.wet else 1 if step.poured else 0


@pytest.mark.parametrize("seed", range(40))
def test_no_order_of_few_steps_costs_less(seed):
    # Independent: every permutation, those that break a condition left out by the pairwise rule alone.
    steps = drawn(seed, 3 + seed % 5)
    cost = costs(steps, START)
    best = min(
        length(cost, order) for order in itertools.permutations(range(len(steps)))
        if not any(must_precede(steps[b], steps[a]) for i, a in enumerate(order) for b in order[i + 1 :])
    )  # fmt: skip
    found = planned(steps, START)
    assert found.exact
    assert found.cost == pytest.approx(best, abs=1e-9)


def test_no_order_ever_breaks_a_condition():
    for seed in range(1000):
        steps = drawn(seed, 2 + seed % 23)
        found = planned(steps, START)
        assert sorted(step.key for step in found.steps) == sorted(step.key for step in steps)
        for i, a in enumerate(found.steps):
            assert not any(must_precede(b, a) for b in found.steps[i + 1 :]), seed


def test_long_orders_are_within_a_twentieth_of_the_best():
    # The way for more than 15 steps, on plans small enough to know the best by trying all sets.
    from fotaxis.core.captures import order

    worst = 1.0
    for seed in range(60):
        steps = drawn(seed, 12)
        cost, before = costs(steps, START), precedence(steps)
        mended = order._mended(cost, before)
        assert keeps(before, mended)
        worst = max(worst, length(cost, mended) / planned(steps, START).cost)
    assert worst <= 1.05
    assert not planned(drawn(3, MOST_EXACT + 3), START).exact


def test_the_orders_of_the_trade():
    # Handbook's rules, common practice: black frame first, clean before poured, dry before wet, splash last, weakest light first.
    base = {"away": frozenset(), "focus": "aim"}
    steps = [
        Step(key="splash", lights={"left": -3.0}, splash=True, **base),
        Step(key="wet", lights={"left": -3.0}, wet=True, **base),
        Step(key="clean", lights={"left": -3.0}, poured=False, **base),
        Step(key="full", lights={"left": -3.0}, **base),
        Step(key="black", opens=True, poured=False, **base),
    ]
    assert [s.key for s in planned(steps, Step(key="now", poured=False)).steps] == [
        "black",
        "clean",
        "full",
        "wet",
        "splash",
    ]
    # Three lights, one at a time: the same touches in any order, so the weakest comes first.
    alone = [Step(key=k, lights={k: p}) for k, p in (("strong", -1.0), ("weak", -6.0), ("middle", -3.0))]
    assert [s.key for s in planned(alone, Step(key="now")).steps] == ["weak", "middle", "strong"]


def test_things_are_taken_away_one_by_one_and_not_brought_back():
    gone = [frozenset(), frozenset({"glass"}), frozenset({"glass", "card"})]
    steps = [Step(key=f"s{i}", lights={"left": -3.0}, away=away) for i, away in enumerate(gone)]
    found = planned([steps[2], steps[0], steps[1]], Step(key="now", lights={"left": -3.0}))
    assert [s.key for s in found.steps] == ["s0", "s1", "s2"]
    assert found.cost == pytest.approx(2 * LIFT)  # by hand: two things lifted, one after the other
    assert touches(steps[1], steps[0]).cost == BACK


def test_steps_of_one_focus_stand_together():
    # Four steps at two focuses: by hand one refocus at least, more when they alternate.
    steps = [Step(key=f"s{i}", lights={"left": -3.0}, focus=("near", "far")[i % 2]) for i in range(4)]
    found = planned(steps, Step(key="now", lights={"left": -3.0}, focus="near"))
    assert sum(t.focus for t in found.touches) == 1


def test_conditions_that_contradict_each_other_are_named():
    steps = [Step(key="a", after=("b",)), Step(key="b", after=("a",))]
    with pytest.raises(NoSolution, match="a and b must each be shot before the other"):
        planned(steps, START)
    assert planned([], START).steps == ()


def test_precedence_reaches_by_way_of_others():
    before = precedence([Step(key="a"), Step(key="b", after=("a",)), Step(key="c", after=("b",))])
    assert before[0, 2]
    assert not np.diag(before).any()


def test_times_follow_what_a_studio_took():
    # By hand: 45 + 25 x 2 + 10 + 4 x 3 s.
    assert reckoned_s(touch_cost=2, exposure_s=10, pops=5, recycle_s=3) == pytest.approx(117)
    assert pace_of([]) == 1.0
    assert pace_of([Took(reckoned_s=60, took_s=90)] * 2) == 1.0  # too few to tell
    assert pace_of([Took(reckoned_s=60, took_s=t) for t in (60, 90, 600)]) == pytest.approx(1.5)  # median
    slots = timetable([60, 120], begin_s=seconds_of("13:30"))
    assert [clock_name(s.begin_s) for s in slots] == ["13:30", "13:31"]
    assert clock_name(slots[-1].end_s) == "13:33"
    assert seconds_of("") is None
    for wrong in ("25:00", "noon", "12:61"):
        with pytest.raises(DomainError, match="write it as 14:05"):
            seconds_of(wrong)
    with pytest.raises(DomainError):
        reckoned_s(touch_cost=-1)
