"""The core once as plain Python: the compiled kernels must mean the same."""

import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from fotaxis.core.render.final.final_render import render_final
from fotaxis.core.render.preview.traced_scene import relight_draft, trace_scene
from tests import scenes

HERE = Path(__file__).parent
ROOT = HERE.parents[1]
FORMULAS = [
    "camera/test_exposure", "materials/test_fresnel", "frames/test_frames", "render/test_illuminance", "camera/test_lens",
    "geometry/test_profile", "lights/test_calibration",
]  # fmt: skip


def small_pictures():
    """Draft and fine layers of a set with every kind of thing in it, (2, layers, 30, 24, 3)."""
    plan = scenes.plan(cards=(scenes.card(),))
    stage = trace_scene(plan, width=24, height=30)
    return np.stack([relight_draft(stage, plan).pictures, render_final(stage, plan).pictures])


def plainly(*arguments):
    environment = os.environ | {"NUMBA_DISABLE_JIT": "1", "PYTHONPATH": str(ROOT)}
    return subprocess.run(
        [sys.executable, *arguments], cwd=ROOT, env=environment, capture_output=True, text=True, check=False
    )


@pytest.mark.slow
def test_formulas_hold_without_compilation():
    files = [str(HERE / f"{name}.py") for name in FORMULAS]
    done = plainly("-m", "pytest", *files)
    assert done.returncode == 0, done.stdout[-2000:]


@pytest.mark.slow
def test_pictures_are_the_same_without_compilation(tmp_path):
    kept = tmp_path / "pictures.npy"
    code = (
        "import numpy; from tests.core.test_without_compilation import small_pictures; "
        f"numpy.save({str(kept)!r}, small_pictures())"
    )
    done = plainly("-W", "ignore", "-c", code)
    assert done.returncode == 0, done.stderr[-2000:]
    plain, compiled = np.load(kept), small_pictures()
    assert compiled.max() > 0
    # Tolerance: the compiled kernels may reorder sums and fuse operations; pictures are kept in float32.
    assert plain == pytest.approx(compiled, rel=1e-3, abs=1e-5 * float(compiled.max()))
