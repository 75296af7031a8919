"""Call every compiled kernel once, so that the first drag does not wait for a compiler."""

from pathlib import Path

from fotaxis.core.frames.line import ReadingLine
from fotaxis.formats import shot_file
from fotaxis.services.pictures import Pictures, read_exposure


def warm() -> None:
    """Draft, fine and metered pictures of the demo's shots, small; fills the kernel cache."""
    for file in sorted(Path(__file__).parent.glob("*.json")):
        plan = shot_file.read(file.read_bytes()).plan()
        pictures = Pictures()
        pictures.follow(plan, ReadingLine(x0=0, y0=0.5, x1=1, y1=0.5), long_side=60)
        pictures.fine(plan, long_side=60).developed()
        read_exposure(plan)


if __name__ == "__main__":
    warm()
