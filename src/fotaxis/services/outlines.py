"""A product's outline proposed from one photograph from the side."""

from __future__ import annotations

from dataclasses import dataclass

from fotaxis.core.errors import FormatError, NoSolution
from fotaxis.core.frames.silhouette import find_silhouette
from fotaxis.core.materials.artwork import Bytes


@dataclass(frozen=True, slots=True, kw_only=True)
class Proposal:
    """An outline as it was read: heights above the foot and diameters (cm), where its axis begins and ends in the photograph (parts
    of its width and height), the photograph's size in pixels, and by how much the two sides differ (mm)."""

    points: tuple[tuple[float, float], ...]
    foot: tuple[float, float]
    top: tuple[float, float]
    size: tuple[int, int]
    error_mm: float

    @property
    def words(self) -> str:
        widest = max(d for _, d in self.points)
        sure = "" if self.error_mm < 0.2 * widest else " That is much: look where a shadow was taken for the product."
        return (
            f"{len(self.points)} points, {widest:.2f} cm wide. The sides differ by ±{self.error_mm:.1f} mm.{sure} Drag a point where "
            "it is off; the foot and the top too."
        )


def propose(picture: Bytes, *, height_cm: float) -> Proposal:
    """The outline of a product so high in a photograph (height, width, 3), linear. Raises FormatError that says what to do."""
    if not 0.5 <= height_cm <= 300:
        raise FormatError(f"the height is {height_cm:g} cm; give the product's measured height, 0.5 to 300 cm.")
    try:
        found = find_silhouette(picture)
        points = found.profile_points(height_cm / 100)
    except NoSolution as error:
        raise FormatError(str(error)) from error
    height, width = picture.shape[:2]
    scale_mm = height_cm * 10 / found.height
    return Proposal(
        points=tuple((round(h * 100, 3), round(r * 200, 3)) for h, r in points), foot=(found.foot[0] / width, found.foot[1] / height),
        top=(found.top[0] / width, found.top[1] / height), size=(width, height), error_mm=found.error * scale_mm,
    )  # fmt: skip
