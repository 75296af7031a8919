"""Photographs in: JPEG, PNG and TIFF, with the exposure their EXIF data tells. Every file is untrusted.

A file is read once, by a process with limited memory and time, and reduced: what one costs, whatever it claims to be, is gone
with that process.
"""

from __future__ import annotations

import io
import json
import subprocess
import sys

import numpy as np
from PIL import Image

from fotaxis.core.errors import FormatError
from fotaxis.core.frames.photograph import PhotoExposure, Photograph

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
    try:
        done = subprocess.run(
            [sys.executable, "-I", "-m", "fotaxis.formats.photo_reader"], input=data, capture_output=True, check=False,
            timeout=TIMEOUT_S,
        )  # fmt: skip
    except subprocess.TimeoutExpired:
        raise FormatError(BROKEN) from None
    head, _, pixels = done.stdout.partition(b"\n")
    try:
        said = json.loads(head)
    except ValueError:
        raise FormatError(BROKEN) from None
    if "problem" in said:
        raise FormatError(said["problem"])
    height, width = said["size"]
    if len(pixels) != height * width * 3:
        raise FormatError(BROKEN)
    return Photograph(
        media_type=said["media_type"], width=said["width"], height=said["height"],
        exposure=PhotoExposure(**said["exposure"]), picture=np.frombuffer(pixels, np.uint8).reshape(height, width, 3),
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
