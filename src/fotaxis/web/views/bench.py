"""The state of one shot's page: what scripts draw from, and the numbers beside the picture."""

from __future__ import annotations

import dataclasses
import hashlib
import json
import re
import struct
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from urllib.parse import quote
from uuid import UUID

import numpy as np

from fotaxis.core.camera.nominal_scales import (
    F_NUMBERS,
    f_number_name,
    shutter_choices,
    shutter_name,
)
from fotaxis.core.frames.line_reading import LineReading, usual_line
from fotaxis.core.keys import ROOM_KEY
from fotaxis.core.metering import incident
from fotaxis.core.render.arrays.subdivide import thinned_words
from fotaxis.core.render.layers import light_gain, room_gain
from fotaxis.core.scene.plan import Plan, Table
from fotaxis.core.stops import power_name
from fotaxis.services import artworks, cautions
from fotaxis.services import kit as kits
from fotaxis.services.exposure_reading import read_exposure
from fotaxis.services.measuring_tape import Tape, tape_between
from fotaxis.services.meter_words import meter_words
from fotaxis.services.part_defaults import part_defaults
from fotaxis.services.picture_keys import layers_key, setting_key
from fotaxis.services.ports import Document, OwnPiece
from fotaxis.services.presets import usual_readings
from fotaxis.services.readings import background_words
from fotaxis.services.sheet import Measured, Row, lens_words, rows, stands_in
from fotaxis.services.shots import Opened
from fotaxis.web import links
from fotaxis.web.views.drawing import floor, side
from fotaxis.web.views.svg_canvas import CM, Fit, in_unit

ISO_CHOICES = (50, 64, 80, 100, 125, 160, 200, 250, 320, 400, 500, 640, 800, 1600, 3200)
CHOICES = {
    "iso": [(f"{n}", float(n)) for n in ISO_CHOICES],
    "shutter": shutter_choices(),
    "aperture": [(f_number_name(n), n) for n in F_NUMBERS[6:]],
}


@dataclass(frozen=True, slots=True, kw_only=True)
class ViewSize:
    """Size of each drawing in pixels, what is selected, the part of the set shown (None: fit anew), the unit of lengths, and
    the two things a tape lies between."""

    width: int = 380
    height: int = 330
    selected: str = ""
    fit: Fit | None = None
    unit: str = CM
    tape: tuple[str, str] | None = None


def addresses(shot_id: UUID) -> dict[str, str]:
    """Every address the page's script asks."""
    parts = (
        "state", "changes", "things", "undo", "redo", "layers", "live", "profile", "product", "shape", "model", "lamp", "spot",
        "images", "judged", "states", "go", "pin", "mirror", "school", "view-links", "usual-readings", "wish-set", "mark",
        "balance", "proposals", "captures", "delicate", "sweep", "polariser",
        "last.jpg", "alone.jpg",
        "variants.png", "sheet-loss", "reframe", "artwork", "artwork.png", "on-body", "outline", "picture.png",
    )  # fmt: skip
    own = {part: links.shot_part(shot_id, part) for part in (*parts, "reckoner")}
    return {**own, "answer": links.RECKONER_ANSWER, "calculations": links.RECKONER_CALCULATIONS, "shot": str(shot_id)}


def drawings(plan: Plan, size: ViewSize) -> dict[str, Any]:
    """Both drawings and the part of the set they show."""
    fit = size.fit or Fit.of(plan)
    tape = tape_between(plan, *size.tape) if size.tape else None
    drawn: dict[str, Any] = {
        name: draw(
            plan, width=size.width, height=size.height, selected=size.selected, fit=fit, unit=size.unit, tape=tape
        ).pieces()
        for name, draw in (("floor", floor), ("side", side))
    }
    return {**drawn, "fit": fit.numbers(), "tape": _tape_words(tape, size.unit) if tape else ""}


def _tape_words(tape: Tape, unit: str) -> str:
    rise = f", {in_unit(abs(tape.rise_cm), unit)} {unit} {'up' if tape.rise_cm >= 0 else 'down'}"
    return (
        f"Tape from {tape.names[0]} to {tape.names[1]}: {in_unit(tape.straight_cm, unit)} {unit} straight, "
        f"{in_unit(tape.level_cm, unit)} {unit} on the floor{rise if abs(tape.rise_cm) >= 0.05 else ''}"
    )


def _lights(plan: Plan, faults: dict[str, str], document: Document) -> list[dict[str, Any]]:
    groups = {light["key"]: light.get("group", "") for light in document["lights"]}
    result = []
    fault_free = without_fault(plan)
    asked = incident.light_f_numbers(plan)
    for light, row, n in zip(plan.lights, rows(plan), asked, strict=False):
        e = light.emission
        per_stop, lowest = e.power_range.steps_per_stop, e.power_range.lowest_stops
        notches = [-n / per_stop for n in range(per_stop * lowest, -1, -1)]
        result.append(
            {
                "key": light.key, "number": row.number, "name": light.name, "kind": row.kind, "on": e.on,
                "group": groups.get(light.key, ""),
                "power": e.power_stops, "continuous": e.continuous,
                "notches": [{"stops": n, "name": power_name(n, steps_per_stop=per_stop)} for n in notches],
                "perStop": per_stop,
                "gain": light_gain(fault_free, light, power_stops=0.0),
                "warning": _power_warning(e.power_stops, lowest),
                "fault": faults.get(light.key, ""),
                "fullF": round(n * 2.0 ** (-e.power_stops / 2), 4),
            }
        )  # fmt: skip
    return result


def _key_light(plan: Plan) -> str:
    """Key of the light that the others are told against: the one that was chosen, else the first that is on."""
    keys = [light.key for light in plan.lights]
    on = [light.key for light in plan.lights if light.emission.on]
    return plan.key_light if plan.key_light in keys else (on or keys or [""])[0]


def _power_warning(stops: float, lowest: int) -> str:
    if stops <= -lowest + 1e-6:
        return "At minimum. Still too bright? Smaller aperture, ND, further away, more diffusion, or a net."
    if stops >= -1e-6:
        return "At full power. Still too dim? Closer, larger aperture, higher ISO, or a second head on the same surface."
    return ""


def without_fault(plan: Plan) -> Plan:
    """The plan with the shutter at sync if it is faster than flash allows."""
    return dataclasses.replace(plan, exposure=plan.exposure.in_step())


def _exposure(plan: Plan) -> dict[str, Any]:
    reading = read_exposure(plan)
    return {
        "meter": meter_words(plan, reading),
        "black": reading.black.text,
        "blackHolds": reading.black.holds,
        "fault": reading.fault,
        "aperture": f_number_name(plan.exposure.f_number),
        "shutter": shutter_name(plan.exposure.shutter_s),
        "floorStops": round(plan.sensor.floor_stops(plan.exposure.iso), 2),
        "lens": lens_words(plan),
    }


def bench_state(opened: Opened, plan: Plan, size: ViewSize, own: Sequence[OwnPiece] = ()) -> dict[str, Any]:
    """Everything the page needs after a change."""
    faults = {**kits.asked_too_much(opened.document, own), **thinned_words(plan.lights, plan.cards), **stands_in(plan)}
    return {
        "document": _for_the_page(opened.document, plan),
        "revision": opened.shot.revision,
        "undo": opened.undo_label,
        "redo": opened.redo_label,
        "layersKey": layers_key(opened.document),
        "lights": _lights(plan, faults, opened.document),
        "keyLight": _key_light(plan),
        "roomKey": ROOM_KEY,
        "roomGain": room_gain(plan),
        "exposure": _exposure(plan),
        "cautions": cautions.by_thing(plan, opened.document),
        "things": [_tape(plan, row, faults, size.unit) for row in rows(plan)] + _beside(plan, faults, size.unit),
        "background": background_words(plan),
        "usualReadings": len(usual_readings(opened.document)),
        "defaults": part_defaults(opened.document, plan),
        "settingKey": setting_key(opened.document),
        **drawings(plan, size),
    }


def thing_held(plan: Plan, key: str, unit: str) -> dict[str, Any] | None:
    """How a tape finds one thing, while a hand holds it; None for what is no light, card or thing beside the product."""
    alone = dataclasses.replace(
        plan,
        lights=tuple(light for light in plan.lights if light.key == key),
        cards=tuple(card for card in plan.cards if card.key == key),
    )
    faults = stands_in(alone)
    row = next((row for row in rows(plan) if row.key == key), None)
    if row:
        return _tape(plan, row, faults, unit)
    return next((thing for thing in _beside(plan, faults, unit) if thing["key"] == key), None)


def _for_the_page(document: Document, plan: Plan) -> Document:
    """The document as the page needs it: a model's triangles stay here, and the reading line lies where it usually does."""

    def bare(subject: dict[str, Any]) -> dict[str, Any]:
        bands = [{**band, "artwork": marked(band["artwork"])} if band.get("artwork") else band for band in subject["bands"]]
        return {**subject, "bands": bands, **({"mesh": ""} if subject.get("kind") == "model" else {})}

    line = document.get("reading_line") or dataclasses.asdict(usual_line(plan))
    return {
        **document,
        "reading_line": line,
        "subject": bare(document["subject"]),
        "others": [bare(o) for o in document.get("others", [])],
    }


def marked(artwork: dict[str, Any]) -> dict[str, Any]:
    """Artwork without its pictures: a mark of each in its place, "" for none."""
    return {
        name: hashlib.sha256(value.encode()).hexdigest()[:16] if name in artworks.PARTS and value else value
        for name, value in artwork.items()
    }


def _beside(plan: Plan, faults: dict[str, str], unit: str) -> list[dict[str, Any]]:
    """What stands beside the product, as a tape finds it."""
    return [
        {
            "key": s.key, "number": "", "name": s.name, "kind": "subject", "size": "",
            "words": f"{in_unit(abs(s.x_m) * 100, unit)} {unit} {'right' if s.x_m >= 0 else 'left'}, "
            f"{in_unit(abs(s.z_m) * 100, unit)} {unit} {'in front of' if s.z_m >= 0 else 'behind'} the axis · "
            f"{in_unit(s.height_m * 100, unit)} {unit} high",
            "fault": faults.get(s.key, ""),
        }
        for s in plan.others
    ]  # fmt: skip


def _tape(plan: Plan, row: Row, faults: dict[str, str], unit: str) -> dict[str, Any]:
    """How a tape finds the thing, in words: from the product's axis, from the table's edge, above table and floor."""
    m = row.measured
    words = row.size
    if row.kind != "sun":
        parts = [
            f"{in_unit(m.distance_cm, unit)} {unit} from the axis, {abs(m.bearing_deg):.0f}° "
            f"{'right' if m.bearing_deg >= 0 else 'left'} of the camera"
        ]
        if plan.table:
            parts.append(_from_table(plan.table, m, unit))
        floor_cm = plan.table.above_floor_m * 100 if plan.table else 0.0
        above = f", {in_unit(m.height_cm + floor_cm, unit)} above the floor" if plan.table else ""
        parts.append(f"centre {in_unit(m.height_cm, unit)} {unit} above the table{above}")
        parts.append(f"lower edge {in_unit(m.low_edge_cm, unit)}")
        words = " · ".join(parts)
    return {
        "key": row.key, "number": row.number, "name": row.name, "kind": row.kind, "size": row.size, "words": words,
        "fault": faults.get(row.key, ""),
    }  # fmt: skip


def _from_table(table: Table, m: Measured, unit: str) -> str:
    """Where a thing's middle stands against the table's nearest edge, as a tape laid on the table finds it."""
    across, along = m.side_cm - table.x_m * 100, m.depth_cm - table.z_m * 100
    beside, before = abs(across) - table.width_m * 50, abs(along) - table.depth_m * 50
    side, front = "left" if across < 0 else "right", "back" if along < 0 else "front"
    if beside > 0 or before > 0:
        edge, out = (side, beside) if beside >= before else (front, before)
        return f"{in_unit(out, unit)} {unit} outside the table's {edge} edge"
    edge, within = (side, -beside) if beside >= before else (front, -before)
    return f"{in_unit(within, unit)} {unit} inside the table's {edge} edge"


def line_reading(reading: LineReading) -> dict[str, Any]:
    """The reading line for the page: luminance per layer at full power, or in the mix while something is dragged; edges, words."""
    levels: dict[str, Any] = {}
    if reading.per_layer is not None:
        levels["perLayer"] = np.round(reading.per_layer, 9).tolist()
    elif reading.mixed is not None:
        levels["mixed"] = np.round(reading.mixed, 6).tolist()
    return {
        **levels,
        "edges": list(reading.edges) if reading.edges else None,
        "words": reading.words,
        "bare": [[round(s.begin, 4), round(s.end, 4)] for s in reading.stretches],
    }


def packed(header: dict[str, Any], payload: bytes) -> bytes:
    """4 bytes little-endian header length, the header as JSON, the payload."""
    head = json.dumps(header).encode()
    head += b" " * (-(len(head) + 4) % 4)
    return struct.pack("<I", len(head)) + head + payload


def attachment(name: str, ending: str) -> str:
    """A content-disposition header value for a download of any name."""
    plain = re.sub(r"[^A-Za-z0-9._-]+", "-", name).strip("-.") or "shot"
    return f"attachment; filename=\"{plain}{ending}\"; filename*=UTF-8''{quote(name + ending, safe='')}"
