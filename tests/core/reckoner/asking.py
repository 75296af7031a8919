"""Asking calculations in tests: as typed in, as numbers out."""

from fotaxis.core.reckoner.answer import answer
from fotaxis.core.reckoner.asked import calculation_of


def asked(key, unknown, *, inches=False, **texts):
    """The answer, which must be one."""
    found = answer(calculation_of(key), {name: str(text) for name, text in texts.items()}, unknown=unknown, inches=inches)
    assert not found.problem, found.problem
    return found


def values(key, unknown, **texts):
    """Every number of the answer by name, SI."""
    return {one.name: one.value for one in asked(key, unknown, **texts).gives}


def value(key, unknown, **texts):
    """The number asked for, SI."""
    return values(key, unknown, **texts)[unknown]


def problem(key, unknown, **texts):
    """Why there is no answer."""
    found = answer(calculation_of(key), {name: str(text) for name, text in texts.items()}, unknown=unknown)
    assert found.problem
    assert not found.gives
    return found.problem
