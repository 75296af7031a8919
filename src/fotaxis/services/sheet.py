"""The set sheet: every number that a person with a tape needs to rebuild the set."""

from __future__ import annotations

import math
from dataclasses import dataclass

from fotaxis.core.camera import lens
from fotaxis.core.lights.fixtures import Stance
from fotaxis.core.lights.heads import SUN
from fotaxis.core.scene.checks import HIGHEST_STAND_M, collisions, out_of_reach
from fotaxis.core.scene.plan import Plan
from fotaxis.core.stops import power_name

CIRCLE_PER_DIAGONAL = 1 / 1500
"""Circle of confusion as a part of the used sensor's diagonal. Common practice."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Measured:
    """Where a thing's middle stands as a tape reads it: centimetres from the product's axis and above the table."""

    side_cm: float
    depth_cm: float
    distance_cm: float
    height_cm: float
    low_edge_cm: float
    bearing_deg: float
    turn_deg: float
    tilt_deg: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """One line of the table of things. power and state empty for cards."""

    number: str
    key: str
    name: str
    kind: str
    size: str
    measured: Measured
    power: str
    state: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CameraFigures:
    """Camera and lens figures for the sheet."""

    focal_length_mm: float
    distance_cm: float
    height_cm: float
    tilt_deg: float
    field_width_cm: float
    field_height_cm: float
    magnification: float
    near_cm: float
    far_cm: float
    airy_um: float
    circle_um: float


def measured(stance: Stance, *, half_height_m: float) -> Measured:
    """Tape figures of a stance. Bearing: degrees off the camera axis as seen from above, right positive."""
    p = stance.place
    return Measured(
        side_cm=p.x_m * 100,
        depth_cm=p.z_m * 100,
        distance_cm=math.hypot(p.x_m, p.z_m) * 100,
        height_cm=p.y_m * 100,
        low_edge_cm=(p.y_m - half_height_m * math.cos(stance.tilt_rad)) * 100,
        bearing_deg=math.degrees(math.atan2(p.x_m, p.z_m)),
        turn_deg=math.degrees(stance.turn_rad),
        tilt_deg=math.degrees(stance.tilt_rad),
    )


def rows(plan: Plan) -> list[Row]:
    """Lights in build order, then cards."""
    result = []
    for i, light in enumerate(plan.lights, start=1):
        e = light.emission
        result.append(
            Row(number=str(i), key=light.key, name=light.name, kind=light.kind_words, size=light.size_words,
                measured=measured(light.stance, half_height_m=0.0 if light.kind_words == SUN.name else light.half_size_m[1]),
                power=power_name(e.power_stops, steps_per_stop=e.power_range.steps_per_stop),
                state=("on" if e.on else "off") + (", continuous" if e.continuous else ""))
        )  # fmt: skip
    for i, card in enumerate(plan.cards):
        result.append(
            Row(number=chr(ord("A") + i), key=card.key, name=card.name, kind=card.kind_words, size=card.size_words,
                measured=measured(card.stance, half_height_m=card.half_size_m[1]), power="", state="")
        )  # fmt: skip
    return result


def camera_figures(plan: Plan) -> CameraFigures:
    """Field, magnification, depth of field and diffraction at the planned aperture."""
    c, n = plan.camera, plan.exposure.f_number
    w, h = c.used_sensor_m
    half_w, half_h = c.half_field
    d = c.focus_distance_m
    circle = math.hypot(w, h) * CIRCLE_PER_DIAGONAL
    near, far = lens.depth_of_field_m(focal_length_m=c.focal_length_m, f_number=n, circle_m=circle, subject_distance_m=d)
    return CameraFigures(
        focal_length_mm=c.focal_length_m * 1000,
        distance_cm=math.hypot(c.place.x_m, c.place.z_m) * 100,
        height_cm=c.place.y_m * 100,
        tilt_deg=math.degrees(
            math.atan2(c.aim.y_m - c.place.y_m, math.hypot(c.aim.x_m - c.place.x_m, c.aim.z_m - c.place.z_m))
        ),
        field_width_cm=2 * half_w * d * 100,
        field_height_cm=2 * half_h * d * 100,
        magnification=lens.magnification(focal_length_m=c.focal_length_m, subject_distance_m=d),
        near_cm=(d - near) * 100,
        far_cm=(far - d) * 100,
        airy_um=lens.airy_diameter_m(f_number=n) * 1e6,
        circle_um=circle * 1e6,
    )


def lens_words(plan: Plan) -> str:
    """What is sharp at the planned aperture, and whether diffraction softens it."""
    f, leans = camera_figures(plan), leaning_words(plan)
    far = "infinity" if math.isinf(f.far_cm) else f"{f.far_cm:.1f} cm behind"
    words = f"Sharp from {f.near_cm:.1f} cm before the plane of focus to {far} (circle {f.circle_um:.0f} µm).{leans and f' {leans}'}"
    if f.airy_um > f.circle_um:
        return f"{words} Diffraction: a spot of {f.airy_um:.0f} µm softens everything; open up."
    return f"{words} Diffraction spot {f.airy_um:.0f} µm."


def stands_in(plan: Plan) -> dict[str, str]:
    """Things that stand where something else is, or where no stand holds them, by key, in words that say what to do."""
    ways = {
        "the table": "Move it beside or behind the table, raise it, or make the table smaller.",
        "the product": "Move it away from the axis.",
        "the riser": "Move it away from the axis, or raise it.",
    }
    names = {thing.key: thing.name for thing in (*plan.lights, *plan.cards, *plan.others)}
    unreached = {
        "in the floor": "reaches below the floor. Raise it, or set the table's height over the floor.",
        "too high": f"stands over {HIGHEST_STAND_M * 100:.0f} cm above the floor, higher than usual stands. Lower it, rig it safely.",
        "behind the background": "stands behind the background, which lets no light through. Move it before it.",
    }
    found = {key: f"{names[key]} {unreached[what]}" for key, what in out_of_reach(plan).items()}
    return found | {
        key: f"{names[key]} runs through {what}. {ways.get(what, 'Move one of them.')}"
        for key, what in collisions(plan).items()
    }


def cautions(plan: Plan) -> list[str]:
    """What cannot stand as drawn, then the usual cautions that this set raises.

    Local codes, makers' manuals and licensed people come first.
    """
    found = list(stands_in(plan).values())
    high = [t.name for t in (*plan.lights, *plan.cards) if t.stance.place.y_m > 0.6]
    if high:
        found.append(
            f"{', '.join(high)}: high over the product. Counterweight and sandbag the boom; a bending stand is overloaded."
        )
    flashes = [light for light in plan.lights if not light.emission.continuous]
    if flashes:
        found.append(
            "Flash: packs off and discharged before connecting or moving a head; no flash into eyes at close range."
        )
    if any(light.emission.continuous for light in plan.lights):
        found.append("Continuous light: hot lamps need heat-rated material and a gap to diffusion and cards.")
    if plan.haze:
        found.append("Haze: air the room, mind smoke detectors, follow the manual of the fluid.")
    close = [t.name for t in (*plan.lights, *plan.cards) if math.hypot(t.stance.place.x_m, t.stance.place.z_m) < 0.25]
    if close:
        found.append(f"{', '.join(close)}: within 25 cm of the product. Weigh the stand down before working around glass.")
    if plan.lights or plan.cards:
        found.append("Local codes, the maker's manual and licensed people come first. Tape cables down.")
    return found


def leaning_words(plan: Plan) -> str:
    """How the plane of focus leans behind a lens that is turned against the sensor; empty where it stands upright."""
    camera, found = plan.camera, []
    turns = (camera.tilt_rad, ("below", "above")), (camera.swing_rad, ("left of", "right of"))
    for turn, (ahead, back) in turns:
        if turn:
            hinge_cm = 100 * camera.focal_length_m / math.sin(abs(turn))
            leans = math.degrees(math.atan(camera.focus_distance_m * 100 / hinge_cm))
            found.append(f"leans by {leans:.0f}° about a line {hinge_cm:.0f} cm {ahead if turn > 0 else back} the lens")
    return f"Turned lens: the plane of focus {' and '.join(found)}." if found else ""
