"""The picture as a whole, for what must not be in it: what is mirrored where, the lens, veil, hot spots, things in the frame."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.constants import MIDDLE_GREY
from fotaxis.core.values import Array

BRIGHT = MIDDLE_GREY * 2.0**-4
"""What is mirrored darker than this is not seen as an image of anything. Common practice."""

LENS_M, AROUND_M = 0.05, 0.25
"""A lens's front is about so large; what is mirrored around it tells whether it stands out."""

LEAST_AROUND = 4
STANDS_OUT_STOPS = 2.0


@dataclass(frozen=True, slots=True, kw_only=True)
class MirrorImage:
    """Something the product mirrors: its key and name, the zone that shows it, and how much of the product that is."""

    key: str
    of: str
    zone: str
    share: float


@dataclass(frozen=True, slots=True, kw_only=True)
class WholePicture:
    """mirrored: bright images, the largest first; lens: how much of the product shows the lens dark in something bright;
    room_stops: how bright the room alone makes it, -inf for nothing; veil, hot,
    in_frame: what is wrong, a sentence each."""

    mirrored: tuple[MirrorImage, ...]
    lens: float
    room_stops: float
    veil: tuple[str, ...]
    hot: tuple[str, ...]
    in_frame: tuple[str, ...]


def images_of(
    levels: Array, keys: Sequence[str], names: dict[str, str], zones: NDArray[np.int64], zone_words: dict[int, str]
) -> tuple[MirrorImage, ...]:
    """Mirror images among places spread evenly over the product.

    levels (n,): of what each mirrors, linear, grey 0.18; keys (n): whose
    image that is, '' for nobody's; zones (n,)."""
    if not len(levels):
        return ()
    found: dict[tuple[str, int], int] = {}
    for place in map(int, np.flatnonzero(levels >= BRIGHT)):
        if keys[place]:
            at = keys[place], int(zones[place])
            found[at] = found.get(at, 0) + 1
    images = [
        MirrorImage(key=key, of=names.get(key, key), zone=zone_words.get(zone, ""), share=count / len(levels))
        for (key, zone), count in found.items()
    ]
    return tuple(sorted(images, key=lambda image: -image.share))


def lens_share(levels: Array, aside_m: Array) -> float:
    """How much of the product shows the lens: places whose mirrored way passes it, dark where what is mirrored beside is bright.

    aside_m (n,): how far from the lens each place's mirrored way passes, inf where it leads elsewhere.
    """
    at, beside = aside_m < LENS_M, (aside_m >= LENS_M) & (aside_m < AROUND_M)
    if not at.any() or np.count_nonzero(beside) < LEAST_AROUND:
        return 0.0
    around = float(np.median(levels[beside]))
    if around < BRIGHT:
        return 0.0
    return float((at & (levels < around * 2.0**-STANDS_OUT_STOPS)).mean())
