"""Photographs in: JPEG, PNG and TIFF, with the exposure their EXIF data tells. Every file is untrusted."""

from __future__ import annotations

import io
import math
import warnings
from typing import Any

import numpy as np
import tifffile
from PIL import ExifTags, Image, ImageOps, UnidentifiedImageError

from fotaxis.core.errors import FormatError
from fotaxis.core.frames.photograph import PhotoExposure, Photograph

MAX_BYTES = 60_000_000
MAX_PIXELS = 120_000_000
WORKING_SIDE = 1600
TYPES = {"JPEG": "image/jpeg", "PNG": "image/png", "TIFF": "image/tiff"}


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
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # about odd metadata, which is nobody's concern here
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            return _with_pillow(data)
    except FormatError:
        raise
    except UnidentifiedImageError:
        return _sixteen_bit_tiff(data)
    except (Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise FormatError(
            f"the picture has more than {MAX_PIXELS / 1e6:.0f} million pixels; export a smaller one."
        ) from None
    except (OSError, ValueError, SyntaxError, TypeError, KeyError, IndexError, ZeroDivisionError, MemoryError) as error:
        raise FormatError(f"the picture is broken and cannot be read to its end ({type(error).__name__}).") from error


def _with_pillow(data: bytes) -> Photograph:
    with Image.open(io.BytesIO(data), formats=list(TYPES)) as image:
        if image.width * image.height > MAX_PIXELS:
            raise FormatError(f"the picture has more than {MAX_PIXELS / 1e6:.0f} million pixels; export a smaller one.")
        media_type = TYPES[str(image.format)]
        exposure = _exposure(image)
        upright = ImageOps.exif_transpose(image)
        width, height = upright.size
        if upright.mode.startswith("I;16") or upright.mode == "I":
            grey = np.asarray(upright, np.float32) / 65535
            upright = Image.fromarray((np.clip(grey, 0, 1) * 255 + 0.5).astype(np.uint8))
        upright = _on_black(upright)
        upright.thumbnail((WORKING_SIDE, WORKING_SIDE), Image.Resampling.BOX)
        return Photograph(
            media_type=media_type, width=width, height=height, exposure=exposure, picture=np.asarray(upright, np.uint8)
        )


def _on_black(image: Image.Image) -> Image.Image:
    if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info:
        back = Image.new("RGBA", image.size, (0, 0, 0, 255))
        return Image.alpha_composite(back, image.convert("RGBA")).convert("RGB")
    return image.convert("RGB")


def _sixteen_bit_tiff(data: bytes) -> Photograph:
    """TIFFs that Pillow does not know: 16 bits per channel, uncompressed or deflated."""
    refused = FormatError("this is not a JPEG, PNG or TIFF picture; export the frame as one of these.")
    if data[:4] not in (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+"):
        raise refused
    try:
        with tifffile.TiffFile(io.BytesIO(data)) as file:
            page = file.pages[0]
            if math.prod(page.shape) > 4 * MAX_PIXELS:
                raise FormatError(f"the picture has more than {MAX_PIXELS / 1e6:.0f} million pixels; export a smaller one.")
            values = page.asarray()
    except FormatError:
        raise
    except Exception as error:  # the library raises many kinds on hostile files; none may reach the user as a fault of ours
        raise FormatError("this TIFF cannot be read; save it uncompressed, or as 8-bit.") from error
    if values.dtype != np.uint16 or values.ndim != 3 or values.shape[2] not in (3, 4):
        raise FormatError("this TIFF is not RGB with 8 or 16 bits per channel; save it as such.")
    height, width = values.shape[:2]
    step = max(1, math.ceil(max(height, width) / WORKING_SIDE))
    picture = (values[::step, ::step, :3] / 257 + 0.5).astype(np.uint8)
    return Photograph(media_type="image/tiff", width=width, height=height, exposure=PhotoExposure(), picture=picture)


def _exposure(image: Image.Image) -> PhotoExposure:
    exif = image.getexif()
    sub = exif.get_ifd(ExifTags.IFD.Exif)

    def number(tag: ExifTags.Base) -> float | None:
        value: Any = sub.get(tag, exif.get(tag))
        if isinstance(value, tuple) and value:
            value = value[0]
        try:
            result = float(value)
        except (TypeError, ValueError, ZeroDivisionError):
            return None
        return result if math.isfinite(result) and 0 < result < 1e7 else None

    taken = sub.get(ExifTags.Base.DateTimeOriginal)
    return PhotoExposure(
        iso=number(ExifTags.Base.ISOSpeedRatings),
        shutter_s=number(ExifTags.Base.ExposureTime),
        f_number=number(ExifTags.Base.FNumber),
        focal_length_mm=number(ExifTags.Base.FocalLength),
        taken_at=str(taken)[:19] if taken else None,
    )
