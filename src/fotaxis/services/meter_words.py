"""What the incident meter says, as a photographer would."""

from __future__ import annotations

from fotaxis.core.camera.nominal_scales import f_number_with_tenths
from fotaxis.core.scene.meter import CAMERA, SURFACE, Meter
from fotaxis.core.scene.plan import Plan
from fotaxis.core.stops import lost_stops, measured_stops, over_or_under
from fotaxis.services.exposure_reading import ExposureReading

AS_METERED_STOPS = 0.05


def where_words(plan: Plan, meter: Meter) -> str:
    """Where and how the meter is held: 'flat, before Label, facing the camera'."""
    names = {light.key: light.name for light in plan.lights}
    faces = "the camera" if meter.faces == CAMERA else names.get(meter.faces, "")
    if not plan.meter:
        return f"flat, before {meter.on}, facing the camera"
    turned = f", facing {faces}" if faces and meter.faces != SURFACE else ""
    return f"{'dome' if meter.dome else 'flat'}, on {meter.on or 'the set'}{turned}"


def meter_words(plan: Plan, reading: ExposureReading) -> dict[str, str]:
    """The reading in few words, how it was taken, and in full."""
    where = where_words(plan, reading.meter)
    metered = f_number_with_tenths(reading.metered_f_number) if reading.metered_f_number else "dark"
    lit = any(light.emission.on for light in plan.lights)
    if reading.is_reflected and lit and not plan.meter:
        dark = "no light" if reading.over_stops is None else f"{metered}, {measured_stops(reading.over_stops)} stops under"
        return {
            "metered": "Lit by reflections", "how": "judge the lines",
            "long": f"On the front there is {dark}: this picture is made of what is mirrored or shines through. "
            "Judge it by the lines, the zebra and the histogram. Set the meter down elsewhere under Readings.",
        }  # fmt: skip
    over = ""
    if reading.over_stops is not None:
        even = abs(reading.over_stops) < AS_METERED_STOPS
        over = ", as metered" if even else f", {over_or_under(reading.over_stops)}"
    taken = plan.before_lens.stops
    how = f"{lost_stops(taken)} stops on the lens" if taken else f"at {reading.meter.on or 'the meter'}"
    return {"metered": f"{metered}{over}", "how": how, "long": f"Incident meter, {where}"}
