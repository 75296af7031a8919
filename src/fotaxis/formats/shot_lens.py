"""What stands before the lens, where it is focused, and haze, in the shot file."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Annotated, Literal

from pydantic import Field

from fotaxis.core.camera.camera import Camera
from fotaxis.core.camera.filters import BeforeLens, Opening, Polariser
from fotaxis.core.camera.haze import Haze
from fotaxis.core.keys import ALL_SHARP
from fotaxis.formats.shot_parts import Part, Positive

DISTANCE = "distance"


class PolariserPart(Part):
    """A polariser: turn 0 takes away what lies on the table, 90 what stands upright beside."""

    turn_deg: Annotated[float, Field(ge=-180, le=180, allow_inf_nan=False)] = 0.0
    loss_stops: Annotated[float, Field(ge=1, le=3, allow_inf_nan=False)] = 1.5

    def value(self) -> Polariser:
        return Polariser(turn_rad=math.radians(self.turn_deg), loss_stops=self.loss_stops)


class MaskPart(Part):
    """A black card with a window, so far before the lens; width and height of the window."""

    before_cm: Positive = 40.0
    width_cm: Positive = 12.0
    height_cm: Positive = 15.0

    def value(self) -> Opening:
        return Opening(before_m=self.before_cm / 100, width_m=self.width_cm / 100, height_m=self.height_cm / 100)


class HoodPart(Part):
    """A round hood: length before the front element, and its diameter at the far end."""

    length_cm: Positive = 7.0
    diameter_cm: Positive = 8.0

    def value(self) -> Opening:
        across = self.diameter_cm / 100
        return Opening(before_m=self.length_cm / 100, width_m=across, height_m=across, is_round=True)


class HazePart(Part):
    """A layer of haze, from and to so far behind the product; percent_per_m: of light that a metre of it takes.

    forward: how strongly it scatters straight on, 0 evenly to 0.95.
    """

    from_cm: Annotated[float, Field(ge=-500, le=5000, allow_inf_nan=False)] = 20.0
    to_cm: Annotated[float, Field(ge=-500, le=5000, allow_inf_nan=False)] = 120.0
    percent_per_m: Annotated[float, Field(ge=0, le=99, allow_inf_nan=False)] = 10.0
    forward: Annotated[float, Field(ge=0, le=0.95, allow_inf_nan=False)] = 0.7

    def value(self) -> Haze:
        return Haze(
            begin_m=self.from_cm / 100, end_m=self.to_cm / 100, thickness_per_m=-math.log1p(-self.percent_per_m / 100),
            forward=self.forward,
        )  # fmt: skip


class LensPart(Part):
    """The lens: in focus what it aims at, what lies at a distance, or everything; filters, shades, and its glare.

    glare_percent: veiling glare index, what a black spot shows in an even bright field.
    """

    focus: Literal["aim", "distance", "all sharp"] = "aim"
    focus_cm: Positive | None = None
    polariser: PolariserPart | None = None
    nd_stops: Annotated[float, Field(ge=0, le=20, allow_inf_nan=False)] = 0.0
    mask: MaskPart | None = None
    hood: HoodPart | None = None
    glare_percent: Annotated[float, Field(ge=0, le=20, allow_inf_nan=False)] = 0.0

    def value(self) -> BeforeLens:
        return BeforeLens(
            polariser=self.polariser.value() if self.polariser else None, nd_stops=self.nd_stops,
            mask=self.mask.value() if self.mask else None, hood=self.hood.value() if self.hood else None,
            glare=self.glare_percent / 100,
        )  # fmt: skip

    def focused(self, camera: Camera) -> Camera:
        """The camera with its focus where this says. Raises DomainError where it cannot focus there."""
        if self.focus == ALL_SHARP:
            return camera
        at = self.focus_cm / 100 if self.focus == DISTANCE and self.focus_cm else 0.0
        return replace(camera, focus_m=at)
