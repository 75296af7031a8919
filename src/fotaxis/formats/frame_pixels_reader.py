"""The process that reads one photograph whole, upright, 8 or 16 bits deep, for a merge: see picture_process.

Colours are taken as sRGB codes, as cameras and raw converters write them by default; a 16-bit PNG is read at 8 bits.
"""

from __future__ import annotations

import io
import math
import sys
import warnings
from typing import Any

import numpy as np
import tifffile
from PIL import Image, ImageOps, UnidentifiedImageError

from fotaxis.formats.photo_reader import TYPES
from fotaxis.formats.picture_process import Unreadable, answered

MAX_PIXELS = 62_000_000
MEMORY_BYTES = 2_500_000_000
SECONDS = 60
TOO_MANY = f"the frame has more than {MAX_PIXELS / 1e6:.0f} million pixels; export it smaller to merge it."


def read(data: bytes) -> tuple[dict[str, Any], np.ndarray]:
    """Every pixel (height, width, 3) uint8 or uint16. Raises Unreadable."""
    Image.MAX_IMAGE_PIXELS = MAX_PIXELS
    try:
        if data[:4] in (b"II*\0", b"MM\0*"):
            deep = _deep_tiff(data)
            if deep is not None:
                return {}, deep
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=list(TYPES)) as opened:
                if opened.width * opened.height > MAX_PIXELS:
                    raise Unreadable(TOO_MANY)
                return {}, np.asarray(ImageOps.exif_transpose(opened).convert("RGB"), np.uint8)
    except Unreadable:
        raise
    except UnidentifiedImageError:
        raise Unreadable("this is not a JPEG, PNG or TIFF picture; export the frame as one of these.") from None
    except (Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise Unreadable(TOO_MANY) from None
    except MemoryError:
        raise Unreadable("the frame needs more memory than there is for one; export it smaller.") from None
    except Exception as error:  # whatever a decoder makes of a damaged or hostile file
        raise Unreadable("the frame is broken and cannot be read to its end; export it anew.") from error


def _deep_tiff(data: bytes) -> np.ndarray | None:
    """A TIFF of 16 bits per channel; None for others."""
    with tifffile.TiffFile(io.BytesIO(data)) as file:
        page = file.pages[0]
        if page.dtype != np.uint16 or len(page.shape) != 3 or page.shape[2] not in (3, 4):
            return None
        if math.prod(page.shape[:2]) > MAX_PIXELS:
            raise Unreadable(TOO_MANY)
        return np.ascontiguousarray(page.asarray()[..., :3])


def main() -> int:
    return answered(read, memory_bytes=MEMORY_BYTES, seconds=SECONDS)


if __name__ == "__main__":
    sys.exit(main())
