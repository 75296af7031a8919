"""Framing a shot: the camera moved along the way it looks until the product fills a stated part of the frame."""

from __future__ import annotations

from fotaxis.core.placement.framing import Framing, filled, reframed
from fotaxis.core.scene.plan import Plan
from fotaxis.services.changes import Change
from fotaxis.services.ports import Document

USUAL_FILL = 0.7
"""A product usually takes this part of the frame's height. Common practice: room for crops and for the eye."""


def reframing(plan: Plan, *, fills: float | None = None, focal_length_mm: float | None = None) -> list[Change]:
    """Changes that frame the products of a plan: to a part of the frame, None as large as they are now; with another lens. Raises
    DomainError where they cannot be framed so."""
    share = filled(plan, plan.camera) if fills is None else fills
    focal = None if focal_length_mm is None else focal_length_mm / 1000
    framing = reframed(plan, fills=min(max(share, 0.02), 1.0), focal_length_m=focal)
    values = camera_values(framing)
    if focal_length_mm is not None:
        values["focal_length_mm"] = focal_length_mm
    return [Change(kind="set", path=("camera", name), value=value) for name, value in values.items()]


def camera_values(framing: Framing) -> Document:
    """A framing as the shot file keeps it, millimetres exact."""
    place, aim = framing.camera.place, framing.camera.aim
    return {
        "distance_cm": round(100 * place.z_m, 1), "height_cm": round(100 * place.y_m, 1), "side_cm": round(100 * place.x_m, 1),
        "aim_height_cm": round(100 * aim.y_m, 1), "aim_side_cm": round(100 * aim.x_m, 1),
    }  # fmt: skip
