"""Readings, ways of lights and the weakest light, in words for the page."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Any

from fotaxis.core.camera.nominal_scales import f_number_with_tenths
from fotaxis.core.frames.faults import Fault, Flag
from fotaxis.core.frames.levels import percent
from fotaxis.core.frames.readings import NamedReading
from fotaxis.core.frames.readings.reading import Value
from fotaxis.core.keys import ROOM_KEY
from fotaxis.core.lights.fixtures import Light
from fotaxis.core.metering.path_losses import DARK_STOPS, Loss, PathLosses, path_losses, weakest
from fotaxis.core.proposals.thrown import thrown_by
from fotaxis.core.scene.plan import Plan
from fotaxis.core.stops import lost_stops
from fotaxis.services.exposure_reading import read_exposure
from fotaxis.services.meter_words import meter_words
from fotaxis.services.presets import new_thing
from fotaxis.services.readings import reading_words, sides_words
from fotaxis.services.sheet import rows, stands_in

LEAST_SHARE = 0.02


def judged(
    plan: Plan, shown: Plan, readings: tuple[NamedReading, ...], values: Mapping[str, Value | None], fault: str
) -> dict[str, Any]:
    """Everything that is told about a state beside its picture; shown: with the lights that the window shows."""
    chains = {light.key: path_losses(plan, light) for light in plan.lights}
    numbers = {row.key: row.number for row in rows(plan)}
    least = weakest(plan, chains)
    return {
        "readings": [_reading(plan, reading, values.get(reading.key), fault) for reading in readings],
        "between": sides_words(readings, values),
        "chains": {light.key: _chain(chains[light.key], _thrown_words(plan, light)) for light in plan.lights},
        "meter": meter_words(shown, read_exposure(shown)),
        "weakest": f"{numbers[least]} is the weakest at full power: set it first, the others come down to it."
        if least
        else "",
        "weakestKey": least,
    }


def faults(plan: Plan, wrong: Sequence[Fault], asked: Mapping[str, str]) -> list[dict[str, Any]]:
    """What is wrong with the set and the picture, for the page: key, words, a flag that would help, as a card of the shot;
    asked: what is asked of the kit that it has not, by key."""
    names = {one.key: one.name for one in (*plan.lights, *plan.cards)}
    told = [{"key": key, "words": f"{names.get(key, key)}: {words}"} for key, words in asked.items()]
    told += [{"key": key, "words": words} for key, words in stands_in(plan).items()]
    return [
        *told,
        *({"key": one.key, "words": one.words, **({"flag": _flag(one.flag)} if one.flag else {})} for one in wrong),
    ]


def _flag(flag: Flag) -> dict[str, Any]:
    x, y, z = (round(100 * float(v), 1) for v in flag.place)
    return {
        **new_thing("black card"), "name": "Lens flag", "place": {"x_cm": x, "y_cm": y, "z_cm": z},
        "turn_deg": round(math.degrees(flag.turn_rad), 1), "tilt_deg": round(math.degrees(flag.tilt_rad), 1),
        "width_cm": round(100 * flag.width_m, 1), "height_cm": round(100 * flag.height_m, 1),
    }  # fmt: skip


APART_STOPS = 0.15
"""Losses on the axis and at the product that differ by less are told as one."""


def _chain(one: PathLosses, thrown: str) -> dict[str, Any]:
    off = math.degrees(one.off_axis_rad)
    aside = f"; its axis passes the product {off:.0f}° off" if off > OFF_AXIS_DEG else ""
    full = f"{f_number_with_tenths(one.full_f_number)} at the product at full power" if one.full_f_number > 0 else ""
    return {
        "parts": [{"key": loss.key, "name": loss.name, "stops": loss_words(loss)} for loss in one.losses],
        "full": (full or "no light at the product") + aside + thrown,
    }


OFF_AXIS_DEG = 5.0


def _thrown_words(plan: Plan, light: Light) -> str:
    """Where a light behind glass throws the refraction, '' for one that stands before it or beside."""
    if light.stance.place.z_m > BEHIND_M:
        return ""
    told = [
        f"; throws the refraction of {one.product} "
        + (
            f"onto the table in the frame ({percent(one.in_frame)} of it)"
            if one.in_frame >= LEAST_SHARE
            else "out of the frame"
        )
        for one in thrown_by(plan, light)
    ]
    return "".join(told)


BEHIND_M = -0.05
"""A light further behind the product's axis than this lights it from behind."""


def loss_words(loss: Loss) -> str:
    """What one thing on a light's way takes: '−1.2', or with what it takes on the axis or by the table, where that differs."""
    if loss.stops >= DARK_STOPS:
        known = "" if loss.axis_stops is None else f"{lost_stops(loss.axis_stops)} on its axis, "
        return f"{known}dark here" if known else "all of it"
    here = lost_stops(loss.stops)
    if loss.axis_stops is not None and abs(loss.axis_stops - loss.stops) > APART_STOPS:
        return f"{lost_stops(loss.axis_stops)} on its axis, {here} here"
    if loss.stated is not None and abs(loss.stated - loss.stops) > APART_STOPS:
        return f"{lost_stops(loss.stated)} by the table, {here} here"
    return here


def _reading(plan: Plan, reading: NamedReading, value: Value | None, fault: str) -> dict[str, Any]:
    told: dict[str, Any] = {"key": reading.key, "name": reading.name, "about": value.about if value else ""}
    level = value.level_stops if value else None
    told["level"] = None if level is None else round(level, 3)
    if value is None:
        return {**told, "short": "—", "words": fault or reading_words(None), "at": [], "shares": []}
    keys = (ROOM_KEY, *(light.key for light in plan.lights))
    made = sorted(zip(keys, value.shares, strict=True), key=lambda pair: -pair[1]) if len(value.shares) else []
    shares = [{"key": key, "percent": percent(share)} for key, share in made if share >= LEAST_SHARE]
    return {**told, "short": value.short, "words": value.words, "at": value.marks, "shares": shares}
