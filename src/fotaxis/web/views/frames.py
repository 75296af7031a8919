"""Page models for photographs."""

from __future__ import annotations

import math
from dataclasses import dataclass

from fotaxis.core.camera.nominal_scales import f_number_name, shutter_name
from fotaxis.core.frames.black_frame import LIT_STOPS
from fotaxis.core.scene.plan import Plan
from fotaxis.core.stops import stops_name
from fotaxis.services.photographs import FrameReading
from fotaxis.services.ports import Frame
from fotaxis.web import links


@dataclass(frozen=True, slots=True, kw_only=True)
class FrameSummary:
    title: str
    address: str
    picture: str
    plain_picture: str
    file: str
    note_address: str
    remove_address: str
    note: str
    size: str
    exposure: str
    taken: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadingSummary:
    white: str
    black: str
    verdict: str
    holds: str
    difference: str


def summary(frame: Frame) -> FrameSummary:
    """A frame as its list and page show it."""
    e = frame.exposure
    parts = [
        f"ISO {e.iso:g}" if e.iso else "",
        shutter_name(e.shutter_s) if e.shutter_s else "",
        f_number_name(e.f_number) if e.f_number else "",
        f"{e.focal_length_mm:g} mm" if e.focal_length_mm else "",
    ]
    return FrameSummary(
        title=frame.file_name,
        address=links.frame(frame.id),
        picture=links.frame_part(frame.id, "picture.png"),
        plain_picture=links.frame_part(frame.id, "picture.png?marks=false"),
        file=links.frame_part(frame.id, "file"),
        note_address=links.frame_part(frame.id, "note"),
        remove_address=links.frame_part(frame.id, "remove"),
        note=frame.note,
        size=f"{frame.width} × {frame.height} px, {_file_size(frame.size_bytes)}",
        exposure=" · ".join(p for p in parts if p) or "The file does not tell its exposure.",
        taken=e.taken_at or "",
    )


def _file_size(count: int) -> str:
    return f"{count / 1e6:.1f} MB" if count >= 1e6 else f"{count / 1e3:.0f} kB"


def reading(read: FrameReading, plan: Plan) -> ReadingSummary:
    """What was read from a frame, in words."""
    c = read.clipping
    holds = {True: "holds", None: "just holds", False: "does not hold"}[read.black.holds]
    if read.black.stops > LIT_STOPS:
        holds = "this is none"
    return ReadingSummary(
        white=f"{c.white_share:.1%} of the frame is clipped white".replace("%", "\u00a0%"),
        black=f"{c.black_share:.1%} is blocked black".replace("%", "\u00a0%"),
        verdict=read.black.text,
        holds=holds,
        difference=_difference(read.frame, plan),
    )


def _difference(frame: Frame, plan: Plan) -> str:
    """How the frame's exposure differs from the plan's, in stops of light from flash and from the room."""
    e, p = frame.exposure, plan.exposure
    if not (e.iso and e.f_number):
        return ""
    flash = math.log2(e.iso / p.iso) - 2 * math.log2(e.f_number / p.f_number)
    words = f"flash {stops_name(flash)}"
    if e.shutter_s:
        words += f", room light {stops_name(flash + math.log2(e.shutter_s / p.shutter_s))}"
    return f"Against the plan: {words} stops."
