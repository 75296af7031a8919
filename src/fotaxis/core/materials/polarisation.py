"""How light is polarised on its way to the lens: rows of Mueller matrices carried backwards along a ray.

Light of lamps, sheets and matte places is taken as unpolarised; what mirrors and glass make of it on the way decides what a
polariser on the lens lets through. A ray carries the first three rows of the product of the Mueller matrices of its events,
each relative to the event's own unpolarised share, and the axis across the ray that they count from.

Source:     Collett, Field Guide to Polarization; Fresnel's amplitudes as in Born & Wolf, section 1.5.2 and 14.2.
"""

from __future__ import annotations

import math
from typing import NamedTuple

from fotaxis.core.kernel import leaf
from fotaxis.core.materials.bsdf import below_coat
from fotaxis.core.materials.material import COAT, KIND, METAL, TINT, K, N
from fotaxis.core.values import Array

AXIS, ROWS = 13, 16
"""Columns of a ray's row on the stack: the axis across it (3), then three Mueller rows of four."""

STATE_COLUMNS = 28


class EventRows(NamedTuple):
    """What a boundary does to s and p light: mean and half difference of the two shares, and the product of the amplitudes."""

    mean: float
    half: float
    re: float
    im: float


@leaf
def start_state(row: Array, right: Array, dx: float, dy: float, dz: float) -> None:
    """The state of a camera ray: its axis is the camera's right, its rows those of the unit matrix."""
    along = right[0] * dx + right[1] * dy + right[2] * dz
    x, y, z = right[0] - along * dx, right[1] - along * dy, right[2] - along * dz
    scale = 1.0 / math.sqrt(x * x + y * y + z * z)
    row[AXIS], row[AXIS + 1], row[AXIS + 2] = x * scale, y * scale, z * scale
    for i in range(12):
        row[ROWS + i] = 1.0 if i % 5 == 0 else 0.0


@leaf
def reflected_rows(cosine: float, n: float, k: float) -> tuple[float, float, float, float]:
    """What a boundary of relative index n + ik mirrors: mean and half difference of Rs and Rp, and rs times rp conjugate.

    Beyond the critical angle the amplitudes turn in phase (total internal reflection).
    """
    c = min(1.0, abs(cosine))
    index = complex(n, k)
    under = (index * index - (1.0 - c * c)) ** 0.5
    if under.imag < 0.0:
        under = -under
    rs = (c - under) / (c + under)
    rp = (index * index * c - under) / (index * index * c + under)
    s, p = abs(rs) ** 2, abs(rp) ** 2
    cross = rs * rp.conjugate()
    return 0.5 * (s + p), 0.5 * (s - p), cross.real, cross.imag


@leaf
def refracted_rows(cosine: float, index: float) -> tuple[float, float, float]:
    """What a clear boundary lets through: mean and half difference of Ts and Tp, and the root of their product."""
    mean, half, _, _ = reflected_rows(cosine, index, 0.0)
    s, p = 1.0 - mean - half, 1.0 - mean + half
    return 1.0 - mean, -half, math.sqrt(max(0.0, s * p))


@leaf
def _to_and_fro(top: float, under: float) -> float:
    """By how much light thrown to and fro between a coat and the metal below it adds to what comes out after one bounce."""
    return 1.0 / (1.0 - top * under)


@leaf
def skin_reflected_rows(skins: Array, skin: int, cosine: float, outside: float) -> tuple[float, float, float, float]:
    """As reflected_rows, for the gloss of a skin seen in a medium of index `outside`, green: its coat, its metal, or
    metal under it.
    """
    coat = skins[skin, COAT]
    if skins[skin, KIND] != METAL:
        return reflected_rows(cosine, coat / outside, 0.0)
    n, k = skins[skin, N + 1], skins[skin, K + 1]
    if coat <= 0.0:
        return reflected_rows(cosine, n / outside, k / outside)
    mean, half, re, im = reflected_rows(cosine, coat / outside, 0.0)
    _, _, t_cross = refracted_rows(cosine, coat / outside)
    s2 = (1.0 - cosine * cosine) * (outside / coat) ** 2
    m_mean, m_half, m_re, m_im = reflected_rows(math.sqrt(max(0.0, 1.0 - s2)), n / coat, k / coat)
    tint = skins[skin, TINT + 1]
    m_mean, m_half, m_re, m_im = tint * m_mean, tint * m_half, tint * m_re, tint * m_im
    # In, mirrored by the metal and to and fro below the coat, out again: s and p go each their own way.
    below_s, below_p = below_coat(mean + half, m_mean + m_half), below_coat(mean - half, m_mean - m_half)
    through = (
        t_cross * t_cross * math.sqrt(_to_and_fro(mean + half, m_mean + m_half) * _to_and_fro(mean - half, m_mean - m_half))
    )
    return (
        mean + 0.5 * (below_s + below_p), half + 0.5 * (below_s - below_p), re + through * m_re, im + through * m_im,
    )  # fmt: skip


@leaf
def pass_event(
    state: Array, out: Array, dx: float, dy: float, dz: float, nx: float, ny: float, nz: float, event: EventRows
) -> None:
    """Carry a ray's state (row of 28) over an event on a surface; to `out`.

    (dx, dy, dz): the viewing ray before the event, the light's way reversed; normal; the event's matrix, see EventRows:

        M = ((mean, half, 0, 0), (half, mean, 0, 0), (0, 0, re, im), (0, 0, -im, re)) / mean,  s before p
    """
    mean, half, re, im = event
    ax, ay, az = state[AXIS], state[AXIS + 1], state[AXIS + 2]
    sx, sy, sz = ny * dz - nz * dy, nz * dx - nx * dz, nx * dy - ny * dx
    size = sx * sx + sy * sy + sz * sz
    cos2, sin2 = 1.0, 0.0
    if size > 1e-14:
        scale = 1.0 / math.sqrt(size)
        sx, sy, sz = sx * scale, sy * scale, sz * scale
        # The light goes along -d; y = -d x axis completes the frame that the rows count in.
        bx, by, bz = ay * dz - az * dy, az * dx - ax * dz, ax * dy - ay * dx
        c = sx * ax + sy * ay + sz * az
        s = sx * bx + sy * by + sz * bz
        cos2, sin2 = c * c - s * s, 2.0 * c * s
    else:
        sx, sy, sz = ax, ay, az
    out[AXIS], out[AXIS + 1], out[AXIS + 2] = sx, sy, sz
    h, r, i = half / mean, re / mean, im / mean
    for row in range(ROWS, ROWS + 12, 4):
        p0, p1, p2, p3 = state[row], state[row + 1], state[row + 2], state[row + 3]
        q1 = p1 * cos2 + p2 * sin2
        q2 = p2 * cos2 - p1 * sin2
        out[row] = p0 + q1 * h
        out[row + 1] = p0 * h + q1
        out[row + 2] = q2 * r - p3 * i
        out[row + 3] = q2 * i + p3 * r


@leaf
def keep_state(state: Array, out: Array) -> None:
    """What of unpolarised light at the end of a ray arrives, and how it is polarised, to out (3,)."""
    out[0] = state[ROWS]
    out[1] = state[ROWS + 4]
    out[2] = state[ROWS + 8]
