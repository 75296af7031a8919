"""Artwork in: PNG, JPEG and SVG. Every file is untrusted: a process with limited memory and time reads it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PIL import Image

from fotaxis.core.errors import FormatError
from fotaxis.core.materials.artwork import Bytes
from fotaxis.formats import artwork_text, picture_process

MAX_BYTES = 20_000_000
TIMEOUT_S = 60
BROKEN = "the artwork could not be read within the time and memory there is for one; export a smaller PNG."
SIDES = (1024, 768, 512, 384)


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadArtwork:
    """A picture (height, width, 4) uint8 sRGB with cover, its printed width where the file tells it, and what is to be said of it."""

    picture: Bytes
    width_mm: float | None
    words: str

    def text(self) -> str:
        """As a shot file holds it: as fine as fits."""
        return _fitting(self.picture, artwork_text.MAX_TEXT)

    def mask(self) -> str:
        """As a mask: how light it is, on black where nothing covers."""
        rgb, cover = self.picture[..., :3].astype(np.float64), self.picture[..., 3] / 255.0
        grey = (rgb @ np.array([0.2126, 0.7152, 0.0722])) * cover
        return _fitting((grey + 0.5).astype(np.uint8), artwork_text.MAX_MASK_TEXT)


def _fitting(picture: Bytes, most: int) -> str:
    """The text of a picture in the greatest size that is short enough."""
    for side in SIDES:
        image = Image.fromarray(np.ascontiguousarray(picture))
        image.thumbnail((side, side), Image.Resampling.LANCZOS)
        text = artwork_text.encode(np.asarray(image))
        if len(text) <= most:
            return text
    raise FormatError("this picture is too rich in detail to be kept with the shot; export it with fewer pixels.")


def read(data: bytes) -> ReadArtwork:
    """Read a picture. Raises FormatError for anything that is not a whole PNG, JPEG or plain SVG of sane size."""
    if not data:
        raise FormatError("the file is empty.")
    if len(data) > MAX_BYTES:
        raise FormatError(f"the file has {len(data) / 1e6:.0f} MB; at most {MAX_BYTES / 1e6:.0f} MB. Export a smaller one.")
    said, picture = picture_process.asked(
        "fotaxis.formats.artwork_reader", data, channels=4, timeout_s=TIMEOUT_S, broken=BROKEN
    )
    return ReadArtwork(picture=picture, width_mm=said["width_mm"], words=said["words"])
