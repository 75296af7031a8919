"""Captures: a mask that changes, and eight real frames of 24 million pixels merged, in a process of its own for its memory."""

from __future__ import annotations

import io
import json
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
from PIL import Image

from bench.timing import line, repeated_ms
from fotaxis.demo.scenario import printed
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.services.captures.capture import captured
from fotaxis.services.captures.composite import joined
from fotaxis.services.pictures import Pictures
from tests.formats import samples

FRAMES, HIGH, WIDE = 8, 6000, 4000

MERGE = """
import json, resource, sys, time, tempfile
from pathlib import Path
from fotaxis.formats.merge_files import JoinedFiles
from fotaxis.formats.shot_codec import JsonShots
from concurrent.futures import ThreadPoolExecutor
from fotaxis.services.captures.merges import READ_AT_ONCE, merge_frames, written
from fotaxis.services.pictures import MERGING, Pictures
folder = Path(sys.argv[1])
document, codec, files = json.loads((folder / "shot.json").read_text()), JsonShots(), JoinedFiles()
document = codec.check(document)
ratio, pictures = codec.plan({**document, "captures": []}).camera.crop_ratio, Pictures(MERGING)
data = {one["key"]: (folder / f"{one['key']}.jpg").read_bytes() for one in document["captures"]}
def once():
    began = time.perf_counter()
    with ThreadPoolExecutor(READ_AT_ONCE) as readers:
        pixels = dict(zip(data, readers.map(lambda one: files.pixels(one, folder, ratio), data.values())))
    read = time.perf_counter()
    made, real = merge_frames(document, pixels, codec, pictures)
    merged = time.perf_counter()
    size = len(written("tif", made, real, files))
    return [read - began, merged - read, time.perf_counter() - merged, size / 1e6]
once()
print(json.dumps([*once(), resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6]))
"""


def run() -> None:
    codec, pictures = JsonShots(), Pictures()
    document = codec.read(printed(samples.DEMO, "gooseberry-five-captures.json"))
    joined(document, codec, pictures)
    feathers = iter(np.linspace(0.5, 20, 1000))

    def changed() -> None:
        document["captures"][3]["mask"][0]["feather_mm"] = float(next(feathers))
        joined(document, codec, pictures).developed()

    print(line("a mask that changes, 400 pixels, five captures", repeated_ms(changed, times=9)))
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        _frames(folder)
        done = subprocess.run([sys.executable, "-c", MERGE, name], capture_output=True, text=True, check=True)
        read, merged, wrote, size, memory = json.loads(done.stdout.splitlines()[-1])
    what = f"{FRAMES} frames of {HIGH * WIDE / 1e6:.0f} million pixels"
    print(f"  {what}: read {read:.1f} s, joined {merged:.1f} s, written {wrote:.1f} s ({size:.0f} MB)")
    print(f"  most memory of that process: {memory:.2f} GB")


def _frames(folder: Path) -> None:
    """Eight captures of the dark bottle, each light at several powers, and their frames: what is predicted, enlarged, with noise."""
    codec, pictures = JsonShots(), Pictures()
    document = codec.check(json.loads((samples.DEMO / "elder-cordial.json").read_text()))
    document["camera"] |= {"crop_width": 2.0, "crop_height": 3.0}
    keys = [light["key"] for light in document["lights"]]
    captures = []
    for i in range(FRAMES):
        key = keys[i % len(keys)]
        mask = [{"kind": "scene", "area": "product", "feather_mm": 2.0}] if i % 2 else []
        exposure = {"lights": {key: -4 - i / 3}, "shutter_s": 2**-7, "f_number": 8.0}
        captures.append({"key": f"c{i}", "name": f"C{i}", **exposure, "mask": mask})
    document = codec.check({**document, "captures": captures})
    (folder / "shot.json").write_text(json.dumps(document))
    noise = np.random.default_rng(4)
    for one in document["captures"]:
        levels = pictures.levels(codec.plan(captured(document, one)), long_side=1200)
        codes = (np.clip(levels, 0, 1) ** (1 / 2.2) * 255).astype(np.uint8)
        large = np.asarray(Image.fromarray(codes).resize((WIDE, HIGH), Image.Resampling.BICUBIC), np.int16)
        large = np.clip(large + noise.integers(-2, 3, large.shape, dtype=np.int16), 0, 255).astype(np.uint8)
        out = io.BytesIO()
        Image.fromarray(large).save(out, "JPEG", quality=92)
        (folder / f"{one['key']}.jpg").write_bytes(out.getvalue())
