"""Merged pictures out: 16-bit PNG and TIFF, many pages to a file, JPEG; all with the profile of their colours, sRGB."""

from __future__ import annotations

import io
import struct
import zlib
from collections.abc import Sequence
from functools import lru_cache

import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image, ImageCms

from fotaxis.core.errors import DomainError

PNG_SIGNATURE = b"\x89PNG\r\n\x1a\n"
ICC_TAG = 34675
FAST = 1


@lru_cache(maxsize=1)
def srgb_profile() -> bytes:
    """An ICC profile of sRGB, IEC 61966-2-1, made by Pillow's own colour engine."""
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()


def _chunk(kind: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


def deep_png(pixels: NDArray[np.uint16], *, level: int = FAST) -> bytes:
    """PNG bytes of (height, width, 3 or 4) uint16 codes, sRGB; the fourth channel is alpha, not premultiplied.

    Source: PNG specification (ISO/IEC 15948): 16 bits big-endian, every row after the filter that takes the difference to the pixel
    on its left. Pillow writes no colour of 16 bits.
    """
    if pixels.dtype != np.uint16 or pixels.ndim != 3 or pixels.shape[2] not in (3, 4):
        raise DomainError("a deep PNG is made of codes of 16 bits, three or four channels.")
    height, width, channels = pixels.shape
    rows = np.ascontiguousarray(pixels.astype(">u2")).view(np.uint8).reshape(height, width * channels * 2)
    step = channels * 2
    filtered = np.empty((height, rows.shape[1] + 1), np.uint8)
    filtered[:, 0] = 1
    filtered[:, 1 : 1 + step] = rows[:, :step]
    np.subtract(rows[:, step:], rows[:, :-step], out=filtered[:, 1 + step :])
    header = struct.pack(">IIBBBBB", width, height, 16, 2 if channels == 3 else 6, 0, 0, 0)
    profile = b"sRGB\0\0" + zlib.compress(srgb_profile())
    body = zlib.compress(filtered.tobytes(), level)
    return PNG_SIGNATURE + _chunk(b"IHDR", header) + _chunk(b"iCCP", profile) + _chunk(b"IDAT", body) + _chunk(b"IEND", b"")


def deep_tiff(pages: Sequence[tuple[str, NDArray[np.uint16]]]) -> bytes:
    """TIFF bytes of named pages (height, width, 3) uint16, sRGB, uncompressed, so that any program reads them; the name is the page's
    name tag and description."""
    out = io.BytesIO()
    profile = srgb_profile()
    with tifffile.TiffWriter(out) as file:
        for name, pixels in pages:
            plain = name.encode("ascii", "replace").decode()
            tags = [(285, "s", 0, plain, True), (ICC_TAG, "B", len(profile), profile, True)]
            file.write(pixels, photometric="rgb", description=plain, extratags=tags, metadata=None, software="Fotaxis")
    return out.getvalue()


def first_page(data: bytes) -> NDArray[np.uint16]:
    """The first page of a TIFF that was written here."""
    with tifffile.TiffFile(io.BytesIO(data)) as file:
        return np.asarray(file.pages[0].asarray(), np.uint16)


def eight(pixels: NDArray[np.uint16]) -> NDArray[np.uint8]:
    """Codes of 16 bits rounded to 8."""
    return ((pixels.astype(np.uint32) + 128) // 257).astype(np.uint8)


def profiled_jpeg(pixels: NDArray[np.uint16], *, quality: int = 95) -> bytes:
    """JPEG bytes of (height, width, 3) uint16 codes, with its profile."""
    out = io.BytesIO()
    Image.fromarray(eight(pixels)).save(out, "JPEG", quality=quality, subsampling=0, icc_profile=srgb_profile())
    return out.getvalue()
