"""services.people.factors.Codes by pyotp.   Source: RFC 6238 (time-based), RFC 4226 (codes)."""

from __future__ import annotations

import hmac

import pyotp

STEP_S = 30
ISSUER = "Fotaxis"


class OneTimeCodes:
    """Six digits that change every half minute; one half minute early or late is taken too."""

    def new_secret(self) -> str:
        return pyotp.random_base32()

    def step_of(self, secret: str, code: str, *, at: float) -> int | None:
        try:
            totp = pyotp.TOTP(secret, interval=STEP_S)
            now = int(at // STEP_S)
            for step in (now, now - 1, now + 1):
                if hmac.compare_digest(totp.generate_otp(step).encode(), code.encode()):
                    return step
        except (ValueError, TypeError):  # no secret that could be one
            return None
        return None

    def address(self, secret: str, *, login: str) -> str:
        return pyotp.TOTP(secret, interval=STEP_S).provisioning_uri(name=login, issuer_name=ISSUER)
