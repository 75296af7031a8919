"""Real frames of the demo's captures, simulated: `python -m fotaxis.demo.simulated_frames` draws them anew into demo/frames.

Each is what its capture predicts in final quality, with a sensor's noise, as a camera's JPEG tells it; one was taken after the camera
was nudged by three pixels.
"""

from __future__ import annotations

import io
import sys
from pathlib import Path

import numpy as np
from PIL import ExifTags, Image
from scipy import ndimage

from fotaxis.core.camera.exposure import encode_srgb
from fotaxis.demo.scenario import printed
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.services.captures.capture import captured
from fotaxis.services.pictures import Pictures, Room

HERE = Path(__file__).parent
SHOTS = ("gooseberry-five-captures.json", "carton-three-captures.json")
LONG_SIDE = 1200
NUDGED = {"label": (2.1, -2.2), "crest": (-2.6, 1.5)}
"""Captures before which somebody touched the tripod, pixels right and down."""

NOISE, SEED = 0.0012, 11
CAMERA = "Demo body 24"


def frame_path(shot: str, capture: str) -> Path:
    """Where a capture's simulated frame lies."""
    return HERE / "frames" / f"{shot.removesuffix('.json')}-{capture}.jpg"


def main() -> int:
    codec, pictures = JsonShots(), Pictures(Room(pictures=2_000_000_000))
    (HERE / "frames").mkdir(exist_ok=True)
    for shot in SHOTS:
        document = codec.read(printed(HERE, shot))
        for number, capture in enumerate(document["captures"]):
            noise = np.random.default_rng(SEED + number)
            plan = codec.plan(captured(document, capture))
            levels = pictures.fine(plan, long_side=LONG_SIDE).levels()
            right, down = NUDGED.get(capture["key"], (0.0, 0.0))
            seen = ndimage.shift(levels, (down, right, 0), order=3, mode="nearest") if right or down else levels
            seen = np.clip(seen + noise.normal(0, NOISE, seen.shape), 0, 1).astype(np.float32)
            frame_path(shot, capture["key"]).write_bytes(_jpeg(encode_srgb(seen), capture))
            print(frame_path(shot, capture["key"]).name, flush=True)
    return 0


def _jpeg(picture: np.ndarray, capture: dict) -> bytes:
    image = Image.fromarray(picture.astype(np.uint8))
    exif = image.getexif()
    exif[ExifTags.Base.Model] = CAMERA
    sub = exif.get_ifd(ExifTags.IFD.Exif)
    sub[ExifTags.Base.ExposureTime] = capture["shutter_s"]
    sub[ExifTags.Base.FNumber] = capture["f_number"]
    sub[ExifTags.Base.ISOSpeedRatings] = int(capture["iso"])
    sub[ExifTags.Base.FocalLength] = 100.0
    out = io.BytesIO()
    image.save(out, "JPEG", quality=90, exif=exif)
    return out.getvalue()


if __name__ == "__main__":
    sys.exit(main())
