"""Pictures out: PNG and JPEG for screens, OpenEXR with one named linear layer per light."""

from __future__ import annotations

import io
import re
import tempfile
from collections.abc import Sequence
from pathlib import Path

import numpy as np
import OpenEXR
from PIL import Image, ImageDraw, ImageFont

from fotaxis.core.values import Picture


def png(picture: np.ndarray) -> bytes:
    """PNG bytes of a (height, width, 3) uint8 sRGB picture."""
    out = io.BytesIO()
    Image.fromarray(picture).save(out, "PNG", compress_level=4)
    return out.getvalue()


def jpeg(picture: np.ndarray, *, quality: int = 92) -> bytes:
    """JPEG bytes of a (height, width, 3) uint8 sRGB picture, colour not subsampled."""
    out = io.BytesIO()
    Image.fromarray(picture).save(out, "JPEG", quality=quality, subsampling=0)
    return out.getvalue()


def small_jpeg(data: bytes, side: int) -> bytes:
    """A JPEG that was written here, reduced to at most so many pixels a side."""
    with Image.open(io.BytesIO(data), formats=["JPEG"]) as opened:
        opened.draft("RGB", (side, side))
        opened.thumbnail((side, side))
        return jpeg(np.asarray(opened.convert("RGB"), np.uint8), quality=88)


CONTACT_COLUMNS, CONTACT_GAP, CONTACT_LINE = 5, 10, 26
CONTACT_GROUND, CONTACT_INK = (24, 24, 24), (232, 232, 232)


def contact_sheet(parts: Sequence[tuple[str, np.ndarray]], *, columns: int = CONTACT_COLUMNS) -> bytes:
    """PNG bytes of pictures of one size, (height, width, 3) uint8 sRGB, side by side on grey, each with its words below."""
    height, width = parts[0][1].shape[:2]
    columns = min(columns, len(parts))
    rows = -(-len(parts) // columns)
    step_x, step_y = width + CONTACT_GAP, height + CONTACT_LINE + CONTACT_GAP
    sheet = Image.new("RGB", (columns * step_x + CONTACT_GAP, rows * step_y + CONTACT_GAP), CONTACT_GROUND)
    ink, font = ImageDraw.Draw(sheet), ImageFont.load_default(15)
    for i, (words, picture) in enumerate(parts):
        x, y = CONTACT_GAP + i % columns * step_x, CONTACT_GAP + i // columns * step_y
        sheet.paste(Image.fromarray(picture), (x, y))
        ink.text((x + 1, y + height + 4), words.replace("−", "-"), fill=CONTACT_INK, font=font)
    out = io.BytesIO()
    sheet.save(out, "PNG", compress_level=4)
    return out.getvalue()


def layer_name(key: str) -> str:
    """A key as an EXR layer name: letters, digits and underscores."""
    return re.sub(r"[^A-Za-z0-9_]", "_", key)


def exr(*, keys: tuple[str, ...], pictures: Picture) -> bytes:
    """OpenEXR bytes of layers and their sum, see write_exr."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "layers.exr"
        write_exr(path, keys=keys, pictures=pictures)
        return path.read_bytes()


def write_exr(path: Path, *, keys: tuple[str, ...], pictures: Picture) -> None:
    """Write an OpenEXR file: the sum as R, G, B and every layer as <key>.R, <key>.G, <key>.B, all float32 linear.

    pictures (n, height, width, 3): output levels (grey 0.18) at the planned powers, so that the layers add up to
    the sum. Colour is linear Rec. 709.
    """
    total = pictures.sum(axis=0)
    channels: dict[str, np.ndarray] = {c: np.ascontiguousarray(total[..., i], np.float32) for i, c in enumerate("RGB")}
    for key, picture in zip(keys, pictures, strict=True):
        for i, c in enumerate("RGB"):
            channels[f"{layer_name(key)}.{c}"] = np.ascontiguousarray(picture[..., i], np.float32)
    header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    with OpenEXR.File(header, channels) as file:
        file.write(str(path))
