"""The process that reads one picture of artwork from standard input and writes it, reduced, to standard output.

PNG, JPEG or SVG. First a line of JSON: size, printed width in mm where the file tells it, words about it, or problem; then the
picture, uint8 RGBA. What a file costs is this process's own, limited, and gone when it ends.
"""

from __future__ import annotations

import io
import re
import sys
from typing import Any
from xml.etree import ElementTree

import numpy as np
import resvg_py
from PIL import Image, ImageOps

from fotaxis.formats.picture_process import Unreadable, answered

MAX_PIXELS = 155_000_000
SIDE = 1024
"""Texels along the longer side: 0.1 mm on a label of 10 cm."""
MEMORY_BYTES = 3_000_000_000
SECONDS = 40
MM_PER_UNIT = {"mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72, "pc": 25.4 / 6}
TEXT_WORDS = "Its text is set in a font of this machine; turn text into outlines to be sure of its shapes."


def read(data: bytes) -> tuple[dict[str, Any], np.ndarray]:
    """What the file says of itself, and its picture. Raises Unreadable."""
    if data.lstrip()[:1] == b"<":
        return _svg(data)
    Image.MAX_IMAGE_PIXELS = MAX_PIXELS
    try:
        with Image.open(io.BytesIO(data), formats=["PNG", "JPEG"]) as opened:
            if opened.width * opened.height > MAX_PIXELS:
                raise Unreadable(f"the picture has more than {MAX_PIXELS / 1e6:.0f} million pixels; export a smaller one.")
            dpi = opened.info.get("dpi", (0, 0))[0]
            width = opened.width
            opened.draft("RGB", (2 * SIDE, 2 * SIDE))
            turned = ImageOps.exif_transpose(opened)
            if turned.mode.startswith("I"):
                turned = Image.fromarray((np.asarray(turned).astype(np.float32) / 257).clip(0, 255).astype(np.uint8))
            image = turned.convert("RGBA")
            image.thumbnail((SIDE, SIDE), Image.Resampling.LANCZOS)
    except Unreadable:
        raise
    except Exception as error:  # whatever a decoder makes of a damaged or hostile file
        raise Unreadable("this is no whole PNG, JPEG or SVG picture; export the artwork as one of these.") from error
    said = {"words": "", "width_mm": width / float(dpi) * 25.4 if dpi and float(dpi) > 75 else None}
    return said, np.asarray(image, np.uint8)


def _svg(data: bytes) -> tuple[dict[str, Any], np.ndarray]:
    if b"<!DOCTYPE" in data.upper() or b"<!ENTITY" in data.upper():
        data = re.sub(rb"<!DOCTYPE[^>\[]*>", b"", data, flags=re.IGNORECASE)
        if b"<!" in data.replace(b"<!--", b"").replace(b"<![CDATA[", b""):
            raise Unreadable("this SVG declares entities, which are not read; save it as plain SVG.")
    try:
        text = data.decode("utf-8-sig")
        root = ElementTree.fromstring(text)
    except (UnicodeDecodeError, ElementTree.ParseError) as error:
        raise Unreadable(f"this SVG is broken ({error}); save it anew as plain SVG.") from error
    if not root.tag.endswith("svg"):
        raise Unreadable("this is XML but no SVG picture; export the artwork as SVG, PNG or JPEG.")
    for element in root.iter():
        for name, value in element.attrib.items():
            if name.endswith("href") and not value.strip().startswith(("#", "data:image/png", "data:image/jpeg")):
                raise Unreadable("this SVG links to other files, which are not read; embed its pictures.")
    width, height = _svg_size(root)
    scale = SIDE / max(width, height)
    size = max(1, round(width * scale)), max(1, round(height * scale))
    try:
        drawn = resvg_py.svg_to_bytes(svg_string=text, width=size[0], height=size[1], dpi=96.0)
    except ValueError as error:
        raise Unreadable(f"this SVG cannot be drawn ({str(error)[:120]}); save it as plain SVG, or as PNG.") from error
    with Image.open(io.BytesIO(bytes(drawn)), formats=["PNG"]) as image:
        picture = np.asarray(image.convert("RGBA"), np.uint8)
    unit = re.fullmatch(r"\s*([\d.]+)\s*(mm|cm|in|pt|pc)\s*", root.get("width", ""))
    has_text = any(element.tag.endswith("}text") for element in root.iter())
    return {
        "words": TEXT_WORDS if has_text else "",
        "width_mm": float(unit[1]) * MM_PER_UNIT[unit[2]] if unit else None,
    }, picture


def _svg_size(root: ElementTree.Element) -> tuple[float, float]:
    """Width and height in any unit. Raises Unreadable without any."""
    box = re.findall(r"-?[\d.]+(?:e-?\d+)?", root.get("viewBox", ""))
    sides = [re.match(r"\s*([\d.]+)", root.get(name, "")) for name in ("width", "height")]
    if all(sides) and "%" not in root.get("width", "") + root.get("height", ""):
        width, height = (float(side[1]) for side in sides if side)
    elif len(box) == 4:
        width, height = float(box[2]), float(box[3])
    else:
        raise Unreadable("this SVG has neither a size nor a view box; save it with one.")
    if not (0 < width < 1e6 and 0 < height < 1e6 and max(width, height) / min(width, height) <= 200):
        raise Unreadable("this SVG has no sensible size; save it with one.")
    return width, height


def main() -> int:
    return answered(read, memory_bytes=MEMORY_BYTES, seconds=SECONDS)


if __name__ == "__main__":
    sys.exit(main())
