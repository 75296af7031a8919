"""Tokens that stand in a link or a cookie alone; the database holds their hash."""

from __future__ import annotations

import hashlib
import hmac
import secrets


def new_token() -> str:
    """A token nobody can guess, fit for an address."""
    return secrets.token_urlsafe(32)


def hashed(token: str) -> str:
    """What is kept of a token."""
    return hashlib.sha256(token.encode()).hexdigest()


def set_up_code(secret: str) -> str:
    """The code that the first owner must give, printed where the server starts: the same for all servers with one secret."""
    mark = hmac.new(secret.encode(), b"first owner", hashlib.sha256).hexdigest()[:12].upper()
    return f"{mark[:4]}-{mark[4:8]}-{mark[8:]}"
