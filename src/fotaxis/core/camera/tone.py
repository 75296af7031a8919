"""How linear levels become the picture that is delivered: black and white point, and a soft shoulder for what is too bright."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.errors import DomainError
from fotaxis.core.kernel import leaf
from fotaxis.core.srgb import srgb_curve

CURVE_STEPS = 4096
MOST_BLACK, LEAST_WHITE = 120, 135
WHITE = 255

KNEE = 0.8
"""Levels up to this stay as they are under a soft shoulder."""

TO_WHITE = 0.15
"""How fast colour goes to white above the knee."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Tone:
    """black, white: the output values that become 0 and 255, what lies between is stretched; shoulder: what is too bright goes softly
    to white instead of being cut off channel by channel."""

    black: int = 0
    white: int = WHITE
    shoulder: bool = False

    def __post_init__(self) -> None:
        if not 0 <= self.black <= MOST_BLACK:
            raise DomainError(f"the black point is {self.black}; it must be from 0 to {MOST_BLACK}.")
        if not LEAST_WHITE <= self.white <= WHITE:
            raise DomainError(f"the white point is {self.white}; it must be from {LEAST_WHITE} to {WHITE}.")

    @property
    def curve(self) -> NDArray[np.uint8]:
        """Output values over the square root of the level, (4096,): dark tones keep their steps."""
        return _curve(self.black, self.white)

    @property
    def words(self) -> str:
        """What is not as usual; '' for nothing."""
        parts = [f"black point {self.black}"] if self.black else []
        parts += [f"white point {self.white}"] if self.white < WHITE else []
        parts += ["soft shoulder"] if self.shoulder else []
        return ", ".join(parts)


PLAIN_TONE = Tone()


@lru_cache(maxsize=16)
def _curve(black: int, white: int) -> NDArray[np.uint8]:
    levels = ((np.arange(CURVE_STEPS) / (CURVE_STEPS - 1)) ** 2).astype(np.float32)
    stretched = (srgb_curve(levels) * WHITE - black) * (WHITE / (white - black))
    return np.clip(stretched + 0.5, 0, WHITE).astype(np.uint8)


@leaf
def soft_shoulder(red: float, green: float, blue: float) -> tuple[float, float, float]:
    """Levels under a soft shoulder, below 1 each; all below the knee stay as they are.

        p' = 1 - (1 - k)^2 / (p + 1 - 2 k), p the brightest channel, k the knee; all channels times p' / p,
        then towards p' by 1 - 1 / (s (p - p') + 1)

    So a colour that is too bright keeps its hue and pales, as a print does.   Source: PBR Neutral tone mapping, 2024, without its
    toe (from memory).
    """
    peak = max(red, max(green, blue))
    if peak <= KNEE:
        return red, green, blue
    short = 1.0 - KNEE
    low = 1.0 - short * short / (peak + short - KNEE)
    scale = low / peak
    pale = 1.0 - 1.0 / (TO_WHITE * (peak - low) + 1.0)
    keep = 1.0 - pale
    return red * scale * keep + low * pale, green * scale * keep + low * pale, blue * scale * keep + low * pale
