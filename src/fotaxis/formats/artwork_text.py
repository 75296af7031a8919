"""A picture of artwork as text inside the shot file: base64 of a PNG, described in docs/shot-file.md."""

from __future__ import annotations

import base64
import binascii
import io
from functools import lru_cache

import numpy as np
from PIL import Image

from fotaxis.core.errors import DomainError
from fotaxis.core.materials.artwork import MOST_SIDE, Artwork, Bytes

MAX_TEXT = 900_000
MAX_MASK_TEXT = 300_000


def encode(picture: Bytes) -> str:
    """The text of a picture (height, width, 4) or a mask (height, width), uint8."""
    out = io.BytesIO()
    Image.fromarray(np.ascontiguousarray(picture)).save(out, "PNG", optimize=True)
    return base64.b64encode(out.getvalue()).decode()


def png(text: str) -> bytes:
    """The PNG of a text. Raises DomainError when it is none."""
    try:
        return base64.b64decode(text.encode("ascii"), validate=True)
    except (binascii.Error, UnicodeEncodeError) as error:
        raise DomainError("artwork: its picture is damaged; choose the picture again.") from error


@lru_cache(maxsize=64)
def decode(text: str, mode: str) -> Bytes:
    """The picture of a text: mode RGBA (height, width, 4), or L (height, width), uint8. Raises DomainError that says what is wrong."""
    data = png(text)
    try:
        with Image.open(io.BytesIO(data), formats=["PNG"]) as image:
            if max(image.size) > MOST_SIDE:
                raise DomainError(
                    f"artwork: its picture is {image.size} pixels; at most {MOST_SIDE} a side. Choose it again."
                )
            return np.asarray(image.convert(mode), np.uint8)
    except DomainError:
        raise
    except Exception as error:  # whatever a decoder makes of a damaged or hostile file
        raise DomainError("artwork: its picture is damaged; choose the picture again.") from error


@lru_cache(maxsize=32)
def artwork(picture: str, foil: str, varnish: str, emboss: str) -> Artwork:
    """The artwork of a picture's text and its masks' texts, "" for none; masks are brought to the picture's size."""
    rgba = decode(picture, "RGBA")
    height, width = rgba.shape[:2]

    def mask(text: str) -> Bytes | None:
        if not text:
            return None
        values = decode(text, "L")
        if values.shape == (height, width):
            return values
        return np.asarray(Image.fromarray(values).resize((width, height), Image.Resampling.BILINEAR), np.uint8)

    return Artwork.of(rgba, foil=mask(foil), varnish=mask(varnish), pressed=mask(emboss))
