"""The list at the set: what is shot, in which order, what is touched before each frame, when, and what to mind."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any
from uuid import UUID

from fotaxis.core.camera.nominal_scales import f_number_name, shutter_name
from fotaxis.core.captures.clock import Took, clock_name, pace_of, reckoned_s, seconds_of, timetable
from fotaxis.core.captures.order import Step, Touches, planned
from fotaxis.core.keys import PRODUCT_KEY
from fotaxis.core.lights.kit import Piece
from fotaxis.core.stops import power_name
from fotaxis.services import cautions
from fotaxis.services.captures.capture import captured, state_of
from fotaxis.services.captures.words import focus_words, names_in
from fotaxis.services.ports import Clock, Database, Document, Refused, ShotCodec, StepShot
from fotaxis.services.wishes import listed

BLACK, GUIDE, PLATE = "black-frame", "guide-frame", "background-plate"
LONG_S = 1.0
"""A shutter from here on is counted at the set."""

USUAL_RECYCLE_S = 1.5
"""From one flash to the next where the kit does not say. Common practice."""

LONGEST_STEP_S = 2 * 3600.0
"""Whoever takes longer from one tick to the next has been away."""

HISTORY = 200
BATTERY_MINUTES = 60.0
"""A battery head lasts about an hour at full. Common practice."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """A step of the list. doing: what to touch before it; care: what to mind; count_s: how long the shutter is open where that is
    counted; pops, beat_s: flashes of one exposure and the time between two."""

    number: int
    key: str
    name: str
    doing: tuple[str, ...]
    exposure: str
    hands: str
    note: str
    care: tuple[str, ...]
    begins: str
    minutes: float
    reckoned_s: float
    count_s: float
    pops: int
    beat_s: float
    moved: bool
    done: bool = False
    done_words: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class ShootingList:
    """rows in order; words: when it ends, against the client's arrival, and whether the order is the best there is."""

    rows: tuple[Row, ...]
    words: tuple[str, ...]
    late: bool

    @property
    def done(self) -> int:
        return sum(row.done for row in self.rows)


def steps_of(document: Document) -> dict[str, tuple[Step, Document]]:
    """Everything to be shot, by key: its step and the capture it is taken as."""
    shooting = document.get("shooting", {})
    now = state_of(document)
    made: dict[str, tuple[Step, Document]] = {}
    everything = {key: stops for one in document["captures"] for key, stops in one["lights"].items()}
    extra = {"away": [], "poured": True, "wet": False, "splash": False, "framing": "", "after": [], "hands": "", "note": ""}
    first = document["captures"][0] if document["captures"] else now
    black = {**extra, **now, "key": BLACK, "name": "Black frame", "lights": {}}
    black["poured"] = all(one.get("poured", True) for one in document["captures"])
    black |= {name: first[name] for name in ("iso", "shutter_s", "f_number", "focus", "focus_cm", "polariser_deg")}
    made[BLACK] = (replace(_step(black), opens=True), black)
    for one in document["captures"]:
        made[one["key"]] = (_step(one), one)
    if shooting.get("guide", True) and len(document["captures"]) > 1:
        before = [one["key"] for one in document["captures"] if not (one.get("away") or one.get("wet") or one.get("splash"))]
        guide = {**extra, **now, "key": GUIDE, "name": "Guide frame: everything on", "lights": everything or now["lights"]}
        guide["after"] = before
        made[GUIDE] = (_step(guide), guide)
    if shooting.get("background_plate"):
        away = [PRODUCT_KEY, *(one["key"] for one in document["others"])]
        plate = {**extra, **now, "key": PLATE, "name": "Background without the product", "lights": everything, "away": away}
        made[PLATE] = (_step(plate), plate)
    return made


def _step(capture: Mapping[str, Any]) -> Step:
    return Step(
        key=capture["key"], lights=capture["lights"], settings=(capture["iso"], capture["shutter_s"], capture["f_number"]),
        focus=(capture["focus"], capture.get("focus_cm")), polariser=capture.get("polariser_deg"),
        framing=capture.get("framing", ""), away=frozenset(capture.get("away", [])), poured=capture.get("poured", True),
        wet=capture.get("wet", False), splash=capture.get("splash", False), after=tuple(capture.get("after", [])),
    )  # fmt: skip


def shooting_list(
    document: Document, codec: ShotCodec, *, shot: Sequence[StepShot] = (), history: Sequence[StepShot] = (),
    kit: Sequence[Piece] = (), now: str = "",
) -> ShootingList:  # fmt: skip
    """The list as it stands: what is done stays in its order, the rest is planned anew from there.

    now: time of day at the set, '' for when it is to begin. Raises NoSolution where two captures must each come first.
    """
    made = steps_of(document)
    ticks = {one.step: one for one in shot if one.step in made}
    done = sorted(ticks, key=lambda key: ticks[key].at)
    here = made[done[-1]][0] if done else replace(_step({**state_of(document), "key": "now"}), key="now")
    left = [_free(step, ticks) for key, (step, _) in made.items() if key not in ticks]
    order = planned(left, here)
    pace = pace_of([Took(reckoned_s=one.reckoned_s, took_s=one.took_s) for one in history if one.took_s])
    recycle = _recycle(document, kit)
    rows: list[Row] = []
    for key in done:
        rows.append(_row(len(rows) + 1, document, made[key][1], Touches(), codec, recycle, ticks[key]))
    for step, touched in zip(order.steps, order.touches, strict=True):
        rows.append(_row(len(rows) + 1, document, made[step.key][1], touched, codec, recycle, None))
    shooting = document.get("shooting", {})
    begin = seconds_of(now) if now else seconds_of(shooting.get("begin", ""))
    waiting = [row for row in rows if not row.done]
    slots = timetable([pace * row.reckoned_s for row in waiting], begin_s=begin or 0.0)
    times = iter(slots)
    rows = [row if row.done else _timed(row, next(times), known=begin is not None, pace=pace) for row in rows]
    words, late = _words(document, rows, slots, begin, seconds_of(shooting.get("client", "")), pace, exact=order.exact)
    return ShootingList(rows=tuple(rows), words=(*words, *_batteries(document, rows)), late=late)


def _free(step: Step, ticks: Mapping[str, StepShot]) -> Step:
    """A step without conditions that are met already."""
    return replace(step, after=tuple(key for key in step.after if key not in ticks))


def _timed(row: Row, slot: Any, *, known: bool, pace: float) -> Row:
    return replace(row, begins=clock_name(slot.begin_s) if known else "", minutes=round(pace * row.reckoned_s / 60, 1))


def _words(
    document: Document, rows: Sequence[Row], slots: Sequence[Any], begin: float | None, client: float | None, pace: float, *,
    exact: bool,
) -> tuple[list[str], bool]:  # fmt: skip
    left = [row for row in rows if not row.done]
    if not left:
        return ["All is shot."], False
    minutes = sum(row.minutes for row in left)
    words = [f"{len(left)} of {len(rows)} frames to go, about {_long(minutes)}" + (
        f", until {clock_name(slots[-1].end_s)}." if begin is not None else "."
    )]  # fmt: skip
    if pace != 1.0:
        words.append(f"Times are this studio's own: {pace:.1f} times the usual.")
    late = False
    if begin is not None and client is not None:
        ready = [row.name for row, slot in zip(left, slots, strict=True) if slot.end_s <= client]
        late = len(ready) < len(left)
        if late and client > begin:
            words.append(
                f"The client comes at {clock_name(client)}: {len(ready)} of these are done by then, "
                f"{left[len(ready)].name} is not. Begin earlier, or shoot the rest with them."
            )
        elif late:
            words.append(f"The client has been here since {clock_name(client)}.")
        else:
            words.append(f"All is done {_long((client - slots[-1].end_s) / 60)} before the client comes.")
    if not exact:
        words.append("So many frames have more orders than can be tried; this one is good, perhaps not the best.")
    return words, late


def _long(minutes: float) -> str:
    """So many minutes as one says them: '35 min', '2 h 5 min'."""
    hours, rest = divmod(round(minutes), 60)
    return f"{hours} h {rest} min" if hours else f"{rest} min"


# ---- a row


def _row(
    number: int, document: Document, capture: Document, touched: Touches, codec: ShotCodec, recycle: float,
    tick: StepShot | None,
) -> Row:  # fmt: skip
    lights = {light["key"]: light for light in document["lights"]}
    on = [lights[key] for key in capture["lights"] if key in lights]
    pops = max((int(light.get("pops", 1)) for light in on), default=1)
    seconds = reckoned_s(
        touch_cost=touched.cost, exposure_s=capture["shutter_s"], pops=pops, recycle_s=recycle if pops > 1 else 0.0
    )
    exposure = f"{f_number_name(capture['f_number'])}, {shutter_name(capture['shutter_s'])}, ISO {capture['iso']:.0f}"
    done_words = ""
    if tick is not None:
        took = f", {tick.took_s / 60:.1f} min" if tick.took_s else ""
        done_words = f"{tick.at:%H:%M} UTC{took}{f', {tick.who}' if tick.who else ''}"
    return Row(
        number=number, key=capture["key"], name=capture["name"], doing=tuple(_doing(document, capture, touched)),
        exposure=exposure, hands=capture.get("hands", ""), note=capture.get("note", ""),
        care=tuple(_care(document, capture, touched, codec)), begins="", minutes=seconds / 60, reckoned_s=seconds,
        count_s=capture["shutter_s"] if capture["shutter_s"] >= LONG_S else 0.0, pops=pops, beat_s=recycle,
        moved=any(light.get("to") for light in on), done=tick is not None, done_words=done_words,
    )  # fmt: skip


def _doing(document: Document, capture: Document, touched: Touches) -> list[str]:
    names = names_in(document)
    lights = {light["key"]: light for light in document["lights"]}

    def power(key: str) -> str:
        return power_name(capture["lights"][key], steps_per_stop=lights[key].get("steps_per_stop", 3))

    told = []
    if touched.framing:
        told.append(f"Frame {capture.get('framing') or 'as the shot'}")
    if touched.off:
        told.append(f"Off: {listed([names.get(key, key) for key in touched.off])}")
    if touched.on:
        told.append("On: " + listed([f"{names.get(key, key)} at {power(key)}" for key in touched.on if key in lights]))
    told += [f"{names.get(key, key)} to {power(key)}" for key in touched.power if key in lights]
    if touched.lifted:
        told.append(f"Lift away {listed([_the(names.get(key, key)) for key in touched.lifted])}")
    if touched.back:
        told.append(f"Put back {listed([_the(names.get(key, key)) for key in touched.back])}, to the mark")
    if touched.poured:
        told.append("Pour" if capture.get("poured", True) else "Empty and dry the glass")
    if touched.polariser:
        turn = capture.get("polariser_deg")
        told.append("Polariser off" if turn is None else f"Polariser to {turn:.0f}°")
    if touched.focus:
        told.append(focus_words(capture)[:1].upper() + focus_words(capture)[1:])
    if touched.dials:
        told.append(f"Set {listed(list(touched.dials))}")
    return told


def _the(name: str) -> str:
    return f"the {name[:1].lower()}{name[1:]}"


def _care(document: Document, capture: Document, touched: Touches, codec: ShotCodec) -> list[str]:
    """Cautions of this very step: of lights that come on, glass that is lifted, water, a splash."""
    plan = codec.plan(captured(document, capture))
    by_thing = cautions.by_thing(plan, document)
    names = names_in(document)
    told = [f"{names.get(key, key)}: {by_thing[key]}" for key in touched.on if key in by_thing]
    if touched.lifted or touched.back:
        told.append("Both hands, clean gloves, nothing overhead loose; glass that is cracked is not used.")
    if capture.get("wet") or capture.get("splash"):
        told.append(
            "Water: packs, plugs and cables off the floor and clear of it, a residual-current breaker; in doubt a licensed person. "
            "Local codes and makers' manuals first."
        )
    if any(light.get("pops", 1) > 1 and light["key"] in capture["lights"] for light in document["lights"]):
        told.append("Many flashes: nobody looks into the head; let it cool as its manual says.")
    return told


def _recycle(document: Document, kit: Sequence[Piece]) -> float:
    """The longest time from flash to flash of the heads on the set, seconds."""
    owned = {one.name for one in kit}
    used = {light.get("own_head") or light.get("own") for light in document["lights"]} & owned
    known = [value for one in kit if one.name in used and (value := one.number("recycle_s"))]
    return max(known, default=USUAL_RECYCLE_S)


def _batteries(document: Document, rows: Sequence[Row]) -> list[str]:
    """Heads on batteries whose list takes longer than one lasts at full power."""
    minutes = sum(row.minutes for row in rows if not row.done)
    found = []
    for light in document["lights"]:
        lasts = BATTERY_MINUTES * 2.0 ** -float(light.get("power_stops", 0.0))
        if "battery" in str(light.get("head", "")) and minutes > lasts:
            found.append(
                f"{light['name']} runs on a battery, about {lasts:.0f} min at its power: have a second one charged."
            )
    return found


# ---- ticks


class Shooting:
    """Ticks steps of a shot's list, and learns how long a studio takes."""

    def __init__(self, database: Database, codec: ShotCodec, clock: Clock) -> None:
        self._database, self._codec, self._clock = database, codec, clock

    def list_of(self, studio_id: UUID, shot_id: UUID, *, now: str = "") -> ShootingList:
        """The list as it stands. Raises NoSolution, DomainError for what is no time of day."""
        with self._database.transaction() as repo:
            shot = repo.shot(studio_id, shot_id)
            document = self._codec.current(repo.revision(studio_id, shot_id, shot.revision).document)
            ticks, history = repo.steps_shot(studio_id, shot_id), repo.history_of_steps(studio_id, most=HISTORY)
            kit = [one.piece for one in repo.kit(studio_id)]
        return shooting_list(document, self._codec, shot=ticks, history=history, kit=kit, now=now)

    def tick(self, studio_id: UUID, shot_id: UUID, *, step: str) -> None:
        """A step was shot: kept with what it took since the one before. Raises Refused for a step that is not on the list."""
        now = self._clock()
        row = next((row for row in self.list_of(studio_id, shot_id).rows if row.key == step), None)
        if row is None:
            raise Refused("This step is not on the list any more; reload to see it as it is.")
        with self._database.transaction() as repo:
            before = repo.steps_shot(studio_id, shot_id)
            repo.tick_step(studio_id, shot_id, step=step, at=now, reckoned_s=row.reckoned_s, took_s=_since(before, now))
            repo.tell(kind="shooting", shot=shot_id)

    def untick(self, studio_id: UUID, shot_id: UUID, *, step: str) -> None:
        """It is to be shot again."""
        with self._database.transaction() as repo:
            repo.untick_step(studio_id, shot_id, step=step)
            repo.tell(kind="shooting", shot=shot_id)

    def begin_again(self, studio_id: UUID, shot_id: UUID) -> None:
        """Nothing is shot yet."""
        with self._database.transaction() as repo:
            repo.untick_step(studio_id, shot_id)
            repo.tell(kind="shooting", shot=shot_id)


def _since(before: Sequence[StepShot], now: datetime) -> float | None:
    if not before:
        return None
    took = (now - max(one.at for one in before)).total_seconds()
    return took if 0 < took < LONGEST_STEP_S else None
