"""Readings, ways of lights and the weakest light, in words for the page."""

from __future__ import annotations

from typing import Any

from fotaxis.core.camera.scales import f_number_with_tenths, stops_name
from fotaxis.core.frames.readings import EdgeLine, LineValue, NamedReading, SpotValue
from fotaxis.core.prediction.losses import Chain, chain, weakest
from fotaxis.core.prediction.plan import Plan
from fotaxis.services.readings import signed
from fotaxis.services.sheet import rows
from fotaxis.web.views.spots import code_of, level_words

CRISP = 0.05
"""An edge narrower than this part of the product's half width reads as crisp."""

EQUAL_STOPS = 0.05
LEAST_SHARE = 0.02


def judged(
    plan: Plan, readings: tuple[NamedReading, ...], values: dict[str, SpotValue | LineValue | None], fault: str
) -> dict[str, Any]:
    """Everything that is told about a state beside its picture."""
    chains = {light.key: chain(plan, light) for light in plan.lights}
    numbers = {row.key: row.number for row in rows(plan)}
    least = weakest(plan, chains)
    return {
        "readings": [_reading(plan, reading, values.get(reading.key), fault) for reading in readings],
        "between": _between(readings, values),
        "chains": {key: _chain(one) for key, one in chains.items()},
        "weakest": f"{numbers[least]} is the weakest at full power: set it first, the others come down to it."
        if least
        else "",
        "weakestKey": least,
    }


def _chain(one: Chain) -> dict[str, Any]:
    return {
        "parts": [{"key": loss.key, "name": loss.name, "stops": f"−{max(loss.stops, 0):.1f}"} for loss in one.losses],
        "full": f"{f_number_with_tenths(one.full_f_number)} at the product at full power"
        if one.full_f_number > 0
        else "dark",
    }


def _reading(plan: Plan, reading: NamedReading, value: SpotValue | LineValue | None, fault: str) -> dict[str, Any]:
    told: dict[str, Any] = {"key": reading.key, "name": reading.name, "kind": type(reading.at).__name__}
    if value is None:
        return {**told, "short": "—", "words": fault or "not seen in this frame", "at": [], "shares": []}
    if isinstance(value, LineValue):
        return {**told, **_line(value), "shares": []}
    keys = ("room", *(light.key for light in plan.lights))
    shares = [
        {"key": key, "percent": f"{100 * share:.0f} %"}
        for key, share in sorted(zip(keys, value.shares, strict=True), key=lambda pair: -pair[1])
        if share >= LEAST_SHARE
    ]
    return {
        **told, "short": level_words(value.level), "words": level_words(value.level), "at": [[value.x, value.y]],
        "shares": shares,
    }  # fmt: skip


def _line(value: LineValue) -> dict[str, Any]:
    softness = {
        (True, True): "crisp both sides", (True, False): "crisp inside, soft outside", (False, True): "soft inside, crisp outside",
        (False, False): "soft both sides",
    }[value.inner <= CRISP, value.outer <= CRISP]  # fmt: skip
    even = (
        "even from end to end"
        if value.uneven_stops < EQUAL_STOPS
        else f"even within {stops_name(value.uneven_stops).lstrip('+')} stops"
    )
    gaps = "" if value.found > 0.95 else f", seen over {value.found:.0%} of its height".replace("%", " %")
    code = code_of(0.18 * 2.0**value.peak_stops)
    return {
        "short": f"{signed(value.peak_stops)} stops · {code}",
        "words": f"at {abs(value.place):.0%}, {value.width / 2:.0%} wide, {signed(value.peak_stops)} stops · {code}, ".replace(
            "%", " %"
        )
        + f"{softness}, {even}{gaps}",
        "at": value.rows[:, :2].tolist(),
    }


def _between(readings: tuple[NamedReading, ...], values: dict[str, SpotValue | LineValue | None]) -> str:
    """The first left line against the first right one."""
    sides: dict[bool, LineValue] = {}
    for reading in readings:
        value = values.get(reading.key)
        if isinstance(reading.at, EdgeLine) and isinstance(value, LineValue):
            sides.setdefault(reading.at.left, value)
    if len(sides) < 2:
        return ""
    stops = sides[True].peak_stops - sides[False].peak_stops
    place = abs(sides[True].place) - abs(sides[False].place)
    words = "Sides equal in brightness" if abs(stops) < EQUAL_STOPS else f"Left − right {stops_name(stops)} stops"
    apart = "at equal distance from the edges" if abs(place) < 0.01 else f"{100 * abs(place):.0f} % apart in place"
    return f"{words}, {apart}."
