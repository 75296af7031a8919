"""Compile every kernel once, several at a time, so that no drag waits for a compiler; says how far it is meanwhile.

What the application calls is what is compiled: pictures of the demo's shots, small. Several processes take such pieces of work in
turn and share what they compile by way of the cache folder.
"""

from __future__ import annotations

import multiprocessing
import os
import sys
from collections.abc import Callable
from pathlib import Path

from fotaxis.core.frames.line_profile import ReadingLine
from fotaxis.core.metering.path_losses import path_losses
from fotaxis.core.scene.plan import Plan
from fotaxis.formats import shot_file
from fotaxis.services.exposure_reading import read_exposure
from fotaxis.services.pictures import Pictures

SHOTS = Path(__file__).parents[1] / "demo"
LINE = ReadingLine(x0=0, y0=0.5, x1=1, y1=0.5)
SMALL = 60
DONE, BEGUN = "warm", "begun"
"""Marks in the cache folder: all is compiled; it is being compiled."""

ALL_FUNCTIONS = 205
"""About how many functions are compiled in all, each a file in the cache folder."""


def _losses(plan: Plan) -> None:
    for light in plan.lights:
        path_losses(plan, light)
    read_exposure(plan)


def _preview(plan: Plan) -> None:
    pictures = Pictures()
    pictures.preview(plan, LINE, long_side=SMALL, hand="precompile")
    pictures.preview(plan, LINE, long_side=SMALL, hand="precompile")


def _fine(plan: Plan) -> None:
    Pictures().fine(plan, long_side=SMALL).developed()


def _probe(plan: Plan) -> None:
    pictures = Pictures()
    pictures.read(plan, LINE, long_side=SMALL)
    pictures.spot(plan, x=0.5, y=0.5, long_side=SMALL)
    pictures.images(plan, long_side=SMALL)


KINDS: dict[str, Callable[[Plan], None]] = {"losses": _losses, "preview": _preview, "fine": _fine, "probe": _probe}


def pieces() -> list[tuple[str, str]]:
    """(kind, shot file) of every piece of work: those that share least stand first, side by side."""
    files = [file for file in sorted(SHOTS.glob("*.json")) if "captures" not in file.name]
    first = [("preview", files[0].name), ("losses", files[0].name)]
    return first + [(kind, file.name) for kind in KINDS for file in files if (kind, file.name) not in first]


def _work(piece: tuple[str, str]) -> None:
    kind, name = piece
    KINDS[kind](shot_file.read((SHOTS / name).read_bytes()).plan())


def precompile(folder: Path, *, processes: int | None = None) -> None:
    """Compile everything into a numba cache folder, and leave a mark there when all is done."""
    work = pieces()
    processes = processes or os.cpu_count() or 1
    (folder / BEGUN).touch()
    with multiprocessing.get_context("spawn").Pool(processes) as pool:
        for _ in pool.imap_unordered(_work, work):
            pass
    (folder / DONE).touch()


class Readiness:
    """How far the kernels are. folder: of the cache; None where nobody precompiles, then all is taken as ready."""

    def __init__(self, folder: Path | None) -> None:
        self._folder = folder
        self._ready = folder is None

    @property
    def ready(self) -> bool:
        """Can pictures be made at once?"""
        if not self._ready and self._folder is not None:
            self._ready = (self._folder / DONE).exists() or not (self._folder / BEGUN).exists()
        return self._ready

    @property
    def share(self) -> float:
        """How much is compiled, 0..1."""
        if self.ready or self._folder is None:
            return 1.0
        # The first pieces compile most of it, so what lies in the cache tells more than the pieces that are done.
        return min(0.99, sum(1 for _ in self._folder.rglob("*.nbi")) / ALL_FUNCTIONS)

    def words(self) -> str:
        """'' when ready, else what to tell whoever asks for a picture."""
        if self.ready:
            return ""
        return (
            f"Fotaxis makes its optics ready, once after it was installed: {100 * self.share:.0f} % done. "
            "Pictures come by themselves in a few minutes; everything else works meanwhile."
        )


def cache_folder() -> Path | None:
    """Where numba keeps what it compiles, as the start command has set it."""
    folder = os.environ.get("NUMBA_CACHE_DIR")
    return Path(folder) if folder else None


if __name__ == "__main__":
    where = cache_folder()
    if where is None:
        sys.exit("NUMBA_CACHE_DIR: the folder for compiled kernels is needed; ./run sets it.")
    precompile(where)
