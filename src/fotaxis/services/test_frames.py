"""Photographs attached to a shot: kept as they came, read, and judged beside the prediction."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID

import numpy as np

from fotaxis.core.frames.black import BlackVerdict, frame_verdict
from fotaxis.core.frames.clipping import Clipping, clipped, crop_to_ratio
from fotaxis.core.frames.photograph import Photograph
from fotaxis.services.ports import Database, Frame, PhotoReader, Refused
from fotaxis.services.text import keepable

MOST_NOTE = 2000


@dataclass(frozen=True, slots=True, kw_only=True)
class FrameReading:
    """A frame cropped as the shot is, with what it has lost and whether it would do as a black frame."""

    frame: Frame
    picture: np.ndarray
    clipping: Clipping
    black: BlackVerdict


class TestFrames:
    """Attach, list, read, note, remove."""

    __test__ = False

    def __init__(self, database: Database, read_photo: PhotoReader) -> None:
        self._database = database
        self._read_photo = read_photo

    def attach(self, studio_id: UUID, shot_id: UUID, *, file_name: str, data: bytes, note: str) -> Frame:
        """Keep a photograph with its note. Raises FormatError when it is not a whole JPEG, PNG or TIFF."""
        with self._database.transaction() as repo:
            repo.shot(studio_id, shot_id)
        photo = self._read_photo(data)
        name = "".join(ch for ch in file_name.replace("\\", "/").rsplit("/", 1)[-1] if ch.isprintable())[:120] or "frame"
        with self._database.transaction() as repo:
            return repo.add_frame(studio_id, shot_id, file_name=name, data=data, photo=photo, note=_checked_note(note))

    def of_shot(self, studio_id: UUID, shot_id: UUID) -> list[Frame]:
        with self._database.transaction() as repo:
            return repo.frames(studio_id, shot_id)

    def get(self, studio_id: UUID, frame_id: UUID) -> Frame:
        with self._database.transaction() as repo:
            return repo.frame(studio_id, frame_id)

    def original(self, studio_id: UUID, frame_id: UUID) -> tuple[Frame, bytes]:
        """The frame and its file exactly as it came."""
        with self._database.transaction() as repo:
            return repo.frame(studio_id, frame_id), repo.frame_bytes(studio_id, frame_id)

    def read(self, studio_id: UUID, frame_id: UUID, *, crop_ratio: float) -> FrameReading:
        """Read a kept frame, cropped around its middle to the shot's ratio."""
        frame, data = self.original(studio_id, frame_id)
        photo: Photograph = self._read_photo(data)
        picture = crop_to_ratio(photo.picture, crop_ratio)
        return FrameReading(frame=frame, picture=picture, clipping=clipped(picture), black=frame_verdict(picture))

    def note(self, studio_id: UUID, frame_id: UUID, *, note: str) -> None:
        with self._database.transaction() as repo:
            repo.note_frame(studio_id, frame_id, note=_checked_note(note))

    def remove(self, studio_id: UUID, frame_id: UUID) -> None:
        with self._database.transaction() as repo:
            repo.remove_frame(studio_id, frame_id)


def _checked_note(note: str) -> str:
    note = keepable(note).strip()
    if len(note) > MOST_NOTE:
        raise Refused(f"The note has {len(note)} characters; at most {MOST_NOTE}. Nothing was changed.")
    return note


def marked(picture: np.ndarray, clipping: Clipping) -> np.ndarray:
    """The picture with diagonal stripes over clipped white and a dot pattern over blocked black."""
    rows, columns = np.mgrid[0 : picture.shape[0], 0 : picture.shape[1]]
    out = picture.copy()
    stripes = ((rows + columns) // 4) % 2 == 0
    out[clipping.white & stripes] = (0, 0, 0)
    dots = (rows % 6 == 0) & (columns % 6 == 0)
    out[clipping.black & dots] = (150, 150, 150)
    return out
