"""What services need from outside besides the database: codecs, writers, passwords, time, bytes, news."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from typing import Any, Protocol

import numpy as np

from fotaxis.core.camera.tone import Tone
from fotaxis.core.captures.masks import MaskPart
from fotaxis.core.frames.line_profile import ReadingLine
from fotaxis.core.frames.photograph import Photograph
from fotaxis.core.frames.readings import NamedReading
from fotaxis.core.scene.plan import Plan
from fotaxis.core.wishes.wish import NamedWish
from fotaxis.services.ports.records import Document


class FinalWriter(Protocol):
    """Bytes of a finished picture: as the camera's file would show it, and its linear layers at their powers."""

    def png(self, picture: np.ndarray) -> bytes: ...
    def exr(self, *, keys: tuple[str, ...], pictures: np.ndarray) -> bytes: ...


class ShotCodec(Protocol):
    """Shot documents to checked values and back."""

    def check(self, document: object) -> Document:
        """The document in its canonical form; raises FormatError with the place of a fault."""
        ...

    def current(self, document: Document) -> Document:
        """A kept document as one of this version; nothing is checked."""
        ...

    def plan(self, document: Document) -> Plan:
        """The checked set of a document, checked anew; raises FormatError as check does."""
        ...

    def follower(self) -> Callable[[Document], Plan]:
        """As plan, for documents that follow one hand: what they share with the ones before is not made anew."""
        ...

    def line(self, document: Document, plan: Plan) -> ReadingLine:
        """The reading line of a document, of which the plan was made."""
        ...

    def readings(self, document: Document) -> tuple[NamedReading, ...]: ...
    def wishes(self, document: Document) -> tuple[NamedWish, ...]: ...
    def mask(self, parts: list[Any]) -> tuple[MaskPart, ...]:
        """The parts of a capture's mask."""
        ...

    def tone(self, finish: dict[str, Any]) -> Tone:
        """How a composite is developed."""
        ...

    def read(self, data: bytes) -> Document: ...
    def write(self, document: Document) -> bytes: ...


class PhotoReader(Protocol):
    def __call__(self, data: bytes) -> Photograph: ...


class PictureWriter(Protocol):
    def __call__(self, picture: np.ndarray) -> bytes: ...


class WorkingPicture(Protocol):
    """A photograph's reduced picture to bytes and back, without loss."""

    def write(self, picture: np.ndarray) -> bytes: ...
    def read(self, data: bytes) -> np.ndarray: ...


class PasswordKeeper(Protocol):
    def hash(self, password: str) -> str: ...
    def verify(self, password: str, password_hash: str) -> bool: ...


class Clock(Protocol):
    def __call__(self) -> datetime: ...


class Blobs(Protocol):
    """Where the bytes of photographs and finals lie. A key names them for good: what it stands for never changes.

    `put` before the row that names them is committed, `remove` after the row is gone: a crash between leaves bytes that no row
    names, never a row without its bytes.
    """

    def put(self, key: str, data: bytes) -> None: ...
    def get(self, key: str) -> bytes:
        """Raises NotFound."""
        ...

    def remove(self, key: str) -> None:
        """Nothing happens where there is nothing."""
        ...


class News(Protocol):
    """What happens in any process on the same database, told to all that listen."""

    def listen(self, told: Callable[[dict[str, Any]], None]) -> Callable[[], None]:
        """Call told with every piece of news from now on; the result ends it. After a broken line {'kind': 'again'} says that
        something may have been missed."""
        ...

    def tell(self, news: dict[str, Any]) -> None:
        """Tell all at once; nothing of it is kept."""
        ...
