"""Shots as services handle them: documents checked, read and written, and the values they stand for."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from fotaxis.core.camera.tone import Tone
from fotaxis.core.captures.masks import MaskPart
from fotaxis.core.frames.line_profile import ReadingLine
from fotaxis.core.frames.line_reading import usual_line
from fotaxis.core.frames.readings import NamedReading
from fotaxis.core.scene.plan import Plan
from fotaxis.core.wishes.wish import NamedWish
from fotaxis.formats import shot_file, shot_meter
from fotaxis.formats.shot_captures import MASK_LIST, FinishPart
from fotaxis.formats.shot_readings import READING_LIST
from fotaxis.formats.shot_wishes import WISH_LIST


class JsonShots:
    """Documents of shots as plain values, and what they stand for: what services ask of a codec."""

    def check(self, document: object) -> dict[str, Any]:
        return shot_file.from_raw(document).model_dump(mode="json")

    def current(self, document: dict[str, Any]) -> dict[str, Any]:
        return shot_file.upgraded(document)

    def plan(self, document: dict[str, Any]) -> Plan:
        return shot_file.with_plan(document)[1]

    def follower(self) -> Callable[[dict[str, Any]], Plan]:
        values = shot_file.Values()
        return lambda document: shot_file.with_plan(document, values)[1]

    def line(self, document: dict[str, Any], plan: Plan) -> ReadingLine:
        put = document.get("reading_line")
        return shot_meter.LinePart.model_validate(put).value() if put else usual_line(plan)

    def readings(self, document: dict[str, Any]) -> tuple[NamedReading, ...]:
        return tuple(one.named() for one in READING_LIST.validate_python(document.get("readings", [])))

    def wishes(self, document: dict[str, Any]) -> tuple[NamedWish, ...]:
        return tuple(one.value() for one in WISH_LIST.validate_python(document.get("wishes", [])))

    def mask(self, parts: list[Any]) -> tuple[MaskPart, ...]:
        return tuple(one.value() for one in MASK_LIST.validate_python(parts))

    def tone(self, finish: dict[str, Any]) -> Tone:
        return FinishPart.model_validate(finish).tone()

    def read(self, data: bytes) -> dict[str, Any]:
        return shot_file.read(data).model_dump(mode="json")

    def write(self, document: dict[str, Any]) -> bytes:
        return shot_file.write(shot_file.from_raw(document))
