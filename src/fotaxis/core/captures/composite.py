"""Exposures of one set joined in linear light, one after the other, without touching what they are made of."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.captures.masks import Mask
from fotaxis.core.errors import DomainError
from fotaxis.core.kernel import kernel, leaf
from fotaxis.core.limits import require_finite
from fotaxis.core.render.parallel import in_bands
from fotaxis.core.values import Array, Picture

SUM, LIGHTEST, OVER = "sum", "lightest", "over"
BLENDS = (SUM, LIGHTEST, OVER)
BLEND_WORDS = {SUM: "adds its light", LIGHTEST: "where it is brighter", OVER: "replaces what is below"}
MOST_STOPS = 6.0
CLIP = np.float32(1.0)
"""No frame holds more than this level: what a sensor clips is gone before anything is joined."""

_NUMBER = {name: i for i, name in enumerate(BLENDS)}
NO_MASK = np.ones((1, 1), np.float32)


@dataclass(frozen=True, kw_only=True)
class Plate:
    """One exposure as it goes into the composite.

    picture (height, width, 3) float32: linear levels, white 1; mask: None for all of it; strength_stops: how much of its light is
    taken, 0 all as exposed; sided: 'left' or 'right', the half that is good, whose mirror image about the column axis_x replaces the
    other; flipped: upside down about row foot_y, for a reflection in the table.
    """

    picture: Picture
    mask: Mask | None = None
    blend: str = SUM
    strength_stops: float = 0.0
    sided: str = ""
    flipped: bool = False
    axis_x: float = 0.0
    foot_y: float = 0.0

    def __post_init__(self) -> None:
        if self.blend not in BLENDS:
            raise DomainError(f"an exposure is joined by {self.blend!r}; it must be one of {', '.join(BLENDS)}.")
        require_finite("strength of an exposure", self.strength_stops, low=-20, high=MOST_STOPS, unit="stops")
        if self.sided not in ("", "left", "right"):
            raise DomainError(f"the good half is {self.sided!r}; it must be left or right.")

    @property
    def gain(self) -> float:
        return float(2.0**self.strength_stops)

    def shaped(self) -> Picture:
        """Its picture as it is laid down: the good half mirrored, turned upside down."""
        picture = self.picture
        if self.sided:
            picture = half_mirrored(picture, self.axis_x, good=self.sided)
        if self.flipped:
            picture = upside_down(picture, self.foot_y)
        return picture


Single = float | np.float32


@leaf
def blended(here: Single, level: Single, m: Single, blend: int) -> Single:
    """What one channel of a pixel becomes under a level; blend: its number in BLENDS. See lay."""
    if blend == 0:
        return here + m * level
    if blend == 1:
        return max(here, m * level)
    return here + m * (level - here)


@kernel
def _lay(
    below: NDArray[np.float32], picture: NDArray[np.float32], mask: NDArray[np.float32], masked: bool, gain: float, blend: int,
    first: int, last: int,
) -> None:  # fmt: skip
    """Lay one exposure over what is below, in place, rows first..last. Arrays (height, width, 3); mask (height, width)."""
    g = np.float32(gain)
    for y in range(first, last):
        for x in range(picture.shape[1]):
            m = mask[y, x] if masked else np.float32(1.0)
            if m <= 0.0:
                continue
            for c in range(3):
                level = min(picture[y, x, c], CLIP) * g
                below[y, x, c] = blended(below[y, x, c], level, m, blend)


def lay(below: Picture, plate: Plate) -> None:
    """Lay one exposure over what is below, in place; both (height, width, 3) float32, contiguous. m: mask, g: strength.

        sum       below + m g L          lightest  max(below, m g L)        over  (1 - m) below + m g L

    L is held at white first, as the frame holds it. Source: by hand, addition of light (incoherent sources add).
    """
    mask = NO_MASK if plate.mask is None else plate.mask
    picture = np.ascontiguousarray(plate.shaped(), np.float32)
    in_bands(
        lambda a, b: _lay(below, picture, mask, plate.mask is not None, plate.gain, _NUMBER[plate.blend], a, b),
        below.shape[0],
        least=64,
    )


def composed(plates: Iterable[Plate], size: tuple[int, int]) -> Picture:
    """All exposures joined in their order over black, (height, width, 3) float32 linear; size: width, height."""
    below = np.zeros((size[1], size[0], 3), np.float32)
    for plate in plates:
        lay(below, plate)
    return below


def along(levels: Sequence[Array], plates: Sequence[Plate], places: Array) -> Array:
    """What the composite makes of something that each exposure shows at some places of the frame, (n,).

    levels: one (n,) for each plate; places (n, 2): x, y in parts of the frame. Masks are looked up at their nearest pixel; what is
    mirrored or turned over is not followed: such places are read where they lie.
    """
    below = np.zeros(len(places))
    for level, plate in zip(levels, plates, strict=True):
        m = np.ones(len(places)) if plate.mask is None else _at(plate.mask, places)
        laid = plate.gain * np.minimum(level, float(CLIP))
        if plate.blend == SUM:
            below = below + m * laid
        elif plate.blend == LIGHTEST:
            below = np.maximum(below, m * laid)
        else:
            below = below + m * (laid - below)
    return below


def _at(mask: Mask, places: Array) -> Array:
    height, width = mask.shape
    column = np.clip((places[:, 0] * width).astype(int), 0, width - 1)
    row = np.clip((places[:, 1] * height).astype(int), 0, height - 1)
    return mask[row, column].astype(np.float64)


def half_mirrored(picture: Picture, axis_x: float, *, good: str) -> Picture:
    """The picture with its good half mirrored about a column, between pixels where need be; beyond the frame its edge goes on."""
    width = picture.shape[1]
    middles = np.arange(width) + 0.5
    other = middles >= axis_x if good == "left" else middles < axis_x
    at = np.clip(2 * axis_x - middles[other] - 0.5, 0, width - 1)
    low = np.floor(at).astype(int)
    high = np.minimum(low + 1, width - 1)
    part = (at - low).astype(np.float32)[None, :, None]
    out = picture.copy()
    out[:, other] = picture[:, low] * (1 - part) + picture[:, high] * part
    return out


def upside_down(picture: Picture, foot_y: float) -> Picture:
    """The picture turned over about a row; what comes from beyond the frame is black."""
    height = picture.shape[0]
    at = 2 * foot_y - (np.arange(height) + 0.5) - 0.5
    low = np.floor(at).astype(int)
    part = (at - low).astype(np.float32)[:, None, None]
    inside = (low >= 0) & (low < height - 1)
    out = np.zeros_like(picture)
    out[inside] = picture[low[inside]] * (1 - part[inside]) + picture[low[inside] + 1] * part[inside]
    return out
