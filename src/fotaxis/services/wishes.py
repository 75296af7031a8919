"""What the picture must show: judged, and met by powers."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from fotaxis.core.camera.nominal_scales import f_number_name
from fotaxis.core.constants import MIDDLE_GREY
from fotaxis.core.frames.readings import NamedReading
from fotaxis.core.frames.readings.reading import Value
from fotaxis.core.frames.whole_picture import WholePicture
from fotaxis.core.scene.plan import Plan
from fotaxis.core.stops import measured_stops, power_name
from fotaxis.core.values import Array
from fotaxis.core.wishes import WISHES
from fotaxis.core.wishes.balance import Balance, Dial, balance
from fotaxis.core.wishes.wish import CONTRADICTED, MET, OPEN, Judged, LevelTarget, NamedWish, Seen
from fotaxis.services.changes import Change

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
    plan: Plan, wishes: Sequence[NamedWish], readings: Sequence[NamedReading], values: Mapping[str, Value | None],
    whole: WholePicture | None = None,
) -> list[JudgedWish]:  # fmt: skip
    """Every wish against the readings of a plan's frame; whole: see whole_for."""
    names = {reading.key: reading.name for reading in readings}
    seen = Seen(values=values, names=names, whole=whole, lights=[light.name for light in plan.lights])
    return [JudgedWish(wish=one, about=about(one, seen.names), judged=one.wish.judge(seen)) for one in wishes]


def whole_for(wishes: Sequence[NamedWish], look: Callable[[], WholePicture]) -> WholePicture | None:
    """The picture as a whole, where a wish is about it."""
    return look() if any(one.wish.whole for one in wishes) else None


def with_contradictions(judged: Sequence[JudgedWish], answer: Answer | None) -> list[JudgedWish]:
    """The same, those contradicted that powers cannot meet because another wish pulls the other way."""
    bounds = answer.balance.bounds if answer else ()
    ruled_out = {answer.about[bound.of].key for bound in bounds if bound.against} if answer else set()
    return [
        replace(one, judged=replace(one.judged, state=CONTRADICTED))
        if one.wish.key in ruled_out and one.judged.state == OPEN else one
        for one in judged
    ]  # fmt: skip


def wished(wishes: Sequence[NamedWish], readings: Sequence[NamedReading]) -> list[str]:
    """What is wished for, a line each, as it stands on the sheet."""
    names = {reading.key: reading.name for reading in readings}
    return [f"{about(one, names)} {one.wish.words}" for one in wishes]


def about(one: NamedWish, names: Mapping[str, str]) -> str:
    """What a wish is about, by the names of its readings; of the picture as a whole where it has none."""
    told = [names.get(getattr(one.wish, ref), "a reading that was removed") for ref in WISHES[one.kind].refs]
    return " over ".join(told) or "The picture"


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
    concerned = [one for one in wishes if (target := one.wish.target) and _seen(target, parts)]
    lost: list[NamedWish] = []
    found: Answer | None = None
    for _ in range(ROUNDS):
        targets = [target for one in concerned if (target := one.wish.target)]
        if not targets:
            return found
        answer = balance(targets, parts, dials)
        before, now = now, with_powers(plan, answer.all_powers)
        found = Answer(balance=answer, about=tuple(concerned), plan=now, lost=tuple(lost))
        if now == before:
            break
        again = _parts(now, read(now))
        gone = [one for one in concerned if one.wish.target and not _seen(one.wish.target, again)]
        if gone:
            concerned = [one for one in concerned if one not in gone]
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
    answer, concerned = answered.balance, answered.about
    lights = {light.key: light for light in plan.lights}

    def power(key: str, stops: float) -> str:
        return power_name(stops, steps_per_stop=lights[key].emission.power_range.steps_per_stop)

    said = []
    if answer.powers:
        moves = [f"{lights[key].name} to {power(key, stops)}" for key, stops in answer.powers.items()]
        said.append(f"{listed(moves)}.")
        one = answer.first
        if one and len(answer.powers) > 1 and answer.powers.get(one.key) == one.power_stops:
            said.append(f"Most of it comes of one touch: {lights[one.key].name} to {power(one.key, one.power_stops)}.")
    for bound in answer.bounds:
        who = about(concerned[bound.of], names)
        other = listed([about(concerned[k], names) for k in bound.against])
        said.append(f"{who}: {bound.words}{f' ({other})' if other else ''}.")
    said += [f"{about(one, names)}: no powers bring it about, its line dies first; move a light." for one in answered.lost]
    if answer.aperture_stops is not None and not answered.lost:
        stops = answer.aperture_stops
        to = plan.exposure.f_number * 2.0 ** (stops / 2)
        way = "Stop down" if stops > 0 else "Open up"
        said.append(f"{way} by {measured_stops(stops)} stops, to {f_number_name(to)}, and all levels can be met.")
    return said


def listed(words: Sequence[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}" if words else ""


def all_met(judged: Sequence[JudgedWish]) -> bool:
    """Does the frame show all that is wished for?"""
    return all(one.judged.state == MET for one in judged)
