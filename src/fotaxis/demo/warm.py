"""Call every compiled kernel once, so that the first drag does not wait for a compiler."""

from pathlib import Path

from fotaxis.formats import shot_file
from fotaxis.services.pictures import Pictures, read_exposure


def warm() -> None:
    """Draft, fine and metered picture of a small shot; fills the kernel cache."""
    plan = shot_file.read((Path(__file__).parent / "elder-cordial.json").read_bytes()).plan()
    pictures = Pictures()
    pictures.draft(plan, long_side=60).developed()
    pictures.fine(plan, long_side=60).developed()
    read_exposure(plan)


if __name__ == "__main__":
    warm()
