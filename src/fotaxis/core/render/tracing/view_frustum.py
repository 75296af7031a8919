"""What of the movable things the camera's field holds."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import FLAT
from fotaxis.core.geometry.planar import BALL
from fotaxis.core.render.arrays.emitters import Emitters
from fotaxis.core.render.arrays.static_scene import Ints
from fotaxis.core.values import Array


def _corners(emitters: Emitters, eye: Array, basis: tuple[Array, Array, Array]) -> tuple[Array, Array, Array]:
    """Places of the corners of boxes around all movables as the camera sees them, at both ends of what they are carried: right, up and
    ahead, (n, 16) each."""
    flats = emitters.flats[: len(emitters.light)]
    su, sv = flats[:, 12, None] * flats[:, FLAT.ACROSS], flats[:, 13, None] * flats[:, FLAT.UP]
    deep = np.where(flats[:, 14, None] == BALL, flats[:, 12, None], 0.0) * flats[:, FLAT.FRONT]
    face = np.stack([-su - sv, su - sv, su + sv, sv - su], axis=1)
    box = np.concatenate([face - deep[:, None], face + deep[:, None]], axis=1)
    carried = 0.5 * emitters.sweep[:, None, :]
    corners = flats[:, None, 0:3] + np.concatenate([box - carried, box + carried], axis=1) - eye
    right, up, ahead = (corners @ axis for axis in basis)
    return right, up, ahead


def in_frustum(
    emitters: Emitters, *, eye: Array, basis: tuple[Array, Array, Array], half_width: float, half_height: float
) -> Ints:
    """Numbers of the movables of which some part may lie in the camera's field of view, (n,) int64.

    A thing is left out when all its corners lie beyond one side of the field, or behind the lens.
    """
    x, y, z = _corners(emitters, eye, basis)
    beyond = np.stack([x > half_width * z, x < -half_width * z, y > half_height * z, y < -half_height * z, z < 0])
    return np.flatnonzero(~beyond.all(axis=2).any(axis=0))


def behind_emitters(
    emitters: Emitters, in_view: Ints, *, eye: Array, basis: tuple[Array, Array, Array], half_width: float, half_height: float,
    size: tuple[int, int],
) -> NDArray[np.bool_]:  # fmt: skip
    """Pixels of a picture of `size` (width, height) that the movables in_view may stand before, (pixels,); never too few."""
    width, height = size
    behind = np.zeros((height, width), np.bool_)
    if len(in_view):
        x, y, z = (at[in_view] for at in _corners(emitters, eye, basis))
        crosses: NDArray[np.bool_] = np.any(z <= 1e-6, axis=1)
        away = np.maximum(z, 1e-6)
        column, row = (x / away / half_width + 1) * width / 2, (1 - y / away / half_height) * height / 2
        for k in range(len(in_view)):
            if crosses[k]:
                behind[:] = True
                break
            top, left = max(0, int(row[k].min()) - 1), max(0, int(column[k].min()) - 1)
            behind[top : max(0, int(row[k].max()) + 2), left : max(0, int(column[k].max()) + 2)] = True
    return behind.ravel()
