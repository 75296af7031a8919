"""The process that reads one photograph from standard input and writes it, reduced, to standard output.

First a line of JSON: media_type, width, height, exposure, size of the picture, or problem; then the picture, uint8 RGB. A file
may claim any size: what it costs is this process's own, limited, and gone when it ends.
"""

from __future__ import annotations

import io
import math
import sys
import warnings
from typing import Any

import numpy as np
import tifffile
from PIL import ExifTags, Image, ImageOps, UnidentifiedImageError

from fotaxis.formats.picture_process import Unreadable, answered

MAX_PIXELS = 155_000_000
WORKING_SIDE = 1600
TYPES = {"JPEG": "image/jpeg", "PNG": "image/png", "TIFF": "image/tiff"}
MEMORY_BYTES = 3_000_000_000
SECONDS = 60
TOO_MANY = f"the picture has more than {MAX_PIXELS / 1e6:.0f} million pixels; export a smaller one."


def read(data: bytes) -> tuple[dict[str, Any], np.ndarray]:
    """What the file says of itself, and its picture with at most 1600 pixels a side. Raises Unreadable."""
    Image.MAX_IMAGE_PIXELS = MAX_PIXELS
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # about odd metadata, which is nobody's concern here
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            return _with_pillow(data)
    except Unreadable:
        raise
    except UnidentifiedImageError:
        return _sixteen_bit_tiff(data)
    except (Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise Unreadable(TOO_MANY) from None
    except MemoryError:
        raise Unreadable("the picture needs more memory than there is for one; export a smaller one.") from None
    except Exception as error:  # whatever a decoder makes of a damaged or hostile file
        raise Unreadable("the picture is broken and cannot be read to its end; export it anew.") from error


def _with_pillow(data: bytes) -> tuple[dict[str, Any], np.ndarray]:
    with Image.open(io.BytesIO(data), formats=list(TYPES)) as opened:
        image: Image.Image = opened
        if image.width * image.height > MAX_PIXELS:
            raise Unreadable(TOO_MANY)
        media_type = TYPES[str(opened.format)]
        exposure = _exposure(image)
        width, height = image.size
        turned = image.getexif().get(ExifTags.Base.Orientation, 1) in (5, 6, 7, 8)
        # A JPEG is decoded at a half, quarter or eighth of its size at once; others as they are, then reduced before all else.
        opened.draft("RGB", (WORKING_SIDE, WORKING_SIDE))
        factor = max(1, max(image.size) // WORKING_SIDE)
        if image.mode.startswith("I;16") or image.mode == "I":
            grey = np.asarray(image)[::factor, ::factor].astype(np.float32) / 65535
            small: Image.Image = Image.fromarray((np.clip(grey, 0, 1) * 255 + 0.5).astype(np.uint8))
        else:
            if image.mode in ("P", "1", "PA"):
                image = image.convert("RGBA")
            small = image.reduce(factor) if factor > 1 else image
        small = _on_black(small)
        small.getexif()[ExifTags.Base.Orientation] = image.getexif().get(ExifTags.Base.Orientation, 1)
        small = ImageOps.exif_transpose(small)
        small.thumbnail((WORKING_SIDE, WORKING_SIDE), Image.Resampling.BOX)
        said = {
            "media_type": media_type, "width": height if turned else width, "height": width if turned else height,
            "exposure": exposure,
        }  # fmt: skip
        return said, np.asarray(small, np.uint8)


def _on_black(image: Image.Image) -> Image.Image:
    if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info:
        back = Image.new("RGBA", image.size, (0, 0, 0, 255))
        return Image.alpha_composite(back, image.convert("RGBA")).convert("RGB")
    return image.convert("RGB")


def _sixteen_bit_tiff(data: bytes) -> tuple[dict[str, Any], np.ndarray]:
    """TIFFs that Pillow does not know: 16 bits per channel, uncompressed or deflated."""
    refused = Unreadable("this is not a JPEG, PNG or TIFF picture; export the frame as one of these.")
    if data[:4] not in (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+"):
        raise refused
    try:
        with tifffile.TiffFile(io.BytesIO(data)) as file:
            page = file.pages[0]
            if math.prod(page.shape) > 4 * MAX_PIXELS:
                raise Unreadable(TOO_MANY)
            values = page.asarray()
    except Unreadable:
        raise
    except Exception as error:  # the library raises many kinds on hostile files; none may reach the user as a fault of ours
        raise Unreadable("this TIFF cannot be read; save it uncompressed, or as 8-bit.") from error
    if values.dtype != np.uint16 or values.ndim != 3 or values.shape[2] not in (3, 4):
        raise Unreadable("this TIFF is not RGB with 8 or 16 bits per channel; save it as such.")
    height, width = values.shape[:2]
    step = max(1, math.ceil(max(height, width) / WORKING_SIDE))
    picture = (values[::step, ::step, :3] / 257 + 0.5).astype(np.uint8)
    return {"media_type": "image/tiff", "width": width, "height": height, "exposure": {}}, picture


def _exposure(image: Image.Image) -> dict[str, Any]:
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
    return {
        "iso": number(ExifTags.Base.ISOSpeedRatings),
        "shutter_s": number(ExifTags.Base.ExposureTime),
        "f_number": number(ExifTags.Base.FNumber),
        "focal_length_mm": number(ExifTags.Base.FocalLength),
        "taken_at": str(taken)[:19] if taken else None,
        "camera": _camera(exif),
    }


def _camera(exif: Image.Exif) -> str | None:
    """What took it, in printable words; None where the file does not say."""
    words = " ".join(str(exif.get(tag, "")) for tag in (ExifTags.Base.Make, ExifTags.Base.Model))
    plain = " ".join("".join(ch if ch.isprintable() else " " for ch in words).split())[:80]
    return plain or None


def main() -> int:
    return answered(read, memory_bytes=MEMORY_BYTES, seconds=SECONDS)


if __name__ == "__main__":
    sys.exit(main())
