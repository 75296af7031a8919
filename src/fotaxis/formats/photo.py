"""Photographs in: JPEG, PNG and TIFF, with the exposure their EXIF data tells. Every file is untrusted.

A file is read once, by a process with limited memory and time, and reduced: what one costs, whatever it claims to be, is gone
with that process.
"""

from __future__ import annotations

import io

import numpy as np
from PIL import Image

from fotaxis.core.errors import FormatError
from fotaxis.core.frames.photograph import PhotoExposure, Photograph
from fotaxis.formats import picture_process

MAX_BYTES = 80_000_000
TIMEOUT_S = 75
BROKEN = "the picture could not be read within the time and memory there is for one; export a smaller JPEG or TIFF."


def read(data: bytes) -> Photograph:
    """Read a photograph; its working picture has at most 1600 pixels a side.

    Raises FormatError for anything that is not a whole JPEG, PNG or TIFF of sane size.
    """
    if len(data) > MAX_BYTES:
        raise FormatError(
            f"the file has {len(data) / 1e6:.0f} MB; at most {MAX_BYTES / 1e6:.0f} MB. Export a smaller JPEG or TIFF."
        )
    if not data:
        raise FormatError("the file is empty.")
    said, picture = picture_process.asked(
        "fotaxis.formats.photo_reader", data, channels=3, timeout_s=TIMEOUT_S, broken=BROKEN
    )
    return Photograph(
        media_type=said["media_type"], width=said["width"], height=said["height"],
        exposure=PhotoExposure(**said["exposure"]), picture=picture,
    )  # fmt: skip


class WorkingPictures:
    """services.ports.WorkingPicture: PNG."""

    def write(self, picture: np.ndarray) -> bytes:
        out = io.BytesIO()
        Image.fromarray(picture).save(out, "PNG", compress_level=3)
        return out.getvalue()

    def read(self, data: bytes) -> np.ndarray:
        with Image.open(io.BytesIO(data), formats=["PNG"]) as image:
            return np.asarray(image.convert("RGB"), np.uint8)
