"""Call every compiled kernel once, so that the first drag does not wait for a compiler."""

from pathlib import Path

from fotaxis.core.frames.line import ReadingLine
from fotaxis.formats import shot_file
from fotaxis.services.pictures import Pictures, read_exposure


def warm() -> None:
    """Draft, fine and metered picture of a small shot; fills the kernel cache."""
    plan = shot_file.read((Path(__file__).parent / "elder-cordial.json").read_bytes()).plan()
    pictures = Pictures()
    pictures.follow(plan, ReadingLine(x0=0, y0=0.5, x1=1, y1=0.5), long_side=60)
    pictures.fine(plan, long_side=60).developed()
    read_exposure(plan)


if __name__ == "__main__":
    warm()
