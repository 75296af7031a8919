"""Final-quality pictures: asked for by the page, made by workers, kept with the shot."""

from __future__ import annotations

import time
from collections.abc import Callable
from datetime import UTC, datetime
from uuid import UUID

from fotaxis.core.errors import FotaxisError
from fotaxis.core.render.parallel import RenderCancelled, cancellable
from fotaxis.services.pictures import MAKING_FINALS, Pictures
from fotaxis.services.ports import (
    Blobs,
    Clock,
    Database,
    Final,
    FinalState,
    FinalWriter,
    Lane,
    NotFound,
    Refused,
    ShotCodec,
    Unavailable,
    Work,
)
from fotaxis.services.work import ALIVE

LEAST_SIDE, MOST_SIDE = 200, 1600
"""A megapixel takes about 1.3 GB while it is made."""

MOST_OPEN = 6
TELL_EVERY_S = 0.5
KIND = "final"
KINDS_OF_FILE = ("png", "exr")
WORKER_DIED = (
    "This picture ended its worker {times} times and was set aside. Ask for a smaller one, or send the shot file to whoever looks "
    "after the installation."
)
FAULT = (
    "Something in our program failed while this was made; it is in the worker's log as fault {number}. The shot is unharmed."
)


class Finals:
    """Ask for, list, call off and fetch final pictures."""

    def __init__(self, database: Database, blobs: Blobs, clock: Clock) -> None:
        self._database, self._blobs, self._clock = database, blobs, clock

    def ask(self, studio_id: UUID, shot_id: UUID, *, long_side: int) -> Final:
        """Queue a picture of the shot as it is now. Raises Refused for a size that cannot be, or too many at once."""
        if not LEAST_SIDE <= long_side <= MOST_SIDE:
            raise Refused(f"The long side is {long_side} pixels; it must be {LEAST_SIDE} to {MOST_SIDE}.")
        with self._database.transaction() as repo:
            shot = repo.shot(studio_id, shot_id, lock=True)
            if sum(final.open for final in repo.finals(studio_id, shot_id)) >= MOST_OPEN:
                raise Refused(f"{MOST_OPEN} pictures of this shot are being made; wait for one, or cancel one.")
            usage = repo.usage(studio_id)
            if usage.final_bytes >= usage.final_limit:
                raise Refused(
                    f"The studio keeps {usage.final_bytes / 1e9:.1f} GB of finals, all it may. Remove some, or ask an owner for room."
                )
            label = repo.revision(studio_id, shot_id, shot.revision).state.label
            final = repo.add_final(studio_id, shot_id, revision=shot.revision, label=label, long_side=long_side)
            repo.add_work(studio_id, lane=Lane.FINAL, kind=KIND, ref=str(final.id), payload={})
            repo.add_event(studio_id, kind="final", words=f"Asked for a final of {long_side} px", shot_id=shot_id)
        return final

    def of_shot(self, studio_id: UUID, shot_id: UUID) -> list[Final]:
        """All finals of a shot, the newest first."""
        with self._database.transaction() as repo:
            return repo.finals(studio_id, shot_id)

    def pace(self) -> float | None:
        """Seconds that a million pixels of long side squared took lately; None before any was made."""
        with self._database.transaction() as repo:
            return repo.final_pace()

    def has_workers(self) -> bool:
        """Does any worker live that makes finals?"""
        with self._database.transaction() as repo:
            return repo.workers(since=self._clock() - ALIVE).get(Lane.FINAL.value, 0) > 0

    def cancel(self, studio_id: UUID, final_id: UUID) -> Final:
        """Call a picture off; one that is made already stays."""
        with self._database.transaction() as repo:
            final = repo.final(studio_id, final_id, lock=True)
            if final.open:
                repo.mark_final(studio_id, final_id, state=FinalState.CANCELLED, done=final.done)
                repo.drop_work(studio_id, kind=KIND, ref=str(final_id))
            return final

    def remove(self, studio_id: UUID, final_id: UUID) -> Final:
        """Take a picture off the list, its files too."""
        with self._database.transaction() as repo:
            final = repo.final(studio_id, final_id, lock=True)
            repo.drop_work(studio_id, kind=KIND, ref=str(final_id))
            repo.remove_final(studio_id, final_id)
            words = f"Removed the final of {final.long_side} px"
            repo.add_event(studio_id, kind="final", words=words, shot_id=final.shot_id)
        for kind in KINDS_OF_FILE:
            self._blobs.remove(blob_key(final_id, kind))
        return final

    def file(self, studio_id: UUID, final_id: UUID, kind: str) -> tuple[Final, bytes]:
        """The finished picture as png or exr. Raises NotFound while there is none."""
        with self._database.transaction() as repo:
            final = repo.final(studio_id, final_id)
        if final.state is not FinalState.DONE or kind not in KINDS_OF_FILE:
            raise NotFound
        return final, self._blobs.get(blob_key(final_id, kind))


def blob_key(final_id: UUID, kind: str) -> str:
    """Where a final's file lies."""
    return f"finals/{final_id}/{kind}"


def seconds_left(final: Final, *, now: datetime | None = None, pace: float | None = None) -> float | None:
    """About how long until a final is made; None while that cannot be told.

    pace: see Finals.pace. What is being made is judged by its own progress, the more the further it is; what waits by the pace and
    by what is made before it.
    """
    whole = pace * final.long_side**2 / 1e6 if pace else None
    if final.state is FinalState.WAITING:
        return whole * (final.before + 1) if whole is not None else None
    if final.state is not FinalState.WORKING or final.began_at is None:
        return None
    taken = ((now or datetime.now(UTC)) - final.began_at).total_seconds()
    if final.done < 0.02:
        return max(whole - taken, 1.0) if whole is not None else None
    own = taken / final.done * (1 - final.done)
    if whole is None:
        return own
    return final.done * own + (1 - final.done) * max(whole * (1 - final.done), 1.0)


class FinalMaker:
    """What a worker does with a final: make the picture, tell how far it is, stop when it is called off.

    Doing the same final twice gives the same picture: a worker that died half way is followed by another from the start.
    """

    def __init__(self, database: Database, blobs: Blobs, codec: ShotCodec, writer: FinalWriter) -> None:
        self._database, self._blobs, self._codec, self._writer = database, blobs, codec, writer

    def make(self, work: Work, wanted: Callable[[], bool]) -> None:
        """Make a final unless it is made, called off or gone."""
        try:
            with self._database.transaction() as repo:
                final = repo.final(work.studio_id, UUID(work.ref), lock=True)
                if not final.open:
                    return
                repo.mark_final(work.studio_id, final.id, state=FinalState.WORKING, done=0.0, attempts=work.attempts)
                document = repo.revision(work.studio_id, final.shot_id, final.revision).document
            self._draw(final, document, wanted)
        except (RenderCancelled, NotFound):
            return
        except FotaxisError as error:
            self._fail(work, str(error))

    def set_aside(self, work: Work) -> None:
        """It ended its workers too often."""
        self._fail(work, WORKER_DIED.format(times=work.attempts - 1))

    def fault(self, work: Work, number: str) -> None:
        """Something failed that should not; number: what the log calls it."""
        self._fail(work, FAULT.format(number=number))

    def _fail(self, work: Work, problem: str) -> None:
        try:
            with self._database.transaction() as repo:
                final = repo.final(work.studio_id, UUID(work.ref), lock=True)
                if final.open:
                    repo.mark_final(work.studio_id, final.id, state=FinalState.FAILED, done=0.0, problem=problem)
        except NotFound:
            return

    def _draw(self, final: Final, document: dict, wanted: Callable[[], bool]) -> None:
        told = time.monotonic()

        def watch(done: float) -> bool:
            nonlocal told
            if not wanted():
                return False
            if time.monotonic() - told < TELL_EVERY_S:
                return True
            told = time.monotonic()
            return self._tell(final, done)

        plan = self._codec.plan(self._codec.current(document))
        with cancellable(wanted):
            prediction = Pictures(MAKING_FINALS).fine(plan, long_side=final.long_side, watch=watch)
        png = self._writer.png(prediction.developed())
        exr = self._writer.exr(keys=prediction.layers.keys, pictures=prediction.scaled_layers())
        for kind, data in zip(KINDS_OF_FILE, (png, exr), strict=True):
            self._blobs.put(blob_key(final.id, kind), data)
        with self._database.transaction() as repo:
            if repo.final(final.studio_id, final.id, lock=True).open:
                repo.size_final(final.studio_id, final.id, size_bytes=len(png) + len(exr))
                repo.mark_final(final.studio_id, final.id, state=FinalState.DONE, done=1.0)

    def _tell(self, final: Final, done: float) -> bool:
        """Write how far it is, unless it was called off or finished meanwhile; is it still wanted?"""
        try:
            with self._database.transaction() as repo:
                if not repo.final(final.studio_id, final.id, lock=True).open:
                    return False
                repo.mark_final(final.studio_id, final.id, state=FinalState.WORKING, done=max(done, 1e-6))
        except NotFound:
            return False
        except Unavailable:
            return True  # the database comes back; the picture goes on meanwhile
        return True
