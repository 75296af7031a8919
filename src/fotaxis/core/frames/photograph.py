"""A photograph as the rules see it: a working picture and what the file says of its exposure."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True, slots=True, kw_only=True)
class PhotoExposure:
    """Exposure as the file tells it; None where it does not. camera: what took it, in the file's words."""

    iso: float | None = None
    shutter_s: float | None = None
    f_number: float | None = None
    focal_length_mm: float | None = None
    taken_at: str | None = None
    camera: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Photograph:
    """A photograph that was read.

    picture (height, width, 3) uint8 sRGB, upright, reduced to a working size; width, height of the file, upright.
    """

    media_type: str
    width: int
    height: int
    exposure: PhotoExposure
    picture: np.ndarray
