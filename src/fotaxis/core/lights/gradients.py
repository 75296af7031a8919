"""How bright a face is from its middle to its edge."""

from __future__ import annotations

import numpy as np

from fotaxis.core.errors import DomainError
from fotaxis.core.kernel import inlined, kernel
from fotaxis.core.values import Array

EVEN, CORE, RAMP = "even", "core", "ramp"
"""Even; brightest in the middle; brightest at the left edge."""

GRADIENT_KINDS = {EVEN: 0.0, CORE: 1.0, RAMP: 2.0}
"""As kernels read them."""


@inlined
def face_gradient(kind: float, stops: float, u: float, v: float) -> float:
    """Luminance at a place u, v (-1..1) of a face relative to its middle (ramp: to its left edge); `stops` darker at the edge.

        core   2^(-stops min(1, (u^2 + v^2) / 2))        ramp   2^(-stops (1 + u) / 2)

    Source:     own model of boxes with one bulb in the middle or beside the face; common practice gives the stops.
    """
    if kind == 1.0:
        return 2.0 ** (-stops * min(1.0, 0.5 * (u * u + v * v)))
    if kind == 2.0:
        return 2.0 ** (-stops * 0.5 * (1.0 + u))
    return 1.0


@kernel
def _face_gradients(kind: float, stops: float, u: Array, v: Array, out: Array) -> None:
    for i in range(u.shape[0]):
        out[i] = face_gradient(kind, stops, u[i], v[i])


def relative_luminance(*, kind: str, stops: float, u: Array, v: Array) -> Array:
    """face_gradient at many places, u, v and result (n,) float64. Holds for the kinds above. Else DomainError."""
    if kind not in GRADIENT_KINDS:
        raise DomainError(f"gradient kind is {kind!r}; it must be one of {', '.join(GRADIENT_KINDS)}.")
    out = np.empty(len(u))
    _face_gradients(GRADIENT_KINDS[kind], float(stops), np.asarray(u, np.float64), np.asarray(v, np.float64), out)
    return out
