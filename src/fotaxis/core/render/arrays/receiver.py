"""A place that receives light, and the room kernels lend each other while they add light up."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import PLACE
from fotaxis.core.kernel import inlined, kernel
from fotaxis.core.render.arrays.emitters import Emitters
from fotaxis.core.render.arrays.static_scene import Ints, StaticScene
from fotaxis.core.values import Array


class Receiver(NamedTuple):
    """A place in metres, its unit normal, the index of its coat (0 for none), and one over the mean share that enters the coat."""

    x: float
    y: float
    z: float
    nx: float
    ny: float
    nz: float
    coat: float
    entry: float


class Occluders(NamedTuple):
    """What may stand in a way: found[:flats] are numbers of flats, found[flats:end] of bodies."""

    found: Ints
    flats: int
    end: int


class Scratch(NamedTuple):
    """Room for one thread: found (flats + bodies,) occluders, corners (4, 3) of a face, passed (4,): share of light and its R, G, B
    parts, weights (samples, 3) of a face."""

    found: Ints
    corners: Array
    passed: Array
    weights: Array


@kernel
def scratch_room(scene: StaticScene, emitters: Emitters) -> Scratch:
    """Room for one thread that lights places of a scene by its emitters."""
    return Scratch(
        np.empty(emitters.flats.shape[0] + scene.bounds.shape[0], np.int64), np.empty((4, 3)), np.empty(4),
        np.empty((emitters.samples.shape[1], 3)),
    )  # fmt: skip


@inlined
def receiver_at(places: NDArray[np.float32], p: int) -> Receiver:
    """Row p of places (n, 8), see columns.place."""
    return Receiver(
        float(places[p, PLACE.X]), float(places[p, PLACE.Y]), float(places[p, PLACE.Z]), float(places[p, PLACE.NX]),
        float(places[p, PLACE.NY]), float(places[p, PLACE.NZ]), float(places[p, PLACE.COAT]), float(places[p, PLACE.ENTRY]),
    )  # fmt: skip
