"""What a service may answer instead of a result; the web maps each once to a status and a sentence."""

from __future__ import annotations

from datetime import datetime


class NotFound(Exception):
    """The thing does not exist, or belongs to another studio: callers cannot tell which."""


class Refused(Exception):
    """The wish cannot be met; the message says why and what to do."""


class Forbidden(Exception):
    """This person's role does not allow it; the message says what the role is and who may."""


class Conflict(Exception):
    """Somebody else changed the same thing meanwhile; the message says who set what. Sending it again overrides."""


class Busy(Exception):
    """Too much is being asked for just now; the message says so, and the same wish may be repeated a little later."""


class Unavailable(Exception):
    """The database does not answer in time; nothing was changed."""


class AlreadyKept(Exception):
    """A save with this key was kept before; answer: what was told then ({} if that is not known any more)."""

    def __init__(self, answer: dict[str, object], at: datetime | None = None) -> None:
        super().__init__("already kept")
        self.answer, self.at = answer, at
