"""Final-quality pictures: asked for by the page, made by workers, kept with the shot."""

from __future__ import annotations

import time
from datetime import UTC, datetime
from uuid import UUID

from fotaxis.core.errors import FotaxisError
from fotaxis.core.prediction.rest import GivenUp
from fotaxis.services.pictures import Pictures
from fotaxis.services.ports import Database, Final, FinalQueue, FinalState, FinalWriter, NotFound, Refused, ShotCodec

LEAST_SIDE, MOST_SIDE = 200, 1600
"""A megapixel takes about 1.3 GB while it is made."""

MOST_OPEN = 6
TELL_EVERY_S = 0.5


class Finals:
    """Ask for, list, call off and fetch final pictures."""

    def __init__(self, database: Database, queue: FinalQueue) -> None:
        self._database, self._queue = database, queue

    def ask(self, studio_id: UUID, shot_id: UUID, *, long_side: int) -> Final:
        """Queue a picture of the shot as it is now. Raises Refused for a size that cannot be, or too many at once."""
        if not LEAST_SIDE <= long_side <= MOST_SIDE:
            raise Refused(f"The long side is {long_side} pixels; it must be {LEAST_SIDE} to {MOST_SIDE}.")
        with self._database.transaction() as repo:
            shot = repo.shot(studio_id, shot_id, lock=True)
            if sum(final.open for final in repo.finals(studio_id, shot_id)) >= MOST_OPEN:
                raise Refused(f"{MOST_OPEN} pictures of this shot are being made; wait for one, or cancel one.")
            label = repo.revision(studio_id, shot_id, shot.revision).state.label
            final = repo.add_final(studio_id, shot_id, revision=shot.revision, label=label, long_side=long_side)
        self._queue.put(studio_id, final.id)
        return final

    def of_shot(self, studio_id: UUID, shot_id: UUID) -> list[Final]:
        """All finals of a shot, the newest first."""
        with self._database.transaction() as repo:
            return repo.finals(studio_id, shot_id)

    def cancel(self, studio_id: UUID, final_id: UUID) -> Final:
        """Call a picture off; one that is made already stays."""
        with self._database.transaction() as repo:
            final = repo.final(studio_id, final_id, lock=True)
            if final.open:
                repo.mark_final(studio_id, final_id, state=FinalState.CANCELLED, done=final.done)
            return final

    def remove(self, studio_id: UUID, final_id: UUID) -> Final:
        """Take a picture off the list, its files too."""
        final = self.cancel(studio_id, final_id)
        with self._database.transaction() as repo:
            repo.remove_final(studio_id, final_id)
        return final

    def file(self, studio_id: UUID, final_id: UUID, kind: str) -> tuple[Final, bytes]:
        """The finished picture as png or exr. Raises NotFound while there is none."""
        with self._database.transaction() as repo:
            return repo.final(studio_id, final_id), repo.final_file(studio_id, final_id, kind)


def seconds_left(final: Final, *, now: datetime | None = None) -> float | None:
    """About how long a picture being made will take yet; None while that cannot be told."""
    if final.state is not FinalState.WORKING or final.began_at is None or final.done < 0.02:
        return None
    taken = ((now or datetime.now(UTC)) - final.began_at).total_seconds()
    return taken / final.done * (1 - final.done)


class FinalMaker:
    """What a worker does with a final: make the picture, tell how far it is, stop when it is called off.

    Doing the same final twice gives the same picture: a worker that died half way is followed by another from the start.
    """

    def __init__(self, database: Database, codec: ShotCodec, writer: FinalWriter) -> None:
        self._database, self._codec, self._writer = database, codec, writer

    def make(self, studio_id: UUID, final_id: UUID) -> None:
        """Make a final unless it is made, called off or gone."""
        try:
            with self._database.transaction() as repo:
                final = repo.final(studio_id, final_id, lock=True)
                if not final.open:
                    return
                repo.mark_final(studio_id, final_id, state=FinalState.WORKING, done=0.0)
                document = repo.revision(studio_id, final.shot_id, final.revision).document
            self._draw(final, document)
        except (GivenUp, NotFound):
            return
        except FotaxisError as error:
            self._mark(final, FinalState.FAILED, 0.0, str(error))

    def _draw(self, final: Final, document: dict) -> None:
        told = time.monotonic()

        def watch(done: float) -> bool:
            nonlocal told
            if time.monotonic() - told < TELL_EVERY_S:
                return True
            told = time.monotonic()
            return self._mark(final, FinalState.WORKING, done)

        plan = self._codec.plan(self._codec.current(document))
        prediction = Pictures().fine(plan, long_side=final.long_side, watch=watch)
        png = self._writer.png(prediction.developed())
        exr = self._writer.exr(keys=prediction.layers.keys, pictures=prediction.scaled_layers())
        with self._database.transaction() as repo:
            if repo.final(final.studio_id, final.id, lock=True).open:
                repo.keep_final(final.studio_id, final.id, png=png, exr=exr)
                repo.mark_final(final.studio_id, final.id, state=FinalState.DONE, done=1.0)

    def _mark(self, final: Final, state: FinalState, done: float, problem: str = "") -> bool:
        """Write how far it is, unless it was called off or finished meanwhile; is it still wanted?"""
        try:
            with self._database.transaction() as repo:
                if not repo.final(final.studio_id, final.id, lock=True).open:
                    return False
                repo.mark_final(final.studio_id, final.id, state=state, done=max(done, 1e-6), problem=problem)
        except NotFound:
            return False
        return True
