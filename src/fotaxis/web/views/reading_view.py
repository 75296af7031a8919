"""Readings, ways of lights and the weakest light, in words for the page."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fotaxis.core.camera.nominal_scales import f_number_with_tenths
from fotaxis.core.frames.levels import percent
from fotaxis.core.frames.readings import NamedReading
from fotaxis.core.frames.readings.reading import Value
from fotaxis.core.keys import ROOM_KEY
from fotaxis.core.metering.path_losses import PathLosses, path_losses, weakest
from fotaxis.core.scene.plan import Plan
from fotaxis.core.stops import lost_stops
from fotaxis.services.readings import reading_words, sides_words
from fotaxis.services.sheet import rows

LEAST_SHARE = 0.02


def judged(plan: Plan, readings: tuple[NamedReading, ...], values: Mapping[str, Value | None], fault: str) -> dict[str, Any]:
    """Everything that is told about a state beside its picture."""
    chains = {light.key: path_losses(plan, light) for light in plan.lights}
    numbers = {row.key: row.number for row in rows(plan)}
    least = weakest(plan, chains)
    return {
        "readings": [_reading(plan, reading, values.get(reading.key), fault) for reading in readings],
        "between": sides_words(readings, values),
        "chains": {key: _chain(one) for key, one in chains.items()},
        "weakest": f"{numbers[least]} is the weakest at full power: set it first, the others come down to it."
        if least
        else "",
        "weakestKey": least,
    }


def _chain(one: PathLosses) -> dict[str, Any]:
    return {
        "parts": [{"key": loss.key, "name": loss.name, "stops": lost_stops(loss.stops)} for loss in one.losses],
        "full": f"{f_number_with_tenths(one.full_f_number)} at the product at full power"
        if one.full_f_number > 0
        else "dark",
    }


def _reading(plan: Plan, reading: NamedReading, value: Value | None, fault: str) -> dict[str, Any]:
    told: dict[str, Any] = {"key": reading.key, "name": reading.name, "about": value.about if value else ""}
    if value is None:
        return {**told, "short": "—", "words": fault or reading_words(None), "at": [], "shares": []}
    keys = (ROOM_KEY, *(light.key for light in plan.lights))
    made = sorted(zip(keys, value.shares, strict=True), key=lambda pair: -pair[1]) if len(value.shares) else []
    shares = [{"key": key, "percent": percent(share)} for key, share in made if share >= LEAST_SHARE]
    return {**told, "short": value.short, "words": value.words, "at": value.marks, "shares": shares}
