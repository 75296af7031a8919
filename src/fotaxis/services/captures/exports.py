"""The predicted composite as files, and a whole shot as one: everything in open formats, readable without this program."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from dataclasses import asdict
from typing import Any, Protocol
from uuid import UUID

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.camera.tone import PLAIN_TONE
from fotaxis.core.captures.composite import Plate
from fotaxis.core.captures.merge import encoded
from fotaxis.core.errors import DomainError, FormatError
from fotaxis.core.keys import ROOM_KEY
from fotaxis.core.render.layers import layer_gains
from fotaxis.services.captures.composite import Joined, joined, mask_for, shown_captures, white_gain
from fotaxis.services.captures.merges import ALSO, MEDIA, Laid, MergeFiles, Merges, marks_layer
from fotaxis.services.captures.words import each_in_words
from fotaxis.services.photographs import TestFrames
from fotaxis.services.pictures import Pictures
from fotaxis.services.ports import Document, FinalState, NotFound, Refused, Shot, ShotCodec
from fotaxis.services.shots import Shots

KINDS = ("png", "jpg", "tif", *ALSO)
ONE = np.ones(3)
FORMAT, VERSION = "fotaxis-whole-shot", 1
PICTURE_SIDE = 800
README = """{name}

A whole shot: its set, captures, frames and pictures, in open formats.

shot.json        the set, captures and masks; described by its JSON Schema (docs/shot-file.md of the program)
captures/        what is predicted of each capture, sRGB JPEG
masks/           the mask of each capture that has one, grey PNG, white where the capture is taken
composite.jpg    what they make together, as predicted
frames/          photographs exactly as they came; frames.json tells which capture each is of
merges/          merged pictures, 16-bit TIFF in sRGB
sheet.pdf        the set sheet
manifest.json    SHA-256 of every file
"""


# ---- the predicted composite


def predicted_file(
    kind: str, document: Document, codec: ShotCodec, pictures: Pictures, files: MergeFiles, *, long_side: int, fine: bool
) -> bytes:  # fmt: skip
    """The composite as a file of one kind. Raises DomainError for a kind that is not known or what cannot be joined."""
    if kind not in KINDS:
        raise DomainError(f"{kind[:20]!r} is no kind of file here; use one of {', '.join(KINDS)}.")
    made = joined(document, codec, pictures, long_side=long_side, fine=fine)
    picture = encoded(made.levels, white=ONE, tone=made.tone)
    if kind == "exr":
        return _by_light(document, made, pictures, files, long_side=long_side)
    if kind == "png":
        return files.png(picture)
    if kind == "jpg":
        return files.jpeg(picture)
    if kind == "tif":
        return files.tiff([("Composite", picture)])
    layers = [_laid(one, plate) for one, plate in zip(shown_captures(document), made.plates, strict=True)]
    if kind == "ora":
        marks = marks_layer(document.get("retouch", []), picture.shape[1], picture.shape[0])
        return files.openraster(iter([*layers, *([marks] if marks else [])]), picture)
    return files.tiff([("Composite", picture), *((one.name, one.pixels) for one in layers)])


def _laid(capture: Document, plate: Plate) -> Laid:
    levels = np.minimum(plate.shaped(), 1.0) * np.float32(plate.gain)
    return Laid(name=capture["name"], pixels=_coded(levels), mask=plate.mask, blend=plate.blend)


def _coded(levels: NDArray[np.float32]) -> NDArray[np.uint16]:
    return encoded(np.ascontiguousarray(levels, np.float32), white=ONE, tone=PLAIN_TONE)


def _by_light(document: Document, made: Joined, pictures: Pictures, files: MergeFiles, *, long_side: int) -> bytes:
    """Linear layers `<capture>-<light>`, each at its power, as exposed; and for sums without masks they add up to the composite."""
    names, layers = [], []
    for capture, plan in zip(shown_captures(document), made.plans, strict=True):
        drafts, gains = pictures.layers(plan, long_side=long_side), layer_gains(plan)
        for key, picture, gain in zip(drafts.keys, drafts.pictures, gains, strict=True):
            if gain > 0 or (key != ROOM_KEY and key in capture["lights"]):
                names.append(f"{capture['key']}-{key}")
                layers.append(picture * np.float32(gain))
    return files.exr(names, np.stack(layers))


# ---- the whole shot


class ArchiveFiles(Protocol):
    """Many files as one zip, and back."""

    def pack(self, entries: Mapping[str, bytes]) -> bytes: ...
    def unpack(self, data: bytes) -> dict[str, bytes]:
        """Raises FormatError for what is no such zip, or too large."""
        ...

    def mask(self, mask: NDArray[np.float32]) -> bytes: ...
    def picture(self, picture: NDArray[np.uint8]) -> bytes: ...


class WholeShots:
    """A shot with its frames and merges as one file, and a shot made from such a file."""

    def __init__(
        self, shots: Shots, frames: TestFrames, merges: Merges, codec: ShotCodec, pictures: Pictures, files: ArchiveFiles
    ) -> None:  # fmt: skip
        self._shots, self._frames, self._merges = shots, frames, merges
        self._codec, self._pictures, self.files = codec, pictures, files

    def pack(self, studio_id: UUID, shot_id: UUID, *, sheet: bytes = b"") -> tuple[str, bytes]:
        """The shot's name and its file. sheet: the set sheet as PDF."""
        opened = self._shots.open(studio_id, shot_id)
        name, shot_file = self._shots.export_file(studio_id, shot_id)
        entries = {"README.txt": README.format(name=name).encode(), "shot.json": shot_file}
        entries |= self._predicted(opened.document)
        told = []
        for i, frame in enumerate(reversed(self._frames.of_shot(studio_id, shot_id)), start=1):
            path = f"frames/{i:03d}-{_plain(frame.file_name)}"
            entries[path] = self._frames.original(studio_id, frame.id)[1]
            told.append({
                "file": path, "name": frame.file_name, "capture": frame.capture, "note": frame.note,
                "exposure": {key: value for key, value in asdict(frame.exposure).items() if value is not None},
            })  # fmt: skip
        entries["frames.json"] = _json(told)
        for i, merge in enumerate(self._merges.of_shot(studio_id, shot_id), start=1):
            if merge.state is FinalState.DONE:
                entries[f"merges/{i:02d}.tif"] = self._merges.file(studio_id, merge.id, "tif")[1]
        if sheet:
            entries["sheet.pdf"] = sheet
        marks = {path: hashlib.sha256(data).hexdigest() for path, data in sorted(entries.items())}
        entries["manifest.json"] = _json({"format": FORMAT, "version": VERSION, "sha256": marks})
        return name, self.files.pack(entries)

    def _predicted(self, document: Document) -> dict[str, bytes]:
        """Pictures of every capture, masks and the composite; none where a capture cannot be shown."""
        if not document.get("captures"):
            return {}
        try:
            made = joined(document, self._codec, self._pictures, long_side=PICTURE_SIDE)
        except DomainError:
            return {}
        found = {"composite.jpg": self.files.picture(made.developed())}
        white = white_gain(document, made.base)
        for capture, plate in zip(shown_captures(document), made.plates, strict=True):
            codes = encoded(plate.picture * white, white=ONE, tone=PLAIN_TONE)
            found[f"captures/{capture['key']}.jpg"] = self.files.picture((codes >> 8).astype(np.uint8))
            mask = mask_for(made.base, capture, self._codec, self._pictures, long_side=PICTURE_SIDE)
            if mask is not None:
                found[f"masks/{capture['key']}.png"] = self.files.mask(mask)
        words = each_in_words(document, document["captures"])
        found["captures/captures.txt"] = "\n".join(
            f"{i}. {one['name']}: {said}"
            for i, (one, said) in enumerate(zip(document["captures"], words, strict=True), start=1)
        ).encode()
        return found

    def take_in(self, studio_id: UUID, job_id: UUID, data: bytes) -> Shot:
        """A shot with its frames from such a file. Raises FormatError in words; where a frame cannot be read, nothing is kept of the
        shot either."""
        entries = self.files.unpack(data)
        told = _checked(entries)
        shot = self._shots.import_file(studio_id, job_id, entries["shot.json"])
        try:
            for one in told:
                self._frames.attach(
                    studio_id,
                    shot.id,
                    file_name=str(one["name"]),
                    data=entries[one["file"]],
                    note=str(one.get("note", "")),
                    capture=str(one.get("capture", "")),
                )
        except (FormatError, Refused, NotFound):
            self._shots.remove(studio_id, shot.id)
            raise
        return shot


def _checked(entries: Mapping[str, bytes]) -> list[dict[str, Any]]:
    """What the file tells of its frames, each there and unharmed."""
    try:
        manifest, told = json.loads(entries["manifest.json"]), json.loads(entries["frames.json"])
        marks = manifest["sha256"]
        if manifest["format"] != FORMAT or not isinstance(marks, dict) or not isinstance(told, list):
            raise KeyError("format")
        names = [one["file"] for one in told]
    except (KeyError, ValueError, TypeError, AttributeError) as error:
        raise FormatError("this is not a whole shot: it must hold manifest.json, frames.json and shot.json.") from error
    if "shot.json" not in entries:
        raise FormatError("this whole shot has lost its shot.json; export it anew.")
    for name in ("shot.json", *names):
        if name not in entries:
            raise FormatError(f"{str(name)[:80]} is missing from this whole shot; export it anew.")
        if hashlib.sha256(entries[name]).hexdigest() != marks.get(name):
            raise FormatError(f"{str(name)[:80]} was changed since this whole shot was made; export it anew.")
    return [one for one in told if isinstance(one, dict) and isinstance(one.get("name"), str)]


def _plain(name: str) -> str:
    """A file name of letters, digits, dots and dashes."""
    return "".join(ch if ch.isascii() and (ch.isalnum() or ch in ".-_") else "-" for ch in name)[-80:] or "frame"


def _json(value: object) -> bytes:
    return (json.dumps(value, indent=2, ensure_ascii=False, sort_keys=True) + "\n").encode()


__all__ = ["KINDS", "MEDIA", "ArchiveFiles", "WholeShots", "predicted_file"]
