"""Photographs attached to a shot: kept as they came, read, and judged beside the prediction."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID, uuid4

import numpy as np

from fotaxis.core.frames.black_frame import BlackVerdict, frame_verdict
from fotaxis.core.frames.clipping import Clipping, clipped, crop_to_ratio
from fotaxis.services.ports import Blobs, Database, Frame, NotFound, PhotoReader, Refused, Repository, WorkingPicture
from fotaxis.services.sanitise import keepable

MOST_NOTE = 2000


@dataclass(frozen=True, slots=True, kw_only=True)
class FrameReading:
    """A frame cropped as the shot is, with what it has lost and whether it would do as a black frame."""

    frame: Frame
    picture: np.ndarray
    clipping: Clipping
    black: BlackVerdict


class TestFrames:
    """Attach, list, read, note, remove. A file is decoded once, when it comes; what is read later is its reduced picture."""

    __test__ = False

    def __init__(self, database: Database, blobs: Blobs, read_photo: PhotoReader, working: WorkingPicture) -> None:
        self._database, self._blobs = database, blobs
        self._read_photo, self._working = read_photo, working

    def attach(self, studio_id: UUID, shot_id: UUID, *, file_name: str, data: bytes, note: str, capture: str = "") -> Frame:
        """Keep a photograph with its note; capture: the key of the one it is of.

        Raises FormatError when it is not a whole JPEG, PNG or TIFF, Refused when the studio's room for photographs is used up.
        """
        note = _checked_note(note)
        with self._database.transaction() as repo:
            repo.shot(studio_id, shot_id)
            self._check_room(repo, studio_id, len(data))
        photo = self._read_photo(data)
        name = "".join(ch for ch in file_name.replace("\\", "/").rsplit("/", 1)[-1] if ch.isprintable())[:120] or "frame"
        frame_id = uuid4()
        self._blobs.put(_key(frame_id, "file"), data)
        self._blobs.put(_key(frame_id, "working"), self._working.write(photo.picture))
        with self._database.transaction() as repo:
            repo.lock_studio(studio_id)
            self._check_room(repo, studio_id, len(data))
            frame = repo.add_frame(
                studio_id,
                shot_id,
                frame_id=frame_id,
                file_name=name,
                size_bytes=len(data),
                photo=photo,
                note=note,
                capture=capture[:60],
            )
            repo.add_event(studio_id, kind="frame", words=f"Attached the photograph {name}", shot_id=shot_id)
            return frame

    @staticmethod
    def _check_room(repo: Repository, studio_id: UUID, size: int) -> None:
        usage = repo.usage(studio_id)
        if usage.photo_bytes + size > usage.photo_limit:
            raise Refused(
                f"The studio keeps {usage.photo_bytes / 1e9:.1f} GB of photographs and may keep {usage.photo_limit / 1e9:.1f} GB. "
                "Remove some, or ask an owner for more room. Nothing was changed."
            )

    def of_shot(self, studio_id: UUID, shot_id: UUID) -> list[Frame]:
        with self._database.transaction() as repo:
            return repo.frames(studio_id, shot_id)

    def get(self, studio_id: UUID, frame_id: UUID) -> Frame:
        with self._database.transaction() as repo:
            return repo.frame(studio_id, frame_id)

    def original(self, studio_id: UUID, frame_id: UUID) -> tuple[Frame, bytes]:
        """The frame and its file exactly as it came."""
        return self.get(studio_id, frame_id), self._blobs.get(_key(frame_id, "file"))

    def read(self, studio_id: UUID, frame_id: UUID, *, crop_ratio: float) -> FrameReading:
        """Read a kept frame's reduced picture, cropped around its middle to the shot's ratio."""
        frame = self.get(studio_id, frame_id)
        picture = crop_to_ratio(self._reduced(frame), crop_ratio)
        return FrameReading(frame=frame, picture=picture, clipping=clipped(picture), black=frame_verdict(picture))

    def _reduced(self, frame: Frame) -> np.ndarray:
        try:
            return self._working.read(self._blobs.get(_key(frame.id, "working")))
        except NotFound:  # kept by an earlier version: reduced now, once
            photo = self._read_photo(self._blobs.get(_key(frame.id, "file")))
            self._blobs.put(_key(frame.id, "working"), self._working.write(photo.picture))
            return photo.picture

    def note(self, studio_id: UUID, frame_id: UUID, *, note: str) -> None:
        with self._database.transaction() as repo:
            repo.note_frame(studio_id, frame_id, note=_checked_note(note))

    def give(self, studio_id: UUID, frame_id: UUID, *, capture: str) -> None:
        """Say which capture a frame is of, '' for none."""
        with self._database.transaction() as repo:
            repo.give_frame(studio_id, frame_id, capture=capture[:60])

    def remove(self, studio_id: UUID, frame_id: UUID) -> None:
        with self._database.transaction() as repo:
            frame = repo.frame(studio_id, frame_id)
            repo.remove_frame(studio_id, frame_id)
            words = f"Removed the photograph {frame.file_name}"
            repo.add_event(studio_id, kind="frame", words=words, shot_id=frame.shot_id)
        for kind in ("file", "working"):
            self._blobs.remove(_key(frame_id, kind))


def _key(frame_id: UUID, kind: str) -> str:
    return f"frames/{frame_id}/{kind}"


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
