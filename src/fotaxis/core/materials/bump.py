"""Relief too fine to be seen as shape: its slopes at a place, which turn the normal there."""

from __future__ import annotations

import math

from fotaxis.core.kernel import leaf

NONE, LINEN, LAID, GRAIN, RIPPLE, CRINKLE, EMBOSS, PRESSED = 0, 1, 2, 3, 4, 5, 6, 7
KINDS = {"none": NONE, "linen": LINEN, "laid": LAID, "grain": GRAIN, "ripple": RIPPLE, "crinkle": CRINKLE, "emboss": EMBOSS}
# PRESSED: as a mask of the artwork on its zone says; no kind of its own in a shot file.
TAU = 2.0 * math.pi


@leaf
def _waves(u: float, v: float, period: float, depth: float, count: int, spread: float) -> tuple[float, float]:
    """Slopes of `count` waves in directions a golden angle apart, their lengths spread around the period, equal in slope."""
    du = 0.0
    dv = 0.0
    share = depth / math.sqrt(count)
    for i in range(count):
        angle = 2.399963 * i + 0.35
        stretch = 1.0 + spread * ((i * 0.6180339887) % 1.0 - 0.5)
        wave = TAU / (period * stretch)
        cu = math.cos(angle)
        cv = math.sin(angle)
        slope = 0.5 * share * (TAU / period) * math.cos(wave * (u * cu + v * cv) + 1.7 * i * i)
        du += slope * cu
        dv += slope * cv
    return du, dv


@leaf
def slopes(kind: int, period: float, depth: float, u: float, v: float) -> tuple[float, float]:
    """Rise per metre along u and v of a repeating relief, `depth` from valley to ridge, metres.

    Linen: h = d/4 (cos(2 pi u/P) + cos(2 pi v/P)); laid: h = d/2 cos(2 pi v/P); grain, ripple, crinkle: waves in several
    directions.
    """
    k = TAU / period
    if kind == LINEN:
        return -0.25 * depth * k * math.sin(k * u), -0.25 * depth * k * math.sin(k * v)
    if kind == LAID:
        return 0.0, -0.5 * depth * k * math.sin(k * v)
    if kind == GRAIN:
        return _waves(u, v, period, depth, 7, 0.9)
    if kind == RIPPLE:
        return _waves(u, v, period, depth, 5, 0.6)
    if kind == CRINKLE:
        return _waves(u, v, period, depth, 9, 1.2)
    return 0.0, 0.0


@leaf
def left_of_wave(period: float, footprint: float) -> float:
    """What is left of a wave's slope where one sample stands for so much of the surface, both in metres.

        exp(-2 (pi s / P)^2), s = 0.5 footprint

    Below half the period next to nothing is lost, from the whole on nothing is left: finer waves than pixels would beat with them.
    Source: low-pass filtering of bump maps, Fourier transform of a Gaussian footprint.
    """
    wide = 0.5 * math.pi * footprint / period
    return math.exp(-2.0 * wide * wide)


@leaf
def rim_slopes(
    period: float, depth: float, u: float, v: float, half_u: float, half_v: float, ellipse: bool
) -> tuple[float, float]:
    """Slopes of a raised (depth > 0) or sunk field with a rim of width `period` inside its edge; u, v from its middle.

    The rim rises as h = d/2 (1 - cos(pi x / w)), x the distance from the edge.
    """
    if ellipse:
        a = math.hypot(u / half_u, v / half_v)
        if a < 1e-9:
            return 0.0, 0.0
        gu = u / (half_u * half_u * a)
        gv = v / (half_v * half_v * a)
        steep = math.hypot(gu, gv)
        inside = (1.0 - a) / steep
        ou, ov = gu / steep, gv / steep
    else:
        to_u = half_u - abs(u)
        to_v = half_v - abs(v)
        if to_u < to_v:
            inside, ou, ov = to_u, math.copysign(1.0, u), 0.0
        else:
            inside, ou, ov = to_v, 0.0, math.copysign(1.0, v)
    if inside <= 0.0 or inside >= period:
        return 0.0, 0.0
    rise = 0.5 * depth * math.pi / period * math.sin(math.pi * inside / period)
    return -rise * ou, -rise * ov
