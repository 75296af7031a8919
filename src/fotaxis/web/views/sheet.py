"""The set sheet's page model: strings only, ready to print."""

from __future__ import annotations

import math
from dataclasses import dataclass

from fotaxis.core.camera.nominal_scales import f_number_name, f_number_with_tenths, shutter_name
from fotaxis.core.scene.plan import Plan
from fotaxis.core.scene.product import described
from fotaxis.core.stops import set_stops
from fotaxis.services.exposure_reading import read_exposure
from fotaxis.services.meter_words import where_words
from fotaxis.services.sheet import Row, camera_figures, cautions, leaning_words, rows
from fotaxis.services.shots import Opened
from fotaxis.web import links
from fotaxis.web.views.drawing import floor, side
from fotaxis.web.views.svg_canvas import Drawing, Fit

DRAWING_PX = (400, 330)


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetRow:
    number: str
    name: str
    kind: str
    size: str
    side: str
    depth: str
    distance: str
    height: str
    turn: str
    tilt: str
    power: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SetSheet:
    picture: str
    fine: str
    floor: Drawing
    side: Drawing
    rows: list[SheetRow]
    camera: list[tuple[str, str]]
    surface: list[tuple[str, str]]
    exposure: list[tuple[str, str]]
    cautions: list[str]
    note: str


def sheet(opened: Opened, plan: Plan) -> SetSheet:
    """Everything on the printed page."""
    fit = Fit.of(plan)
    width, height = DRAWING_PX
    return SetSheet(
        picture=links.shot_part(opened.shot.id, "picture.png?side=900"),
        fine=links.shot_part(opened.shot.id, "picture/fine?side=900"),
        floor=floor(plan, width=width, height=height, selected="", fit=fit),
        side=side(plan, width=width, height=height, selected="", fit=fit),
        rows=_rows(plan),
        camera=_camera(plan),
        surface=_surface(opened, plan),
        exposure=_exposure(plan),
        cautions=cautions(plan),
        note=opened.document.get("note", ""),
    )


def _rows(plan: Plan) -> list[SheetRow]:
    result = []
    for row in rows(plan):
        side, depth, distance, height, turn, tilt = _taped(row)
        result.append(
            SheetRow(
                number=row.number, name=row.name, kind=row.kind, size=row.size, side=side, depth=depth, distance=distance,
                height=height, turn=turn, tilt=tilt,
                power=f"{row.power} {'' if row.state == 'on' else row.state}".strip() or "—",
            )
        )  # fmt: skip
    return result


def _taped(row: Row) -> tuple[str, ...]:
    """Side, depth, distance, height, turn and tilt as a tape finds them; of the sun none: where it stands is in its size."""
    if row.kind == "sun":
        return ("—",) * 6
    m = row.measured
    return (
        f"{abs(m.side_cm):.1f} {'R' if m.side_cm >= 0 else 'L'}", f"{abs(m.depth_cm):.1f} {'front' if m.depth_cm >= 0 else 'behind'}",
        f"{m.distance_cm:.1f}", f"{m.height_cm:.1f}", f"{m.turn_deg:.0f}°", f"{m.tilt_deg:+.0f}°" if round(m.tilt_deg) else "0°",
    )  # fmt: skip


def _camera(plan: Plan) -> list[tuple[str, str]]:
    f = camera_figures(plan)
    far = "∞" if math.isinf(f.far_cm) else f"{f.far_cm:.1f} cm"
    w, h = plan.camera.used_sensor_m
    return [
        ("Lens", f"{f.focal_length_mm:g} mm, sensor used {w * 1000:.1f} × {h * 1000:.1f} mm"),
        ("Lens to axis", f"{f.distance_cm:.1f} cm"),
        ("Lens height", f"{f.height_cm:.1f} cm above the table"),
        ("Aim", f"{plan.camera.aim.y_m * 100:.1f} cm above the table, tilt {f.tilt_deg:+.1f}°"),
        (
            "Crop",
            f"{plan.camera.crop_width:g}:{plan.camera.crop_height:g}, "
            f"field {f.field_width_cm:.1f} × {f.field_height_cm:.1f} cm",
        ),
        *_kit(plan),
        ("Sharp", f"{f.near_cm:.1f} cm before to {far} behind; diffraction spot {f.airy_um:.0f} µm"),
    ]


def _kit(plan: Plan) -> list[tuple[str, str]]:
    """What stands before the lens, as it is put there."""
    kit, found = plan.before_lens, []
    if kit.polariser:
        turn = math.degrees(kit.polariser.turn_rad)
        found.append(
            (
                "Polariser",
                f"turned {turn:.0f}° from taking away the table's reflection, −{set_stops(kit.polariser.loss_stops)} stops",
            )
        )
    if kit.nd_stops:
        found.append(("ND", f"−{set_stops(kit.nd_stops)} stops"))
    if kit.mask:
        m = kit.mask
        found.append(
            ("Window mask", f"{m.width_m * 100:g} × {m.height_m * 100:g} cm, {m.before_m * 100:g} cm before the lens")
        )
    if kit.hood:
        found.append(("Hood", f"{kit.hood.before_m * 100:g} cm long, Ø {kit.hood.width_m * 100:g} cm"))
    moved = [(100 * plan.camera.shift_up_m, "up"), (100 * plan.camera.shift_right_m, "to the right")]
    if any(by for by, _ in moved):
        found.append(("Shift", ", ".join(f"{10 * by:+g} mm {way}" for by, way in moved if by)))
    turned = [(plan.camera.tilt_rad, "forward"), (plan.camera.swing_rad, "to the left")]
    if any(by for by, _ in turned):
        words = ", ".join(f"{math.degrees(by):+.3g}° {way}" for by, way in turned if by)
        found.append(("Lens turned", f"{words}. {leaning_words(plan)}"))
    if plan.camera.focus_m:
        found.append(("Focus", f"{plan.camera.focus_m * 100:.1f} cm from the lens"))
    return found


def _surface(opened: Opened, plan: Plan) -> list[tuple[str, str]]:
    found = [("Product", described(plan.product))]
    for other in plan.others:
        side = f"{abs(other.x_m) * 100:.1f} cm {'right' if other.x_m >= 0 else 'left'}"
        depth = f"{abs(other.z_m) * 100:.1f} cm {'in front' if other.z_m >= 0 else 'behind'}"
        found.append(("Beside it", f"{described(other)}; {side}, {depth} of the axis"))
    if plan.table:
        found.append(
            (
                "Table",
                f"{opened.document['table']['surface']}, {plan.table.width_m * 100:g} × {plan.table.depth_m * 100:g} cm",
            )
        )
    if plan.riser:
        found.append(("Riser", f"{plan.riser.height_m * 100:g} cm high, Ø {plan.riser.diameter_m * 100:g} cm"))
    if plan.haze:
        h = plan.haze
        found.append(
            ("Haze", f"{h.begin_m * 100:g} to {h.end_m * 100:g} cm behind, {1 - math.exp(-h.thickness_per_m):.0%} a metre")
        )
    if plan.background:
        found.append(("Background", f"{plan.background.distance_m * 100:g} cm behind the axis"))
    return found


def _exposure(plan: Plan) -> list[tuple[str, str]]:
    e, reading = plan.exposure, read_exposure(plan)
    metered = f_number_with_tenths(reading.metered_f_number) if reading.metered_f_number else "dark"
    return [
        ("Camera set to", f"ISO {e.iso:g}, {shutter_name(e.shutter_s)}, {f_number_name(e.f_number)}"),
        ("Meter", f"{metered} ({where_words(plan, reading.meter)}, {reading.meter.place.y_m * 100:.0f} cm above the table)"),
        ("Room light alone", reading.fault or reading.black.text),
    ]
