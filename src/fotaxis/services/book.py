"""The job book: shots found by anything that is known of them, and sets like one."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from fotaxis.services.ports import BookEntry, Database, Document, Frame, Shot, ShotCodec
from fotaxis.services.series import sizes_of

MOST_WORDS = 20_000
MOST_FOUND = 60
LONG_TEXT = 300
"""Texts longer than this are pictures or meshes, not words."""

OF_NO_WORD = {"key", "format", "version", "aim", "was"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Found:
    """A shot that was found; alike: how like another it is, 1 the same, None where nobody asked."""

    shot: Shot
    alike: float | None = None
    why: str = ""


def words_of(shot: Shot, document: Document, frames: Iterable[Frame]) -> str:
    """All words by which a shot is found, in lower case: names, shapes, materials, modifiers, notes, dates, frames."""
    found = [shot.name, shot.job_name, f"{shot.updated_at:%Y-%m-%d} {shot.updated_at:%B %Y}"]
    found += _texts(document)
    for frame in frames:
        found += [frame.file_name, frame.note, f"{frame.created_at:%Y-%m-%d}"]
    return " ".join(dict.fromkeys(" ".join(found).lower().split()))[:MOST_WORDS]


def _texts(value: Any, name: str = "") -> list[str]:
    if isinstance(value, dict):
        return [word for key, part in value.items() for word in _texts(part, key)]
    if isinstance(value, list):
        return [word for part in value for word in _texts(part, name)]
    if isinstance(value, str) and name not in OF_NO_WORD and len(value) <= LONG_TEXT:
        return [value]
    return []


def traits_of(document: Document) -> dict[str, float]:
    """What a set looks like, in numbers that can be compared: shape and stuff of the product, kinds and sides of lights, ground."""
    subject = document["subject"]
    height, width = sizes_of(subject)
    traits: dict[str, float] = {
        "product: slender": math.log2(max(height / width, 0.05)), f"product: {subject['kind']}": 1.0,
        "product: glass": 1.0 if subject.get("glass") else 0.0, "product: liquid": 1.0 if subject.get("liquid") else 0.0,
    }  # fmt: skip
    for skin in (subject.get("body") or {}, *(band.get("skin") or {} for band in subject.get("bands", []))):
        traits[f"material: {skin.get('material', 'custom')}"] = 1.0
    for light in document["lights"]:
        place = light.get("place") or {"x_cm": 0.0, "z_cm": 0.0}
        side = (
            "behind"
            if place["z_cm"] < -25
            else "left"
            if place["x_cm"] < -15
            else "right"
            if place["x_cm"] > 15
            else "front"
        )
        name = f"look: {light.get('head', light['kind'])} {side}"
        traits[name] = traits.get(name, 0.0) + 1.0
    for card in document["cards"]:
        name = f"look: {card.get('material') or card['kind']}"
        traits[name] = traits.get(name, 0.0) + 1.0
    table = document.get("table")
    traits[f"ground: {table['surface'] if table else 'none'}"] = 1.0
    traits["ground: background"] = 1.0 if document.get("background") else 0.0
    return traits


def alike(a: Mapping[str, float], b: Mapping[str, float]) -> float:
    """How like two sets are, 0 to 1: the cosine of their traits."""
    dot = sum(value * b.get(name, 0.0) for name, value in a.items())
    size = math.sqrt(sum(v * v for v in a.values()) * sum(v * v for v in b.values()))
    return max(0.0, dot / size) if size > 0 else 0.0


def shared_words(a: Mapping[str, float], b: Mapping[str, float], *, most: int = 4) -> str:
    """What two sets have in common, in words."""
    both = [name.split(": ", 1)[1] for name in a if a[name] > 0 and b.get(name, 0.0) > 0 and "slender" not in name]
    return ", ".join(both[:most])


class Book:
    """Looks shots up."""

    def __init__(self, database: Database, codec: ShotCodec) -> None:
        self._database, self._codec = database, codec

    def search(self, studio_id: UUID, text: str) -> list[Found]:
        """Shots of a studio that hold every word (or part of one), the newest first; all for no word."""
        words = text.lower().split()[:12]
        return [Found(shot=shot) for shot, entry in self._entries(studio_id) if all(word in entry.words for word in words)][
            :MOST_FOUND
        ]

    def like(self, studio_id: UUID, shot_id: UUID) -> list[Found]:
        """Other shots, the most alike first, by product and look. Raises NotFound."""
        entries = self._entries(studio_id)
        with self._database.transaction() as repo:
            repo.shot(studio_id, shot_id)
        own = next((entry.traits for shot, entry in entries if shot.id == shot_id), {})
        found = [
            Found(shot=shot, alike=alike(own, entry.traits), why=shared_words(own, entry.traits))
            for shot, entry in entries if shot.id != shot_id
        ]  # fmt: skip
        return sorted(found, key=lambda one: -(one.alike or 0.0))[:MOST_FOUND]

    def _entries(self, studio_id: UUID) -> list[tuple[Shot, BookEntry]]:
        """Every shot with what it is found by, written anew where it has changed."""
        found = []
        with self._database.transaction() as repo:
            for shot in repo.all_shots(studio_id):
                frames = repo.frames(studio_id, shot.id)
                entry = repo.book_entry(studio_id, shot.id)
                if (
                    entry is None
                    or entry.revision != shot.revision
                    or any(one.file_name.lower() not in entry.words for one in frames)
                ):
                    document = self._codec.current(repo.revision(studio_id, shot.id, shot.revision).document)
                    entry = BookEntry(
                        shot_id=shot.id,
                        revision=shot.revision,
                        words=words_of(shot, document, frames),
                        traits=traits_of(document),
                    )
                    repo.keep_book_entry(studio_id, entry)
                found.append((shot, entry))
        return found
