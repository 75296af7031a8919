"""The set sheet as a PDF of one page: vector drawings, fonts within, the shot's address as a QR code."""

from __future__ import annotations

import base64
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

import segno
from jinja2 import Environment

from fotaxis.core.captures.areas import AREA_WORDS
from fotaxis.core.stops import power_name
from fotaxis.services.captures.shooting import ShootingList, steps_of
from fotaxis.services.captures.words import each_in_words, joining_words, names_in
from fotaxis.services.ports import Document
from fotaxis.web.views.svg_canvas import Drawing

HERE = Path(__file__).parents[1]
FONT = HERE / "static" / "fonts" / "inter-latin-wght-normal.woff2"
PRINT = {
    "ground": "#fff", "raised": "#fff", "text": "#111", "muted": "#444", "line": "#bbb", "paper-line": "#777", "face": "#111",
    "field-of-view": "#888", "field": "#fff", "accent": "#7a4f00",
}  # fmt: skip
SIZES_PT = (8.0, 7.5, 7.0, 6.5, 6.0, 5.5, 5.0)
"""Sizes of type, the first that leaves one page is taken."""


@dataclass(frozen=True, slots=True, kw_only=True)
class CaptureLine:
    """A capture as the sheet prints it."""

    number: str
    name: str
    words: str
    powers: str
    exposure: str
    joined: str
    mask: str


def capture_lines(document: Document, listed: ShootingList | None) -> list[CaptureLine]:
    """Captures in the order they are shot, powers and masks in words."""
    captures = document["captures"]
    words = dict(zip((one["key"] for one in captures), each_in_words(document, captures), strict=True))
    taken = {key: capture for key, (_, capture) in steps_of(document).items()}
    rows = listed.rows if listed else ()
    return [
        CaptureLine(
            number=str(row.number), name=row.name, words=words.get(row.key, "; ".join(row.doing)),
            powers=_powers(document, taken.get(row.key)) or "nothing", exposure=row.exposure,
            joined=joining_words(taken[row.key]) if row.key in words else "", mask=_mask(taken.get(row.key)),
        )
        for row in rows
    ]  # fmt: skip


def _powers(document: Document, capture: Document | None) -> str:
    lights = {light["key"]: light for light in document["lights"]}
    names = names_in(document)
    on = (capture or {}).get("lights", {})
    steps = {key: light.get("steps_per_stop", 3) for key, light in lights.items()}
    told = [f"{names[key]} {power_name(stops, steps_per_stop=steps[key])}" for key, stops in on.items() if key in lights]
    return ", ".join(told)


def _mask(capture: Document | None) -> str:
    parts = []
    for part in (capture or {}).get("mask", []):
        kind = part["kind"]
        what = part.get("zone") or AREA_WORDS.get(part["area"], part["area"]) if kind == "scene" else kind
        parts.append(f"{'without ' if part['how'] == 'take' else ''}{what}, {part['feather_mm']:g} mm soft")
    return "; ".join(parts)


@lru_cache(maxsize=1)
def _drawing_style() -> str:
    """The drawings' style with the colours of print; what the PDF's drawer does not know is left out."""
    css = (HERE / "styles" / "drawing.css").read_text()
    css = re.sub(r"var\(--([a-z-]+)\)", lambda found: PRINT[found[1]], css)
    css = re.sub(r"/\*.*?\*/", "", css, flags=re.S)
    css = re.sub(r"paint-order: stroke; stroke: [^;]+; stroke-width: [^;]+; stroke-linejoin: round;", "", css)
    rules = [rule for rule in css.split("}") if ":hover" not in rule and ":focus" not in rule]
    return "}".join(rules) + ".grip, .part-handle, .hatch { display: none; }"


def inked(drawing: Drawing) -> str:
    """A drawing as an SVG file of its own, as a data address: so it carries its style."""
    svg = drawing.__html__().replace("<svg ", '<svg xmlns="http://www.w3.org/2000/svg" ', 1)
    at = svg.index(">") + 1
    style = f"text {{ font-family: Sheet; }} {_drawing_style()}".replace("&", "&amp;").replace("<", "&lt;")
    return as_image(f"{svg[:at]}<style>{style}</style>{svg[at:]}".encode(), "image/svg+xml")


def qr(address: str) -> str:
    """An address as a QR code, SVG text."""
    out = io.BytesIO()
    segno.make(address, error="m", micro=False).save(out, kind="svg", xmldecl=False, border=2, scale=2)
    return out.getvalue().decode()


def as_image(data: bytes, media_type: str) -> str:
    """A picture as a data address."""
    return f"data:{media_type};base64,{base64.b64encode(data).decode()}"


def drawn(environment: Environment, data: dict[str, Any]) -> bytes:
    """PDF bytes of the sheet's template; type is made smaller until all is on one page.

    Nothing but what the page carries itself is fetched: no network, no file of the machine.
    """
    from weasyprint import HTML
    from weasyprint.urls import URLFetcher

    template = environment.get_template("sheet_pdf.html")
    document = None
    for size in SIZES_PT:
        html = template.render(size_pt=size, font=_font(), **data)
        document = HTML(string=html, url_fetcher=URLFetcher(allowed_protocols={"data"})).render()
        if len(document.pages) == 1:
            break
    assert document is not None
    return bytes(document.copy(document.pages[:1]).write_pdf())


@lru_cache(maxsize=1)
def _font() -> str:
    return as_image(FONT.read_bytes(), "font/woff2")


def pictures(found: Sequence[tuple[str, bytes, str]]) -> list[dict[str, str]]:
    """Captions and pictures for the sheet: (caption, bytes, media type)."""
    return [{"words": words, "source": as_image(data, media)} for words, data, media in found]
