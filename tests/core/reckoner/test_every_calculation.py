"""What holds for every calculation: it is solved both ways round, refuses what cannot be, says where it is from, and "
"draws."""

import json
import math
from types import SimpleNamespace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.errors import DomainError, NoSolution
from fotaxis.core.reckoner.answer import answer
from fotaxis.core.reckoner.asked import asked, calculation_of, described, from_shot
from fotaxis.core.reckoner.calculation import GROUPS
from fotaxis.core.reckoner.calculations import CALCULATION, CALCULATIONS
from fotaxis.core.reckoner.calculations.stops_between import BURNING
from fotaxis.core.reckoner.unit import Choice, Clock, Date, Listed

EACH = pytest.mark.parametrize("one", CALCULATIONS, ids=lambda one: one.key)
QUESTIONS = [(one, unknown) for one in CALCULATIONS for unknown in one.unknowns]
EACH_QUESTION = pytest.mark.parametrize(
    ("one", "unknown"), QUESTIONS, ids=[f"{one.key}/{unknown}" for one, unknown in QUESTIONS]
)

ONE_WAY = {
    # whole frames and passes: more than asked, see test_lens and test_time
    ("focus-stack", "frames"),
    ("light-painting", "passes"),
    # the sun has each height twice a day, see test_set; many times have the same flicker, see test_time
    ("sun", "clock"),
    ("sun", "height"),
    ("flicker", "shutter"),
    # what one more head must give is not among those that are summed up, see test_light
    ("heads-together", "total"),
    ("heads-together", "more"),
}


def usual(one, seed=None):
    """Values of every field that is not asked: as usual, or all lengths, times and angles changed by up to a fifth."""
    random = np.random.default_rng(seed)
    values = {}
    for quantity in one.asks:
        value = quantity.read(quantity.usual)
        loose = not (
            isinstance(value, tuple | str)
            or quantity.unit.whole
            or isinstance(quantity.unit, Choice | Listed | Clock | Date)
        )
        if seed is not None and loose and value:
            value = min(max(value * random.uniform(0.85, 1.15), quantity.low), quantity.high)
        values[quantity.name] = value
    return {**values, "light": BURNING} if one.key == "stops" else values


def solved(one, unknown, values):
    """The value of an unknown by all others; None where there is none that can be."""
    known = {name: None if name in one.idle.get(unknown, ()) else value for name, value in values.items() if name != unknown}
    try:
        value = one.unknowns[unknown](SimpleNamespace(**known))
    except (DomainError, NoSolution):
        return None
    quantity = one.by_name[unknown]
    return value if quantity.low <= value <= quantity.high else None


@EACH_QUESTION
def test_solved_the_other_way_round_every_number_comes_back(one, unknown):
    if (one.key, unknown) in ONE_WAY:
        pytest.skip("a whole number, or one of several answers")
    checked = 0
    for seed in range(12):
        values = usual(one, seed)
        value = solved(one, unknown, values)
        if value is None or not math.isfinite(value):
            continue
        whole = {**values, unknown: value}
        others = [
            name
            for name in one.unknowns
            if name != unknown and (one.key, name) not in ONE_WAY and unknown not in one.idle.get(name, ())
        ]
        for other in others:
            found = one.unknowns[other](SimpleNamespace(**{n: v for n, v in whole.items() if n != other}))
            assert found == approx(whole[other], rel=1e-6, abs=1e-9), (unknown, other, values)
        checked += 1
    assert checked >= 3


@EACH_QUESTION
def test_the_usual_numbers_have_an_answer_in_words_and_a_picture(one, unknown):
    found = answer(one, {}, unknown=unknown)
    if (one.key, unknown) == ("stops", "new_shutter"):
        assert "does not heed the shutter" in found.problem
        return
    assert not found.problem
    assert found.gives[0].name == unknown
    assert found.sentence.startswith(one.by_name[unknown].words)
    assert all(shown.text and "nan" not in shown.text for shown in found.gives)
    told = json.loads(json.dumps(found.told(), allow_nan=False))
    assert told["picture"]["kind"] in ("scale", "curve", "view")
    _drawable(told["picture"])


def _drawable(picture):
    """Every number of a picture is one, and there is something to see."""
    if picture["kind"] == "curve":
        assert all(len(line["points"]) > 20 for line in picture["lines"])
        ys = [y for line in picture["lines"] for _, y in line["points"]]
        assert max(ys) > min(ys)
    elif picture["kind"] == "scale":
        assert picture["low"] < picture["high"]
        assert all(picture["low"] <= mark["at"] <= picture["high"] for mark in picture["marks"])
        assert picture["marks"]
    else:
        assert picture["parts"]
    assert picture["words"]


@EACH
def test_it_says_what_it_is_made_of(one):
    assert CALCULATION[one.key] is one
    assert one.group in GROUPS
    assert all(len(text) > 8 for text in (one.words, one.formula, one.source, one.limits, one.also))
    assert set(one.unknowns) <= set(one.by_name)
    assert len(one.by_name) == len(one.asks)
    assert len(one.unknowns) >= 2, "solvable both ways round"


@EACH
def test_every_field_refuses_what_cannot_be_and_says_what_can(one):
    for quantity in one.asks:
        for unknown in one.unknowns:
            if unknown == quantity.name or quantity.name in one.idle.get(unknown, ()):
                continue
            for text in ("nonsense", "-1e9", "1e12", ""):
                if isinstance(quantity.unit, Listed) and not text:
                    continue
                found = answer(one, {quantity.name: text}, unknown=unknown)
                assert found.field == quantity.name, (unknown, quantity.name, text, found)
                assert found.problem.startswith(quantity.words)
                assert any(right in found.problem for right in ("write it as", "it must be", "choose", "at most"))
            break


@EACH
def test_numbers_far_off_never_break_it(one):
    """Each field at both of its ends, all others as usual: an answer, or words why there is none."""
    for unknown in one.unknowns:
        for quantity in one.asks:
            for end in (quantity.low, quantity.high):
                if not math.isfinite(end) or quantity.name == unknown:
                    continue
                text = quantity.one.write(end) if end else "0"
                found = answer(one, {quantity.name: text}, unknown=unknown)
                assert bool(found.problem) != bool(found.gives)
                told = json.loads(json.dumps(found.told(), allow_nan=False))
                if told["picture"] and told["picture"]["kind"] == "scale":
                    _drawable(told["picture"])


@EACH
def test_every_step_up_and_down_is_an_answer_or_a_refusal(one):
    for quantity in one.asks:
        unknown = next(name for name in one.unknowns if name != quantity.name)
        if quantity.name in one.idle.get(unknown, ()):
            continue
        for by in (1, -1, 30, -30):
            found = answer(one, {}, unknown=unknown, step=(quantity.name, by))
            assert bool(found.problem) != bool(found.gives)


def test_there_are_all_and_each_is_found_by_its_key():
    assert len(CALCULATIONS) == 33
    assert [one["key"] for one in described()] == [one.key for group in GROUPS for one in CALCULATIONS if one.group == group]
    with pytest.raises(DomainError, match="perhaps depth-of-field"):
        calculation_of("dof")
    with pytest.raises(DomainError, match="there are: stops, black-frame"):
        calculation_of("alchemy")


def test_the_numbers_of_a_shot_fill_the_fields_and_what_is_typed_wins():
    shot = {"exposure.f_number": 8.0, "exposure.iso": 100.0, "light.kelvin": -5.0}
    told = asked({"key": "guide-number", "texts": {"iso": "400"}, "unknown": "distance", "shot": shot})
    assert told["given"]["f_number"] == "f/8"
    assert told["given"]["iso"] == "400"
    assert told["shot"] == ["f_number"]
    assert "light" not in from_shot(CALCULATION["mired"], shot)  # what a field does not allow is left out


def test_a_step_moves_one_field_and_tells_all():
    told = asked({"key": "guide-number", "texts": {}, "unknown": "distance", "step": ["f_number", 3]})
    assert told["given"]["f_number"] == "f/11"
    with pytest.raises(DomainError, match="has no 'colour'"):
        asked({"key": "guide-number", "texts": {"colour": "1"}})
    with pytest.raises(DomainError, match="cannot be solved for 'heads'"):
        asked({"key": "guide-number", "texts": {}, "unknown": "heads"})


PIECES = (
    "8", "f/", "+", "-", "1/3", "⅔", " ", "1/", "9" * 250, "0", "0.0000001", "cm", "m", "in", "'", '"', "ft", "%", "full", "2 x ",
    "single net", ",", "1e5", "−", "∞", "nan", "inf", "s", "min", ":", "14:05", "2026-06-21", "°", "\u202f",
    "٣", "?", "\x00", "8 + 99999", "-" + "9" * 190,
)  # fmt: skip


def test_odd_questions_are_answered_or_refused_in_words():
    """Four thousand questions of pieces put together at random: never anything but an answer or a refusal, and all of it JSON."""
    random = np.random.default_rng(5)
    refused = 0
    for _ in range(4000):
        one = CALCULATIONS[random.integers(len(CALCULATIONS))]
        names = random.choice([quantity.name for quantity in one.asks], size=random.integers(1, 4))
        texts = {str(name): "".join(random.choice(PIECES, size=random.integers(0, 5))) for name in names}
        step = [str(random.choice(names)), int(random.integers(-100, 101))] if random.random() < 0.3 else None
        unknown = str(random.choice(list(one.unknowns)))
        told = asked(
            {"key": one.key, "texts": texts, "unknown": unknown, "step": step, "inches": bool(random.random() < 0.3)}
        )
        json.dumps(told, allow_nan=False)
        assert bool(told["problem"]) != bool(told["gives"])
        refused += bool(told["problem"])
    assert 1000 < refused < 4000
