"""What a frame has lost at its ends: clipped highlights and blocked shadows."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True, slots=True, kw_only=True)
class Clipping:
    """Masks (height, width) bool and shares 0..1 of the frame."""

    white: np.ndarray
    black: np.ndarray

    @property
    def white_share(self) -> float:
        """Share of pixels with a channel at 255."""
        return float(self.white.mean())

    @property
    def black_share(self) -> float:
        """Share of pixels with every channel at 0."""
        return float(self.black.mean())


def clipped(picture: np.ndarray) -> Clipping:
    """Where a (height, width, 3) uint8 frame is clipped: any channel at 255, or all at 0."""
    return Clipping(white=(picture == 255).any(axis=2), black=(picture == 0).all(axis=2))


def crop_to_ratio(picture: np.ndarray, ratio: float) -> np.ndarray:
    """The largest middle part of a (height, width, ...) frame with width / height = ratio, within a pixel."""
    height, width = picture.shape[:2]
    if width / height > ratio:
        keep = max(1, round(height * ratio))
        start = (width - keep) // 2
        return picture[:, start : start + keep]
    keep = max(1, round(width / ratio))
    start = (height - keep) // 2
    return picture[start : start + keep]
