"""All pixels of a photograph, read by a process of its own, kept in a file that is mapped into memory: a merge holds many."""

from __future__ import annotations

from pathlib import Path
from uuid import uuid4

import numpy as np
from numpy.typing import NDArray

from fotaxis.formats import picture_process

TIMEOUT_S = 75
BROKEN = "the frame could not be read within the time and memory there is for one; export it smaller."


def read(data: bytes, folder: Path) -> NDArray:
    """Pixels (height, width, 3) uint8 or uint16 of a JPEG, PNG or TIFF, mapped from a file in a folder. Raises FormatError."""
    _, pixels = picture_process.asked(
        "fotaxis.formats.frame_pixels_reader", data, channels=3, timeout_s=TIMEOUT_S, broken=BROKEN
    )
    path = folder / f"{uuid4().hex}.raw"
    pixels.tofile(path)
    mapped: NDArray = np.memmap(path, dtype=pixels.dtype, mode="r", shape=pixels.shape)
    return mapped
