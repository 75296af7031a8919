"""What the reading line says: brightness along it, and the bright lines it crosses on every bare stretch of the product."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fotaxis.core.errors import DomainError
from fotaxis.core.frames.levels import percent
from fotaxis.core.frames.line_profile import (
    Highlight,
    ReadingLine,
    as_in_pixels,
    bent_edges,
    find_highlights,
    outermost,
    stretches,
)
from fotaxis.core.frames.mirrored_at import MirroredAt
from fotaxis.core.scene.plan import Plan
from fotaxis.core.stops import signed_stops, stops_name
from fotaxis.core.values import Array

CRISP = 0.05
"""An edge narrower than this part of the product's half width reads as crisp."""

CRISP_CM = 0.15
EQUAL_STOPS = 0.05
"""Two readings less than this apart are called equal."""

LOOKED_AT = 480
"""So many places of the line are looked at on the product."""

BESIDE_PIXELS = 2.0
LEAST_WIDTH = 2e-3
"""What is narrower than this part of the frame, a pixel on a large screen, is no line."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Stretch:
    """A bare stretch of glass, metal or gloss that a line crosses: its zone ('' for the body), where it begins and ends as parts
    of the line, and the bright lines on it, strongest first."""

    zone: str
    begin: float
    end: float
    highlights: list[Highlight]


@dataclass(frozen=True, slots=True, kw_only=True)
class LineReading:
    """Brightness along the reading line.

    per_layer (1 + lights, samples): luminance at full power, None while something is dragged; mixed (samples,): in the planned
    picture, None when the exposure contradicts itself; edges: parts of the line where the product begins and ends, None
    where the line misses it; stretches: of it where it mirrors; covered: names of the zones that do not; upright: the line
    runs up the product, and places are centimetres above its foot.
    """

    per_layer: Array | None
    mixed: Array | None
    edges: tuple[float, float] | None
    stretches: list[Stretch]
    covered: list[str]
    upright: bool

    @property
    def highlights(self) -> list[Highlight]:
        """Of all stretches."""
        return [one for stretch in self.stretches for one in stretch.highlights]

    @property
    def words(self) -> list[str]:
        """What it says, one sentence part each."""
        if self.edges is None:
            return ["The line misses the product."]
        told = []
        for stretch in self.stretches:
            where = f"{stretch.zone}: " if stretch.zone else ""
            if self.upright:
                told += [where + _up_words(one) for one in sorted(stretch.highlights, key=lambda h: -h.place)[:3]]
            else:
                told += [where + _across_words(one) for one in _told(stretch.highlights)]
        if told:
            between = None if self.upright else self.sides_stops
            if between is not None:
                told.append("sides equal" if abs(between) < EQUAL_STOPS else f"left − right {stops_name(between)} stops")
            return told
        if self.mixed is None:
            return []
        if not self.stretches:
            return [f"All {' and '.join(self.covered) or 'matte'} here: nothing mirrors."]
        return ["No bright line on the product here."]

    @property
    def sides_stops(self) -> float | None:
        """Level of the outermost left line minus that of the outermost right one, stops; None without both."""
        left, right = outermost(self.highlights, left=True), outermost(self.highlights, left=False)
        return left.peak_stops - right.peak_stops if left and right else None


HEIGHTS = 49
"""Heights of the product among which the usual line is chosen."""

FROM_EDGE = 0.02


def usual_line(plan: Plan) -> ReadingLine:
    """Where the line lies until somebody moves it: level, half-way up the product's longest bare stretch towards the camera."""
    product, profile = plan.product, plan.product.profile
    part = np.linspace(0.04, 0.96, HEIGHTS)
    heights = part * (profile.top_m - profile.foot_m)
    covered = np.zeros(HEIGHTS, bool)
    for band in product.bands:
        faces_camera = band.face in ("", "front") and abs(band.azimuth_rad) < band.width_rad / 2
        if faces_camera and not band.skin.metal and not band.skin.coat_index:
            low, high = band.low_m - profile.foot_m, band.high_m - profile.foot_m
            covered |= (heights >= low) & (heights <= high)
    runs = stretches(~covered, np.zeros(HEIGHTS, np.int64)) or [(0, HEIGHTS - 1)]
    first, last = max(runs, key=lambda run: run[1] - run[0])
    height = float(heights[(first + last) // 2]) if not product.lying else product.height_m / 2
    place = np.array([product.x_m, plan.ground_m(product) + height, product.z_m])
    try:
        _, y = plan.camera.project(place, width=1, height=1)
    except DomainError:
        y = 0.5
    y = round(min(max(y, FROM_EDGE), 1 - FROM_EDGE), 4)
    return ReadingLine(x0=0.0, y0=y, x1=1.0, y1=y)


@dataclass(frozen=True, slots=True, kw_only=True)
class LinePlaces:
    """Places along a reading line on the product and just beside it: parts of the line (n,)."""

    parts: Array
    upright: bool

    @property
    def step(self) -> float:
        """From one place to the next, in parts of the line."""
        return float(self.parts[1] - self.parts[0])

    def in_frame(self, line: ReadingLine) -> Array:
        """The places in the frame, x and y 0..1, (n, 2)."""
        x, y = line.x0 + self.parts * (line.x1 - line.x0), line.y0 + self.parts * (line.y1 - line.y0)
        return np.column_stack([x, y])


def places_along(line: ReadingLine, edges: tuple[float, float] | None, *, width: int, height: int) -> LinePlaces | None:
    """Where a line is looked at; edges: where a picture of width x height pixels shows the product on it. None where it does not."""
    if edges is None:
        return None
    across, rise = abs(line.x1 - line.x0) * width, abs(line.y1 - line.y0) * height
    beside = BESIDE_PIXELS / np.hypot(across, rise)
    parts = np.linspace(max(edges[0] - beside, 0.0), min(edges[1] + beside, 1.0), LOOKED_AT)
    return LinePlaces(parts=parts, upright=bool(rise > across))


def read_line(
    places: LinePlaces | None, on: MirroredAt | None, *, level: Array | None, pixel: float, per_layer: Array | None = None
) -> LineReading:
    """Put together what a line says. level (samples,), per_layer (1 + lights, samples): of the picture along all of it; pixel: part of
    the line that a pixel of it takes."""
    if places is None or on is None or not (on.zone >= 0).any():
        return LineReading(per_layer=per_layer, mixed=level, edges=None, stretches=[], covered=[], upright=False)
    there = np.flatnonzero(on.zone >= 0)
    begin, end = float(places.parts[there[0]]), float(places.parts[there[-1]])
    found = []
    if places.upright:
        position, across = on.height_m * 100, False
        if position[there[0]] > position[there[-1]]:
            position = -position  # the line runs downwards
    else:
        position, across = (places.parts - begin) / max(end - begin, 1e-9) * 2 - 1, True
    for first, last in stretches(on.bare, on.zone):
        lines: list[Highlight] = []
        if level is not None and on.mirrored is not None:
            shown = np.interp(places.parts, np.linspace(0, 1, len(level)), level)
            least = LEAST_WIDTH * 2 / max(end - begin, 1e-9) if across else 0.0
            mirrored = as_in_pixels(on.mirrored, (first, last), samples=pixel / max(places.step, 1e-9))
            lines = find_highlights(mirrored, position, (first, last), shown=shown, least_width=least)
            if across and on.clear[first] and not _told_outer(lines):
                lines += bent_edges(shown, position, (first, last))
        zone = on.names[int(on.zone[first])]
        found.append(Stretch(zone=zone, begin=float(places.parts[first]), end=float(places.parts[last]), highlights=lines))
    covered = list(dict.fromkeys(on.names[int(z)] for z in on.zone[there] if not on.bare[on.zone == z].any()))
    return LineReading(
        per_layer=per_layer, mixed=level, edges=(begin, end), stretches=found, covered=[name for name in covered if name],
        upright=not across,
    )  # fmt: skip


def _told_outer(lines: list[Highlight]) -> list[Highlight]:
    """The outermost line of each side."""
    return [one for one in (outermost(lines, left=True), outermost(lines, left=False)) if one]


def _told(lines: list[Highlight]) -> list[Highlight]:
    """As _told_outer; small lights in the middle are left to the trace unless there is nothing else."""
    return _told_outer(lines) or lines[:2]


def _across_words(h: Highlight) -> str:
    side = "left" if h.place < -0.1 else "right" if h.place > 0.1 else "middle"
    outer, inner = (h.left_softness, h.right_softness) if h.place < 0 else (h.right_softness, h.left_softness)
    soft = {(True, True): "soft both sides", (True, False): "soft outside", (False, True): "soft inside"}.get(
        (outer > CRISP, inner > CRISP), "crisp both sides"
    )
    name = "bright edge" if h.bent else "line"
    return (
        f"{side} {name} at {percent(abs(h.place))}, {percent(h.width / 2)} wide, {signed_stops(h.peak_stops)} stops, {soft}"
    )


def _up_words(h: Highlight) -> str:
    soft = h.left_softness > CRISP_CM or h.right_softness > CRISP_CM
    return (
        f"line {abs(h.place):.1f} cm above the foot, {h.width:.1f} cm high, {signed_stops(h.peak_stops)} stops, "
        f"{'soft' if soft else 'crisp'}"
    )
