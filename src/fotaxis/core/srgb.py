"""The curve between linear light and sRGB output values, 0..1.  Source: IEC 61966-2-1."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Values = NDArray[np.floating]


def srgb_curve(levels: Values) -> Values:
    """Linear levels 0..1 to output values 0..1, not rounded."""
    return np.where(levels <= 0.0031308, 12.92 * levels, 1.055 * np.power(np.maximum(levels, 1e-12), 1 / 2.4) - 0.055)


def srgb_linear(values: Values) -> Values:
    """Output values 0..1 to linear levels."""
    return np.where(values <= 0.04045, values / 12.92, ((values + 0.055) / 1.055) ** 2.4)
