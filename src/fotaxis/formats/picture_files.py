"""Pictures out: PNG and JPEG for screens, OpenEXR with one named linear layer per light."""

from __future__ import annotations

import io
import re
import tempfile
from pathlib import Path

import numpy as np
import OpenEXR
from PIL import Image

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
