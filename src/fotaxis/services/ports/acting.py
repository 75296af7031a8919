"""Who acts in the present request, from which window, and under which key: kept with what is saved."""

from __future__ import annotations

from contextvars import ContextVar
from dataclasses import dataclass, field
from uuid import UUID


@dataclass(slots=True)
class Acting:
    """Filled in while a request goes on. key: the save's own, '' without one; kept: the key is in the database."""

    key: str = ""
    window: str = ""
    user_id: UUID | None = None
    studio_id: UUID | None = None
    name: str = ""
    kept: bool = False
    answer: dict[str, object] = field(default_factory=dict)


_acting: ContextVar[Acting | None] = ContextVar("acting", default=None)


def acting() -> Acting:
    """Who acts; nobody known where no request has said so (demo, command line, workers)."""
    return _acting.get() or Acting()


def begin_acting(who: Acting) -> None:
    """From here on in this request (and the threads that work for it) `who` acts."""
    _acting.set(who)
