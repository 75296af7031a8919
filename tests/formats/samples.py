"""Shot documents to bend, and pictures to read."""

import io
import json
from pathlib import Path

import numpy as np
from PIL import ExifTags, Image

import fotaxis.demo

DEMO = Path(fotaxis.demo.__file__).parent
FILES = sorted(DEMO.glob("*.json"))


def raw():
    """A fresh, good shot document as plain values."""
    return json.loads((DEMO / "elder-cordial.json").read_bytes())


def changed(path, value):
    """The good document with one value replaced; None in the path means append."""
    document = raw()
    at = document
    for step in path[:-1]:
        at = at[step]
    at[path[-1]] = value
    return document


def picture(width=64, height=80):
    """A grey ramp with a white corner, (height, width, 3) uint8."""
    ramp = np.linspace(0, 200, width).astype(np.uint8)
    made = np.repeat(np.repeat(ramp[None, :, None], height, axis=0), 3, axis=2)
    made[:8, :8] = 255
    return made


def encoded(kind, array=None, *, orientation=None, exposure=True):
    """A photograph's bytes with EXIF exposure 1/125 s, f/8, ISO 100, 100 mm."""
    image = Image.fromarray(picture() if array is None else array)
    exif = image.getexif()
    if exposure:
        sub = exif.get_ifd(ExifTags.IFD.Exif)
        sub[ExifTags.Base.ExposureTime] = 1 / 125
        sub[ExifTags.Base.FNumber] = 8.0
        sub[ExifTags.Base.ISOSpeedRatings] = 100
        sub[ExifTags.Base.FocalLength] = 100.0
        if kind == "TIFF":
            exif[ExifTags.IFD.Exif] = dict(sub)
    if exposure or orientation:
        exif[ExifTags.Base.Orientation] = orientation or 1
    out = io.BytesIO()
    image.save(out, kind, exif=exif)
    return out.getvalue()


TETRAHEDRON = b"v 0 0 0\nv 6 0 0\nv 3 0 5\nv 3 5 2\nf 1 3 2\nf 1 2 4\nf 2 3 4\nf 3 1 4\n"
"""A model file (OBJ), 6 units wide."""


def bottle_from_the_side():
    """A PNG of a plain dark bottle before a light wall, drawn by hand."""
    y, x = np.mgrid[0:500, 0:300]
    half = np.where(y < 160, 22, np.where(y < 230, 22 + (y - 160) * 0.6, 64))
    bottle = (np.abs(x - 149.5) < half) & (y > 50) & (y < 450)
    return encoded("PNG", np.where(bottle[..., None], 25, 200).repeat(3, axis=2).astype(np.uint8), exposure=False)
