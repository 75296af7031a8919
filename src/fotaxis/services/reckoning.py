"""The reckoner and a shot: its numbers go into the fields, an answer goes back into the set and onto its sheet."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any
from uuid import UUID

import numpy as np

from fotaxis.core.constants import INCIDENT_CONSTANT_FLAT, REFERENCE_ISO
from fotaxis.core.lights.calibration import GuideNumber
from fotaxis.core.lights.fixtures import Light
from fotaxis.core.reckoner.answer import Answer, answer
from fotaxis.core.reckoner.asked import MOST_RECKONED, answered, calculation_of
from fotaxis.core.reckoner.calculation import Calculation
from fotaxis.core.reckoner.calculations.stops_between import BURNING, FLASH
from fotaxis.core.reckoner.numbers import plain
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import CM, F_NUMBER, ISO, KELVIN, MM, SHUTTER
from fotaxis.core.scene.plan import Plan
from fotaxis.core.stops import power_name
from fotaxis.services.changes import Change, free_key
from fotaxis.services.framing import reframing
from fotaxis.services.ports import Document, OwnPiece, Refused, ShotCodec
from fotaxis.services.sheet import CIRCLE_PER_DIAGONAL
from fotaxis.services.shots import Opened, Shots

Numbers = dict[str, float | str]

ROOM_F_NUMBER = 2.8284271247461903
"""The room's light is told as the time it asks for at f/2.8 and ISO 100, through the filters that are on: a frame one "
"would take to
see it."""


# ---- from the shot into the fields


def shot_numbers(plan: Plan, document: Document, own: Sequence[OwnPiece] = (), *, selected: str = "") -> Numbers:
    """Numbers of a shot that calculations begin with, SI, by name; selected: the light they are told of, else the
    key light."""
    light = chosen_light(plan, selected)
    return (
        _exposure(plan)
        | _room(plan)
        | _camera(plan)
        | _product(plan)
        | (_light(plan, light, document, own) if light else {})
    )


def chosen_light(plan: Plan, selected: str = "") -> Light | None:
    """The light that is selected, else the key light, else the first that is on."""
    by_key = {light.key: light for light in plan.lights}
    on = next((light for light in plan.lights if light.emission.on), None)
    return by_key.get(selected) or by_key.get(plan.key_light) or on or next(iter(plan.lights), None)


def _exposure(plan: Plan) -> Numbers:
    e = plan.exposure
    return {
        "exposure.f_number": e.f_number, "exposure.iso": e.iso, "exposure.shutter": e.shutter_s, "exposure.sync": e.sync_s,
    }  # fmt: skip


def _room(plan: Plan) -> Numbers:
    if plan.room_lux <= 0:
        return {}
    through = plan.room_lux * plan.before_lens.transmission
    asks_for = INCIDENT_CONSTANT_FLAT * ROOM_F_NUMBER**2 / (through * REFERENCE_ISO)
    return {"room.f_number": ROOM_F_NUMBER, "room.iso": REFERENCE_ISO, "room.shutter": asks_for}


def _camera(plan: Plan) -> Numbers:
    c = plan.camera
    width, height = c.used_sensor_m
    away, product = c.aim_distance_m, plan.product
    scale = c.focal_length_m / (away - c.focal_length_m)
    return {
        "camera.focal": c.focal_length_m, "camera.new_focal": c.focal_length_m, "camera.distance": away,
        "camera.new_distance": away,
        "camera.focus": c.focus_distance_m,
        "camera.height": c.place.y_m, "camera.white": plan.white_k,
        "camera.sensor_width": width, "camera.sensor_height": height,
        "camera.circle": math.hypot(width, height) * CIRCLE_PER_DIAGONAL, "camera.magnification": scale,
        "camera.width": width / scale,
        "camera.share": product.height_m * scale / height, "camera.near": max(away - product.reach_m, 0.01),
        "camera.far": away + product.reach_m,
    }  # fmt: skip


def _product(plan: Plan) -> Numbers:
    product = plan.product
    return {"product.height": product.height_m, "product.width": 2 * product.reach_m, "product.depth": 2 * product.reach_m}


def _light(plan: Plan, light: Light, document: Document, own: Sequence[OwnPiece]) -> Numbers:
    raw, e = _raw(document, light.key), light.emission
    distance = float(np.linalg.norm(light.stance.place.array() - middle_of(plan)))
    numbers: Numbers = {
        "light.kind": BURNING if e.continuous else FLASH, "light.power": e.power_stops, "light.kelvin": e.colour_k,
        "light.distance": distance,
        "light.near_end": max(distance - plan.product.reach_m, 0.01),
        "light.from_axis": math.hypot(light.stance.place.x_m - plan.product.x_m, light.stance.place.z_m - plan.product.z_m),
        "light.face": 2 * light.half_size_m[0], "light.width": 2 * light.half_size_m[0],
    }  # fmt: skip
    if raw.get("grid_angle_deg"):
        numbers["light.grid"] = math.radians(raw["grid_angle_deg"])
    if isinstance(e.calibration, GuideNumber):
        numbers["light.guide"] = e.calibration.metres
    return numbers | _owned(raw, own)


def _owned(raw: Document, own: Sequence[OwnPiece]) -> Numbers:
    """What the kit tells of a light's own pieces: weight, recycling, its pack's energy."""
    by_name = {(one.piece.kind, one.piece.name): one.piece for one in own}
    pieces = [
        by_name[kind, raw[f]] for f in ("own", "own_head") for kind in ("head", "box") if (kind, raw.get(f, "")) in by_name
    ]
    numbers: Numbers = {}
    weight = math.fsum(piece.number("weight_kg") or 0.0 for piece in pieces)
    if weight > 0:
        numbers["light.weight"] = weight
    for piece in pieces:
        pack = by_name.get(("pack", str(piece.values.get("pack", ""))))
        recycles = piece.number("recycle_s")
        energy = pack.number("energy_ws") if pack else None
        numbers |= ({"head.recycle": recycles} if recycles else {}) | ({"pack.energy": energy} if energy else {})
    return numbers


def middle_of(plan: Plan) -> np.ndarray:
    """The middle of the product, (3,) metres: what a light's distance is told to."""
    product = plan.product
    return np.array([product.x_m, plan.lift_m + product.height_m / 2, product.z_m])


def _raw(document: Document, key: str) -> Document:
    found: Document = next(light for light in document["lights"] if light["key"] == key)
    return found


# ---- from an answer into the shot


@dataclass(frozen=True, slots=True, kw_only=True)
class Taken:
    """What one number of an answer changes in the shot, in words and as changes."""

    words: str
    changes: list[Change]


def taken(plan: Plan, document: Document, name: str, value: float, *, selected: str = "") -> Taken | None:
    """What a number of the shot becomes by an answer; None for one that is not for taking. Raises Refused where it cannot "
    "be so."""
    light = chosen_light(plan, selected)
    if name in _OF_LIGHT:
        return _OF_LIGHT[name](plan, _raw(document, light.key), light, value) if light else None
    return _OF_SHOT[name](plan, value) if name in _OF_SHOT else None


def _set(*path: str, value: Any) -> Change:
    return Change(kind="set", path=path, value=value)


def _f_number(_: Plan, value: float) -> Taken:
    exact = F_NUMBER.stepped(value, 0)
    return Taken(words=f"aperture {F_NUMBER.write(exact)}", changes=[_set("exposure", "f_number", value=exact)])


def _iso(_: Plan, value: float) -> Taken:
    named = float(plain(ISO.write(value)))
    return Taken(words=f"ISO {named:g}", changes=[_set("exposure", "iso", value=named)])


def _shutter(_: Plan, value: float) -> Taken:
    exact = SHUTTER.stepped(value, 0)
    return Taken(words=f"shutter {SHUTTER.write(exact)}", changes=[_set("exposure", "shutter_s", value=exact)])


def _shutter_at_least(plan: Plan, value: float) -> Taken:
    """The next third that is no shorter: what happens meanwhile must have ended."""
    return _shutter(plan, 2.0 ** (math.ceil(3 * math.log2(value) - 0.01) / 3))


def _white(_: Plan, value: float) -> Taken:
    kelvin = float(round(value))
    return Taken(words=f"white balance {KELVIN.write(kelvin)}", changes=[_set("exposure", "white_k", value=kelvin)])


def _focal(_: Plan, value: float) -> Taken:
    return Taken(words=f"lens {MM.write(value)}", changes=[_set("camera", "focal_length_mm", value=round(1000 * value, 1))])


def _camera_distance(plan: Plan, value: float) -> Taken:
    """Along the way it looks."""
    aim = plan.camera.aim.array()
    x, y, z = (float(100 * v) for v in aim + (plan.camera.place.array() - aim) * value / plan.camera.aim_distance_m)
    values = {"distance_cm": round(z, 1), "height_cm": round(y, 1), "side_cm": round(x, 1)}
    return Taken(
        words=f"camera to {CM.write(value)}", changes=[_set("camera", name, value=at) for name, at in values.items()]
    )


def _focus(_: Plan, value: float) -> Taken:
    changes = [_set("lens", "focus", value="distance"), _set("lens", "focus_cm", value=round(100 * value, 1))]
    return Taken(words=f"focus at {CM.write(value)}", changes=changes)


def _share(plan: Plan, value: float) -> Taken:
    return Taken(words=f"framed to {100 * value:.0f} %", changes=reframing(plan, fills=value))


def _power(_: Plan, raw: Document, light: Light, value: float) -> Taken:
    range_ = light.emission.power_range
    if not -range_.lowest_stops - 0.2 <= value <= 0.2:
        raise Refused(
            f"{light.name} goes from {power_name(-range_.lowest_stops, steps_per_stop=1)} to 1/1: {value:+.1f} stops from "
            "full cannot "
            "be set. Move it, take a sheet or a net, or change the aperture."
        )
    notch = range_.notch(value)
    name = power_name(notch, steps_per_stop=range_.steps_per_stop)
    return Taken(words=f"{light.name} at {name}", changes=[_set("lights", raw["key"], "power_stops", value=notch)])


def _light_distance(plan: Plan, raw: Document, light: Light, value: float) -> Taken:
    """Along the line from the product's middle, so that it comes from where it came."""
    middle = middle_of(plan)
    way = light.stance.place.array() - middle
    x, y, z = (round(float(100 * v), 1) for v in middle + way * value / max(float(np.linalg.norm(way)), 1e-6))
    place = {**raw["place"], "x_cm": x, "y_cm": y, "z_cm": z}
    return Taken(words=f"{light.name} to {CM.write(value)}", changes=[_set("lights", raw["key"], "place", value=place)])


def _near_end(plan: Plan, raw: Document, light: Light, value: float) -> Taken:
    """Told to the product's near end, kept to its middle."""
    return _light_distance(plan, raw, light, value + plan.product.reach_m)


def _guide(_: Plan, raw: Document, light: Light, value: float) -> Taken:
    calibration = {"kind": "guide number", "metres": round(value, 2)}
    return Taken(words=f"{light.name}: guide number {value:.1f} m",
                 changes=[_set("lights", raw["key"], "calibration", value=calibration)])  # fmt: skip


def _width(_: Plan, raw: Document, light: Light, value: float) -> Taken | None:
    if "width_cm" not in raw:
        return None
    changes = [_set("lights", raw["key"], "width_cm", value=round(100 * value, 1))]
    return Taken(words=f"{light.name} {CM.write(value)} wide", changes=changes)


def _grid(_: Plan, raw: Document, light: Light, value: float) -> Taken | None:
    if "grid_angle_deg" not in raw:
        return None
    changes = [_set("lights", raw["key"], "grid_angle_deg", value=round(math.degrees(value), 1))]
    return Taken(words=f"{light.name} with a grid of {math.degrees(value):.0f}°", changes=changes)


_OF_SHOT: dict[str, Callable[[Plan, float], Taken]] = {
    "exposure.f_number": _f_number, "exposure.iso": _iso, "exposure.shutter": _shutter,
    "exposure.at_least": _shutter_at_least, "camera.white": _white, "camera.focal": _focal,
    "camera.new_focal": _focal, "camera.distance": _camera_distance, "camera.new_distance": _camera_distance,
    "camera.focus": _focus,
    "camera.share": _share,
}  # fmt: skip
_OF_LIGHT: dict[str, Callable[[Plan, Document, Light, float], Taken | None]] = {
    "light.power": _power, "light.distance": _light_distance, "light.near_end": _near_end, "light.guide": _guide,
    "light.width": _width, "light.grid": _grid,
}  # fmt: skip
TAKEABLE = (*_OF_SHOT, *_OF_LIGHT)
"""Numbers of a shot that an answer can change."""

NEAR = 1e-3


def all_taken(
    plan: Plan, document: Document, calculation: Calculation, found: Answer, numbers: Numbers, *,
    selected: str = "", inches: bool = False,
) -> list[Taken]:  # fmt: skip
    """What an answer changes in the shot: what it gives, and what it was given that is not as in the shot, each number "
    "once."""
    wanted: dict[str, float] = {}
    for one in calculation.asks:
        if one.name in found.given and one.taken and one.shot in TAKEABLE:
            value = one.read(found.given[one.name], inches=inches)
            if not _same(value, numbers.get(one.shot), one):
                wanted[one.shot] = value
    for shown in found.gives:
        if shown.shot in TAKEABLE and isinstance(shown.value, float) and math.isfinite(shown.value):
            wanted[shown.shot] = shown.value
    parts = (taken(plan, document, name, value, selected=selected) for name, value in wanted.items())
    return [one for one in parts if one is not None]


def _same(value: Any, now: float | str | None, quantity: Quantity) -> bool:
    """Is a number as in the shot, as far as its field shows it?"""
    if not isinstance(value, float) or not isinstance(now, float | int):
        return True
    return quantity.unit.typed(value) == quantity.unit.typed(float(now)) or abs(value - now) <= NEAR * abs(now)


class Reckoning:
    """Take an answer into a shot, or onto its sheet alone."""

    def __init__(self, shots: Shots, codec: ShotCodec) -> None:
        self._shots = shots
        self._codec = codec

    def take(
        self, studio_id: UUID, shot_id: UUID, own: Sequence[OwnPiece], *, key: str, typed: Mapping[str, str], unknown: str,
        selected: str = "", inches: bool = False, into_set: bool = True,
    ) -> tuple[Opened, str]:  # fmt: skip
        """Put an answer onto the shot's sheet and, unless told otherwise, into its set, in one step; what was done in "
        "words too.

        Raises Refused where there is no answer,
            or nothing of it can be set; DomainError for a calculation that there is not.
        """
        document = self._shots.open(studio_id, shot_id).document
        plan, calculation = self._codec.plan(document), calculation_of(key)
        numbers = shot_numbers(plan, document, own, selected=selected)
        found = answered(calculation, typed, numbers, unknown=unknown, inches=inches)
        if found.problem:
            raise Refused(found.problem)
        parts = all_taken(plan, document, calculation, found, numbers, selected=selected, inches=inches) if into_set else []
        if into_set and not parts:
            raise Refused(
                f"{calculation.name}: nothing of this answer is set on the bench. Keep it on the set sheet instead."
            )
        light = chosen_light(plan, selected) if any(one.shot.startswith("light.") for one in calculation.asks) else None
        told = {"calculation": key, "unknown": found.unknown, "given": found.given, "of": light.name if light else "",
                "inches": inches}  # fmt: skip
        again = _with(document.get("reckoned", []), told)
        words = ", ".join(part.words for part in parts)
        label = f"Reckoned: {words}" if words else f"{calculation.name} onto the sheet"
        changes = [change for part in parts for change in part.changes]
        changes.append(Change(kind="set", path=("reckoned",), value=again))
        return self._shots.change(studio_id, shot_id, changes=changes, label=label[:80]), words


def _with(kept: list[Document], told: Document) -> list[Document]:
    """The list with one more; the same question about the same light is told anew in its place."""
    asked = ("calculation", "unknown", "of")
    for i, one in enumerate(kept):
        if all(one.get(name, "") == told[name] for name in asked):
            return [*kept[:i], {"key": one["key"], **told}, *kept[i + 1 :]]
    if len(kept) >= MOST_RECKONED:
        raise Refused(f"The sheet holds {MOST_RECKONED} calculations; take one away first.")
    return [*kept, {"key": free_key(told["calculation"], {one["key"] for one in kept}), **told}]


@dataclass(frozen=True, slots=True, kw_only=True)
class ReckonedLine:
    """A calculation on the set sheet: its name, what it was given, what it gave, what to mind; typed, unknown: to ask it again."""

    key: str
    calculation: str
    name: str
    given: str
    gives: str
    unknown: str
    typed: Mapping[str, str]
    cautions: tuple[str, ...] = ()


def reckoned_lines(document: Document) -> list[ReckonedLine]:
    """The calculations that were used for a shot, each answered anew."""
    return [_line(one) for one in document.get("reckoned", [])]


def _line(kept: Mapping[str, Any]) -> ReckonedLine:
    calculation, inches = calculation_of(kept["calculation"]), bool(kept.get("inches"))
    found = answer(calculation, kept["given"], unknown=kept["unknown"], inches=inches)
    by_name = calculation.by_name
    told = {name: text for name, text in (found.reads or found.given).items() if text and not _usual(by_name[name], text)}
    given = ", ".join(f"{_small(by_name[name].words)} {text}" for name, text in told.items())
    name = f"{calculation.name}: {kept['of']}" if kept.get("of") else calculation.name
    return ReckonedLine(
        key=kept["key"], calculation=calculation.key, name=name, given=given, gives=found.problem or found.sentence,
        unknown=kept["unknown"], typed=kept["given"], cautions=found.cautions,
    )  # fmt: skip


def _usual(quantity: Quantity, text: str) -> bool:
    """Is it what it is where nothing is said? That needs no room on the sheet."""
    return quantity.unit.write(quantity.read(quantity.usual)) == text if quantity.usual else False


def _small(words: str) -> str:
    """Words as they stand in a sentence; names in capitals stay."""
    return words if words[:2].isupper() else words[:1].lower() + words[1:]
