"""What the picture must show: judged, begun with what most sets want, and met by powers."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from fotaxis.core.camera.nominal_scales import f_number_name
from fotaxis.core.constants import MIDDLE_GREY
from fotaxis.core.errors import DomainError
from fotaxis.core.frames.readings import NamedReading
from fotaxis.core.frames.readings.edge import EdgeLine
from fotaxis.core.frames.readings.reading import Value
from fotaxis.core.lights.fixtures import Panel
from fotaxis.core.render.preview.traced_scene import TracedScene
from fotaxis.core.scene.plan import Plan
from fotaxis.core.stops import measured_stops, power_name
from fotaxis.core.values import Array
from fotaxis.core.wishes import WISHES
from fotaxis.core.wishes.balance import Balance, Dial, balance
from fotaxis.core.wishes.line_panel import LinePanel, mirrored_ways, nearest_clear, riser_needed_m, taller
from fotaxis.core.wishes.place import Place
from fotaxis.core.wishes.wish import MET, Judged, LevelTarget, NamedWish
from fotaxis.services.changes import Change, fresh_key
from fotaxis.services.ports import Document
from fotaxis.services.presets import new_thing, usual_readings

Read = Callable[[Plan], Mapping[str, Value | None]]
"""What a shot's readings read of a plan."""

ROUNDS = 3
"""So often levels are read again at the powers found: a line's brightest place may move with them."""


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgedWish:
    """A wish with what it is about in words, and what the frame says of it."""

    wish: NamedWish
    about: str
    judged: Judged

    @property
    def told(self) -> dict[str, str]:
        """As it is told outside, in plain words."""
        return {
            "key": self.wish.key, "about": self.about, "wanted": self.wish.wish.words, "state": self.judged.state,
            "figure": self.judged.figure, "words": self.judged.words,
        }  # fmt: skip


def judged_wishes(
    wishes: Sequence[NamedWish], readings: Sequence[NamedReading], values: Mapping[str, Value | None]
) -> list[JudgedWish]:
    """Every wish against the readings of a frame."""
    names = {reading.key: reading.name for reading in readings}
    return [JudgedWish(wish=one, about=_about(one, names), judged=one.wish.judge(values, names)) for one in wishes]


def wished(wishes: Sequence[NamedWish], readings: Sequence[NamedReading]) -> list[str]:
    """What is wished for, a line each, as it stands on the sheet."""
    names = {reading.key: reading.name for reading in readings}
    return [f"{_about(one, names)} {one.wish.words}" for one in wishes]


def _about(one: NamedWish, names: Mapping[str, str]) -> str:
    told = [names.get(getattr(one.wish, ref), "a reading that was removed") for ref in WISHES[one.kind].refs]
    return " over ".join(told)


def dials_of(plan: Plan, held: Sequence[str]) -> list[Dial]:
    """How the lights that are on are set; those held, and what has no dial at all, stay."""
    return [
        Dial(
            key=light.key, name=light.name, now=light.emission.power_stops, steps=light.emission.power_range,
            fixed=light.key in held or not light.emission.on,
        )
        for light in plan.lights
    ]  # fmt: skip


def parts_of(plan: Plan, value: Value) -> Array | None:
    """A reading's level by layer: the room's, and every light's at full power, linear; None where that is not told."""
    if value.level_stops is None or not len(value.shares):
        return None
    made = np.asarray(value.shares) * MIDDLE_GREY * 2.0**value.level_stops
    full = np.array([1.0, *(2.0**-light.emission.power_stops for light in plan.lights)])
    parts: Array = made * full
    return parts


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """A balance, the wishes it is for in its targets' order, the plan with its powers, and those that no powers bring about: what
    they are about would no longer be seen."""

    balance: Balance
    about: tuple[NamedWish, ...]
    plan: Plan
    lost: tuple[NamedWish, ...] = ()


def balanced(plan: Plan, held: Sequence[str], wishes: Sequence[NamedWish], read: Read) -> Answer | None:
    """Powers that bring the wishes' levels about; None where no wish is about a level that is seen."""
    dials, now = dials_of(plan, held), plan
    parts = _parts(plan, read(plan))
    about = [one for one in wishes if (target := one.wish.target) and _seen(target, parts)]
    lost: list[NamedWish] = []
    found: Answer | None = None
    for _ in range(ROUNDS):
        targets = [target for one in about if (target := one.wish.target)]
        if not targets:
            return found
        answer = balance(targets, parts, dials)
        before, now = now, with_powers(plan, answer.all_powers)
        found = Answer(balance=answer, about=tuple(about), plan=now, lost=tuple(lost))
        if now == before:
            break
        again = _parts(now, read(now))
        gone = [one for one in about if one.wish.target and not _seen(one.wish.target, again)]
        if gone:
            about = [one for one in about if one not in gone]
            lost += gone
            now = plan
        else:
            parts = again
    return found


def _parts(plan: Plan, values: Mapping[str, Value | None]) -> dict[str, Array]:
    return {key: made for key, value in values.items() if value is not None and (made := parts_of(plan, value)) is not None}


def _seen(target: LevelTarget, parts: Mapping[str, Array]) -> bool:
    return target.reading in parts and (not target.over or target.over in parts)


def with_powers(plan: Plan, powers: Mapping[str, float]) -> Plan:
    """A plan with its lights at some powers, stops from full by key."""
    lights = tuple(
        replace(light, emission=replace(light.emission, power_stops=powers[light.key])) if light.key in powers else light
        for light in plan.lights
    )
    return replace(plan, lights=lights)


def power_changes(answer: Balance) -> list[Change]:
    """A balance as changes of a shot."""
    return [Change(kind="set", path=("lights", key, "power_stops"), value=power) for key, power in answer.powers.items()]


def balance_words(plan: Plan, answered: Answer, names: Mapping[str, str]) -> list[str]:
    """What a balance would do and what it cannot, a sentence each."""
    answer, about = answered.balance, answered.about
    lights = {light.key: light for light in plan.lights}

    def power(key: str, stops: float) -> str:
        return power_name(stops, steps_per_stop=lights[key].emission.power_range.steps_per_stop)

    said = []
    if answer.powers:
        moves = [f"{lights[key].name} to {power(key, stops)}" for key, stops in answer.powers.items()]
        said.append(f"{_listed(moves)}.")
        one = answer.first
        if one and len(answer.powers) > 1 and answer.powers.get(one.key) == one.power_stops:
            said.append(f"Most of it comes of one touch: {lights[one.key].name} to {power(one.key, one.power_stops)}.")
    for bound in answer.bounds:
        who = _about(about[bound.of], names)
        other = _listed([_about(about[k], names) for k in bound.against])
        said.append(f"{who}: {bound.words}{f' ({other})' if other else ''}.")
    said += [f"{_about(one, names)}: no powers bring it about, its line dies first; move a light." for one in answered.lost]
    if answer.aperture_stops is not None and not answered.lost:
        stops = answer.aperture_stops
        to = plan.exposure.f_number * 2.0 ** (stops / 2)
        way = "Stop down" if stops > 0 else "Open up"
        said.append(f"{way} by {measured_stops(stops)} stops, to {f_number_name(to)}, and all levels can be met.")
    return said


def _listed(words: Sequence[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}" if words else ""


# ---- begun


def usual_wishes(document: Document) -> list[Change]:
    """Changes that add the wishes most sets have, with the readings they are about; none of what is there already."""
    readings = [*document.get("readings", []), *usual_readings(document)]
    keys = {reading["key"] for reading in readings}
    label = next((reading for reading in readings if reading["key"] == "label-centre"), None)
    if label and "label-even" not in keys:
        height = label["height"]
        low, high = round(max(0.0, height - 0.08), 3), round(min(1.0, height + 0.08), 3)
        band = next((band for band in document["subject"].get("bands", []) if band.get("name") == "Label"), None)
        span = _heights(document)
        if band and span and not band.get("face"):
            inset = 0.1 * (band["high_cm"] - band["low_cm"])
            low, high = (
                round(min(1.0, max(0.0, (at - span[0]) / (span[1] - span[0]))), 3)
                for at in (band["low_cm"] + inset, band["high_cm"] - inset)
            )
        if low < high:
            readings.append({"kind": "patch", "key": "label-even", "name": "Label", "low": low, "high": high, "part": 0.5})
            keys.add("label-even")
    wanted: list[dict[str, Any]] = [
        {"kind": "level", "key": "label-level", "reading": "label-even", "stops": 0.0},
        {"kind": "even", "key": "label-evenness", "reading": "label-even", "within": 0.35},
        {
            "kind": "place",
            "key": "left-place",
            "reading": "left-line",
            "near": 0.8,
            "far": 0.96,
            "within": 0.06,
            "height": 0.2,
        },
        {
            "kind": "place",
            "key": "right-place",
            "reading": "right-line",
            "near": 0.8,
            "far": 0.96,
            "within": 0.06,
            "height": 0.2,
        },
        {"kind": "ratio", "key": "left-right", "reading": "left-line", "over": "right-line", "stops": 0.0},
        {"kind": "level", "key": "glow-level", "reading": "glow", "stops": 1.0, "side": "at least"},
    ]
    there = {wish["key"] for wish in document.get("wishes", [])}
    wishes = [
        wish for wish in wanted if wish["key"] not in there and all(wish[ref] in keys for ref in WISHES[wish["kind"]].refs)
    ]
    if not wishes:
        return []
    return [
        Change(kind="set", path=("readings",), value=readings),
        Change(kind="set", path=("wishes",), value=[*document.get("wishes", []), *wishes]),
    ]


def _heights(document: Document) -> tuple[float, float] | None:
    """Foot and top of a turned product, as its zones count."""
    profile = document["subject"].get("profile") or []
    return (profile[0]["height_cm"], profile[-1]["height_cm"]) if profile else None


def all_met(judged: Sequence[JudgedWish]) -> bool:
    """Does the frame show all that is wished for?"""
    return all(one.judged.state == MET for one in judged)


# ---- where a line's panel stands

LEAST_RISER_M = 0.002
USUAL_HEIGHT_M = 1.2
"""A strip is 30 by 120 cm. Common practice."""

MAKES_IT = 0.5
"""A panel that makes so much of a line is the one to be moved; else one more is put there."""


@dataclass(frozen=True, slots=True, kw_only=True)
class LinePlace:
    """Where the panel of a line stands: key of the one to move, '' for one more, its stance and size, and what is told."""

    key: str
    panel: LinePanel
    words: str

    @property
    def measures(self) -> dict[str, float]:
        """Stance and size as the shot file keeps them, centimetres and degrees."""
        place = self.panel.place
        return {
            "x_cm": round(100 * place.x_m, 1), "y_cm": round(100 * place.y_m, 1), "z_cm": round(100 * place.z_m, 1),
            "turn_deg": round(math.degrees(self.panel.turn_rad), 2), "tilt_deg": round(math.degrees(self.panel.tilt_rad), 2),
            "width_cm": round(100 * self.panel.width_m, 1), "height_cm": round(100 * self.panel.height_m, 1),
        }  # fmt: skip


def line_place(
    plan: Plan, wish: NamedWish, readings: Sequence[NamedReading], values: Mapping[str, Value | None], stage: TracedScene
) -> LinePlace:
    """Where a panel must stand for a line that is wished for. Raises DomainError for a wish that is about no line, NoSolution where
    there is none."""
    wanted = wish.wish
    reading = next((one for one in readings if one.key == getattr(wanted, "reading", "")), None)
    if not isinstance(wanted, Place) or reading is None or not isinstance(reading.at, EdgeLine):
        raise DomainError("only a wish about where a line lies says where its panel stands.")
    ways = mirrored_ways(plan, stage.scene, stage.is_product, reading.at, near=wanted.near, far=wanted.far)
    panel = nearest_clear(plan, ways)
    key = _maker(plan, values.get(reading.key), reading.at.left)
    before = next((light.half_size_m[1] * 2 for light in plan.lights if light.key == key), USUAL_HEIGHT_M)
    panel = taller(panel, before)
    p, turn = panel.place, math.degrees(panel.turn_rad)
    words = (
        f"{100 * panel.width_m:.0f} × {100 * panel.height_m:.0f} cm, {abs(100 * p.x_m):.0f} cm {'right' if p.x_m >= 0 else 'left'} of "
        f"the axis, {abs(100 * p.z_m):.0f} cm {'in front' if p.z_m >= 0 else 'behind'}, centre {100 * p.y_m:.0f} cm high, turned "
        f"{turn:.0f}°."
    )
    riser = riser_needed_m(plan, ways, panel)
    if riser > LEAST_RISER_M:
        words += f" The table's edge hides its lower part: a riser {100 * riser:.1f} cm higher lets the line run to its lower end."
    return LinePlace(key=key, panel=panel, words=words)


def _maker(plan: Plan, value: Value | None, left: bool) -> str:
    """The panel on a line's side that makes most of it; '' for none."""
    panels = [light for light in plan.lights if isinstance(light, Panel) and (light.stance.place.x_m < 0) == left]
    if value is None or not len(value.shares):
        return ""
    shares = {light.key: float(share) for light, share in zip(plan.lights, value.shares[1:], strict=True)}
    best = max(panels, key=lambda light: shares[light.key], default=None)
    return best.key if best and shares[best.key] >= MAKES_IT else ""


def line_changes(document: Document, at: LinePlace) -> list[Change]:
    """A line's panel as changes of a shot: one moved and sized, or one more."""
    measures: dict[str, Any] = at.measures
    where = {axis: measures.pop(axis) for axis in ("x_cm", "y_cm", "z_cm")}
    values = {"place": where, **measures}
    if at.key:
        return [Change(kind="set", path=("lights", at.key, name), value=value) for name, value in values.items()]
    side = "Left" if where["x_cm"] < 0 else "Right"
    thing = {**new_thing("panel"), **values, "name": f"{side} panel", "key": fresh_key(document, side.lower())}
    return [Change(kind="add", path=("lights",), value=thing)]
