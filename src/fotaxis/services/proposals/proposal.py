"""What a proposal says of itself, and what all kinds of them are made from."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from fotaxis.core.errors import FotaxisError
from fotaxis.core.frames.faults import Fault
from fotaxis.core.frames.readings import NamedReading
from fotaxis.core.frames.readings.reading import Value
from fotaxis.core.frames.whole_picture import WholePicture
from fotaxis.core.lights.fixtures import Light, Stance
from fotaxis.core.proposals.panel import Face
from fotaxis.core.render.preview.traced_scene import TracedScene
from fotaxis.core.scene.plan import Plan
from fotaxis.core.values import Point
from fotaxis.core.wishes.wish import NamedWish
from fotaxis.services.changes import Change, applied
from fotaxis.services.levels import wanted_powers
from fotaxis.services.lighting_setups import strong_enough
from fotaxis.services.ports import Document, OwnPiece, ShotCodec

MOST = 6
"""So many proposals are shown at most."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Proposal:
    """One way to meet a wish: title, reasons (a sentence each), changes of the shot, and how good it is; covered: how much of the
    highlight it makes, None where it is about none; measures: stance and size of what is placed, as the shot file keeps them;
    shines: key of a light it adds, and the level its brightest is to reach (stops): its power is found when it is taken."""

    title: str
    reasons: tuple[str, ...]
    changes: tuple[Change, ...]
    rank: float
    covered: float | None = None
    measures: Mapping[str, float] = field(default_factory=dict)
    shines: tuple[str, float] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """A wish on a set: document and plan, the wish and all readings with what they read, what stands still, what the studio owns, and
    how to look at another plan."""

    document: Document
    plan: Plan
    wish: NamedWish
    readings: Sequence[NamedReading]
    values: Mapping[str, Value | None]
    stage: TracedScene
    kit: Sequence[OwnPiece]
    codec: ShotCodec
    stage_of: Callable[[Plan], TracedScene]
    whole: Callable[[], WholePicture]
    faults_of: Callable[[Plan], list[Fault]]

    @property
    def reading(self) -> NamedReading | None:
        """What the wish is about, None for the whole picture, or where it was removed."""
        key = getattr(self.wish.wish, "reading", "")
        return next((one for one in self.readings if one.key == key), None)

    @property
    def value(self) -> Value | None:
        return self.values.get(getattr(self.wish.wish, "reading", ""))

    def plan_with(self, changes: Sequence[Change]) -> Plan:
        """The plan after some changes."""
        return self.codec.plan(applied(self.document, list(changes)))

    @property
    def main_light(self) -> Light | None:
        """The light that makes most of what the wish is about."""
        value = self.value
        if value is None or not len(value.shares) or not self.plan.lights:
            return None
        shares = value.shares[1:]
        best = int(max(range(len(self.plan.lights)), key=lambda k: shares[k]))
        return self.plan.lights[best] if shares[best] >= MAKES_IT else None


MAKES_IT = 0.5
"""A light that makes so much of something is the one to be moved; else one more is put there."""


def where(place: Point) -> dict[str, float]:
    """A place as the shot file keeps it."""
    return {"x_cm": round(100 * place.x_m, 1), "y_cm": round(100 * place.y_m, 1), "z_cm": round(100 * place.z_m, 1)}


def turned(stance: Stance) -> dict[str, float]:
    """Turn and tilt as the shot file keeps them."""
    return {
        "turn_deg": round(math.degrees(stance.turn_rad), 2) or 0.0,
        "tilt_deg": round(math.degrees(stance.tilt_rad), 2) or 0.0,
    }


def stood(face: Face) -> dict[str, Any]:
    """Stance and size of a face as the shot file keeps them."""
    return {
        "place": where(face.place), **turned(face.stance), "width_cm": round(100 * face.width_m, 1),
        "height_cm": round(100 * face.height_m, 1),
    }  # fmt: skip


def set_all(list_name: str, key: str, values: Mapping[str, Any]) -> list[Change]:
    """Changes that set fields of a thing; what was aimed is aimed no more."""
    return [Change(kind="set", path=(list_name, key, name), value=value) for name, value in values.items()]


def place_words(place: Point) -> str:
    """A place as a tape finds it."""
    x, y, z = 100 * place.x_m, 100 * place.y_m, 100 * place.z_m
    side = "on the axis" if abs(x) < 0.5 else f"{abs(x):.0f} cm {'right' if x > 0 else 'left'} of the axis"
    return f"{side}, {abs(z):.0f} cm {'in front' if z >= 0 else 'behind'}, centre {y:.0f} cm high"


def size_words(face: Face) -> str:
    return f"{100 * face.width_m:.0f} × {100 * face.height_m:.0f} cm"


def added_light(changes: Sequence[Change], stops: float) -> tuple[str, float] | None:
    """Key of the light that changes add, with the level it is to reach; None where they add none."""
    for change in changes:
        if change.kind == "add" and change.path == ("lights",):
            return str(change.value["key"]), stops
    return None


def taken(asked: Asked, proposal: Proposal) -> list[Change]:
    """A proposal's changes, a light that it adds as strong as it needs to be to show as it is to."""
    changes = list(proposal.changes)
    if proposal.shines is None:
        return changes
    key, level = proposal.shines
    light = next(change.value for change in changes if change.kind == "add" and change.value.get("key") == key)
    try:
        stops = wanted_powers(asked.plan_with(changes), {key: level}).get(key)
    except FotaxisError:
        return changes
    if stops is None:
        return changes
    light = strong_enough(light, {key: stops})
    return [replace(one, value=light) if one.kind == "add" and one.value.get("key") == key else one for one in changes]
