"""How the hot loops are compiled: once, cached, without the interpreter lock, IEEE division, no reassociation."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar, cast

from numba import njit

F = TypeVar("F", bound=Callable[..., Any])


def kernel(function: F) -> F:
    """Compile a function in place. Division by zero gives inf, as in numpy; infinities and NaN keep their meaning."""
    compile_it = njit(cache=True, nogil=True, error_model="numpy", fastmath={"contract", "nsz", "arcp"})
    return cast(F, compile_it(function))
