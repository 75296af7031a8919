"""Fine pictures for screens, sheets and comparisons: made by workers, once for all servers, kept under what is in them."""

from __future__ import annotations

import hashlib
import json
import time
from collections.abc import Callable
from dataclasses import replace
from typing import Protocol
from uuid import UUID

import numpy as np

from fotaxis import __version__
from fotaxis.core.errors import FotaxisError
from fotaxis.core.render.final.quality import SCREEN, ProgressCallback
from fotaxis.core.render.layers import Layers
from fotaxis.core.render.parallel import RenderCancelled, cancellable
from fotaxis.core.scene.plan import Plan
from fotaxis.services.picture_keys import OF_NO_PICTURE, layers_key
from fotaxis.services.pictures import Pictures
from fotaxis.services.ports import (
    Clock,
    Database,
    Document,
    Lane,
    PictureWriter,
    SharedPicture,
    ShotCodec,
    Work,
)
from fotaxis.services.work import ALIVE

LAYERS, PICTURE = "layers", "picture"
SIDE_STEP, MOST_SIDE = 40, 1600
"""Fine pictures come in sizes so far apart, so that two windows of nearly the same size share one."""

KEEP_BYTES = 2_000_000_000
PROBLEM = "application/problem+json"


class LayersFile(Protocol):
    """Layers with the product's pixels, to bytes and back."""

    def write(self, layers: Layers, is_product: np.ndarray) -> bytes: ...
    def read(self, data: bytes) -> tuple[Layers, np.ndarray]: ...


def nearest_side(side: int) -> int:
    """The size of fine pictures that serves a screen of so many pixels."""
    return min(-(-side // SIDE_STEP) * SIDE_STEP, MOST_SIDE)


def layers_name(document: Document, side: int) -> str:
    """Name of the layers of a document: equal names, equal layers."""
    return f"{LAYERS}:{layers_key(document)}:{side}:{__version__}"


def picture_name(document: Document, side: int) -> str:
    """Name of the picture of a document at its exposure and powers."""
    kept = {name: value for name, value in document.items() if name not in OF_NO_PICTURE}
    mark = hashlib.sha256(json.dumps(kept, sort_keys=True).encode()).hexdigest()[:24]
    return f"{PICTURE}:{mark}:{side}:{__version__}"


class Screens:
    """What servers do: look whether a picture is there, else ask for it; call it off when nobody waits any more."""

    def __init__(self, database: Database, clock: Clock, pictures: Pictures, codec: ShotCodec, files: LayersFile) -> None:
        self._database, self._clock = database, clock
        self._pictures, self._codec, self._files = pictures, codec, files

    def find(self, studio_id: UUID, name: str) -> SharedPicture | None:
        """Raises FotaxisError when it could not be made, with the reason."""
        with self._database.transaction() as repo:
            found = repo.shared_picture(studio_id, name, at=self._clock())
        if found is not None and found.media_type == PROBLEM:
            raise FotaxisError(found.data.decode())
        return found

    def ask(self, studio_id: UUID, name: str, document: Document) -> None:
        """Have it made, once, however many ask."""
        kind, _, side, _ = name.split(":")
        with self._database.transaction() as repo:
            repo.add_work(
                studio_id, lane=Lane.SCREEN, kind=kind, ref=name, payload={"document": document, "side": int(side)}
            )

    def has_workers(self) -> bool:
        """Does any worker live that makes pictures for screens?"""
        with self._database.transaction() as repo:
            return repo.workers(since=self._clock() - ALIVE).get(Lane.SCREEN.value, 0) > 0

    def call_off(self, studio_id: UUID, name: str) -> None:
        """Nobody waits for it any more."""
        with self._database.transaction() as repo:
            repo.drop_work(studio_id, kind=name.split(":")[0], ref=name)

    def take(self, plan: Plan, data: bytes) -> tuple[Layers, np.ndarray]:
        """Layers and the product's pixels out of their file; what reads the picture reads these from now on."""
        layers, is_product = self._files.read(data)
        self._pictures.remember_fine(plan, is_product, layers)
        return layers, is_product

    def know(self, studio_id: UUID, plan: Plan, document: Document) -> bool:
        """Make the fine picture of a plan, if any process has it, this one's own; is there one?"""
        if self._pictures.has_fine(plan):
            return True
        with self._database.transaction() as repo:
            found = repo.shared_names(studio_id, f"{LAYERS}:{layers_key(document)}:")
        sizes = [int(name.split(":")[2]) for name in found if name.endswith(f":{__version__}")]
        shared = self.find(studio_id, layers_name(document, max(sizes))) if sizes else None
        if shared is None:
            return False
        self.take(plan, shared.data)
        return True


TELL_EVERY_S = 0.4


class ScreenMaker:
    """What workers do: a fine picture of a document, by layer or as it is shown."""

    def __init__(
        self, database: Database, codec: ShotCodec, pictures: Pictures, files: LayersFile, png: PictureWriter, clock: Clock
    ) -> None:
        self._database, self._codec, self._pictures = database, codec, pictures
        self._files, self._png, self._clock = files, png, clock

    def make(self, work: Work, wanted: Callable[[], bool]) -> None:
        """Make it and tell; what cannot be made is told in words in its place."""
        document, side = work.payload["document"], int(work.payload["side"])
        try:
            plan = self._codec.plan(self._codec.current(document))
            plan = replace(plan, exposure=plan.exposure.in_step())
            with cancellable(wanted):
                prediction = self._pictures.fine(plan, long_side=side, quality=SCREEN, watch=self._telling(work, wanted))
            if work.kind == LAYERS:
                data, media = self._files.write(prediction.layers, prediction.is_product), "application/octet-stream"
            else:
                data, media = self._png(prediction.developed()), "image/png"
        except RenderCancelled:
            return
        except FotaxisError as error:
            data, media = str(error).encode(), PROBLEM
        self._share(work, data, media)

    def _telling(self, work: Work, wanted: Callable[[], bool]) -> ProgressCallback:
        """A watch that tells whoever waits how far the picture is, now and then."""
        told = time.monotonic()

        def watch(done: float) -> bool:
            nonlocal told
            now = time.monotonic()
            if now - told >= TELL_EVERY_S:
                told = now
                with self._database.transaction() as repo:
                    repo.tell_progress(work.studio_id, work.ref, done=done)
            return wanted()

        return watch

    def _share(self, work: Work, data: bytes, media: str) -> None:
        with self._database.transaction() as repo:
            repo.share_picture(work.studio_id, work.ref, data=data, media_type=media, at=self._clock())

    def set_aside(self, work: Work) -> None:
        """It ended its workers too often."""
        self._share(
            work,
            b"This picture cannot be computed here: it ended its worker three times. Take something out of the set.",
            PROBLEM,
        )

    def fault(self, work: Work, number: str) -> None:
        words = f"Something in our program failed while this picture was made; it is in the worker's log as fault {number}."
        self._share(work, words.encode(), PROBLEM)

    def thin(self) -> None:
        """Keep what is shared within its room."""
        with self._database.transaction() as repo:
            repo.thin_pictures(keep_bytes=KEEP_BYTES)
