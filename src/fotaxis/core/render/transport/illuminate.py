"""Light on many places: matte surfaces, and cards and sheets, with or without a preview's cache."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.columns import FLAT, NODE
from fotaxis.core.kernel import inlined, kernel, leaf
from fotaxis.core.render.arrays.emitters import GLOSS_TIGHT, HAS_LOBE, MIRROR_TIGHT, Emitters, place_on
from fotaxis.core.render.arrays.receiver import Receiver, Scratch, receiver_at, scratch_room
from fotaxis.core.render.arrays.static_scene import StaticScene
from fotaxis.core.render.transport.card_radiance import is_static
from fotaxis.core.render.transport.direct import add_by_mirror_card, add_from_face, contributes, visible_share
from fotaxis.core.render.transport.direct_cache import (
    NO_CARD_CACHE,
    NO_DIRECT_CACHE,
    CardCache,
    DirectCache,
    add_cached_face,
    undisturbed,
)
from fotaxis.core.values import Array


@inlined
def _is_mirror_card(emitters: Emitters, k: int) -> bool:
    return emitters.light[k] < 0 and emitters.lobes[k, GLOSS_TIGHT] >= MIRROR_TIGHT


@inlined
def _add_face(
    scene: StaticScene, emitters: Emitters, lights: int, k: int, at: Receiver, from_lights: bool, from_cards: bool,
    scratch: Scratch, out: Array,
) -> None:  # fmt: skip
    """Add the illuminance at a place from face k, or by way of it where it is a mirror, to out (lights, 3)."""
    if _is_mirror_card(emitters, k):
        add_by_mirror_card(scene, emitters, lights, k, at, from_lights, from_cards, scratch, out)
    else:
        add_from_face(scene, emitters, lights, k, at, scratch, out)


@kernel
def _illuminate_places(
    scene: StaticScene, emitters: Emitters, lights: int, places: NDArray[np.float32], cache: DirectCache, begin: int, end: int,
    out: NDArray[np.float32],
) -> None:  # fmt: skip
    scratch = scratch_room(scene, emitters)
    one, sums = np.empty((1, 3)), np.empty((lights, 3))
    cached = cache.valid.shape[0] > 0
    for p in range(begin, end):
        sums[:] = 0.0
        at = receiver_at(places, p)
        for k in range(emitters.light.shape[0]):
            if not (_is_mirror_card(emitters, k) or contributes(emitters, k, True, True)):
                continue
            if cached:
                add_cached_face(scene, emitters, cache, p, k, at, scratch, one, sums)
            else:
                _add_face(scene, emitters, lights, k, at, True, True, scratch, sums)
        for i in range(lights):
            for c in range(3):
                out[p, i, c] = sums[i, c]


@leaf
def _node_receiver(emitters: Emitters, nodes: Array, node: int, side: int) -> Receiver:
    """The place of a node on a card as seen from a side of it: 0 the front, 1 the back."""
    flats, k, turn = emitters.flats, int(nodes[node, NODE.FACE]), 1.0 - 2.0 * side
    x, y, z = place_on(flats, k, nodes[node, NODE.U], nodes[node, NODE.V])
    return Receiver(x, y, z, turn * flats[k, FLAT.NX], turn * flats[k, FLAT.NY], turn * flats[k, FLAT.NZ], 0.0, 1.0)


@inlined
def _add_cached_face(
    scene: StaticScene, emitters: Emitters, cache: CardCache, node: int, j: int, clear: bool, sides: tuple[Receiver, Receiver],
    scratch: Scratch, one: Array, got: Array,
) -> None:  # fmt: skip
    """Add the lights' illuminance from face j on both sides of a node to got (2, 1, 3), from the cache where that still holds."""
    if _is_mirror_card(emitters, j) or not (clear and cache.valid[node, j] and not cache.stale[j]):
        for side in range(2):
            one[:] = 0.0
            _add_face(scene, emitters, 1, j, sides[side], True, False, scratch, one)
            for c in range(3):
                cache.light[node, side, j, c] = one[0, c]
        cache.valid[node, j] = clear
    for side in range(2):
        for c in range(3):
            got[side, 0, c] += cache.light[node, side, j, c]


@kernel
def _illuminate_cards(
    scene: StaticScene, emitters: Emitters, lights: int, nodes: Array, bounced: bool, cache: CardCache, begin: int, end: int,
    out: Array,
) -> None:  # fmt: skip
    scratch = scratch_room(scene, emitters)
    one, got = np.empty((1, 3)), np.empty((2, lights, 3))
    cached = cache.valid.shape[0] > 0
    for node in range(begin, end):
        k, cell = int(nodes[node, NODE.FACE]), int(nodes[node, NODE.CELL])
        front, back = _node_receiver(emitters, nodes, node, 0), _node_receiver(emitters, nodes, node, 1)
        lobes = emitters.lobes[k, HAS_LOBE] > 0.0 and not bounced
        mirrors = emitters.lobes[k, GLOSS_TIGHT] >= MIRROR_TIGHT
        stay = cached and is_static(cache.moved, k)
        got[:] = 0.0
        for j in range(emitters.light.shape[0]):
            shines = _is_mirror_card(emitters, j) or contributes(emitters, j, not bounced, bounced)
            looks = lobes and j != k and (mirrors or contributes(emitters, j, True, False))
            if not (shines or looks):
                continue
            clear = stay and undisturbed(emitters.flats, cache.moved, j, front.x, front.y, front.z)
            if looks and clear and cache.open_valid[node, j]:
                emitters.open[k, j, cell] = cache.open[node, j]
            elif looks:
                emitters.open[k, j, cell] = visible_share(scene, emitters, j, front.x, front.y, front.z, scratch)
                if cached:
                    cache.open[node, j] = emitters.open[k, j, cell]
                    cache.open_valid[node, j] = clear
            if shines and cached:
                _add_cached_face(scene, emitters, cache, node, j, clear, (front, back), scratch, one, got)
            elif shines:
                _add_face(scene, emitters, lights, j, front, not bounced, bounced, scratch, got[0])
                _add_face(scene, emitters, lights, j, back, not bounced, bounced, scratch, got[1])
        for i in range(lights):
            for c in range(3):
                a, b = emitters.albedo[k, c] / math.pi, emitters.through[k, c] / math.pi
                out[node, 0, i, c] = a * got[0, i, c] + b * got[1, i, c]
                out[node, 1, i, c] = a * got[1, i, c] + b * got[0, i, c]


def illuminate_cards(
    scene: StaticScene, emitters: Emitters, lights: int, nodes: Array, *, bounced: bool, begin: int, end: int, out: Array,
    cache: CardCache = NO_CARD_CACHE,
) -> None:  # fmt: skip
    """Light places on cards and sheets: out (n, 2, lights, 3) gets what places `nodes` (n, 4: see columns.node) show, front and back,
    by diffuse reflection and transmission, rows begin..end.

    bounced: by what other cards and sheets show (Emitters.shown); else by the lights, and Emitters.open is filled.
    cache: of a preview, one light, not bounced; what cannot have changed is taken from it, and the rest kept there.
    """
    _illuminate_cards(scene, emitters, lights, nodes, bounced, cache, begin, end, out)


def illuminate_places(
    scene: StaticScene, emitters: Emitters, lights: int, places: NDArray[np.float32], begin: int, end: int,
    out: NDArray[np.float32], cache: DirectCache = NO_DIRECT_CACHE,
) -> None:  # fmt: skip
    """Illuminance at places (n, 8: see columns.place) into out (n, lights, 3), rows begin..end.

    lux s per light at full power for flash, lux for continuous light.
    cache: of a preview, one light; what cannot have changed is taken from it, and the rest kept there.
    """
    _illuminate_places(scene, emitters, lights, places, cache, begin, end, out)
