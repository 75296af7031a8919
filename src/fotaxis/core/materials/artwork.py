"""A printed picture on a zone: colour, where there is any print, foil, varnish, what is pressed up; its texels, finer and coarser."""

from __future__ import annotations

import hashlib
import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter

from fotaxis.core.errors import DomainError
from fotaxis.core.kernel import leaf
from fotaxis.core.srgb import srgb_curve, srgb_linear

Bytes = NDArray[np.uint8]

RED, GREEN, BLUE, COVER, FOIL, VARNISH = 0, 1, 2, 3, 4, 5
TEXEL_COLUMNS = 6
MOST_SIDE = 2048
"""More texels a side than a label shows in any frame at 0.05 mm each and 10 cm."""

FIRST, WIDTH, HEIGHT, LEVELS, PRESSED = 0, 1, 2, 3, 4
ARTWORK_COLUMNS = 5
"""A picture's row, whole numbers: first of its texels, its size, how many levels it has, first of its slopes (-1: none)."""

RIM_TEXELS = 1.5
"""A pressed edge rises over about so many texels to each side, as board does around a die, common practice."""

MOST_TAPS = 8


LINEAR = srgb_linear(np.arange(256) / 255.0)


BLEED_TEXELS = 1.5


def _bled(picture: Bytes) -> Bytes:
    """The picture, its colour carried on to where nothing covers: between two texels what is not printed has no colour of its own."""
    cover = picture[..., COVER] / 255.0
    if cover.min() == 1.0 or cover.max() == 0.0:
        return picture
    weight = gaussian_filter(cover, BLEED_TEXELS)
    beside = np.stack([gaussian_filter(picture[..., k] * cover, BLEED_TEXELS) for k in range(3)], axis=-1)
    told = (cover < 1.0) & (weight > 1e-4)
    bled = picture.copy()
    bled[told, :3] = np.clip(beside[told] / weight[told, None] + 0.5, 0, 255).astype(np.uint8)
    return bled


@dataclass(frozen=True, slots=True, eq=False)
class Artwork:
    """A picture as printed: texels (height, width, 6) uint8, rows from the top.

    Columns: sRGB red, green, blue of the print; how much of the place it covers; foil; varnish (0..255). pressed: (height, width)
    uint8, how far it is pressed up, or None. Equal when all their texels are.
    """

    texels: Bytes
    pressed: Bytes | None
    mark: str

    @classmethod
    def of(
        cls, picture: Bytes, *, foil: Bytes | None = None, varnish: Bytes | None = None, pressed: Bytes | None = None
    ) -> Artwork:
        """From a picture (height, width, 4) sRGB with cover, and masks (height, width) of the same size, white where they hold.

        Raises DomainError for other sizes.
        """
        if picture.ndim != 3 or picture.shape[2] != 4 or not 1 <= max(picture.shape[:2]) <= MOST_SIDE:
            raise DomainError(
                f"artwork: a picture of {picture.shape}; it must be RGBA with at most {MOST_SIDE} pixels a side."
            )
        height, width = picture.shape[:2]
        texels = np.zeros((height, width, TEXEL_COLUMNS), np.uint8)
        texels[..., :4] = _bled(picture)
        for column, mask, name in ((FOIL, foil, "foil"), (VARNISH, varnish, "varnish"), (FOIL, pressed, "emboss")):
            if mask is not None and mask.shape != (height, width):
                raise DomainError(
                    f"artwork: its {name} mask is {mask.shape}, its picture {(height, width)}; make them equal."
                )
            if mask is not None and name != "emboss":
                texels[..., column] = mask
        digest = hashlib.sha256(texels.tobytes() + (pressed.tobytes() if pressed is not None else b"")).hexdigest()
        return cls(texels, pressed, f"{width}x{height}:{digest}")

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Artwork) and other.mark == self.mark

    def __hash__(self) -> int:
        return hash(self.mark)


@lru_cache(maxsize=32)
def levels(artwork: Artwork) -> tuple[Bytes, int]:
    """All texels of a picture, (n, 6), level after level, each half as fine as the one before; and how many levels.

    Four become one in linear light, colours by what each covers.
    """
    kept = [artwork.texels.reshape(-1, TEXEL_COLUMNS)]
    now = artwork.texels.astype(np.float64) / 255.0
    now[..., :3] = srgb_linear(now[..., :3])
    while max(now.shape[:2]) > 1:
        height, width = max(1, now.shape[0] // 2), max(1, now.shape[1] // 2)
        rows = np.minimum(np.arange(2 * height), now.shape[0] - 1)
        columns = np.minimum(np.arange(2 * width), now.shape[1] - 1)
        four = now[rows][:, columns].reshape(height, 2, width, 2, TEXEL_COLUMNS)
        cover = four[..., COVER : COVER + 1]
        share = cover.sum(axis=(1, 3))
        colour = np.where(
            share > 0, (four[..., :3] * cover).sum(axis=(1, 3)) / np.maximum(share, 1e-9), four[..., :3].mean(axis=(1, 3))
        )
        now = np.concatenate([colour, four[..., 3:].mean(axis=(1, 3))], axis=-1)
        coded = now.copy()
        coded[..., :3] = srgb_curve(coded[..., :3])
        kept.append((np.clip(coded, 0, 1) * 255 + 0.5).astype(np.uint8).reshape(-1, TEXEL_COLUMNS))
    return np.concatenate(kept), len(kept)


@lru_cache(maxsize=32)
def pressed_slopes(artwork: Artwork) -> NDArray[np.float32]:
    """Rise to the right and up per texel of what is pressed, of its full height, (height * width, 2)."""
    assert artwork.pressed is not None
    high = gaussian_filter(artwork.pressed.astype(np.float64) / 255.0, RIM_TEXELS, mode="nearest")
    down, right = np.gradient(high) if min(high.shape) > 1 else (np.zeros_like(high), np.zeros_like(high))
    return np.stack([right, -down], axis=-1).reshape(-1, 2).astype(np.float32)


@leaf
def on_picture(face: float, across: float, up: float) -> tuple[float, float]:
    """Place on a picture, 0..1 from its left and from its top, of a place on a zone, -1..1 across and up on its surface.

    Pictures read rightly from outside; on top their lower edge is in front, below the upper one is.
    """
    right = -across if face == 0.0 or face == 5.0 else across
    down = up if face == 2.0 else -up
    return 0.5 + 0.5 * right, 0.5 + 0.5 * down


@leaf
def value_at(artworks: NDArray[np.int64], texels: Bytes, k: int, level: int, s: float, t: float, column: int) -> float:
    """A column of picture k at a place and level, 0..1 (red, green, blue in linear light), between four texels."""
    first = artworks[k, FIRST]
    width, height = artworks[k, WIDTH], artworks[k, HEIGHT]
    for _ in range(level):
        first += width * height
        width, height = max(1, width // 2), max(1, height // 2)
    x = min(max(s * width - 0.5, 0.0), width - 1.0)
    y = min(max(t * height - 0.5, 0.0), height - 1.0)
    i, j = int(x), int(y)
    right, below = min(i + 1, width - 1), min(j + 1, height - 1)
    fx, fy = x - i, y - j
    a, b = texels[first + j * width + i, column], texels[first + j * width + right, column]
    c, d = texels[first + below * width + i, column], texels[first + below * width + right, column]
    if column <= BLUE:
        top = LINEAR[a] * (1.0 - fx) + LINEAR[b] * fx
        low = LINEAR[c] * (1.0 - fx) + LINEAR[d] * fx
    else:
        top = (a * (1.0 - fx) + b * fx) / 255.0
        low = (c * (1.0 - fx) + d * fx) / 255.0
    return top * (1.0 - fy) + low * fy


@leaf
def _between_levels(
    artworks: NDArray[np.int64], texels: Bytes, k: int, fine: float, s: float, t: float, column: int
) -> float:
    """As value_at, `fine` levels coarser than the finest, a fraction between two."""
    most = artworks[k, LEVELS] - 1
    level = min(max(fine, 0.0), float(most))
    low = int(level)
    value = value_at(artworks, texels, k, low, s, t, column)
    share = level - low
    if share > 0.0 and low < most:
        value += share * (value_at(artworks, texels, k, low + 1, s, t, column) - value)
    return value


@leaf
def printed(
    artworks: NDArray[np.int64],
    texels: Bytes,
    k: int,
    s: float,
    t: float,
    wide_s: float,
    wide_t: float,
    bare: float,
    column: int,
) -> float:
    """Reflectance in a colour of a place of a printed surface seen over a part of its picture: print, and what it does not cover.

    wide_s, wide_t: how much of the picture's width and height one sample stands for. Where they differ, taps lie along the longer.
    """
    texels_s = max(wide_s * artworks[k, WIDTH], 1e-6)
    texels_t = max(wide_t * artworks[k, HEIGHT], 1e-6)
    short, long = min(texels_s, texels_t), max(texels_s, texels_t, 1.0)
    short = max(short, long / MOST_TAPS)
    taps = max(1, min(MOST_TAPS, math.ceil(long / max(short, 1.0))))
    fine = math.log2(max(long / taps, 1.0))
    total = 0.0
    for n in range(taps):
        off = (n + 0.5) / taps - 0.5
        at_s = s + (off * wide_s if texels_s >= texels_t else 0.0)
        at_t = t + (off * wide_t if texels_t > texels_s else 0.0)
        cover = _between_levels(artworks, texels, k, fine, at_s, at_t, COVER)
        total += bare + cover * (_between_levels(artworks, texels, k, fine, at_s, at_t, column) - bare)
    return total / taps
