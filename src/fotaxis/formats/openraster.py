"""OpenRaster: a zip of layers with masks as their alpha, and the picture that they make. Source: OpenRaster specification 0.0.6.

Layers are 16-bit PNG in sRGB, the mask as alpha; sums are `svg:plus`, lightest `svg:lighten`. Programs blend them on sRGB codes, where
sums are only near; `mergedimage.png` is the composite in linear light.
"""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterable
from dataclasses import dataclass
from xml.etree import ElementTree

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from fotaxis.formats.deep_pictures import deep_png, eight

MIMETYPE = "image/openraster"
OPERATORS = {"sum": "svg:plus", "lightest": "svg:lighten", "over": "svg:src-over"}
THUMBNAIL = 256


@dataclass(frozen=True, kw_only=True)
class RasterLayer:
    """One layer: its name, codes (height, width, 3) uint16, mask (height, width) 0..1 or None, how it is laid over those before it,
    and whether it is shown."""

    name: str
    pixels: NDArray[np.uint16]
    mask: NDArray[np.float32] | None = None
    blend: str = "over"
    opacity: float = 1.0
    shown: bool = True


def openraster(layers: Iterable[RasterLayer], merged: NDArray[np.uint16]) -> bytes:
    """Bytes of an OpenRaster file. layers: the lowest first, each asked for once; merged (height, width, 3): what they make."""
    height, width = merged.shape[:2]
    out = io.BytesIO()
    image = ElementTree.Element("image", version="0.0.6", w=str(width), h=str(height))
    stack = ElementTree.SubElement(image, "stack")
    with zipfile.ZipFile(out, "w") as file:
        file.writestr(zipfile.ZipInfo("mimetype"), MIMETYPE, zipfile.ZIP_STORED)
        for number, layer in enumerate(layers):
            source = f"data/layer{number:03d}.png"
            told = {
                "name": layer.name, "src": source, "x": "0", "y": "0", "opacity": f"{layer.opacity:.4f}",
                "visibility": "visible" if layer.shown else "hidden", "composite-op": OPERATORS[layer.blend],
            }  # fmt: skip
            stack.insert(0, ElementTree.Element("layer", told))  # the topmost first
            file.writestr(zipfile.ZipInfo(source), deep_png(_with_alpha(layer)), zipfile.ZIP_STORED)
        file.writestr(zipfile.ZipInfo("stack.xml"), ElementTree.tostring(image, "utf-8", xml_declaration=True))
        file.writestr(zipfile.ZipInfo("mergedimage.png"), deep_png(merged), zipfile.ZIP_STORED)
        file.writestr(zipfile.ZipInfo("Thumbnails/thumbnail.png"), _thumbnail(merged))
    return out.getvalue()


def _with_alpha(layer: RasterLayer) -> NDArray[np.uint16]:
    height, width = layer.pixels.shape[:2]
    mask = np.ones((height, width), np.float32) if layer.mask is None else layer.mask
    alpha = (np.clip(mask, 0, 1) * 65535 + 0.5).astype(np.uint16)
    return np.concatenate([layer.pixels, alpha[..., None]], axis=2)


def _thumbnail(merged: NDArray[np.uint16]) -> bytes:
    step = max(1, max(merged.shape[:2]) // (2 * THUMBNAIL))
    small = Image.fromarray(eight(merged[::step, ::step]))
    small.thumbnail((THUMBNAIL, THUMBNAIL))
    out = io.BytesIO()
    small.save(out, "PNG")
    return out.getvalue()
