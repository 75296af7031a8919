"""The whole error tree of Fotaxis' rules: bad input, no solution, bad file."""


class FotaxisError(Exception):
    """Base of every error that carries a message meant for a photographer."""


class DomainError(FotaxisError):
    """A value lies outside what the rule holds for; the message names it and what is allowed."""


class NoSolution(FotaxisError):
    """The rule has no answer here; the message names the constraint that binds."""


class FormatError(FotaxisError):
    """A file or document is wrong; `place` says where, the message says why and what to do."""

    def __init__(self, message: str, *, place: str = "") -> None:
        super().__init__(f"{place}: {message}" if place else message)
        self.place = place
        self.reason = message
