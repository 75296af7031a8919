"""Numbers are checked where they come in: each refusal names the value and what is allowed."""

from __future__ import annotations

import math

from fotaxis.core.errors import DomainError


def require_finite(name: str, value: float, *, low: float = -math.inf, high: float = math.inf, unit: str = "") -> float:
    """Return value if low <= value <= high and it is a real number, else raise DomainError naming it."""
    if not (math.isfinite(value) and low <= value <= high):
        span = f"from {low:g} to {high:g}" if math.isfinite(high) else f"at least {low:g}"
        if not math.isfinite(low):
            span = "a finite number"
        raise DomainError(f"{name} is {value:g} {unit}".rstrip() + f"; it must be {span} {unit}".rstrip() + ".")
    return value


def require_positive(name: str, value: float, *, high: float = math.inf, unit: str = "") -> float:
    """Return value if 0 < value <= high, else raise DomainError naming it."""
    if not (math.isfinite(value) and 0 < value <= high):
        bound = f" and at most {high:g} {unit}".rstrip() if math.isfinite(high) else ""
        raise DomainError(f"{name} is {value:g} {unit}".rstrip() + f"; it must be more than 0{bound}.")
    return value
