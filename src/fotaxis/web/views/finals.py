"""Final pictures as the page shows them."""

from __future__ import annotations

import math
from dataclasses import dataclass

from fotaxis.services.finals import seconds_left
from fotaxis.services.ports import Final, FinalState
from fotaxis.web import links


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """One final in the list."""

    key: str
    title: str
    state: str
    words: str
    percent: int
    open: bool
    done: bool
    picture: str
    layers: str
    cancel: str
    remove: str


def rows(finals: list[Final], *, pace: float | None = None) -> list[Row]:
    """pace: see Finals.pace."""
    return [_row(final, pace) for final in finals]


def _row(final: Final, pace: float | None) -> Row:
    return Row(
        key=str(final.id), title=f"{final.long_side} px · {final.label}", state=final.state.value, words=_words(final, pace),
        percent=round(100 * final.done), open=final.open, done=final.state is FinalState.DONE,
        picture=links.final_part(final.id, "picture.png"), layers=links.final_part(final.id, "layers.exr"),
        cancel=links.final_part(final.id, "cancel"), remove=links.final_part(final.id, "remove"),
    )  # fmt: skip


def _words(final: Final, pace: float | None) -> str:
    asked = f"asked for at {final.created_at:%H:%M} UTC"
    if final.state is FinalState.WAITING:
        waits = f"waits for {final.before} before it" if final.before else "waits for a worker"
        left = seconds_left(final, pace=pace)
        return f"{asked}, {waits}" + (f", ready in about {spoken(left)}" if left is not None else "")
    if final.state is FinalState.WORKING:
        left = seconds_left(final, pace=pace)
        again = f", try {final.attempts}" if final.attempts > 1 else ""
        return asked + (f", about {spoken(left)} left" if left is not None else ", begun") + again
    if final.state is FinalState.FAILED:
        return final.problem
    if final.state is FinalState.CANCELLED:
        return f"{asked}, cancelled"
    taken = (final.ended_at - final.began_at).total_seconds() if final.ended_at and final.began_at else 0.0
    return f"{asked}, took {spoken(taken)}"


def spoken(seconds: float) -> str:
    """A length of time as one says it."""
    if seconds < 90:
        return f"{max(1, math.ceil(seconds))} s"
    return f"{math.ceil(seconds / 60)} min"
