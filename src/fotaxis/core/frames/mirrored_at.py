"""What is known of places in the frame beside their brightness: what they mirror, and where on the product they lie."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.values import Array, Picture


@dataclass(frozen=True, slots=True, kw_only=True)
class MirroredAt:
    """Places in the frame (n,): what the product mirrors there in the planned mix (linear, grey 0.18; None where the exposure
    contradicts itself), how high above its foot they lie (m), number of the zone, -1 beside the product, whether that mirrors, whether
    it is clear glass, and the name of each zone ('' for the body). thing: what a place mirrors, in words, '' where it looks past
    everything.
    """

    mirrored: Array | None
    height_m: Array
    zone: NDArray[np.int64]
    bare: NDArray[np.bool_]
    clear: NDArray[np.bool_]
    names: dict[int, str]
    thing: Callable[[int], str]


Look = Callable[[Array], MirroredAt]
"""Looks at places in the frame, x and y 0..1 from its upper left corner, (n, 2)."""


def by_brightness(luminance: Picture | Array, is_product: NDArray[np.bool_]) -> Look:
    """For a picture of which nothing else is known, (height, width): all the light on the product counts as mirrored."""
    height, width = is_product.shape

    def look(places: Array) -> MirroredAt:
        x, y = places[:, 0] * width - 0.5, places[:, 1] * height - 0.5
        row, left = np.round(y).astype(int).clip(0, height - 1), np.floor(x).astype(int).clip(0, max(width - 2, 0))
        part = np.clip(x - left, 0.0, 1.0)
        right = np.minimum(left + 1, width - 1)
        level = luminance[row, left] * (1 - part) + luminance[row, right] * part
        on = is_product[row, np.round(x).astype(int).clip(0, width - 1)]
        return MirroredAt(
            mirrored=level, height_m=np.full(len(places), np.nan), zone=np.where(on, 0, -1), bare=on,
            clear=np.zeros(len(places), bool), names={0: ""}, thing=lambda _: "",
        )  # fmt: skip

    return look
