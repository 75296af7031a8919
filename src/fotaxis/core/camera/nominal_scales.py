"""Nominal names of f-numbers, shutter times and speeds, and the exact values behind them."""

from __future__ import annotations

import math

from fotaxis.core.errors import DomainError

_F_NAMES = (
    "1", "1.1", "1.2", "1.4", "1.6", "1.8", "2", "2.2", "2.5", "2.8", "3.2", "3.5", "4", "4.5", "5", "5.6", "6.3",
    "7.1", "8", "9", "10", "11", "13", "14", "16", "18", "20", "22", "25", "29", "32", "36", "40", "45", "51", "57", "64",
)  # fmt: skip
"""f/1 to f/64 in thirds. ISO 517 for the full stops; thirds common practice."""

F_NUMBERS = tuple(2 ** (i / 6) for i in range(len(_F_NAMES)))
"""The exact series: f/5.6 is 4 sqrt 2."""


def f_number_name(f_number: float) -> str:
    """The nominal name of the nearest third of a stop, as 'f/8'.

    Holds for:  f_number > 0. Beyond f/1..f/64 the exact number is written.  Source: ISO 517.
    """
    if not (math.isfinite(f_number) and f_number > 0):
        raise DomainError(f"f-number is {f_number:g}; it must be more than 0.")
    i = round(6 * math.log2(f_number))
    if 0 <= i < len(_F_NAMES):
        return f"f/{_F_NAMES[i]}"
    return f"f/{f_number:.2g}"


def f_number_with_tenths(f_number: float) -> str:
    """The full stop below and tenths above it, the way a flash meter writes: 'f/8 +0.3'."""
    if not (math.isfinite(f_number) and f_number > 0):
        raise DomainError(f"f-number is {f_number:g}; it must be more than 0.")
    tenths = round(20 * math.log2(f_number))
    whole, rest = divmod(tenths, 10)
    name = f_number_name(2 ** (whole / 2)) if 0 <= whole <= 12 else f"f/{2 ** (whole / 2):.2g}"
    return name if rest == 0 else f"{name} +0.{rest}"


def exact_f_number(nominal: float) -> float:
    """The exact series value behind a nominal f-number: 5.6 -> 4 sqrt 2; other numbers stay as they are."""
    for name, exact in zip(_F_NAMES, F_NUMBERS, strict=True):
        if abs(float(name) - nominal) < 1e-6:
            return exact
    return nominal


_SHUTTER_NAMES = (
    "30", "25", "20", "15", "13", "10", "8", "6", "5", "4", "3.2", "2.5", "2", "1.6", "1.3", "1", "1/1.3", "1/1.6", "1/2",
    "1/2.5", "1/3", "1/4", "1/5", "1/6", "1/8", "1/10", "1/13", "1/15", "1/20", "1/25", "1/30", "1/40", "1/50", "1/60",
    "1/80", "1/100", "1/125", "1/160", "1/200", "1/250", "1/320", "1/400", "1/500", "1/640", "1/800", "1/1000",
)  # fmt: skip


def shutter_name(shutter_s: float) -> str:
    """Nominal name of the nearest third of a stop from 30 s to 1/1000 s, as '1/125 s'."""
    if not (math.isfinite(shutter_s) and shutter_s > 0):
        raise DomainError(f"shutter time is {shutter_s:g} s; it must be more than 0.")
    i = round(3 * (5 - math.log2(shutter_s)))
    if 0 <= i < len(_SHUTTER_NAMES):
        return f"{_SHUTTER_NAMES[i]} s"
    return f"{shutter_s:.3g} s"


def shutter_choices() -> list[tuple[str, float]]:
    """Every nominal shutter name with its exact time in seconds, longest first: '1/125 s' is 2^-7."""
    return [(f"{name} s", 2.0 ** (5 - i / 3)) for i, name in enumerate(_SHUTTER_NAMES)]
