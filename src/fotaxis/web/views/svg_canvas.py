"""The paper a set is drawn on: what part of it, to what scale, and the lines, words and dimensions on it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from markupsafe import escape

from fotaxis.core.geometry import orientation
from fotaxis.core.lights.fixtures import Card, Lamp, Panel
from fotaxis.core.scene.checks import is_far
from fotaxis.core.scene.plan import Plan

Thing = Panel | Lamp | Card

LEAST_HALF_CM = 45.0
CM, INCH, CM_PER_INCH = "cm", "in", 2.54
MARGIN = 1.18


@dataclass(frozen=True, slots=True, kw_only=True)
class Fit:
    """The part of the set that is drawn, centimetres: half width, z far to near, y low to high."""

    half_width: float
    far: float
    near: float
    low: float
    high: float
    reserve: float = 0.0

    @classmethod
    def of(cls, plan: Plan) -> Fit:
        """Everything but camera and background, which are drawn broken off when they stand further away."""
        things = [thing for thing in (*plan.lights, *plan.cards) if not is_far(thing)]
        xs, zs, lows, highs = [LEAST_HALF_CM], [-LEAST_HALF_CM, LEAST_HALF_CM], [-12.0], [30.0]
        for subject in plan.products:
            highs.append((plan.ground_m(subject) + subject.height_m) * 100)
            xs.append((abs(subject.x_m) + subject.reach_m) * 100)
            zs += [(subject.z_m - subject.reach_m) * 100, (subject.z_m + subject.reach_m) * 100]
        for thing in things:
            corners = face_corners(thing) * 100
            xs.extend(np.abs(corners[:, 0]))
            zs.extend(corners[:, 2])
            lows.append(float(corners[:, 1].min()))
            highs.append(float(corners[:, 1].max()))
        return cls(
            half_width=round(max(xs) * MARGIN), far=round(min(zs) * MARGIN - 4), near=round(max(zs) * MARGIN + 4),
            low=round(max(min(lows), -80.0) - 6), high=round(min(max(highs), 200.0) * 1.08),
        )  # fmt: skip

    @classmethod
    def from_numbers(cls, numbers: list[float]) -> Fit:
        """From a page's own copy, held within reason."""
        w, far, near, low, high, _ = (max(-2000.0, min(2000.0, n)) for n in numbers)
        return cls(half_width=max(w, 10), far=min(far, -10), near=max(near, 10), low=min(low, -5), high=max(high, 10))

    def numbers(self) -> list[float]:
        return [self.half_width, self.far, self.near, self.low, self.high, self.reserve]


@dataclass(frozen=True, slots=True, kw_only=True)
class Paper:
    """A drawing area with a scale: centimetres (a to the right, b up) to pixels."""

    width: float
    height: float
    scale: float
    left: float
    top: float
    unit: str = CM

    def measure(self, cm: float) -> str:
        """A length as a tape of the paper's unit reads it, without the unit."""
        return in_unit(cm, self.unit)

    def x(self, a_cm: float) -> float:
        return (a_cm - self.left) * self.scale

    def y(self, b_cm: float) -> float:
        return (self.top - b_cm) * self.scale

    @classmethod
    def fitting(
        cls, *, width: float, height: float, a: tuple[float, float], b: tuple[float, float], unit: str = CM
    ) -> Paper:
        """The largest scale at which a and b (low, high, cm) fit, centred."""
        scale = min(width / (a[1] - a[0]), height / (b[1] - b[0]))
        spare_a = width / scale - (a[1] - a[0])
        spare_b = height / scale - (b[1] - b[0])
        return cls(width=width, height=height, scale=scale, left=a[0] - spare_a / 2, top=b[1] + spare_b / 2, unit=unit)


@dataclass(frozen=True, slots=True, kw_only=True)
class Drawing:
    """One drawing as SVG: its opening tag and what is in it, part by part, so that a page need only renew what changed."""

    opening: str
    parts: tuple[str, ...]

    def __html__(self) -> str:
        """The whole drawing, for templates."""
        return self.opening + "".join(self.parts) + "</svg>"

    def pieces(self) -> list[str]:
        """Opening tag, then the parts, for scripts."""
        return [self.opening, *self.parts]


def in_unit(cm: float, unit: str) -> str:
    """A length in centimetres as a tape of a unit reads it: tenths of a centimetre, or quarters of an inch as decimals."""
    return f"{round(cm / CM_PER_INCH * 4) / 4:.2f}" if unit == INCH else f"{cm:.1f}"


def face_corners(thing: Thing) -> np.ndarray:
    """The four corners of a thing's face, (4, 3) metres."""
    across, up, _ = orientation.axes(turn_rad=thing.stance.turn_rad, tilt_rad=thing.stance.tilt_rad)
    w, h = thing.half_size_m
    c = thing.stance.place.array()
    return np.stack([c - w * across - h * up, c + w * across - h * up, c + w * across + h * up, c - w * across + h * up])


def begin_svg(kind: str, paper: Paper, label: str, *, origin: tuple[float, float]) -> list[str]:
    return [
        f'<svg class="drawing {kind}" viewBox="0 0 {paper.width:g} {paper.height:g}" width="{paper.width:g}" '
        f'height="{paper.height:g}" role="group" aria-label="{escape(label)}" data-scale="{paper.scale:.5f}" '
        f'data-ox="{origin[0]:.2f}" data-oy="{origin[1]:.2f}">'
    ]


def draw_line(x0: float, y0: float, x1: float, y1: float, kind: str) -> str:
    return f'<line class="{kind}" x1="{x0:.1f}" y1="{y0:.1f}" x2="{x1:.1f}" y2="{y1:.1f}"/>'


def draw_text(x: float, y: float, text: str, kind: str, *, anchor: str = "middle") -> str:
    return f'<text class="{kind}" x="{x:.1f}" y="{y:.1f}" text-anchor="{anchor}">{escape(text)}</text>'


def draw_ruler(paper: Paper, x: float, y: float) -> str:
    """A scale bar of a round length."""
    one = CM_PER_INCH if paper.unit == INCH else 1.0
    length = next((n for n in (2, 5, 10, 20, 50, 100, 200) if n * one * paper.scale >= 40), 200)
    px = length * one * paper.scale
    return (
        draw_line(x, y, x + px, y, "ruler") + draw_line(x, y - 3, x, y + 3, "ruler") + draw_line(x + px, y - 3, x + px, y + 3, "ruler")
        + draw_text(x + px + 5, y + 3.5, f"{length} {paper.unit}", "ruler-text", anchor="start")
    )  # fmt: skip


def draw_dimension(x0: float, y0: float, x1: float, y1: float, text: str, *, at: float = 0.5) -> str:
    """A tape between two places with its length written on it, at a part of its way; too short ones are left out."""
    length = math.hypot(x1 - x0, y1 - y0)
    if length < 10:
        return ""
    mx, my = x0 + at * (x1 - x0), y0 + at * (y1 - y0)
    return draw_line(x0, y0, x1, y1, "tape") + draw_text(mx, my + 4, text, "tape-text")
