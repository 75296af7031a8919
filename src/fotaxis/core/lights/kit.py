"""What a studio owns: kinds of pieces, what is known of each, and whether what is told of one can be."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from fotaxis.core.errors import DomainError

MOST_NAME = 60
MOST_COUNT = 500
Value = float | str


@dataclass(frozen=True, slots=True, kw_only=True)
class Field:
    """One thing that is known of a piece: its column's name, words, unit and bounds; choices: a word out of these, not a number."""

    name: str
    words: str
    unit: str = ""
    low: float = 0.0
    high: float = 1e6
    choices: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Kind:
    """A kind of pieces: its key, words, and fields."""

    key: str
    words: str
    fields: tuple[Field, ...]


WEIGHT = Field(name="weight_kg", words="Weight", unit="kg", high=200)
WIDTH = Field(name="width_cm", words="Width", unit="cm", low=0.5, high=1000)
HEIGHT = Field(name="height_cm", words="Height", unit="cm", low=0.5, high=1000)

FINISHES = ("white", "black", "silver", "satin silver", "gold", "mirror")

KINDS: dict[str, Kind] = {
    one.key: one for one in (
        Kind(key="head", words="Head", fields=(
            Field(name="energy_ws", words="Energy", unit="Ws", low=1, high=20_000),
            Field(name="lowest_stops", words="Range", unit="stops", low=1, high=10),
            Field(name="steps_per_stop", words="Steps a stop", choices=("1", "2", "3", "10")),
            Field(name="guide_number_m", words="Guide number at ISO 100", unit="m", low=0.5, high=500),
            Field(name="meter_f", words="or meter reads f/", low=0.5, high=180),
            Field(name="meter_cm", words="metered at", unit="cm", low=5, high=3000),
            Field(name="duration_s", words="t0.5 at full power", unit="s", low=1e-6, high=1),
            Field(name="recycle_s", words="Recycles in", unit="s", low=0.01, high=60),
            Field(name="continuous", words="Burns on", choices=("yes", "no")),
            Field(name="pack", words="On the pack", choices=()), WEIGHT,
        )),
        Kind(key="pack", words="Pack", fields=(
            Field(name="energy_ws", words="Energy", unit="Ws", low=1, high=20_000),
            Field(name="sockets", words="Sockets", low=1, high=12), WEIGHT,
        )),
        Kind(key="box", words="Box", fields=(WIDTH, HEIGHT, WEIGHT)),
        Kind(key="grid", words="Grid", fields=(Field(name="degrees", words="Angle", unit="°", low=1, high=90),)),
        Kind(key="sheet", words="Sheet", fields=(Field(name="material", words="Of"), WIDTH, HEIGHT)),
        Kind(key="card", words="Card", fields=(
            Field(name="finish", words="Finish", choices=FINISHES), WIDTH, HEIGHT,
        )),
        Kind(key="stand", words="Stand", fields=(
            Field(name="load_kg", words="Carries", unit="kg", low=0.1, high=200),
            Field(name="reach_cm", words="Boom reaches", unit="cm", high=600),
            Field(name="height_cm", words="Goes up to", unit="cm", low=5, high=900),
        )),
        Kind(key="camera", words="Camera", fields=(
            Field(name="sensor_width_mm", words="Sensor width", unit="mm", low=2, high=300),
            Field(name="sensor_height_mm", words="Sensor height", unit="mm", low=2, high=300),
            Field(name="sync_s", words="Flash to", unit="s", low=1e-4, high=1),
        )),
        Kind(key="lens", words="Lens", fields=(
            Field(name="focal_mm", words="Focal length", unit="mm", low=4, high=2000),
            Field(name="widest_f", words="Opens to f/", low=0.7, high=32),
            Field(name="closest_cm", words="Focuses to", unit="cm", low=1, high=1000),
            Field(name="shift_mm", words="Shifts", unit="mm", high=50), Field(name="tilt_deg", words="Tilts", unit="°", high=45),
        )),
        Kind(key="filter", words="Filter", fields=(
            Field(name="takes_stops", words="Takes", unit="stops", high=20),
            Field(name="sort", words="Sort", choices=("ND", "polariser", "other")),
        )),
    )
}  # fmt: skip
"""Kinds of pieces by key, in the order in which they are listed."""

FREE_WORDS = ("pack", "material")
"""Fields of words that are names of something else."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Piece:
    """So many equal pieces of what a studio owns; values by field, numbers in the field's unit."""

    kind: str
    name: str
    count: int
    values: Mapping[str, Value]

    def number(self, field: str) -> float | None:
        """A field's number, None where it is not told."""
        value = self.values.get(field)
        return float(value) if value is not None else None

    @property
    def words(self) -> str:
        """What is known of it: 'energy 500 Ws, range 7 stops'."""
        told = ((field, self.values[field.name]) for field in KINDS[self.kind].fields if field.name in self.values)
        return ", ".join(
            f"{field.words[:1].lower()}{field.words[1:]} {_shown(field, value)}{_unit(field)}" for field, value in told
        )


def _unit(field: Field) -> str:
    return f" {field.unit}" if field.unit and field.unit != "°" else field.unit


def _shown(field: Field, value: Value) -> str:
    """Short times as heads and shutters write them: 1/1100."""
    if isinstance(value, str):
        return value
    return f"1/{1 / value:.0f}" if field.unit == "s" and 0 < value < 0.3 else f"{value:g}"


def piece(kind: str, name: str, count: str | float, given: Mapping[str, str | float]) -> Piece:
    """A piece of what was typed or read. Raises DomainError naming the field and what would be right."""
    found = KINDS.get(kind.strip().lower())
    if found is None:
        raise DomainError(f"kind is {kind[:30]!r}; it is one of {', '.join(KINDS)}.")
    name = " ".join(name.split())
    if not 1 <= len(name) <= MOST_NAME:
        raise DomainError(f"name is {name[:30]!r}; give it 1 to {MOST_NAME} characters.")
    many = _number("count", count if str(count).strip() else 1, "", 1, MOST_COUNT)
    if many != int(many):
        raise DomainError(f"count is {many:g}; it is a whole number.")
    fields = {field.name: field for field in found.fields}
    told = {field: value for field, value in given.items() if str(value).strip()}
    odd = sorted(set(told) - set(fields))
    if odd:
        raise DomainError(f"a {found.key} has no {odd[0]!r}; it has {', '.join(fields)}.")
    return Piece(
        kind=found.key, name=name, count=int(many),
        values={field.name: _value(field, told[field.name]) for field in found.fields if field.name in told},
    )  # fmt: skip


def _value(field: Field, given: str | float) -> Value:
    if field.name in FREE_WORDS:
        return " ".join(str(given).split())[:MOST_NAME]
    if not field.choices:
        return _number(field.name, given, field.unit, field.low, field.high)
    word = str(given).strip()
    word = word.removesuffix(".0")
    if word not in field.choices:
        raise DomainError(f"{field.name} is {word[:30]!r}; it is one of {', '.join(field.choices)}.")
    return word


def _number(name: str, given: str | float, unit: str, low: float, high: float) -> float:
    text = str(given).strip()
    if text.startswith("1/"):  # a duration as it is written on a head
        try:
            return _number(name, 1.0 / float(text[2:]), unit, low, high)
        except (ValueError, ZeroDivisionError):
            pass
    try:
        number = float(text.replace(",", "."))
    except ValueError:
        raise DomainError(f"{name} is {text[:30]!r}, which is no number; write it in {unit or 'figures'}.") from None
    if not math.isfinite(number) or not low <= number <= high:
        raise DomainError(
            f"{name} is {number:g} {unit}; it must be {low:g} to {high:g} {unit}.".replace(" .", ".").replace(" ;", ";")
        )
    return number
