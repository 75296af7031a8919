"""What the exposure comes to: the meter, and what the room alone would show."""

from __future__ import annotations

from dataclasses import dataclass

from fotaxis.core.camera.exposure import stops_between
from fotaxis.core.errors import DomainError
from fotaxis.core.frames.black_frame import BlackVerdict, room_verdict
from fotaxis.core.metering import incident
from fotaxis.core.render.layers import layer_gains
from fotaxis.core.scene.meter import Meter
from fotaxis.core.scene.plan import Plan

REFLECTED_STOPS = -2.5
"""So far under the planned exposure no light on the product's front makes the picture: it is made of what is mirrored."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ExposureReading:
    """What the exposure comes to: the meter, the aperture it asks for and how the planned one differs."""

    meter: Meter
    metered_f_number: float | None
    over_stops: float | None
    black: BlackVerdict
    fault: str

    @property
    def is_reflected(self) -> bool:
        """Is the picture made of reflections, for all that the meter can tell?"""
        return self.over_stops is None or self.over_stops < REFLECTED_STOPS


def read_exposure(plan: Plan) -> ExposureReading:
    """Read the meter where it was set down, else before the label (or the product's middle), facing the camera."""
    fault = ""
    try:
        layer_gains(plan)
    except DomainError as error:
        fault = str(error)
    meter = incident.meter_of(plan)
    n = incident.suggested_f_number(plan, meter)
    over = 2 * stops_between(n, plan.exposure.f_number) - plan.before_lens.stops if n else None
    return ExposureReading(
        meter=meter, metered_f_number=n, over_stops=over,
        black=room_verdict(room_lux=plan.room_lux * plan.before_lens.transmission, exposure=plan.exposure), fault=fault,
    )  # fmt: skip
