"""How the hot loops are compiled: once, cached, without the interpreter lock, IEEE division, no reassociation."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar, cast

from numba import njit

F = TypeVar("F", bound=Callable[..., Any])

OPTIONS: dict[str, Any] = {
    "cache": True, "nogil": True, "error_model": "numpy", "fastmath": {"contract", "nsz", "arcp"},
}  # fmt: skip
LEAF: dict[str, Any] = {**OPTIONS, "_nrt": False}


def kernel(function: F) -> F:
    """Compile a function in place. Division by zero gives inf, as in numpy; infinities and NaN keep their meaning."""
    return cast(F, njit(**OPTIONS)(function))


def leaf(function: F) -> F:
    """A kernel that makes no arrays: compiled without counting references to those it is given.

    Taking arrays out of a named tuple counts references otherwise, which costs more than a ray.
    """
    return cast(F, njit(**LEAF)(function))


def inlined(function: F) -> F:
    """A leaf that is written out where it is called: handing over many arrays costs more than what it does."""
    return cast(F, njit(**LEAF, forceinline=True)(function))
