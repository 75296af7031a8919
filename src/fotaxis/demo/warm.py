"""Call every compiled kernel once, so that the first drag does not wait for a compiler."""

from pathlib import Path

from fotaxis.core.frames.line_profile import ReadingLine
from fotaxis.core.metering.path_losses import path_losses
from fotaxis.formats import shot_file
from fotaxis.services.pictures import Pictures, read_exposure


def warm() -> None:
    """Drags, fine and metered pictures of the demo's shots, small, spots and ways of lights; fills the kernel cache."""
    line = ReadingLine(x0=0, y0=0.5, x1=1, y1=0.5)
    for file in sorted(Path(__file__).parent.glob("*.json")):
        plan = shot_file.read(file.read_bytes()).plan()
        pictures = Pictures()
        pictures.preview(plan, line, long_side=60, hand="warm")
        pictures.read(plan, line, long_side=60)
        pictures.spot(plan, x=0.5, y=0.5, long_side=60)
        pictures.images(plan, long_side=60)
        for light in plan.lights:
            path_losses(plan, light)
        pictures.fine(plan, long_side=60).developed()
        read_exposure(plan)


if __name__ == "__main__":
    warm()
