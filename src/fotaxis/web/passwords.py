"""What wrong passwords have earned: a pause that holds no thread."""

from __future__ import annotations

import asyncio

from fotaxis.services.ports import Busy

MOST_SLEEPING = 400

_sleeping = 0


async def pause(seconds: float) -> None:
    """Wait. Raises Busy when too many wait already."""
    global _sleeping
    if seconds <= 0:
        return
    if _sleeping >= MOST_SLEEPING:
        raise Busy("Too many people are signing in just now. Wait a few seconds and try again.")
    _sleeping += 1
    try:
        await asyncio.sleep(seconds)
    finally:
        _sleeping -= 1
